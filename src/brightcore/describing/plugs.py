"""Plugs of a part as text, one a line: `throttle: Throttle = supply:supply_5v,
ground:signal_ground, signal:throttle_signal`."""

import re
from dataclasses import replace

from brightcore.bike.model import Pin, Port
from brightcore.bike.roles import is_role
from brightcore.errors import FormatError, Problem

_LINE = re.compile(r"^([a-z0-9_-]{1,40})\s*(?::\s*([^=]*?))?\s*=\s*(.+)$")
_NAME = re.compile(r"^[a-z0-9][a-z0-9_-]{0,39}$")


def show_plugs(ports: tuple[Port, ...]) -> str:
    """Return ports as text: id, label, pins with role and label where they have one."""
    return "\n".join(
        f"{port.id}: {port.label} = {', '.join(_show_pin(p) for p in port.pins)}" for port in ports
    )


def _show_pin(pin: Pin) -> str:
    pieces = [pin.name, pin.role if pin.role != "wire" else "", pin.label]
    while pieces and not pieces[-1]:
        pieces.pop()
    return ":".join(pieces)


def parse_plugs(text: str, known: tuple[Port, ...] = (), path: str = "plugs") -> tuple[Port, ...]:
    """Return the ports written in `text`; family and other particulars come from a known port of
    the same id.

    Raises FormatError naming the line.
    """
    problems: list[Problem] = []
    found: list[Port] = []
    old = {port.id: port for port in known}
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        match = _LINE.match(line.strip())
        if not match:
            problems.append(
                Problem(
                    f"{path} line {number}", "write `id: Label = pin:role:label, pin:role:label`"
                )
            )
            continue
        port_id, label = match.group(1), (match.group(2) or "").strip()
        pins = _pins(match.group(3), f"{path} line {number}", problems)
        if any(p.id == port_id for p in found) or len({p.name for p in pins}) < len(pins):
            problems.append(Problem(f"{path} line {number}", "a plug or pin name is used twice"))
        base = old.get(port_id, Port(port_id, ()))
        colours = {p.name: p.colour for p in base.pins}
        found.append(
            replace(
                base,
                pins=tuple(replace(p, colour=colours.get(p.name, "")) for p in pins),
                label=label,
            )
        )
    if problems:
        raise FormatError(tuple(problems))
    return tuple(found)


def _pins(text: str, where: str, problems: list[Problem]) -> list[Pin]:
    pins = []
    for piece in text.split(","):
        name, _, more = piece.strip().partition(":")
        role, _, words = more.partition(":")
        role = role.strip() or "wire"
        if not _NAME.match(name.strip()) or not _NAME.match(role):
            problems.append(Problem(where, f"{piece.strip()!r} is not pin:role:label"))
        elif not is_role(role):
            problems.append(Problem(where, f"{role!r} is no role; choose one of the list of roles"))
        else:
            pins.append(Pin(name.strip(), role, words.strip()))
    return pins
