"""What a rider is told at hand-over, in plain words (common practice; makers' sheets come first)."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from brightcore.bike.model import Bike
from brightcore.kinds.select import combiners, cutting, hub_motors, motors, packs, trackers
from brightcore.kinds.throttle import ThrottleSpec

SECOND_VISIT = timedelta(weeks=4)
"""When a bike that was worked on is looked at again."""

COLD_C, HOT_C = 0, 45


@dataclass(frozen=True, slots=True)
class RiderPart:
    """A heading of the rider's sheet with its sentences."""

    title: str
    lines: tuple[str, ...]


def rider_sheet(
    bike: Bike, done: Sequence[str], touched: frozenset[str], on: date, later: Sequence[str]
) -> tuple[RiderPart, ...]:
    """Return the rider's sheet: what was done, first ride, charging, what to watch, when next.

    `done`: what was repaired and changed, in words; `later`: what is looked at again after the first ride.
    """
    found = (
        RiderPart("What was done", tuple(done) or ("Looked over; nothing was changed.",)),
        RiderPart("The first ride", tuple(_first_ride(bike, touched))),
        RiderPart("Charging and keeping the battery", tuple(_charging(bike))),
        RiderPart("Stop and bring it back if", tuple(_watch(bike))),
        RiderPart("Next", tuple(_next(bike, touched, on, later))),
    )
    return tuple(part for part in found if part.lines)


def _first_ride(bike: Bike, touched: frozenset[str]) -> list[str]:
    lines = ["Try both brakes at walking pace before you ride off."]
    if cutting(bike, "brake"):
        lines.append("Pulling either brake lever stops the motor. If not, use the brakes and switch off.")
    if bike.having(ThrottleSpec):
        lines.append("A touch of the throttle is enough to begin with; let go when you stop or dismount.")
    if touched & {part.id for part in motors(bike)}:
        lines.append("It may pull harder, or later, than you are used to: a quiet road first.")
    return lines


def _charging(bike: Bike) -> list[str]:
    if not packs(bike):
        return []
    lines = [
        f"Its own charger only, {COLD_C} to {HOT_C} °C, on a floor that does not burn, somebody near.",
        "Not straight after a cold or a hot ride: let it come to the room first.",
        "Laid up: half full, dry, between 5 and 25 °C; look at it every two months.",
        "After a fall, a soaking or a smell: do not charge or ride; leave it outdoors and call us.",
    ]
    if combiners(bike):
        lines.append("Several batteries: in and on with about the same charge, as you were shown.")
    return lines


def _watch(bike: Bike) -> list[str]:
    lines = ["a new noise, smell or heat comes up, or a plug is warm;"]
    if cutting(bike, "brake"):
        lines.append("the motor keeps pulling with a lever drawn, or cuts out without one;")
    if hub_motors(bike):
        lines.append("the motor wheel sits crooked or an axle nut has moved: do not ride on;")
    if packs(bike):
        lines.append("the battery swells, smells, gets hot, or its charge falls off suddenly.")
    return lines


def _next(bike: Bike, touched: frozenset[str], on: date, later: Sequence[str]) -> list[str]:
    lines = [f"After the first ride: {words[0].lower()}{words[1:]}." for words in later]
    visit = on + SECOND_VISIT
    lines.append(f"Second visit around {visit:%d.%m.%Y}: plugs, ties, nuts, cut-offs, range.")
    if trackers(bike):
        lines.append("The tracker needs its plan renewed: note the date.")
    return lines
