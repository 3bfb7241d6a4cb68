"""The current chain from cell to motor: each link's limit, the demand on it, the weakest link; volts and
watts."""

from dataclasses import dataclass

from brightcore.analysis.loads import SIX_STEP_RATIO, battery_demand_a, battery_limit_a, phase_limit_a
from brightcore.bike.model import Bike, Part
from brightcore.bike.roles import role_of
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.motor import MotorSpec
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import as_cable, combiners, controllers, motors, packs
from brightcore.matching.drive import arrangement, main_lead, main_lead_ohm
from brightcore.matching.packs import window
from brightcore.physics.contacts import PLUG_A
from brightcore.physics.fuses import fuse_long_a
from brightcore.physics.heating import SHORT_RUN_S, ampacity_a

MOTOR_EFFICIENCY, USUAL_PACK_V, MOST_MOTORS = 0.8, 36.0, 2
"""Share of battery watts a motor gives for long, volts taken where no pack is described, motors that are
shown."""

MOTOR_PEAK = 4.5
"""Phase amps a winding stands for a minute over the battery amps of its rated watts (common practice)."""


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
    """Return the chain of a bike, worst case: one pack alone may have to carry everything unless they are in
    series."""
    demand = battery_demand_a(bike)
    weakest = min(packs(bike), key=lambda pack: pack.spec.bms_continuous_a, default=None)
    links = [] if weakest is None else _pack_links(weakest, demand, len(packs(bike)) > 1)
    links += [
        Link("combiner", part.name, part.spec.rated_a, demand, "rated current of one path")
        for part in combiners(bike)
    ]
    links += _lead_links(bike, demand)
    for controller in controllers(bike):
        links += _controller_links(bike, controller)
    for motor in motors(bike)[:MOST_MOTORS]:
        links += _motor_links(bike, motor)
    known = [i for i, link in enumerate(links) if link.known and not link.sets_demand]
    return Chain(tuple(links), min(known, key=lambda i: links[i].margin_ratio, default=0))


def _lead_links(bike: Bike, demand: float) -> list[Link]:
    length, area = main_lead(bike)
    note = f"{area:g} mm², {length:g} m" if area else "not described"
    usual = "usual two-pole power plug; look at its mark"
    return [
        Link("lead", "Main lead", ampacity_a(area) if area else 0.0, demand, note),
        Link("plug", "Main plug", PLUG_A["power-2"], demand, usual),
    ]


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
        ),
        Link(
            f"phase_side:{controller.id}",
            f"{controller.name}, phase side",
            spec.phase_limit_a,
            phase,
            note,
            phase >= spec.phase_limit_a,
        ),
    ]


def _motor_links(bike: Bike, motor: Part[MotorSpec]) -> list[Link]:
    demand = max((phase_limit_a(bike, c) for c in controllers(bike)), default=0.0)
    area = _phase_area(bike, motor)
    note = f"{area:g} mm², current comes and goes by phase" if area else "area not described"
    carries = ampacity_a(area, seconds=SHORT_RUN_S) if area else 0.0
    nominal = max((pack.spec.nominal_v() for pack in packs(bike)), default=USUAL_PACK_V)
    steady = motor.spec.rated_w / MOTOR_EFFICIENCY / nominal
    for_long = f"for about a minute; {motor.spec.rated_w:g} W for long"
    return [
        Link(
            f"phases:{motor.id}", f"Phase wires of the {motor.name}", carries, demand * SIX_STEP_RATIO, note
        ),
        Link(f"motor:{motor.id}", motor.name, steady * MOTOR_PEAK, demand, for_long),
    ]


def _pack_links(pack: Part[PackSpec], demand: float, several: bool) -> list[Link]:
    spec, alone = pack.spec, ", alone" if several else ""
    group = spec.cells.group_c_rate * spec.capacity_ah
    count = spec.parallel_count
    of_label = f"{spec.capacity_ah:g} Ah, {spec.chemistry}"
    return [
        Link("cell", f"One cell of the {pack.name}", group / count, demand / count, f"{count} side by side"),
        Link("group", f"Parallel group of the {pack.name}{alone}", group, demand, of_label),
        Link(
            "bms",
            f"BMS of the {pack.name}{alone}",
            spec.bms_continuous_a,
            demand,
            f"peak {spec.bms_peak_a:g} A",
        ),
        Link(
            "fuse", f"Fuse of the {pack.name}", fuse_long_a(spec.fuse_a), demand, f"80 % of {spec.fuse_a:g} A"
        ),
    ]


def _phase_area(bike: Bike, motor: Part) -> float:
    """Return the thinnest described area on a motor's phases in mm², 0 where none is."""
    areas = []
    for join in bike.joins_of(motor.id):
        pins = [pin for part, port in join.sides() for pin in bike.part(part).port(port).pins]
        if not any(role_of(pin.role).use == "phase" for pin in pins):
            continue
        if join.wire.area_mm2:
            areas.append(join.wire.area_mm2)
        beside = (as_cable(bike.part(part)) for part, _ in join.sides())
        areas += [cable.spec.area_mm2 for cable in beside if cable is not None]
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
    series = arrangement(bike) == "series"
    count = len(packs(bike)) if series else 1
    return tuple(
        _window(bike, pack, controller, count) for controller in controllers(bike)[:1] for pack in packs(bike)
    )


def _window(bike: Bike, pack: Part[PackSpec], controller: Part[ControllerSpec], count: int) -> VoltWindow:
    """Return the window of one pack, or of `count` like it in series."""
    full, nominal, empty, trip = (count * v for v in window(pack.spec))
    current, lead = battery_limit_a(bike, controller), main_lead_ohm(bike)
    return VoltWindow(
        pack.name,
        full,
        nominal,
        empty,
        trip,
        controller.spec.max_v,
        bike.setting(controller.id, "low_cutoff_v", controller.spec.low_cutoff_v),
        current * (count * pack.spec.internal_ohm + lead),
        current**2 * lead,
    )
