"""Checks across devices of what the rider feels: throttle, levels, wheel, gauge, light.

One function a check; each stands as one line in `checks.CHECKS`.
"""

from brightcore.kinds.select import combiners, controllers, displays, motors
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.programming.findings import SAME_SHARE, Found, Programmed, ValueFinding, part_ids
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


REST_MARGIN_V, GAUGE_SHARE = 0.05, 0.1
"""Volts a throttle starts over its rest; share by which a gauge may count another pack."""


LABEL_V = 1.0
"""Labels of packs are at least four volts apart: more than this is another pack."""


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
                "V016",
                "fault",
                text,
                "Set both alike: one pulls more than the other.",
                part_ids(found),
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
                part_ids(found),
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
