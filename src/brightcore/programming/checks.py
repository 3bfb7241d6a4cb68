"""Checks across devices: what their values mean together, with permanent codes (`docs/program.md`).

A check is one function and one line in `CHECKS`.
"""

from collections.abc import Callable

from brightcore.analysis.strings import strings
from brightcore.bike.model import Bike, Join
from brightcore.bike.roles import role_of as role_of_pin
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import combiners, motors
from brightcore.physics.heat_limits import HARM_C
from brightcore.physics.heating import SHORT_RUN_S, ampacity_a
from brightcore.programming.case import Aim
from brightcore.programming.derive import Derived
from brightcore.programming.findings import (
    SAME_SHARE,
    Found,
    Programmed,
    ValueFinding,
    Values,
    part_ids,
)
from brightcore.programming.limits import LIMITS
from brightcore.programming.ride_checks import (
    cut_off_unlike,
    gauge,
    label,
    levels_backwards,
    light_volts,
    modes,
    one_display,
    regen_clutch,
    start_share,
    throttle_dead,
    throttle_ends,
    unlike_pair,
    wheel_unlike,
    wrong_pairs,
)


def limits_disagree(case: Programmed) -> Found:
    """Display and controller end help at different speeds."""
    found = list(case.holders("speed_limit_kmh"))
    if len(found) > 1 and max(v for _, v in found) > min(v for _, v in found) * (1 + SAME_SHARE):
        words = ", ".join(f"{part.name} {value:.3g} km/h" for part, value in found)
        text = f"Speed limits differ: {words}; the lowest counts"
        yield ValueFinding(
            "V001", "advice", text, "Set all to the one that is wanted.", part_ids(found)
        )


def over_class(case: Programmed) -> Found:
    """Faster than the class of the place."""
    for part, value in case.holders("speed_limit_kmh"):
        if case.aim.limit_kmh and value > case.aim.limit_kmh + 0.5:
            text = (
                f"{part.name} helps up to {value:.3g} km/h, {case.aim.limit_kmh:.3g} km/h wanted: "
                f"{case.aim.limit_why}"
            )
            change = "Lower it, or use it where another class applies; local law decides."
            yield ValueFinding("V002", "fault", text, change, (part.id,))


def cutoff_under_trip(case: Programmed) -> Found:
    """Cuts out below where the board lets go."""
    for row in strings(case.bike)[:1]:
        trip = sum(pack.spec.trip_v() for pack in row)
        for part, value in case.holders("low_cutoff_v"):
            if value <= trip:
                text = (
                    f"{part.name} cuts out at {value:g} V, the BMS lets go at {trip:.1f} V already"
                )
                change = "Raise it: the pack would cut out at once, without warning, on a hill."
                yield ValueFinding("V003", "fault", text, change, (part.id,))


def cutoff_over_cells(case: Programmed) -> Found:
    """Cuts out with much charge left, or never starts."""
    for row in strings(case.bike)[:1]:
        nominal, full = (
            sum(f(pack.spec) for pack in row) for f in (PackSpec.nominal_v, PackSpec.full_v)
        )
        for part, value in case.holders("low_cutoff_v"):
            if value >= full:
                text = (
                    f"{part.name} cuts out at {value:g} V, the full pack has {full:.1f} V: "
                    "it never runs"
                )
                yield ValueFinding(
                    "V004", "fault", text, "Lower it to what its cells want.", (part.id,)
                )
            elif value > nominal:
                text = (
                    f"{part.name} cuts out at {value:g} V, with half the charge left "
                    f"({nominal:.1f} V nominal)"
                )
                yield ValueFinding(
                    "V005", "advice", text, "Lower it, unless the pack is to be spared.", (part.id,)
                )


def over_voltage_low(case: Programmed) -> Found:
    """Refuses a full pack."""
    for row in strings(case.bike)[:1]:
        full = sum(pack.spec.full_v() for pack in row)
        for part, value in case.holders("over_voltage_v"):
            if value <= full:
                text = f"{part.name} refuses {value:g} V, the full pack has {full:.1f} V"
                yield ValueFinding(
                    "V006", "fault", text, "Raise it above the full pack.", (part.id,)
                )


def battery_amps(case: Programmed) -> Found:
    """Draws more than pack, fuse or rating allow."""
    for part, value in case.holders("current_limit_a"):
        most = case.want(part, "current_limit_a")
        if most is not None and value > most * (1 + SAME_SHARE):
            text = f"{part.name} draws up to {value:g} A, {most:g} A are allowed"
            why = next(
                d.reason for d in case.wanted if (d.part, d.role) == (part.id, "current_limit_a")
            )
            yield ValueFinding("V007", "fault", text, f"Lower it. {why}.", (part.id,))


def phase_amps(case: Programmed) -> Found:
    """Drives more through winding than it stands."""
    for part, value in case.holders("phase_limit_a"):
        most = case.want(part, "phase_limit_a")
        if most is not None and value > most * (1 + SAME_SHARE):
            text = (
                f"{part.name} drives up to {value:g} A through the phases, {most:g} A are allowed"
            )
            yield ValueFinding(
                "V008",
                "fault",
                text,
                "Lower it, or let the thermistor take power back.",
                (part.id,),
            )


def phase_wires(case: Programmed) -> Found:
    """Phase wires are thinner than their current."""
    areas = []
    for join in case.bike.joins:
        if join.wire.area_mm2 and _phases(case.bike, join):
            areas.append(join.wire.area_mm2)
    if areas:
        weakest = ampacity_a(min(areas), seconds=SHORT_RUN_S)
    else:
        weakest = 0.0
    for part, value in case.holders("phase_limit_a"):
        if weakest and value > weakest:
            text = (
                f"{part.name} drives up to {value:g} A, the phase wires stand "
                f"{weakest:.0f} A for a minute"
            )
            yield ValueFinding("V009", "advice", text, "Thicker wires, or lower it.", (part.id,))


def regen_module(case: Programmed) -> Found:
    """Brakes into a module that takes nothing back."""
    for part, value in case.holders("regen"):
        if value > 0 and combiners(case.bike):
            name = combiners(case.bike)[0].name
            text = f"{part.name} brakes into the {name}, which lets no charge go back"
            yield ValueFinding(
                "V010",
                "danger",
                text,
                "Switch it off: volts rise until something fails.",
                (part.id,),
            )


def regen_full(case: Programmed) -> Found:
    """Brakes into a full or cold pack."""
    for part, value in case.holders("regen"):
        if (
            value > 0
            and not combiners(case.bike)
            and not any(m.spec.geared() for m in motors(case.bike))
        ):
            text = f"{part.name} brakes into the pack"
            change = "Never on a full pack or below 0 °C: tell the rider, or set it weak."
            yield ValueFinding("V012", "advice", text, change, (part.id,))


def heat(case: Programmed) -> Found:
    """Stops below where it takes power back, or later than a motor stands."""
    for part, stops in case.holders("stop_c"):
        back = case.value(part, "roll_back_c")
        if stops > HARM_C:
            text = f"{part.name} stops at {stops:g} °C only"
            yield ValueFinding(
                "V026", "fault", text, "120 to 130 °C: magnets and glue go first.", (part.id,)
            )
        if back is not None and back >= stops:
            text = (
                f"{part.name} takes power back from {back:g} °C and stops at {stops:g} °C already"
            )
            yield ValueFinding(
                "V027", "fault", text, "Take it back well before it stops.", (part.id,)
            )


def _phases(bike: Bike, join: Join) -> bool:
    """Return whether a connection carries phases."""
    pins = bike.part(join.a_part).port(join.a_port).pins
    return any(role_of_pin(pin.role).current == "phase" for pin in pins)


CHECKS: tuple[Callable[[Programmed], Found], ...] = (
    throttle_ends,
    cut_off_unlike,
    regen_module,
    cutoff_under_trip,
    cutoff_over_cells,
    over_voltage_low,
    battery_amps,
    phase_amps,
    phase_wires,
    over_class,
    limits_disagree,
    throttle_dead,
    unlike_pair,
    one_display,
    wrong_pairs,
    label,
    gauge,
    wheel_unlike,
    levels_backwards,
    heat,
    regen_clutch,
    regen_full,
    modes,
    light_volts,
    start_share,
    *LIMITS,
)


GRAVITY = ("danger", "fault", "advice")


def check_values(
    bike: Bike, values: Values, wanted: tuple[Derived, ...], aim: Aim
) -> tuple[ValueFinding, ...]:
    """Return what is wrong between the values of all devices, gravest first."""
    case = Programmed(bike, values, wanted, aim)
    found = [item for check in CHECKS for item in check(case)]
    return tuple(sorted(found, key=lambda item: GRAVITY.index(item.severity)))
