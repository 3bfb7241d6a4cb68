"""What a rider is told at hand-over, in plain words (common practice; makers' sheets come first).

Every sentence follows from a fact: of the bike as it stands, of what was done to it, of what was
proven and what was let go. Nothing is said of a lever, a lamp or a battery that the bike does not
have.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from brightcore.bike.model import Bike, Part
from brightcore.kinds.charging import AlarmSpec
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.display import DisplaySpec
from brightcore.kinds.modules import TrackerSpec
from brightcore.kinds.select import combiners, hub_motors, motors, packs
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.procedure.first_power_up import cut_offs

SECOND_VISIT = timedelta(weeks=4)
"""When a bike that was worked on is looked at again."""

COLD_C, HOT_C = 0, 45

WH_PER_KM = 25.0 / 1.609344
"""Energy of a kilometre by the flat rule of 25 Wh a mile, throttle only, about 30 km/h (common
practice)."""


@dataclass(frozen=True, slots=True)
class RiderPart:
    """A heading of the rider's sheet with its sentences."""

    title: str
    lines: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class RiderFacts:
    """What a job can tell its rider.

    `done`: what was built, repaired, replaced, set and programmed; `proven`: titles of what was
    tried and passed; `unproven`: ids of checks that have not passed; `let_go`: (what is open, why
    it was let go) and accepted findings; `later`: what is looked at after the first ride;
    `range_km` by this bike's own ride, 0 where none tells.
    """

    done: Sequence[str] = ()
    touched: frozenset[str] = frozenset()
    proven: Sequence[str] = ()
    unproven: frozenset[str] = frozenset()
    let_go: Sequence[tuple[str, str]] = ()
    later: Sequence[str] = ()
    range_km: float = 0.0


def rider_sheet(bike: Bike, facts: RiderFacts, on: date) -> tuple[RiderPart, ...]:
    """Return the rider's sheet: what was done and proven, what is open, first ride, charging, what
    to watch, next."""
    found = (
        RiderPart("What was done", tuple(facts.done) or ("Looked over; nothing was changed.",)),
        RiderPart("Tried and passed", tuple(facts.proven)),
        RiderPart(
            "Not done or not proven", tuple(f"{words}. Why: {why}" for words, why in facts.let_go)
        ),
        RiderPart("The first ride", tuple(_first_ride(bike, facts))),
        RiderPart("Charging and keeping the battery", tuple(_charging(bike))),
        RiderPart("How far", tuple(_range(bike, facts))),
        RiderPart("Stop and bring it back if", tuple(_watch(bike))),
        RiderPart("Next", tuple(_next(bike, facts, on))),
    )
    return tuple(part for part in found if part.lines)


def _first_ride(bike: Bike, facts: RiderFacts) -> list[str]:
    lines = ["Try both brakes at walking pace before you ride off."]
    if motors(bike):
        lines += _cut_off_lines(bike, facts)
    if bike.having(ThrottleSpec):
        lines.append(
            "A touch of the throttle is enough to begin with; let go when you stop or dismount."
        )
    if facts.touched & {part.id for part in motors(bike)}:
        lines.append("It may pull harder, or later, than you are used to: a quiet road first.")
    return lines


def _cut_off_lines(bike: Bike, facts: RiderFacts) -> list[str]:
    """Return which lever stops the motor, as its circuit has it and as far as it was proven."""
    reaching = []
    for name in dict.fromkeys(part for part, _ in sorted(cut_offs(bike))):
        reaching.append(bike.part(name))
    sure = [part for part in reaching if f"cut:{part.id}" not in facts.unproven]
    unsure = [part for part in reaching if part not in sure]
    lines = []
    if not reaching:
        lines.append(
            "No brake lever stops the motor on this bike: brake, and let go of what asks for it."
        )
    elif len(sure) == 1:
        lines.append(
            f"Only {_named(sure)} stops the motor. If it does not, use the brakes and switch off."
        )
    elif sure:
        lines.append(
            f"Each of these stops the motor: {_named(sure)}. If not, use the brakes and switch off."
        )
    if unsure:
        lines.append(f"Not proven to stop the motor: {_named(unsure)}. Do not rely on it.")
    return lines


def _named(parts: Sequence[Part]) -> str:
    return ", ".join(part.name for part in parts)


def _charging(bike: Bike) -> list[str]:
    if not packs(bike):
        return []
    lines = [
        (
            f"Its own charger only, {COLD_C} to {HOT_C} °C, on a floor that does not burn, "
            "somebody near."
        ),
        "Not straight after a cold or a hot ride: let it come to the room first.",
        "Laid up: half full, dry, between 5 and 25 °C; look at it every two months.",
        "After a fall, a soaking or a smell: do not charge or ride; leave it outdoors and call us.",
    ]
    if combiners(bike):
        lines.append("Several batteries: in and on with about the same charge, as you were shown.")
    if has_no_board(bike):
        lines.append(
            "Unplug the batteries whenever it is parked: nothing else stops them from being "
            "run flat."
        )
        lines.append(
            "When an alarm sounds, stop riding and charge; each battery is charged by itself."
        )
    elif not bike.having(DisplaySpec):
        lines.append(
            "Switch it off or unplug the battery when parked: the controller draws a little "
            "all the time."
        )
    if _brakes_into_pack(bike):
        lines.append(
            "It brakes into the battery: on a full one, or below 0 °C, that is weak or off. "
            "Use the brakes."
        )
    return lines


def has_no_board(bike: Bike) -> bool:
    """Return whether the packs of a bike are soft ones or watched by an alarm: nothing switches
    them off by itself."""
    return bool(bike.having(AlarmSpec)) or any(
        pack.spec.chemistry == "pouch" for pack in packs(bike)
    )


def _brakes_into_pack(bike: Bike) -> bool:
    controllers = bike.having(ControllerSpec)
    told = any(part.spec.regen not in ("", "no", "off") for part in controllers)
    return told or any(bike.setting(part.id, "regen", 0.0) > 0 for part in controllers)


def _range(bike: Bike, facts: RiderFacts) -> list[str]:
    """Return how far a full battery goes: by its own ride where one was logged, else by the rule of
    thumb."""
    if facts.range_km > 0:
        return [f"About {facts.range_km:.0f} km on a full battery, by a ride of this bike."]
    held_wh = sum(pack.spec.capacity_ah * pack.spec.nominal_v() for pack in packs(bike))
    if not held_wh or not motors(bike):
        return []
    return [
        (
            f"About {held_wh / WH_PER_KM:.0f} km on a full battery with the motor alone, as a "
            "rule of thumb."
        )
    ]


def _watch(bike: Bike) -> list[str]:
    lines = ["a new noise, smell or heat comes up, or a plug is warm;"]
    if cut_offs(bike):
        lines.append("the motor keeps pulling with a lever drawn, or cuts out without one;")
    if hub_motors(bike):
        lines.append("the motor wheel sits crooked or an axle nut has moved: do not ride on;")
    if packs(bike):
        lines.append("the battery swells, smells, gets hot, or its charge falls off suddenly.")
    return lines


def _next(bike: Bike, facts: RiderFacts, on: date) -> list[str]:
    lines = []
    for words in facts.later:
        lines.append(f"After the first ride: {words[0].lower()}{words[1:]}.")
    visit = on + SECOND_VISIT
    what = ["plugs", "ties"]
    if hub_motors(bike):
        what.append("axle nuts")
    if cut_offs(bike):
        what.append("cut-offs")
    lines.append(f"Second visit around {_day(visit)}: {', '.join(what)}, range.")
    for part in bike.having(TrackerSpec):
        lines.append(_renewal(part))
    return lines


def _renewal(part: Part[TrackerSpec]) -> str:
    if not part.spec.renew_on:
        return f"{part.name}: its plan has to be renewed; nobody has told us when."
    return (
        f"{part.name}: its plan is to be renewed by {_day(date.fromisoformat(part.spec.renew_on))}."
    )


def _day(when: date) -> str:
    """Return a day in words: `18 November 2026`."""
    return f"{when.day} {when:%B %Y}"
