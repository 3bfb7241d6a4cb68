"""The current chain from cell to motor: each link's limit, the demand on it, the weakest link;
volts and watts."""

from dataclasses import dataclass

from brightcore.analysis.bike import Analysis, analysis_of
from brightcore.analysis.lead import leads, main_joins
from brightcore.analysis.loads import (
    SIX_STEP_RATIO,
    battery_demand_a,
    battery_limit_a,
    demand_on_a,
    may_feed,
    phase_limit_a,
)
from brightcore.analysis.strings import strings
from brightcore.bike.model import USUAL, Bike, Part
from brightcore.bike.roles import role_of
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.motor import MotorSpec
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import as_cable, combiners, controllers, motors, packs
from brightcore.matching.packs import charge_at_v, window
from brightcore.physics.contacts import contact_a
from brightcore.physics.fuses import fuse_long_a
from brightcore.physics.heating import SHORT_RUN_S, ampacity_a
from brightcore.physics.warming import winding_long_a, winding_minute_a
from brightcore.simulation.supply import supplies

String = tuple[Part[PackSpec], ...]
"""Packs in series, top first; one alone is a string of one."""

MOST_MOTORS = 2
"""Motors that are shown."""


@dataclass(frozen=True, slots=True)
class Link:
    """One link of the chain. A limit of 0 means "not described".

    `judged`: what tells that a link is too weak: "stated" is a limit somebody gives, "worked out"
    one that is assumed, "" is told by a rule of wiring. `whence`: where the rating of a part comes
    from, "" where it is none: a usual one that nobody has read is advice, not a fact.
    """

    id: str
    title: str
    limit_a: float
    demand_a: float
    note: str
    sets_demand: bool = False
    judged: str = ""
    whence: str = ""

    @property
    def is_read(self) -> bool:
        """Whether its limit is a fact: read, told or measured on this part, or no rating of a part
        at all."""
        return self.whence != USUAL

    @property
    def known(self) -> bool:
        """Whether the link has a limit."""
        return self.limit_a > 0

    @property
    def margin_ratio(self) -> float:
        """Share of the limit left over; negative where more is asked than it stands."""
        if self.known:
            return 1.0 - self.demand_a / self.limit_a
        return 0.0


@dataclass(frozen=True)
class Chain:
    """All links in order; `weakest` has the least margin (a controller that sets the demand
    aside)."""

    links: tuple[Link, ...]
    weakest: int


def current_chain(bike: Bike) -> Chain:
    """Return the chain of a bike, worst case: one pack alone may have to carry everything unless
    they are in series."""
    demand, case = battery_demand_a(bike), analysis_of(bike)
    asked = {pack.id: demand_on_a(case, pack) for pack in packs(bike)}
    weakest = min(packs(bike), key=lambda p: p.spec.bms_continuous_a - asked[p.id], default=None)
    if weakest is None:
        links = []
    else:
        links = _pack_links(weakest, asked[weakest.id], len(packs(bike)) > 1)
    for part in combiners(bike):
        links.append(
            Link("combiner", part.name, part.spec.rated_a, demand, "rated current of one path")
        )
    links += _lead_links(bike, demand)
    for controller in controllers(bike):
        links += _controller_links(bike, controller)
    for motor in motors(bike)[:MOST_MOTORS]:
        links += _motor_links(bike, motor)
    known = [i for i, link in enumerate(links) if link.known and not link.sets_demand]
    return Chain(tuple(links), min(known, key=lambda i: links[i].margin_ratio, default=0))


def _lead_links(bike: Bike, demand: float) -> list[Link]:
    thinnest = min(
        leads(bike).values(), key=lambda lead: lead.area_mm2 / lead.current_a, default=None
    )
    area, note, through = 0.0, "not described", demand
    if thinnest is not None:
        area, through = thinnest.area_mm2, thinnest.current_a
        note = f"{area:g} mm² at its thinnest, {thinnest.length_m:g} m long"
    usual = "usual two-pole power plug; look at its mark"
    return [
        Link("lead", "Main lead", ampacity_a(area) if area else 0.0, through, note),
        Link("plug", "Main plug", _main_plug_a(bike), demand, usual),
    ]


def _main_plug_a(bike: Bike) -> float:
    """Return what the weakest plug on a pack's main lead usually carries, in A; 0 where there is no
    plug."""
    ports = []
    for pack in packs(bike):
        for join in main_joins(bike, pack):
            for part, port in join.sides():
                ports.append(bike.part(part).port(port))
    known = [contact_a(port.family) for port in ports]
    return min((ampere for ampere in known if ampere), default=0.0)


def _controller_links(bike: Bike, controller: Part[ControllerSpec]) -> list[Link]:
    spec, note = controller.spec, "what it is set to"
    battery, phase = battery_limit_a(bike, controller), phase_limit_a(bike, controller)
    return [
        Link(
            f"battery_side:{controller.id}",
            f"{controller.name}, battery side",
            spec.battery_limit_a,
            battery,
            note,
            battery >= spec.battery_limit_a,
            whence=controller.whence("battery_limit_a"),
        ),
        Link(
            f"phase_side:{controller.id}",
            f"{controller.name}, phase side",
            spec.phase_limit_a,
            phase,
            note,
            phase >= spec.phase_limit_a,
            whence=controller.whence("phase_limit_a"),
        ),
    ]


def _motor_links(bike: Bike, motor: Part[MotorSpec]) -> list[Link]:
    demand = max((phase_limit_a(bike, c) for c in controllers(bike)), default=0.0)
    area = _phase_area(bike, motor)
    if area:
        note = f"{area:g} mm², current comes and goes by phase"
    else:
        note = "area not described"
    carries = ampacity_a(area, seconds=SHORT_RUN_S) if area else 0.0
    return [
        Link(
            f"phases:{motor.id}",
            f"Phase wires of the {motor.name}",
            carries,
            demand * SIX_STEP_RATIO,
            note,
        ),
        _winding(motor, demand),
    ]


def _winding(motor: Part[MotorSpec], demand: float) -> Link:
    """Return the winding as a link: what its maker states, else what its copper stands for a
    minute."""
    spec = motor.spec
    long_a = winding_long_a(spec.rated_w, spec.phase_ohm)
    words = (
        f"about {long_a:.0f} A for long, worked out from {spec.rated_w:g} W and "
        f"{spec.phase_ohm:g} Ω"
    )
    if spec.phase_limit_a:
        return Link(
            f"motor:{motor.id}",
            motor.name,
            spec.phase_limit_a,
            demand,
            f"stated by its maker; {words}",
            judged="stated",
        )
    minute_a = winding_minute_a(spec.rated_w, spec.phase_ohm)
    return Link(
        f"motor:{motor.id}",
        motor.name,
        minute_a,
        demand,
        f"for a minute; {words}",
        judged="worked out",
    )


def _pack_links(pack: Part[PackSpec], demand: float, several: bool) -> list[Link]:
    spec, alone = pack.spec, ", alone" if several else ""
    group = spec.cells.group_c_rate * spec.capacity_ah
    count = spec.parallel_count
    of_label = f"{spec.capacity_ah:g} Ah, {spec.chemistry}"
    return [
        Link(
            "cell",
            f"One cell of the {pack.name}",
            group / count,
            demand / count,
            f"{count} side by side",
        ),
        Link(
            "group",
            f"Parallel group of the {pack.name}{alone}",
            group,
            demand,
            of_label,
            judged="worked out",
        ),
        Link(
            "bms",
            f"BMS of the {pack.name}{alone}",
            spec.bms_continuous_a,
            demand,
            f"peak {spec.bms_peak_a:g} A",
            whence=pack.whence("bms_continuous_a"),
        ),
        Link(
            "fuse",
            f"Fuse of the {pack.name}",
            fuse_long_a(spec.fuse_a),
            demand,
            f"80 % of {spec.fuse_a:g} A" if spec.fuse_a else "it has none",
            whence=pack.whence("fuse_a") if spec.fuse_a else "",
        ),
    ]


def _phase_area(bike: Bike, motor: Part) -> float:
    """Return the thinnest described area on a motor's phases in mm², 0 where none is."""
    areas = []
    for join in bike.joins_of(motor.id):
        pins = []
        for part, port in join.sides():
            for pin in bike.part(part).port(port).pins:
                pins.append(pin)
        if not any(role_of(pin.role).use == "phase" for pin in pins):
            continue
        if join.wire.area_mm2:
            areas.append(join.wire.area_mm2)
        beside = (as_cable(bike.part(part)) for part, _ in join.sides())
        areas += [cable.spec.area_mm2 for cable in beside if cable is not None]
    return min(areas, default=0.0)


@dataclass(frozen=True, slots=True)
class VoltWindow:
    """Volts at a controller's battery pins beside those it works with, and what is lost at full
    current.

    `packs`: the packs that give them; `connected`: whether they do, or would once connected;
    `trip_v`: where their boards let go.
    """

    controller: str
    packs: str
    connected: bool
    full_v: float
    nominal_v: float
    empty_v: float
    trip_v: float
    controller_max_v: float
    cutoff_v: float
    current_a: float
    sag_v: float
    lead_heat_w: float

    cut_out_ratio: float


def volt_windows(bike: Bike) -> tuple[VoltWindow, ...]:
    """Return the windows of every controller, one for each string of packs that may feed it
    alone."""
    case = analysis_of(bike)
    found = []
    for controller in controllers(bike):
        for string in feeding_strings(case, controller):
            found.append(_window(case, string, controller))
    return tuple(found)


def feeding_strings(case: Analysis, controller: Part[ControllerSpec]) -> tuple[String, ...]:
    """Return the strings that may have to feed a controller alone."""
    found = []
    for string in strings(case.bike):
        if may_feed(case, string[0], controller):
            found.append(string)
    return tuple(found)


def _window(case: Analysis, string: String, controller: Part[ControllerSpec]) -> VoltWindow:
    bike = case.bike
    full, nominal, empty, trip = (
        sum(v) for v in zip(*(window(p.spec) for p in string), strict=True)
    )
    current = battery_limit_a(bike, controller)
    supply, lead = supplies(bike).get(controller.id), leads(bike).get(controller.id)
    if supply:
        ohm = supply.ohm
    else:
        ohm = sum(pack.spec.internal_ohm for pack in string)
    cutoff = bike.setting(controller.id, "low_cutoff_v", controller.spec.low_cutoff_v)
    return VoltWindow(
        controller=controller.name,
        packs=" + ".join(pack.name for pack in string),
        connected=supply is not None,
        full_v=full,
        nominal_v=nominal,
        empty_v=empty,
        trip_v=trip,
        controller_max_v=controller.spec.max_v,
        cutoff_v=cutoff,
        current_a=current,
        sag_v=current * ohm,
        lead_heat_w=lead.heat_w if lead else 0.0,
        cut_out_ratio=charge_at_v([pack.spec for pack in string], cutoff + current * ohm),
    )
