"""Roles of assist: levels, their speeds and currents, level zero, pedal sensor."""

from collections.abc import Callable

from brightcore.kinds.pedal_sensor import PedalSpec
from brightcore.kinds.select import displays
from brightcore.kinds.sensors import TorqueSpec
from brightcore.programming.case import Case, Role, Want

SPREAD = (0.3, 0.5, 0.667, 0.8, 1.0)
"""Share of the limit at levels one to five (9, 15, 20, 24, 30 of 30, common practice)."""

CURRENTS = {
    "even": (0.2, 0.4, 0.6, 0.8, 1.0),
    "progressive": (0.1, 0.2, 0.4, 0.65, 1.0),
    "torque": (0.25, 0.5, 0.75, 1.0, 1.0),
}
LEVELS = 5
START_LEVEL = 1.0


def levels(case: Case) -> Want | None:
    """How many levels the display steps through."""
    for display in displays(case.bike)[:1]:
        return Want(display.spec.assist_levels, f"{display.name} is described with them")
    return None


def level_speed(number: int) -> Callable[[Case], Want | None]:
    """Return what derives the speed of a level."""

    def derive(case: Case) -> Want | None:
        if case.aim.limit_kmh <= 0:
            return None
        share = SPREAD[number - 1]
        return Want(
            round(share * case.aim.limit_kmh),
            (
                f"{100 * share:.0f} % of the limit of {case.aim.limit_kmh:.3g} km/h: levels "
                "spread evenly"
            ),
        )

    return derive


def level_current(number: int) -> Callable[[Case], Want | None]:
    """Return what derives the current of a level, as a share of the limit."""

    def derive(case: Case) -> Want | None:
        share = CURRENTS[case.aim.style][number - 1]
        return Want(100 * share, f"Level {number} of {LEVELS}, {case.aim.style} steps")

    return derive


def start_level(case: Case) -> Want | None:
    """The level after switching on: not zero, where a throttle may be dead."""
    return Want(START_LEVEL, "At level zero the throttle is dead on many: begin at one")


def needs_assist(case: Case) -> Want | None:
    """Whether the throttle works at level zero."""
    if case.aim.throttle == "none":
        return None
    return Want(0.0, "Works at every level, so that nobody takes it for dead")


def pedal_magnets(case: Case) -> Want | None:
    """Pulses in a turn of the cranks."""
    for part in case.bike.parts:
        if isinstance(part.spec, PedalSpec | TorqueSpec):
            counted = case.measured(part.id, "pulses")
            if counted:
                return Want(counted.value, f"Counted {counted.on}")
            return Want(part.spec.magnet_count, f"{part.name}: {part.spec.magnet_count} described")
    return None


def start_pulses(case: Case) -> Want | None:
    """Pulses before help begins: a sixth of a turn, two at least."""
    want = pedal_magnets(case)
    if want is None:
        return None
    value = max(2, round(want.value / 6))
    return Want(
        value, f"A sixth of a turn of {want.value:g}: soon, but not by a touch of the pedal"
    )


def direction(case: Case) -> Want | None:
    """Which way round the ring counts."""
    return Want(0.0, "Forwards; Set proves it")


ROLES = (
    Role("assist_levels", "Assist levels", "", levels),
    *(
        Role(f"level_speed_{n}", f"Speed of level {n}", "km/h", level_speed(n))
        for n in range(1, LEVELS + 1)
    ),
    *(
        Role(f"level_current_{n}", f"Current of level {n}", "%", level_current(n))
        for n in range(1, LEVELS + 1)
    ),
    Role("start_level", "Level after switching on", "", start_level),
    Role(
        "throttle_needs_assist",
        "Throttle needs assist",
        "",
        needs_assist,
        ((0.0, "no"), (1.0, "yes")),
    ),
    Role("pedal_magnets", "Pedal magnets", "", pedal_magnets),
    Role("start_pulses", "Pulses before it helps", "", start_pulses),
    Role(
        "pedal_direction", "Pedal direction", "", direction, ((0.0, "forwards"), (1.0, "backwards"))
    ),
)
