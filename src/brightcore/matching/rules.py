"""Rules of matching: watts, cut-off, packs with each other, weak links.

A rule is one function and one line in `RULES`.
"""

import math
from collections.abc import Iterator

from brightcore.analysis.bike import Analysis, analysis_of
from brightcore.analysis.loads import battery_limit_a
from brightcore.analysis.rule import Found, Rule, findings_of, rule, volts
from brightcore.analysis.strings import highest_v
from brightcore.bike.model import Bike, Part
from brightcore.findings import Finding
from brightcore.kinds.motor import HubMotorSpec
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import controllers, hub_motors, motors, packs
from brightcore.matching.chain import VoltWindow, current_chain, volt_windows
from brightcore.matching.drive import arrangement
from brightcore.matching.packs import equalise
from brightcore.matching.space import space_verdicts

WATTS_SPREAD = (0.35, 1.15)
"""Printed watts may lie from 35 to 115 % of volts × amps before it is said (common practice: often
low for the law)."""

UNUSED_RATIO = 1.08
"""A cut-off this much above the end of the pack's window leaves charge unused (common practice)."""

CUT_OUT_RATIOS = (0.25, 0.6)
"""Charge from which cutting out under full load is told, and from which it is a fault (common
practice)."""

ROUNDING = 1.001
"""Equal figures are not told as over."""

EQUAL_V = 0.2
"""Packs may be joined directly within this much (common practice)."""


@rule(
    "M001",
    "advice",
    "{part} says {printed_w}, volts × amps of the drive allow {allowed_w}.",
    (
        "Trust volts × amps for what it can draw; the print may be the legal rating, or the "
        "continuous one."
    ),
)
def watts_disagree(case: Analysis, found: Found) -> Iterator[Finding]:
    """Printed watts of a motor against volts times amps."""
    nominal = highest_v(case.bike, PackSpec.nominal_v)
    for motor in motors(case.bike):
        for controller in controllers(case.bike)[:1]:
            allowed = nominal * battery_limit_a(case.bike, controller)
            low, high = WATTS_SPREAD
            if allowed and not low <= motor.spec.rated_w / allowed <= high:
                yield found(
                    (motor.id,),
                    part=motor.name,
                    printed_w=f"{motor.spec.rated_w:g} W",
                    allowed_w=f"{allowed:.0f} W",
                )


def _under_trip(window: VoltWindow) -> bool:
    return window.cutoff_v < window.trip_v


@rule(
    "M002",
    "fault",
    "The {controller} cuts out at {cutoff_v}, the BMS of the {pack} trips at {trip_v}.",
    "Raise the low-voltage cut-off: the controller should cut out first, and softly.",
)
def cutoff_below_trip(case: Analysis, found: Found) -> Iterator[Finding]:
    """Cut-off of the controller against the trip of the board."""
    for w in volt_windows(case.bike):
        if _under_trip(w):
            yield found(
                (w.packs, w.controller),
                cutoff_v=volts(w.cutoff_v),
                controller=w.controller,
                pack=w.packs,
                trip_v=f"{w.trip_v:.1f} V",
            )


@rule(
    "M003",
    "advice",
    (
        "The {controller} cuts off at {cutoff_v} and leaves part of the {pack} unused: it is "
        "empty at {empty_v}."
    ),
    "Lower it towards {empty_v} if the BMS trip stays well below.",
)
def cutoff_above_empty(case: Analysis, found: Found) -> Iterator[Finding]:
    """Cut-off of the controller against the end of the pack's window."""
    for w in volt_windows(case.bike):
        if w.cutoff_v > w.empty_v * UNUSED_RATIO and not _under_trip(w):
            yield found(
                (w.packs, w.controller),
                cutoff_v=volts(w.cutoff_v),
                controller=w.controller,
                pack=w.packs,
                empty_v=f"{w.empty_v:.1f} V",
            )


STANDING = {
    "parallel": "parallel",
    "series": "series",
    "combiner": "one circuit through a combining module",
}
"""Arrangements in which packs must be alike, in words: a module takes turns between volts, not
kinds."""


def _neighbours(bike: Bike) -> Iterator[tuple[Part[PackSpec], Part[PackSpec]]]:
    several = packs(bike)
    return zip(several, several[1:], strict=False)


def unlike(one: PackSpec, two: PackSpec, how: str) -> tuple[str, ...]:
    """Return in what two packs differ that must be alike where they are in parallel or series."""
    differs = {
        "cells in series": one.series_count != two.series_count,
        "chemistry": one.chemistry != two.chemistry,
        "capacity": how == "series" and one.capacity_ah != two.capacity_ah,
    }
    return tuple(what for what, so in differs.items() if so)


@rule(
    "M004",
    "danger",
    "{one} and {two} are not alike ({why}) and stand in {how}.",
    (
        "Packs go in parallel only when equal, in series only when alike; otherwise through a "
        "combining module."
    ),
)
def packs_differ(case: Analysis, found: Found) -> Iterator[Finding]:
    """Packs in parallel or series that are not alike."""
    how = arrangement(case.bike)
    for one, two in _neighbours(case.bike):
        why = unlike(one.spec, two.spec, how)
        if why and how in STANDING:
            words = STANDING[how]
            yield found((one.id, two.id), one=one.name, two=two.name, why=", ".join(why), how=words)


@rule(
    "M005",
    "danger",
    "{one} and {two} differ by {difference_v} now: connected directly, about {current_a} flow at "
    "first and {heat_wh} turn into heat.",
    "Bring them within 0.1–0.2 V before connecting them, or use a combining module.",
)
def join_inrush(case: Analysis, found: Found) -> Iterator[Finding]:
    """Equal packs in parallel that rest at different volts."""
    how = arrangement(case.bike)
    for one, two in _neighbours(case.bike):
        flow = equalise(one.spec, two.spec)
        if (
            how == "parallel"
            and not unlike(one.spec, two.spec, how)
            and flow.difference_v > EQUAL_V
        ):
            yield found(
                (one.id, two.id),
                one=one.name,
                two=two.name,
                difference_v=f"{flow.difference_v:.1f} V",
                current_a=f"{flow.current_a:.0f} A",
                heat_wh=f"{flow.heat_wh:.1f} Wh",
            )


def _feeding_back(case: Analysis, known: bool) -> Iterator[Part[HubMotorSpec]]:
    """Yield the hubs without a clutch whose controller brakes into the pack; or may, where nobody
    says."""
    wanted = ("on",) if known else ("on", "")
    for motor in hub_motors(case.bike):
        drivers = [c for c in controllers(case.bike) if case.drives(c, motor)] or list(
            controllers(case.bike)
        )
        if not motor.spec.geared() and any(c.spec.regen in wanted for c in drivers):
            yield motor


@rule(
    "M006",
    "danger",
    "{motor} can feed back when braking, and the combining module blocks that way.",
    (
        "Switch regenerative braking off: nothing can take the energy and the controller would "
        "see high volts."
    ),
)
def regeneration_blocked(case: Analysis, found: Found) -> Iterator[Finding]:
    """A direct-drive hub behind a combining module, unless regeneration is described as off."""
    if arrangement(case.bike) == "combiner":
        for motor in _feeding_back(case, known=False):
            yield found((motor.id,), motor=motor.name)


@rule(
    "M012",
    "advice",
    "{motor} brakes into the pack: a full pack cannot take it, its BMS trips and the volts jump.",
    "No regeneration above about 90 % charge: start a long descent with room in the pack, or set "
    "it weaker. The brakes have to do alone.",
)
def regeneration_full(case: Analysis, found: Found) -> Iterator[Finding]:
    """A direct-drive hub whose controller is set to brake into the pack."""
    for motor in _feeding_back(case, known=True):
        yield found((motor.id,), motor=motor.name)


@rule(
    "M013",
    "advice",
    "{motor} brakes into the pack: below 0 °C that charges frozen cells and harms them.",
    "Regeneration off in frost, or the pack kept warm; the charger the same: 0 to 45 °C.",
)
def regeneration_frost(case: Analysis, found: Found) -> Iterator[Finding]:
    """A direct-drive hub whose controller is set to brake into the pack."""
    for motor in _feeding_back(case, known=True):
        yield found((motor.id,), motor=motor.name)


def _over(case: Analysis, found: Found, judged: str) -> Iterator[Finding]:
    """Yield a finding for every link of a kind that is asked for more than it stands."""
    for link in current_chain(case.bike).links:
        if link.judged == judged and link.known and link.demand_a > link.limit_a * ROUNDING:
            yield found(
                (link.id,),
                link=link.title,
                limit_a=f"{link.limit_a:.0f} A",
                demand_a=f"{link.demand_a:.0f} A",
                note=link.note,
            )


@rule(
    "M007",
    "fault",
    "{link}: rated for {limit_a}, the load is {demand_a}.",
    "Lower the controller's limit, or make this link stronger.",
)
def weak_link(case: Analysis, found: Found) -> Iterator[Finding]:
    """A link of the current chain with a stated limit that no rule of wiring looks at."""
    yield from _over(case, found, "stated")


@rule(
    "M009",
    "advice",
    "{link}: a rating of about {limit_a} is worked out, the load is {demand_a} ({note}).",
    (
        "The limit is worked out, not stated: ask the maker, or measure how warm it gets after "
        "that load."
    ),
)
def link_worked_out(case: Analysis, found: Found) -> Iterator[Finding]:
    """A link of the current chain whose limit is an assumption."""
    yield from _over(case, found, "worked out")


def _cuts_out(case: Analysis, found: Found, least: float, below: float) -> Iterator[Finding]:
    for w in volt_windows(case.bike):
        if least <= w.cut_out_ratio < below:
            yield found(
                (w.controller, w.packs),
                controller=w.controller,
                pack=w.packs,
                current_a=f"{w.current_a:.0f} A",
                sag_v=f"{w.sag_v:.1f} V",
                cutoff_v=volts(w.cutoff_v),
                charge=f"{100 * w.cut_out_ratio:.0f} %",
            )


@rule(
    "M010",
    "advice",
    "The {controller} cuts out uphill once the {pack} is below {charge}: {current_a} take "
    "{sag_v}, and it cuts out at {cutoff_v}.",
    (
        "Lower the current limit or the cut-off (above the BMS trip); thicker leads; a pack of "
        "less resistance."
    ),
)
def cuts_out_uphill(case: Analysis, found: Found) -> Iterator[Finding]:
    """Volts at the controller under full current against its cut-off: part of the charge lost
    uphill."""
    yield from _cuts_out(case, found, *CUT_OUT_RATIOS)


@rule(
    "M011",
    "fault",
    "The {controller} cuts out uphill with the {pack} below {charge}: {current_a} take {sag_v}, "
    "and it cuts out at {cutoff_v}.",
    (
        "Lower the current limit or the cut-off (above the BMS trip); measure the resistance of "
        "pack and leads."
    ),
)
def hardly_climbs(case: Analysis, found: Found) -> Iterator[Finding]:
    """Volts at the controller under full current against its cut-off: most of the charge lost
    uphill."""
    yield from _cuts_out(case, found, CUT_OUT_RATIOS[1], math.inf)


@rule(
    "M008",
    "danger",
    "{one} and {two} stand in series: when one BMS opens, its switches see all of {full_v}.",
    (
        "Only with boards rated for the whole string, equal packs, a low-cell alarm on each, "
        "charged apart."
    ),
)
def series_bms(case: Analysis, found: Found) -> Iterator[Finding]:
    """Packs in series that have boards; soft packs without one have nothing that opens."""
    if arrangement(case.bike) != "series":
        return
    for one, two in _neighbours(case.bike):
        if "pouch" in (one.spec.chemistry, two.spec.chemistry):
            continue
        full = one.spec.full_v() + two.spec.full_v()
        yield found((one.id, two.id), one=one.name, two=two.name, full_v=f"{full:.1f} V")


@rule(
    "M014",
    "fault",
    "{room}: {why}.",
    (
        "Another place, a smaller part, or measure again. Never bend, grind or force a pack or a "
        "cable in."
    ),
)
def no_room(case: Analysis, found: Found) -> Iterator[Finding]:
    """Parts that do not go where they are to go, by what was measured."""
    for verdict in space_verdicts(case.bike):
        if verdict.fits is False:
            yield found((verdict.room.id,), room=verdict.room.name, why=verdict.why)


@rule(
    "M015",
    "advice",
    "{room}: not known whether it fits; measure {missing}.",
    "What is not measured is not taken to fit.",
)
def room_unmeasured(case: Analysis, found: Found) -> Iterator[Finding]:
    """Parts that are to go where not everything was measured."""
    for verdict in space_verdicts(case.bike):
        if verdict.fits is None:
            yield found(
                (verdict.room.id,), room=verdict.room.name, missing="; ".join(verdict.missing)
            )


RULES: tuple[Rule, ...] = (
    watts_disagree,
    cutoff_below_trip,
    cutoff_above_empty,
    packs_differ,
    join_inrush,
    regeneration_blocked,
    weak_link,
    series_bms,
    link_worked_out,
    regeneration_full,
    regeneration_frost,
    no_room,
    room_unmeasured,
    cuts_out_uphill,
    hardly_climbs,
)


def match_findings(bike: Bike) -> tuple[Finding, ...]:
    """Return the findings of matching, gravest first."""
    case = analysis_of(bike)
    return case.remember("matching", lambda: findings_of(RULES, case))
