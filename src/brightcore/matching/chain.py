"""The current chain from cell to motor: each link's limit, the demand on it, the weakest link; volts and watts."""

from dataclasses import dataclass

from brightcore.bike.model import MOTOR_KINDS, Bike, Part
from brightcore.findings import Finding, FindingType
from brightcore.matching.drive import arrangement, main_lead, main_lead_ohm
from brightcore.matching.packs import GROUP_C_RATE, equalise, window

LEAD_A_PER_MM2 = 12.0
"""Short-run current of flexible wire per mm² in air (common practice)."""

PLUG_A = {"power-2": 45.0, "power-3": 60.0}
"""What a power plug carries for long, by family (common practice; the plug's own mark decides)."""

FUSE_RATIO = 0.8
"""Share of a fuse's rating that may flow for long (ISO 8820 practice, from memory)."""

MOTOR_PEAK = 4.5
"""Phase amps a winding stands for a minute over the battery amps of its rated watts (common practice)."""

WATTS_SPREAD = (0.35, 1.15)
"""Printed watts may lie from 35 to 115 % of volts × amps before it is said (common practice: ratings are often low for the law)."""

WATTS_DISAGREE = FindingType(
    "M001", "advice",
    "{part} says {printed_w}, volts × amps of the drive allow {allowed_w}.",
    "Trust volts × amps for what it can draw; the print may be the legal rating, or the continuous one.", "common-practice",
)  # fmt: skip
CUTOFF_BELOW_TRIP = FindingType(
    "M002", "fault",
    "The controller lets go at {cutoff_v}, the BMS of the {pack} trips at {trip_v}.",
    "Raise the low-voltage cut-off: the controller should let go first, and softly.", "common-practice",
)  # fmt: skip
CUTOFF_ABOVE_EMPTY = FindingType(
    "M003", "advice",
    "The low-voltage cut-off of {cutoff_v} leaves part of the {pack} unused: it is empty at {empty_v}.",
    "Lower it towards {empty_v} if the BMS trip stays well below.", "common-practice",
)  # fmt: skip
PACKS_DIFFER = FindingType(
    "M004", "danger",
    "{one} and {two} are not alike ({why}) and stand in {how}.",
    "Packs go in parallel only when equal, in series only when alike; otherwise through a combining module.", "common-practice",
)  # fmt: skip
JOIN_INRUSH = FindingType(
    "M005", "danger",
    "{one} and {two} differ by {difference_v} now: joined directly, about {current_a} flow at first and {heat_wh} turn into heat.",
    "Bring them within 0.1–0.2 V before joining, or use a combining module.", "common-practice",
)  # fmt: skip
REGEN_COMBINER = FindingType(
    "M006", "danger",
    "{motor} can feed back when braking, and the combining module blocks that way.",
    "Switch regenerative braking off: nothing can take the energy and the controller would see high volts.", "common-practice",
)  # fmt: skip
WEAK_LINK = FindingType(
    "M007", "fault",
    "{link}: stands {limit_a}, asked for {demand_a}.",
    "Lower the controller's limit, or make this link stronger.", "common-practice",
)  # fmt: skip
SERIES_BMS = FindingType(
    "M008", "danger",
    "{one} and {two} stand in series: when one BMS opens, its switches see all of {full_v}.",
    "Only with boards rated for the whole string, equal packs, a low-cell alarm on each, charged apart.", "common-practice",
)  # fmt: skip
TYPES = (WATTS_DISAGREE, CUTOFF_BELOW_TRIP, CUTOFF_ABOVE_EMPTY, PACKS_DIFFER, JOIN_INRUSH, REGEN_COMBINER, WEAK_LINK, SERIES_BMS)


@dataclass(frozen=True, slots=True)
class Link:
    """One link of the chain. A limit of 0 means "not described"."""

    id: str
    title: str
    limit_a: float
    demand_a: float
    note: str
    sets_demand: bool = False

    @property
    def known(self) -> bool:
        """Whether the link has a limit."""
        return self.limit_a > 0

    @property
    def margin_ratio(self) -> float:
        """Share of the limit left over; negative where more is asked than it stands."""
        return 1.0 - self.demand_a / self.limit_a if self.known else 0.0


@dataclass(frozen=True)
class Chain:
    """All links in order; `weakest` has the least margin (a controller that sets the demand aside)."""

    links: tuple[Link, ...]
    weakest: int


def current_chain(bike: Bike) -> Chain:
    """Return the chain of a bike, worst case: one pack alone may have to carry everything unless they are in series."""
    packs, controllers = bike.of_kind("pack"), bike.of_kind("controller")
    motors = bike.of_kind(*MOTOR_KINDS)
    demand = sum(bike.setting(c.id, "current_limit_a", c.spec.battery_limit_a) for c in controllers)
    links: list[Link] = []
    pack = min(packs, key=lambda p: p.spec.bms_continuous_a, default=None)
    if pack is not None:
        links += _pack_links(pack, demand, len(packs) > 1)
    for part in bike.of_kind("combiner"):
        links.append(Link("combiner", part.name, part.spec.rated_a, demand, "rated current of one path"))
    length, area = main_lead(bike)
    note = f"{area:g} mm², {length:g} m" if area else "not described"
    links.append(Link("lead", "Main lead", area * LEAD_A_PER_MM2, demand, note))
    links.append(Link("plug", "Main plug", PLUG_A["power-2"], demand, "usual two-pole power plug; look at its mark"))
    for c in controllers:
        own = bike.setting(c.id, "current_limit_a", c.spec.battery_limit_a)
        links.append(
            Link(
                f"battery_side:{c.id}",
                f"{c.name}, battery side",
                c.spec.battery_limit_a,
                own,
                "what it is set to",
                own >= c.spec.battery_limit_a,
            )
        )
        phase = bike.setting(c.id, "phase_limit_a", c.spec.phase_limit_a)
        links.append(
            Link(
                f"phase_side:{c.id}",
                f"{c.name}, phase side",
                c.spec.phase_limit_a,
                phase,
                "what it is set to",
                phase >= c.spec.phase_limit_a,
            )
        )
    phase_demand = max((bike.setting(c.id, "phase_limit_a", c.spec.phase_limit_a) for c in controllers), default=0.0)
    for motor in motors[:2]:
        phase_area = _phase_area(bike, motor)
        links.append(Link(f"phases:{motor.id}", f"Phase wires of the {motor.name}", phase_area * 18.0, phase_demand,
                          f"{phase_area:g} mm², current comes and goes by phase" if phase_area else "area not described"))  # fmt: skip
        steady = motor.spec.rated_w / 0.8 / max((p.spec.nominal_v() for p in packs), default=36.0)
        links.append(Link(f"motor:{motor.id}", motor.name, steady * MOTOR_PEAK, phase_demand,
                          f"for about a minute; {motor.spec.rated_w:g} W for long"))  # fmt: skip
    known = [i for i, link in enumerate(links) if link.known and not link.sets_demand]
    return Chain(tuple(links), min(known, key=lambda i: links[i].margin_ratio, default=0))


def _pack_links(pack: Part, demand: float, several: bool) -> list[Link]:
    spec = pack.spec
    group = GROUP_C_RATE[spec.chemistry] * spec.capacity_ah
    alone = ", alone" if several else ""
    return [
        Link("cell", f"One cell of the {pack.name}", group / spec.parallel_count, demand / spec.parallel_count, f"{spec.parallel_count} side by side"),
        Link("group", f"Parallel group of the {pack.name}{alone}", group, demand, f"{spec.capacity_ah:g} Ah, {spec.chemistry}"),
        Link("bms", f"BMS of the {pack.name}{alone}", spec.bms_continuous_a, demand, f"peak {spec.bms_peak_a:g} A"),
        Link("fuse", f"Fuse of the {pack.name}", spec.fuse_a * FUSE_RATIO, demand, f"80 % of {spec.fuse_a:g} A"),
    ]  # fmt: skip


def _phase_area(bike: Bike, motor: Part) -> float:
    areas = []
    for join in bike.joins_of(motor.id):
        roles = {pin.role for p, q in join.sides() for pin in bike.part(p).port(q).pins}
        if "phase_u" in roles:
            areas += [join.wire.area_mm2] if join.wire.area_mm2 else []
            areas += [bike.part(p).spec.area_mm2 for p, _ in join.sides() if bike.part(p).kind == "cable"]
    return min(areas, default=0.0)


@dataclass(frozen=True, slots=True)
class VoltWindow:
    """Volts of one pack beside those of the controller."""

    pack: str
    full_v: float
    nominal_v: float
    empty_v: float
    trip_v: float
    controller_max_v: float
    cutoff_v: float
    sag_v: float
    lead_heat_w: float


def volt_windows(bike: Bike) -> tuple[VoltWindow, ...]:
    """Return the window of every pack, with sag and lead heat at full current."""
    found = []
    series = arrangement(bike) == "series"
    count = len(bike.of_kind("pack")) if series else 1
    for controller in bike.of_kind("controller")[:1]:
        amps = bike.setting(controller.id, "current_limit_a", controller.spec.battery_limit_a)
        cutoff = bike.setting(controller.id, "low_cutoff_v", controller.spec.low_cutoff_v)
        lead = main_lead_ohm(bike)
        for pack in bike.of_kind("pack"):
            full, nominal, empty, trip = (count * v for v in window(pack.spec))
            sag = amps * (count * pack.spec.internal_ohm + lead)
            found.append(VoltWindow(pack.name, full, nominal, empty, trip, controller.spec.max_v, cutoff, sag, amps**2 * lead))
    return tuple(found)


def match_findings(bike: Bike) -> tuple[Finding, ...]:
    """Return the findings of matching: watts, cut-off, packs with each other, weak links."""
    found: list[Finding] = []
    packs, controllers = bike.of_kind("pack"), bike.of_kind("controller")
    for w in volt_windows(bike):
        if w.cutoff_v < w.trip_v:
            found.append(
                Finding(
                    CUTOFF_BELOW_TRIP, (w.pack,), (("cutoff_v", f"{w.cutoff_v:g} V"), ("pack", w.pack), ("trip_v", f"{w.trip_v:.1f} V"))
                )
            )
        elif w.cutoff_v > w.empty_v * 1.08:
            found.append(
                Finding(
                    CUTOFF_ABOVE_EMPTY, (w.pack,), (("cutoff_v", f"{w.cutoff_v:g} V"), ("pack", w.pack), ("empty_v", f"{w.empty_v:.1f} V"))
                )
            )
    for motor in bike.of_kind(*MOTOR_KINDS):
        for c in controllers[:1]:
            allowed = max((p.spec.nominal_v() for p in packs), default=0.0) * bike.setting(c.id, "current_limit_a", c.spec.battery_limit_a)
            if allowed and not WATTS_SPREAD[0] <= motor.spec.rated_w / allowed <= WATTS_SPREAD[1]:
                values = (("part", motor.name), ("printed_w", f"{motor.spec.rated_w:g} W"), ("allowed_w", f"{allowed:.0f} W"))
                found.append(Finding(WATTS_DISAGREE, (motor.id,), values))
    found += _pack_findings(bike)
    for link in current_chain(bike).links:
        if link.known and link.margin_ratio < -0.001:
            values = (("link", link.title), ("limit_a", f"{link.limit_a:.0f} A"), ("demand_a", f"{link.demand_a:.0f} A"))
            found.append(Finding(WEAK_LINK, (link.id,), values))
    return tuple(found)


def _pack_findings(bike: Bike) -> list[Finding]:
    packs, how = bike.of_kind("pack"), arrangement(bike)
    found = []
    for one, two in zip(packs, packs[1:], strict=False):
        a, b = one.spec, two.spec
        names = (("one", one.name), ("two", two.name))
        why = [text for text, differs in (("cells in series", a.series_count != b.series_count), ("chemistry", a.chemistry != b.chemistry),
                                          ("capacity", how == "series" and a.capacity_ah != b.capacity_ah)) if differs]  # fmt: skip
        if why and how in ("parallel", "series"):
            found.append(Finding(PACKS_DIFFER, (one.id, two.id), (*names, ("why", ", ".join(why)), ("how", how))))
        if how == "parallel" and not why:
            flow = equalise(a, b)
            if flow.difference_v > 0.2:
                values = (
                    *names,
                    ("difference_v", f"{flow.difference_v:.1f} V"),
                    ("current_a", f"{flow.current_a:.0f} A"),
                    ("heat_wh", f"{flow.heat_wh:.1f} Wh"),
                )
                found.append(Finding(JOIN_INRUSH, (one.id, two.id), values))
        if how == "series":
            found.append(Finding(SERIES_BMS, (one.id, two.id), (*names, ("full_v", f"{a.full_v() + b.full_v():.1f} V"))))
    if how == "combiner":
        for motor in bike.of_kind("hub_motor"):
            if not motor.spec.geared():
                found.append(Finding(REGEN_COMBINER, (motor.id,), (("motor", motor.name),)))
    return found
