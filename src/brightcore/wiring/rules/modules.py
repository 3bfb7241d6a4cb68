"""Rules on a module on the display cable: space, activation, renewal, standing current."""

from collections.abc import Iterator
from datetime import date, timedelta

from brightcore.analysis.bike import Analysis
from brightcore.analysis.rule import Found, rule
from brightcore.bike.model import Part, Port
from brightcore.findings import Finding
from brightcore.kinds import REGISTRY
from brightcore.kinds.select import is_cable, packs, trackers

RENEWAL_DAYS, DRAIN_DAYS = 30, 60
"""A renewal is told this long before; a drain where the pack is flat sooner than this (common
practice)."""


@rule(
    "W036",
    "fault",
    "The {part} is {height_mm} high, under its cover there are {cover_mm}.",
    "A taller cover, or another place on the cable.",
)
def module_space(case: Analysis, found: Found) -> Iterator[Finding]:
    """A module that is higher than the space measured for it."""
    for part in trackers(case.bike):
        height, cover = part.spec.height_mm, part.spec.cover_mm
        if 0 < cover < height:
            yield found(
                (part.id,), part=part.name, height_mm=f"{height:g} mm", cover_mm=f"{cover:g} mm"
            )


@rule(
    "W037",
    "advice",
    "The {part} is not activated yet.",
    (
        "Needs a display system ready for it: check, then activate and try it before the cover "
        "goes on."
    ),
)
def module_asleep(case: Analysis, found: Found) -> Iterator[Finding]:
    """A module nobody has activated."""
    for part in trackers(case.bike):
        if not part.spec.activated:
            yield found((part.id,), part=part.name)


@rule(
    "W038",
    "advice",
    "The subscription of the {part} {when} on {date}.",
    "Tell the rider; write the new date down when it is renewed.",
    dated=True,
)
def module_renewal(case: Analysis, found: Found) -> Iterator[Finding]:
    """A subscription that runs out soon, or has."""
    today = found.today or date.min
    for part in trackers(case.bike):
        if not part.spec.renew_on:
            continue
        due = date.fromisoformat(part.spec.renew_on)
        if due <= today + timedelta(days=RENEWAL_DAYS):
            when = "ran out" if due < today else "runs out"
            yield found((part.id,), part=part.name, when=when, date=part.spec.renew_on)


@rule(
    "W039",
    "advice",
    "Standing still, the {part} flattens the full pack in {days} days.",
    "Unplug the pack when the bike stands for weeks, or charge it in between.",
)
def module_drain(case: Analysis, found: Found) -> Iterator[Finding]:
    """A module that flattens the packs while the bike stands."""
    charge_ah = sum(pack.spec.capacity_ah for pack in packs(case.bike))
    for part in trackers(case.bike):
        days = charge_ah / part.spec.standby_a / 24
        if days < DRAIN_DAYS:
            yield found((part.id,), part=part.name, days=f"{days:.0f}")


@rule(
    "W086",
    "fault",
    "The {part} stands the wrong way round: its plug {port} leads to the {other}.",
    "Exchange its two plugs: a module in a line has a direction.",
)
def module_turned(case: Analysis, found: Found) -> Iterator[Finding]:
    """A module in a line whose plugs lead to each other's parts."""
    for part in case.bike.parts:
        sides = REGISTRY[part.kind].sides
        for port in part.ports:
            wanted = sides.get(port.id)
            if wanted is None:
                continue
            beyond = _beyond(case, part, port)
            wrong = []
            for other in beyond:
                if other.kind != wanted and other.kind in sides.values():
                    wrong.append(other)
            if wrong and not any(other.kind == wanted for other in beyond):
                yield found((part.id,), part=part.name, port=port.label, other=wrong[0].name)
                break


def _beyond(case: Analysis, part: Part, port: Port) -> list[Part]:
    """Return the parts that a plug leads to, through any cables."""
    bike, found = case.bike, []
    seen, waiting = {part.id}, [(part.id, port.id)]
    while waiting:
        here = waiting.pop()
        for join in bike.joins_of(*here):
            for other_id, _ in join.sides():
                if other_id in seen:
                    continue
                seen.add(other_id)
                other = bike.part(other_id)
                if is_cable(other):
                    waiting += [(other.id, end.id) for end in other.ports]
                else:
                    found.append(other)
    return found


RULES = (module_turned, module_space, module_asleep, module_renewal, module_drain)
