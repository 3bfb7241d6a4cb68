"""Checks across devices: what their values mean together, with permanent codes (`docs/program.md`).

A check is one function and one line in `CHECKS`.
"""

from collections.abc import Callable, Sequence

from brightcore.analysis.strings import strings
from brightcore.bike.model import Bike, Join, Part
from brightcore.bike.roles import role_of as role_of_pin
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import combiners, controllers, displays, motors
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.physics.heat_limits import HARM_C
from brightcore.physics.heating import SHORT_RUN_S, ampacity_a
from brightcore.programming.case import Aim
from brightcore.programming.derive import Derived
from brightcore.programming.findings import Found, Programmed, ValueFinding, Values
from brightcore.programming.limits import LIMITS
from brightcore.programming.roles import role as role_of

ALIKE = (
    "current_limit_a",
    "phase_limit_a",
    "low_cutoff_v",
    "ramp",
    "regen",
    "throttle_start_v",
    "throttle_end_v",
    "speed_limit_kmh",
    "cut_off_kind",
)
"""What two controllers of one vehicle are set alike in."""

SAME_SHARE = 0.02
REST_MARGIN_V, GAUGE_SHARE = 0.05, 0.1
LABEL_V = 1.0
"""Labels of packs are at least four volts apart: more than this is another pack."""


def limits_disagree(case: Programmed) -> Found:
    """Display and controller end help at different speeds."""
    found = list(case.holders("speed_limit_kmh"))
    if len(found) > 1 and max(v for _, v in found) > min(v for _, v in found) * (1 + SAME_SHARE):
        words = ", ".join(f"{part.name} {value:.3g} km/h" for part, value in found)
        text = f"Speed limits differ: {words}; the lowest counts"
        yield ValueFinding(
            "V001", "advice", text, "Set all to the one that is wanted.", _ids(found)
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


def regen_clutch(case: Programmed) -> Found:
    """Brakes through a clutch."""
    geared = [motor.name for motor in motors(case.bike) if motor.spec.geared()]
    for part, value in case.holders("regen"):
        if value > 0 and geared and not combiners(case.bike):
            text = (
                f"{part.name} is set to brake into the pack, the {geared[0]} has a one-way clutch"
            )
            yield ValueFinding(
                "V011", "advice", text, "Switch it off: it does nothing here.", (part.id,)
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


def wrong_pairs(case: Programmed) -> Found:
    """Pole pairs without the reduction."""
    for part, value in case.holders("pole_pairs"):
        wanted = case.want(part, "pole_pairs")
        if wanted and abs(value / wanted - 1) > SAME_SHARE:
            text = (
                f"{part.name} counts {value:g} pole pairs, {wanted:g} are there behind the "
                "reduction"
            )
            yield ValueFinding(
                "V013", "fault", text, "Correct it: speed and field weakening go by it.", (part.id,)
            )


def throttle_dead(case: Programmed) -> Found:
    """Begins at level zero while the throttle needs assist."""
    if not case.bike.having(ThrottleSpec):
        return
    needing = [(part, v) for part, v in case.holders("throttle_needs_assist") if v > 0]
    for part, level in case.holders("start_level"):
        if level == 0 and needing:
            text = (
                f"The throttle needs assist, and the {part.name} begins at level zero: it "
                "will seem dead"
            )
            change = "Begin at level one, or let the throttle work at every level."
            yield ValueFinding("V014", "fault", text, change, (part.id, needing[0][0].id))
        elif level == 0:
            text = f"The {part.name} begins at level zero: on many the throttle is dead there"
            yield ValueFinding("V015", "advice", text, "Begin at level one.", (part.id,))


def unlike_pair(case: Programmed) -> Found:
    """Two controllers set unlike."""
    both = controllers(case.bike)
    for role in ALIKE:
        found = []
        for part in both:
            if (v := case.value(part, role)) is not None:
                found.append((part, v))
        if len(found) > 1 and max(v for _, v in found) - min(
            v for _, v in found
        ) > SAME_SHARE * abs(found[0][1]):
            words = ", ".join(f"{part.name} {value:g}" for part, value in found)
            text = f"Two controllers are set unlike in {role_of(role).title.lower()}: {words}"
            yield ValueFinding(
                "V016", "fault", text, "Set both alike: one pulls more than the other.", _ids(found)
            )


def one_display(case: Programmed) -> Found:
    """Two controllers answer one display, or none does."""
    both = controllers(case.bike)
    found = []
    for part in both:
        if (v := case.value(part, "answers_display")) is not None:
            found.append((part, v))
    if len(found) > 1 and displays(case.bike):
        answering = [part.name for part, v in found if v > 0]
        if len(answering) != 1:
            text = f"{len(answering)} of {len(found)} controllers answer to the display"
            yield ValueFinding(
                "V017",
                "fault",
                text,
                "One answers, the others only follow the throttle.",
                _ids(found),
            )


def gauge(case: Programmed) -> Found:
    """The gauge counts from another capacity than is fitted."""
    for part, value in case.holders("capacity_ah"):
        fitted = case.want(part, "capacity_ah")
        if fitted and abs(value / fitted - 1) > GAUGE_SHARE:
            text = (
                f"The gauge of the {part.name} counts from {value:g} Ah, {fitted:g} Ah are fitted"
            )
            yield ValueFinding(
                "V018",
                "advice",
                text,
                "Tell it of every pack, or the rider is left short.",
                (part.id,),
            )


def label(case: Programmed) -> Found:
    """The display's pack label is another pack's."""
    for part, value in case.holders("pack_label_v"):
        wanted = case.want(part, "pack_label_v")
        if wanted and abs(value - wanted) > LABEL_V:
            text = f"{part.name} is set to a pack of {value:g} V, {wanted:g} V is fitted"
            change = (
                "Correct it: its gauge and cut-off go by it. Its menu has no such "
                "label? Say so there."
            )
            yield ValueFinding("V019", "fault", text, change, (part.id,))


def levels_backwards(case: Programmed) -> Found:
    """A higher level that is slower or weaker than a lower one."""
    for kind in ("level_speed", "level_current"):
        for part in case.bike.parts:
            row = []
            for n in range(1, 10):
                if (v := case.value(part, f"{kind}_{n}")) is not None:
                    row.append(v)
            if any(b < a for a, b in zip(row, row[1:], strict=False)):
                shown = ", ".join(f"{v:g}" for v in row)
                text = f"Levels of the {part.name} do not rise: {shown}"
                yield ValueFinding("V020", "fault", text, "Set them in rising order.", (part.id,))


def throttle_ends(case: Programmed) -> Found:
    """Drives at rest, or never gives all."""
    for grip in case.bike.having(ThrottleSpec)[:1]:
        rest, full = (grip.spec.supply_v * r for r in (grip.spec.rest_ratio, grip.spec.full_ratio))
        for part, value in case.holders("throttle_start_v"):
            if value < rest + REST_MARGIN_V:
                text = f"{part.name} drives from {value:g} V, the {grip.name} rests at {rest:.2f} V"
                yield ValueFinding(
                    "V021", "danger", text, "Raise it: it may run away by itself.", (part.id,)
                )
        for part, value in case.holders("throttle_end_v"):
            if value > full:
                text = f"{part.name} gives all at {value:g} V, the {grip.name} reaches {full:.2f} V"
                yield ValueFinding(
                    "V022", "fault", text, "Lower it below what the grip reaches.", (part.id,)
                )


def wheel_unlike(case: Programmed) -> Found:
    """Devices count with different wheels or magnets."""
    for role, code, unit in (
        ("wheel_circumference_mm", "V023", " mm"),
        ("speed_magnets", "V024", ""),
    ):
        for part, value in case.holders(role):
            wanted = case.want(part, role)
            if wanted and abs(value / wanted - 1) > SAME_SHARE:
                text = (
                    f"{part.name} counts with {value:g}{unit}, {wanted:g}{unit} is right: the "
                    "speed shown is wrong"
                )
                yield ValueFinding(
                    code, "fault", text, "Correct it, then check against GPS speed.", (part.id,)
                )


def cut_off_unlike(case: Programmed) -> Found:
    """The cut-off set is another than the one fitted."""
    for part, value in case.holders("cut_off_kind"):
        wanted = case.want(part, "cut_off_kind")
        if wanted is not None and value != wanted:
            text = f"{part.name} expects another cut-off than is fitted"
            change = "Correct it and prove both levers with the motor turning."
            yield ValueFinding("V025", "danger", text, change, (part.id,))


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


def modes(case: Programmed) -> Found:
    """A speed mode that allows more than the limit."""
    for part, value in case.holders("mode_share"):
        if value > 100:
            text = f"A mode of the {part.name} allows {value:g} % of the limit"
            yield ValueFinding("V028", "fault", text, "100 % at most.", (part.id,))


def light_volts(case: Programmed) -> Found:
    """The light output feeds a lamp of other volts."""
    for part, value in case.holders("light_v"):
        wanted = case.want(part, "light_v")
        if wanted and value > wanted * 1.15:
            text = f"{part.name} feeds {value:g} V to a lamp for {wanted:g} V"
            yield ValueFinding(
                "V029", "fault", text, "Lower it before the lamp is connected.", (part.id,)
            )


def start_share(case: Programmed) -> Found:
    """Help only after a whole turn, or at the least touch."""
    for part, value in case.holders("start_pulses"):
        whole = case.value(part, "pedal_magnets") or next(
            (v for _, v in case.holders("pedal_magnets")), None
        )
        if whole and value >= whole:
            text = (
                f"{part.name} helps only after a whole turn of the cranks ({value:g} of "
                f"{whole:g} pulses)"
            )
            yield ValueFinding(
                "V030", "advice", text, "A sixth of a turn, two pulses at least.", (part.id,)
            )


def _phases(bike: Bike, join: Join) -> bool:
    """Return whether a connection carries phases."""
    pins = bike.part(join.a_part).port(join.a_port).pins
    return any(role_of_pin(pin.role).current == "phase" for pin in pins)


def _ids(found: Sequence[tuple[Part, float]]) -> tuple[str, ...]:
    return tuple(part.id for part, _ in found)


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
