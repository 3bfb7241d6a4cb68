"""Commands about programming: what devices should be set to, and the keys to press."""

import argparse

from brightcore.commands.files import Out, read_text
from brightcore.errors import FormatError, Problem, UnknownNameError
from brightcore.formats.bike_file import load_bike
from brightcore.formats.profile_file import profile_named
from brightcore.programming.case import STYLES, Aim
from brightcore.programming.derive import derive_settings
from brightcore.programming.keys import Machine, plan, standing_at


def run_settings(args: argparse.Namespace) -> Out:
    """What every device of a bike should be set to, and why."""
    bike = load_bike(read_text(args.file))
    named = dict(bike.profiles)
    for text in args.profile:
        part, _, name = text.partition("=")
        if part not in {p.id for p in bike.parts}:
            raise UnknownNameError("part", part, tuple(p.id for p in bike.parts))
        named[part] = name
    profiles = {part: profile_named(name) for part, name in named.items()}
    if args.limit:
        aim = Aim(args.limit, "as asked for", args.style)
    else:
        aim = Aim(style=args.style)
    found = derive_settings(bike, aim, {part: p.roles() for part, p in profiles.items()})
    rows, lines = [], []
    for item in found:
        profile = profiles.get(item.part)
        if profile is not None:
            parameter = profile.by_role(item.role)
        else:
            parameter = None
        code = parameter.code if parameter is not None else item.role
        words = f"{item.value:g} {item.unit}".strip()
        if parameter is not None:
            words = parameter.words(parameter.of_role(item.value))
        rows.append(
            {
                "part": item.part,
                "code": code,
                "role": item.role,
                "value": item.value,
                "unit": item.unit,
                "reason": item.reason,
                "source": item.source,
            }
        )
        lines += [f"{item.part} {code} = {words}", f"    {item.reason}"]
    return {"settings": rows}, lines or ["Nothing on this bike is programmed"]


def run_keys(args: argparse.Namespace) -> Out:
    """The fewest presses that set a parameter, from where the menu stands."""
    profile = profile_named(args.file)
    stored = {}
    for text in args.held:
        code, _, value = text.partition("=")
        stored[code] = profile.parameter(code).read(value)
    if not profile.menu.kind:
        raise FormatError((Problem("$.menu", f"{profile.title} has no menu"),))
    machine = Machine(profile, stored)
    if args.shown:
        shown = profile.parameter(args.at).read(args.shown)
    else:
        shown = None
    start = standing_at(machine, args.at, shown, shown is not None)
    presses = plan(machine, args.code, profile.parameter(args.code).read(args.value), start)
    count = sum(press.times for press in presses)
    data = {
        "presses": [{"key": press.key, "times": press.times} for press in presses],
        "count": count,
    }
    return data, [*(press.words for press in presses), f"{count} presses"]


STYLE_KEYS = tuple(STYLES)
