"""On the road, on private ground (common practice; local rules decide where)."""

from collections.abc import Iterator

from brightcore.kinds.select import controllers, cutting, displays, motors, packs
from brightcore.procedure.proofs.case import ROAD, Checks, ProofCase, ProofCheck, Reading

SPEED_ERROR = 0.03
"""Shown speed may be off by this share before the circumference is corrected."""

LIMIT_OVER_KMH = 1.0


def stops(case: ProofCase) -> Iterator[ProofCheck]:
    """Brakes first, then the cut-offs under power."""
    if case.power_touched:
        levers = cutting(case.bike, "brake")
        # A bike without a cut-off is not asked for one: that it has none is told to its rider
        # instead.
        if levers:
            title = "Brakes, then the cut-offs under power"
        else:
            title = "Brakes at walking pace"
        if levers:
            then = " Then under power: each lever with a cut-off stops the pull at once."
        else:
            then = ""
        yield ProofCheck(
            "road-cut",
            "road",
            title,
            f"Walking pace, no motor: every brake by itself.{then}",
            "Stops by brakes alone; the pull ends with each lever."
            if levers
            else "Stops by brakes alone.",
            case.because(motors(case.bike)),
            ("set", "Bring the cut-off in range on Set."),
            ROAD,
        )


def speed(case: ProofCase) -> Iterator[ProofCheck]:
    """Shown speed against GPS."""
    if displays(case.bike) and case.any(
        (*displays(case.bike), *controllers(case.bike), *motors(case.bike))
    ):
        yield ProofCheck(
            "road-speed",
            "road",
            "Shown speed against GPS",
            "Steady 20 km/h by the display over 200 m: type what a GPS says.",
            "20 km/h, 3 % either way.",
            case.because(displays(case.bike)),
            ("program", "Correct the circumference by that ratio on Program."),
            ROAD,
            Reading("km/h", 20 * (1 - SPEED_ERROR), 20 * (1 + SPEED_ERROR), 5.0, 60.0),
        )


def limit(case: ProofCase) -> Iterator[ProofCheck]:
    """Help ends where it is to end."""
    if (
        case.limit_kmh
        and case.power_touched
        and case.any((*displays(case.bike), *controllers(case.bike)))
    ):
        high = case.limit_kmh + LIMIT_OVER_KMH
        yield ProofCheck(
            "road-limit",
            "road",
            "Help ends at the limit",
            "On the flat, highest level: type the speed at which the help ends.",
            f"{case.limit_kmh:.3g} km/h, at most 1 km/h over; local law decides.",
            case.because(controllers(case.bike)),
            ("program", "Look at the speed limits on Program."),
            ROAD,
            Reading("km/h", 0.6 * case.limit_kmh, high, 3.0, 120.0),
        )


def hill(case: ProofCase) -> Iterator[ProofCheck]:
    """Uphill: heat and volts."""
    own = (*motors(case.bike), *controllers(case.bike), *packs(case.bike))
    if case.drives and case.any(own):
        yield ProofCheck(
            "road-hill",
            "road",
            "Uphill, then feel",
            (
                "Five minutes uphill or loaded, stop: feel near motor, controller, thick plugs, "
                "back of a hand."
            ),
            "Hand-warm at most at plugs; no cut-out, no smell.",
            case.because(own),
            ("match", "See on Match what it asks of the chain; look at the plug that is hot."),
            ROAD,
        )


CHECKS: tuple[Checks, ...] = (stops, speed, limit, hill)
