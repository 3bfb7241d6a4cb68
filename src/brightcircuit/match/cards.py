"""What the Match page shows beside riding: chain, windows, class, packs, cost."""

from dataclasses import dataclass, replace

from brightcircuit.common.legal import all_classes
from brightcircuit.match.plan import Plan
from brightcore.bike.model import Bike
from brightcore.drawing.charts import ChainLink, chain_svg
from brightcore.findings import Finding, hint, render
from brightcore.kinds.select import is_pedalled, packs, pedals_unknown
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.matching.chain import Link, VoltWindow, current_chain, volt_windows
from brightcore.matching.cost import LEVELS, Costed, Option, build_tally, cost_option, usual_options
from brightcore.matching.drive import Drive, arrangement
from brightcore.matching.law import DECIDES, Facts, LegalClass, Verdict, judge, places
from brightcore.matching.packs import ah_from_volts, equalise
from brightcore.matching.riding import (
    top_speed_kmh,
)
from brightcore.matching.rules import match_findings

OPTION_FIELDS = ("parts_cost", "minutes", "life_km", "resale")


def _limit(link: Link) -> str:
    """Return the limit of a link; a rating that nobody has read is told as the usual one."""
    if link.is_read:
        return f"{link.limit_a:.0f} A"
    return f"usual {link.limit_a:.0f} A, not read yet"


def unread(bike: Bike) -> list[str]:
    """Return the ratings that what suits what is judged by and that nobody has read, in words."""
    links = current_chain(bike).links
    return [f"{link.title}: {_limit(link)}" for link in links if link.known and not link.is_read]


@dataclass(frozen=True, slots=True)
class LinkRow:
    """One link of the chain of current, in words."""

    title: str
    limit: str
    demand: str
    margin: str
    note: str
    is_read: bool
    weakest: bool


@dataclass(frozen=True, slots=True)
class FindingRow:
    """A finding with its sentence and what to do."""

    finding: Finding
    text: str
    hint: str


@dataclass(frozen=True, slots=True)
class WindowRow:
    """The window of volts of one pack with its controller, in words."""

    w: VoltWindow
    sag: str
    heat: str
    full: str
    nominal: str
    empty: str
    trip: str
    most: str
    cut_out: str
    cutoff: str
    fits: bool
    order: bool


@dataclass(frozen=True, slots=True)
class ChainCard:
    """The drawn chain of current, its links in words, what was found, and the windows of volts."""

    svg: str
    words: list[LinkRow]
    findings: list[FindingRow]
    windows: list[WindowRow]


def chain_card(bike: Bike) -> ChainCard:
    """Return the drawn chain, windows and findings of matching."""
    chain = current_chain(bike)
    rows = []
    for i, link in enumerate(chain.links):
        rows.append(
            ChainLink(
                link.title,
                _limit(link),
                f"{link.demand_a:.0f} A",
                link.demand_a / link.limit_a if link.known else 0.0,
                i == chain.weakest,
                link.known,
                link.sets_demand,
            )
        )
    words = []
    for i, link in enumerate(chain.links):
        words.append(
            LinkRow(
                title=link.title,
                limit=_limit(link) if link.known else "not described",
                demand=f"{link.demand_a:.0f} A",
                margin=f"{100 * link.margin_ratio:.0f} %" if link.known else "—",
                note=link.note,
                is_read=link.is_read,
                weakest=i == chain.weakest,
            )
        )
    findings = [
        FindingRow(
            finding=f,
            text=render(f),
            hint=hint(f),
        )
        for f in match_findings(bike)
    ]
    windows = []
    for w in volt_windows(bike):
        windows.append(
            WindowRow(
                w=w,
                sag=f"{w.sag_v:.1f} V",
                heat=f"{w.lead_heat_w:.0f} W",
                full=f"{w.full_v:.1f} V",
                nominal=f"{w.nominal_v:.1f} V",
                empty=f"{w.empty_v:.1f} V",
                trip=f"{w.trip_v:.1f} V",
                most=f"{w.controller_max_v:.0f} V",
                cut_out=f"{100 * w.cut_out_ratio:.0f} %" if w.cut_out_ratio > 0.01 else "",
                cutoff=f"{w.cutoff_v:.1f} V",
                fits=w.full_v <= w.controller_max_v,
                order=w.trip_v < w.cutoff_v,
            )
        )
    return ChainCard(
        svg=chain_svg(rows),
        words=words,
        findings=findings,
        windows=windows,
    )


@dataclass(frozen=True, slots=True)
class VerdictRow:
    """What one class says, and its limits in words."""

    v: Verdict
    limits: str


@dataclass(frozen=True, slots=True)
class ClassCard:
    """What the legal classes of a place say of a bike."""

    place: str
    listed: bool
    places: tuple[str, ...]
    verdicts: list[VerdictRow]
    decides: str
    set_to: str


def class_card(bike: Bike, drive: Drive | None, plan: Plan) -> ClassCard:
    """Return what the classes of the chosen place say of the bike as it is.

    The place is chosen from the table; one that is not in it has no classes, never those of
    another.
    """
    classes = all_classes()
    known = places(classes)
    place = plan.place or bike.info.place
    verdicts: list[VerdictRow] = []
    if drive is not None:
        facts = Facts(
            drive.rated_w * drive.motor_count,
            top_speed_kmh(replace(drive, rider_w=0.0)),
            bool(bike.having(ThrottleSpec)),
            None if pedals_unknown(bike) else is_pedalled(bike),
        )
        verdicts = []
        for v in judge(facts, classes, place):
            verdicts.append(
                VerdictRow(
                    v=v,
                    limits=_limits(v.legal_class),
                )
            )
    return ClassCard(
        place=place,
        listed=place in known,
        places=known,
        verdicts=verdicts,
        decides=DECIDES,
        set_to=f"Assistance is set to end at {bike.info.speed_limit_kmh:.3g} km/h."
        if bike.info.speed_limit_kmh
        else "No speed limit is described; see Describe.",
    )


def _limits(c: LegalClass) -> str:
    return ", ".join(
        t
        for t in (
            f"{c.rated_w:g} W" if c.rated_w else "",
            f"{c.assist_kmh:.3g} km/h" if c.assist_kmh else "",
            f"throttle {c.throttle}",
        )
        if t
    )


@dataclass(frozen=True, slots=True)
class PackRow:
    """One of several packs, in words."""

    name: str
    ah: str
    wh: str
    volts: str
    alone: str


@dataclass(frozen=True, slots=True)
class PacksCard:
    """How several packs stand to each other."""

    how: str
    rows: list[PackRow]
    direct: str
    total: str


def packs_card(bike: Bike) -> PacksCard | None:
    """Return how several packs stand to each other: shares, totals, and what joining them directly
    would do."""
    several = packs(bike)
    if len(several) < 2:
        return None
    how = {
        "combiner": (
            "through a combining module: one at a time carries the current, neither charges "
            "the other"
        ),
        "series": "in series: volts add, the smaller capacity counts",
        "parallel": "directly in parallel: they share by resistance",
        "apart": "not connected to each other",
    }[arrangement(bike)]
    rows = []
    for p in several:
        rows.append(
            PackRow(
                name=p.name,
                ah=f"{p.spec.capacity_ah:g} Ah",
                wh=f"{p.spec.energy_wh():.0f} Wh",
                volts=f"{p.spec.resting_v():.1f} V",
                alone=f"{p.spec.bms_continuous_a:g} A",
            )
        )
    flow = equalise(several[0].spec, several[1].spec)
    direct = "They rest at the same volts now."
    if flow.difference_v > 0.05:
        direct = (
            f"They differ by {flow.difference_v:.2f} V now. Connected directly, "
            f"{flow.current_a:.0f} A would flow at first, {flow.moved_ah:.2f} Ah would move and "
            f"{flow.heat_wh:.1f} Wh turn into heat."
        )
    return PacksCard(
        how=how,
        rows=rows,
        direct=direct,
        total=f"{sum(p.spec.energy_wh() for p in several):.0f} Wh",
    )


def log_ah(bike: Bike, plan: Plan) -> float | None:
    """Return the amp-hours of the own log: as typed, from the gauge, or from rested volts."""
    if plan.log_percent is not None:
        used: float = sum(pack.spec.capacity_ah for pack in packs(bike)) * plan.log_percent / 100
        return used
    if plan.log_ah is not None or plan.log_from_v is None or plan.log_to_v is None:
        return plan.log_ah
    return ah_from_volts(packs(bike)[0].spec, plan.log_from_v, plan.log_to_v)


def log_km(plan: Plan) -> float | None:
    """Return the distance of the own log: as typed, or by the odometer."""
    if plan.log_from_km is not None and plan.log_to_km is not None:
        return plan.log_to_km - plan.log_from_km
    return plan.log_km


@dataclass(frozen=True, slots=True)
class TallyRow:
    """A part of the tally with its price."""

    id: str
    name: str
    price: str | float


@dataclass(frozen=True, slots=True)
class TallyCard:
    """What building a bike costs."""

    rows: list[TallyRow]
    minutes: float
    total: str


def tally_card(bike: Bike, plan: Plan, rate: float) -> TallyCard:
    """Return what building this bike costs: a price per part, and labour at a rate an hour."""
    rows = [
        TallyRow(
            id=p.id,
            name=p.name,
            price=plan.tally.get(p.id, ""),
        )
        for p in bike.parts
    ]
    lines = tuple((p.name, float(plan.tally.get(p.id, 0.0))) for p in bike.parts)
    return TallyCard(
        rows=rows,
        minutes=plan.tally_min,
        total=f"{build_tally(lines, plan.tally_min, rate):.0f}",
    )


@dataclass(frozen=True, slots=True)
class CostField:
    """One figure of an option that the shop may change."""

    name: str
    value: str


@dataclass(frozen=True, slots=True)
class CostRow:
    """One option of the cost page, and its figures as they are typed."""

    c: Costed
    cost: str
    per_km: str
    is_repair: bool
    fields: list[CostField]


def cost_card(bike: Bike, plan: Plan, repair: Option | None, rate: float) -> list[CostRow]:
    """Return repair and replacement side by side, cheapest per km first; the shop's own figures
    win."""
    energy = sum(p.spec.energy_wh() for p in packs(bike))
    options = (*((repair,) if repair else ()), *usual_options(energy, plan.locked))
    options = tuple(replace(o, **plan.options.get(o.id, {})) for o in options)
    costed = sorted((cost_option(o, rate) for o in options), key=lambda c: c.per_km)
    return [
        CostRow(
            c=c,
            cost=f"{c.cost:.0f}",
            per_km=f"{100 * c.per_km:.1f}",
            is_repair=repair is not None and c.option.id == repair.id,
            fields=[
                CostField(
                    name=n,
                    value=f"{getattr(c.option, n):.0f}",
                )
                for n in OPTION_FIELDS
            ],
        )
        for c in costed
    ]


def repair_option(title: str, minutes: float, cost_level: int) -> Option:
    """Return the repair that Trace names as an option."""
    return Option(
        "repair",
        title,
        LEVELS[min(cost_level, len(LEVELS) - 1)],
        minutes,
        6000.0,
        0.0,
        "everything",
        "",
    )
