"""What a controller gets from the packs, from the solved circuit: volts at its own battery pins,
and the resistance of the whole way there, whatever leads, modules and packs in series lie
between."""

from collections.abc import Callable
from dataclasses import dataclass

from brightcore.analysis.bike import Analysis, analysis_of
from brightcore.analysis.loads import battery_limit_a
from brightcore.bike.model import Bike, Part
from brightcore.circuit.conditions import Condition, condition_overrides
from brightcore.circuit.elements import INF, OFF_S, Override, Region
from brightcore.circuit.solver import base_values, solve
from brightcore.circuit.system import System
from brightcore.kinds.controller_spec import LOAD, ControllerSpec
from brightcore.kinds.pack import PackSpec, at_cell_v
from brightcore.kinds.select import combiners, controllers, packs

REACHES_RATIO = 0.5
"""A controller with less than this share of a nominal pack is not connected to it."""

LEVELS: tuple[Callable[[PackSpec], float], ...] = (
    lambda spec: spec.cells.full_v,
    lambda spec: spec.cells.nominal_v,
    lambda spec: spec.cells.empty_v,
    lambda spec: spec.cell_v,
)
"""Volts of a cell that the packs are taken at: full, nominal, empty, as found."""


@dataclass(frozen=True, slots=True)
class Supply:
    """Volts at a controller's battery pins with full, nominal and empty packs and packs as found,
    at rest.

    `ohm`: volts lost per ampere of this controller while every controller draws the same share of
    its limit, cells and board of the packs among them. Behind a combining module one pack carries
    at a time, the one with the highest volts: then it is that of the worse pack alone.
    """

    full_v: float
    nominal_v: float
    empty_v: float
    found_v: float
    ohm: float

    def sag_v(self, ampere: float) -> float:
        """Return the volts lost on the way at a battery current of this controller."""
        return self.ohm * ampere


def supplies(bike: Bike) -> dict[str, Supply]:
    """Return the supply of every controller that a pack reaches, by the id of the controller."""
    case = analysis_of(bike)
    return case.remember("supplies", lambda: _solved(case))


def _solved(case: Analysis) -> dict[str, Supply]:
    bike = case.bike
    if not (packs(bike) and controllers(bike)):
        return {}
    levels = []
    for cell_v in LEVELS:
        levels.append(
            [change for pack in packs(bike) for change in at_cell_v(pack, cell_v(pack.spec))]
        )
    drawing = [_drawing(case, controller) for controller in controllers(bike)]
    loaded = [[*level, *drawing] for level in _carrying(bike, levels[1])]
    system = System(case.circuit)
    rows = [*levels, *loaded]
    solution = solve(
        system, base_values(system, condition_overrides(case.circuit, Condition()), rows), None
    )
    found = {}
    for controller in controllers(bike):
        plus, minus = (_pin(case, controller, role) for role in ("battery_plus", "battery_minus"))
        if not (plus and minus and solution.settled.all()):
            continue
        across = solution.volts[system.node(plus)] - solution.volts[system.node(minus)]
        full, nominal, empty, now, *under = (float(v) for v in across)
        if nominal < REACHES_RATIO * min(pack.spec.nominal_v() for pack in packs(bike)):
            continue
        ohm = max(nominal - min(under), 0.0) / battery_limit_a(bike, controller)
        found[controller.id] = Supply(full, nominal, empty, now, ohm)
    return found


def _carrying(bike: Bike, nominal: list[Override]) -> list[list[Override]]:
    """Return the levels of the packs under load: all nominal, or each alone behind a module."""
    several = packs(bike)
    if not combiners(bike) or len(several) < 2:
        return [nominal]
    rows = []
    for carrying in several:
        row: list[Override] = []
        for pack in several:
            # An empty pack lies lower than the one that carries sags: it gives nothing.
            if pack is carrying:
                volts = pack.spec.cells.nominal_v
            else:
                volts = pack.spec.cells.trip_v
            row += at_cell_v(pack, volts)
        rows.append(row)
    return rows


def _pin(case: Analysis, controller: Part[ControllerSpec], role: str) -> str:
    return next((place.id for place in case.places_of(controller, lambda r: r.name == role)), "")


def _drawing(case: Analysis, controller: Part[ControllerSpec]) -> Override:
    """Return a controller as what draws its whole battery current, at any volts."""
    limit = battery_limit_a(case.bike, controller)
    return Override(f"{controller.id}/{LOAD}", (Region(INF, OFF_S, 0.0, limit),))
