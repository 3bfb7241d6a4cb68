"""Wiring rules on current: wires, fuse, lead, packs in series, lengths. All are common practice, no published source."""

from collections.abc import Callable, Iterator

from brightcore.bike.model import Bike
from brightcore.describing.specs import awg_area_mm2
from brightcore.findings import Finding, FindingType
from brightcore.matching.drive import arrangement, main_lead_ohm
from brightcore.wiring.conductors import STANDARD_MM2, ampacity_a, conductor_table, nearest_awg
from brightcore.wiring.routes import runs_of

CP = "common-practice"
WIRE_TOO_THIN = FindingType(
    "W050", "fault", "{wire}, {carries}: {area} stands {limit_a}, it carries up to {current_a}.", "Take {wanted} ({gauge}), or lower the controller's limit.", CP,
)  # fmt: skip
LEAD_DROP = FindingType(
    "W051", "advice", "At {current_a} the wires between pack and controller lose {drop_v} and make {heat_w} of heat.",
    "More than 3 % is felt on a hill: thicker or shorter wires.", CP,
)  # fmt: skip
FUSE_TOO_SMALL = FindingType(
    "W052", "fault", "The {fuse_a} fuse of the {pack} is run at {current_a}, more than 80 % of its rating.", "It will blow on a long hill: a larger one if the wire stands it, or a lower limit.", CP,
)  # fmt: skip
FUSE_VOLTS = FindingType(
    "W053", "danger", "The fuse of the {pack} is made for {fuse_v} DC, the full pack gives {full_v}.",
    "It may not break the arc: a fuse with a DC rating at or above the full pack, at the pack. Never a 32 V blade.", CP,
)  # fmt: skip
SERIES_TOO_HIGH = FindingType(
    "W054", "danger", "The packs in series give {full_v} when full, the {controller} stands {max_v}.", "Do not connect it: a controller for the whole string, or the packs in parallel.", CP,
)  # fmt: skip
TOO_SHORT = FindingType(
    "W055", "advice", "{run}: {has_m} of cable, the way with its slack needs {wanted_m}.", "Measure the way; then an extension of {short_m} or a shorter way. Never tight across the steering, suspension or fold.", CP,
)  # fmt: skip
TYPES = (WIRE_TOO_THIN, LEAD_DROP, FUSE_TOO_SMALL, FUSE_VOLTS, SERIES_TOO_HIGH, TOO_SHORT)

DROP_RATIO, FUSE_RATIO = 0.03, 0.8
SHORT_M = 0.02
"""Less than this is no shortage: it is within how well a frame is measured."""


def thin_wires(bike: Bike) -> Iterator[Finding]:
    """W050: a conductor that does not stand its current; the worst of each cable or join."""
    said: set[str] = set()
    for row in conductor_table(bike):
        if not row.fits and row.title not in said:
            said.add(row.title)
            short_run = row.stands_a / row.limit_a
            wanted = next((a for a in STANDARD_MM2 if ampacity_a(a) * short_run >= row.current_a), STANDARD_MM2[-1])
            values = (("wire", row.title), ("carries", row.carries), ("area", f"{row.area_mm2:g} mm²"), ("limit_a", f"{row.limit_a:.0f} A"),
                      ("current_a", f"{row.current_a:.0f} A"), ("wanted", f"{wanted:g} mm²"), ("gauge", f"{nearest_awg(min(wanted, awg_area_mm2(0)))} AWG"))  # fmt: skip
            yield Finding(WIRE_TOO_THIN, (row.title,), values)


def lead_drop(bike: Bike) -> Iterator[Finding]:
    """W051: volts lost in described wires between pack and controller."""
    amps = sum(bike.setting(c.id, "current_limit_a", c.spec.battery_limit_a) for c in bike.of_kind("controller"))
    volts = min((p.spec.nominal_v() for p in bike.of_kind("pack")), default=0.0)
    drop = amps * main_lead_ohm(bike)
    if drop > DROP_RATIO * volts > 0:
        pack = bike.of_kind("pack")[0]
        yield Finding(
            LEAD_DROP, (pack.id,), (("current_a", f"{amps:.0f} A"), ("drop_v", f"{drop:.1f} V"), ("heat_w", f"{drop * amps:.0f} W"))
        )


def fuses(bike: Bike) -> Iterator[Finding]:
    """W052, W053: main fuse against current and volts."""
    draws = sum(bike.setting(c.id, "current_limit_a", c.spec.battery_limit_a) for c in bike.of_kind("controller"))
    for pack in bike.of_kind("pack"):
        if draws > FUSE_RATIO * pack.spec.fuse_a * 1.001:
            yield Finding(
                FUSE_TOO_SMALL, (pack.id,), (("pack", pack.name), ("fuse_a", f"{pack.spec.fuse_a:g} A"), ("current_a", f"{draws:g} A"))
            )
        if 0 < pack.spec.fuse_v < pack.spec.full_v():
            yield Finding(
                FUSE_VOLTS,
                (pack.id,),
                (("pack", pack.name), ("fuse_v", f"{pack.spec.fuse_v:g} V"), ("full_v", f"{pack.spec.full_v():g} V")),
            )


def series_packs(bike: Bike) -> Iterator[Finding]:
    """W054: a string of packs against the controller."""
    if arrangement(bike) != "series":
        return
    full = sum(p.spec.full_v() for p in bike.of_kind("pack"))
    for c in bike.of_kind("controller"):
        if full > c.spec.max_v:
            yield Finding(SERIES_TOO_HIGH, (c.id,), (("full_v", f"{full:g} V"), ("controller", c.name), ("max_v", f"{c.spec.max_v:g} V")))


def too_short(bike: Bike) -> Iterator[Finding]:
    """W055: a cable shorter than its way along the frame."""
    for run in runs_of(bike):
        if run.verdict == "short" and run.wanted_m - run.has_m > SHORT_M:
            values = (
                ("run", run.title),
                ("has_m", f"{run.has_m:.2f} m"),
                ("wanted_m", f"{run.wanted_m:.2f} m"),
                ("short_m", f"{run.wanted_m - run.has_m:.2f} m"),
            )
            yield Finding(TOO_SHORT, run.ends, values)


RULES: tuple[Callable[[Bike], Iterator[Finding]], ...] = (thin_wires, lead_drop, fuses, series_packs, too_short)
