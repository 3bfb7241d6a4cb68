"""Which values of a trouble by place are told apart: those between which the volts that would be
read move by a step.

Evenly spaced ohms miss what matters: a sensor's load of 40 Ω leaves a rail in regulation, 8 Ω holds
it on the floor, and 12 to 30 Ω give every value between, which nothing would foretell. So each
place is solved over a grid of values, and a level is put wherever the volts have moved by
`STEP_V`.
"""

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from brightcore.analysis.bike import analysis_of
from brightcore.circuit.by_place import ByPlace
from brightcore.circuit.conditions import Condition
from brightcore.circuit.elements import OFF_S, Override, resistor
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.netlist import Circuit
from brightcore.circuit.system import Floats
from brightcore.simulation.table import Row, Table

GRID = 8
"""Values of one place that are tried."""

STEP_V = 0.8
"""Volts between two levels: several times what parts spread (common practice)."""

LEAST_V = 0.4
"""A value that moves nothing by so many volts shows nothing."""

HIGH_V, HIGH_SHARE = 8.0, 0.08
"""From these volts on a step is a share of them: a pack stands half a volt off by itself."""

LEAST_SPREAD, MOST_SPREAD = 0.25, 0.9


def faults_of(circuit: Circuit) -> tuple[FaultMode, ...]:
    """Return every fault mode of a circuit: those that are named, and those by place."""

    def made() -> tuple[FaultMode, ...]:
        return (*circuit.faults, *modes_by_place(circuit))

    if analysis_of(circuit.bike).circuit is not circuit:
        return made()
    return analysis_of(circuit.bike).remember("faults by place", made)


def modes_by_place(circuit: Circuit) -> tuple[FaultMode, ...]:
    """Return the fault modes of the places of a circuit, at the values that are told apart."""
    places = circuit.by_place
    if not places:
        return ()
    values = [np.geomspace(*place.ohms, GRID) for place in places]
    rows = [Row()]
    for place, ohms in zip(places, values, strict=True):
        for ohm in ohms:
            rows.append(Row((Override(place.element, resistor(float(ohm))),)))
    volts, settled = _volts(circuit, rows)
    known = _known(circuit)
    found: list[FaultMode] = []
    for n, (place, ohms) in enumerate(zip(places, values, strict=True)):
        # A value at which the circuit finds no rest (a load that starts and starves itself)
        # foretells nothing; its neighbours stand for it.
        own = np.flatnonzero(settled[1 + n * GRID : 1 + (n + 1) * GRID])
        if len(own):
            columns = volts[:, 1 + n * GRID + own]
            found += _levels(place, ohms[own], volts[:, 0], columns, known[place.element])
    return _settling_elsewhere(circuit, found)


def _settling_elsewhere(circuit: Circuit, modes: list[FaultMode]) -> tuple[FaultMode, ...]:
    """Return the modes whose circuits settle with the pack out, with it in and off, and while
    pulling hard as well."""
    hard = Condition()
    for wanted, value in (("grip", "full"), ("drive", "pull")):
        for name, (_, control) in circuit.controls.items():
            if control.id == wanted:
                hard = hard.having(name, value)
    table = Table(circuit, [Row(), *(Row(mode.overrides) for mode in modes)])
    solved = table.solve_all(list(dict.fromkeys((Condition("off"), Condition("out"), hard))))
    settled = np.all([solution.settled for solution in solved.values()], axis=0)
    return tuple(mode for mode, fine in zip(modes, settled[1:], strict=True) if fine)


def _known(circuit: Circuit) -> dict[str, list[float]]:
    """Return the ohms at which named faults already hold an element, by its id."""
    known: dict[str, list[float]] = defaultdict(list)
    for mode in circuit.faults:
        if len(mode.overrides) != 1:
            continue
        (override,) = mode.overrides
        region = override.regions[0]
        if len(override.regions) == 1 and region.j == 0 and region.g1 > OFF_S:
            known[override.element].append(1.0 / region.g1)
    return known


def _volts(circuit: Circuit, rows: Sequence[Row]) -> tuple[Floats, NDArray[np.bool_]]:
    """Return the volts [states × nodes, rows] in which levels are told apart, and which rows settle
    [rows]: at rest, and with everything moved that a hand moves or that turns."""
    table = Table(circuit, rows)
    moved = Condition()
    for name, (_, control) in circuit.controls.items():
        if control.moves and len(control.values) > 1:
            moved = moved.having(name, control.values[len(control.values) // 2])
    states = list(dict.fromkeys((Condition(), moved)))
    solved = table.solve_all(states)
    settled = np.all([solved[c].settled for c in states], axis=0)
    return np.concatenate([solved[c].volts for c in states]), settled


def _levels(
    place: ByPlace, ohms: Floats, healthy: Floats, volts: Floats, known: list[float]
) -> list[FaultMode]:
    """Return the fault modes of one place. `volts` [nodes, GRID] belong to the values in `ohms`."""
    step = np.maximum(STEP_V, HIGH_SHARE * np.abs(healthy) * (np.abs(healthy) > HIGH_V))
    order = list(range(len(ohms)))
    if not place.in_line:
        order.reverse()
    picked: list[int] = []
    last, least = healthy, LEAST_V / STEP_V
    for k in order:
        if float((np.abs(volts[:, k] - last) / step).max()) >= least:
            picked.append(k)
            last, least = volts[:, k], 1.0
    if len(picked) > place.most:
        # Evenly out of those that are told apart; a single one from their middle.
        share = (np.arange(place.most) + 0.5) / place.most
        picked = [picked[int(i)] for i in share * len(picked)]
    apart = float(np.log(place.ohms[1] / place.ohms[0])) / (GRID - 1)
    fresh = [k for k in picked if all(abs(np.log(ohms[k] / ohm)) >= apart / 2 for ohm in known)]
    modes = []
    for k in fresh:
        others = [abs(np.log(ohms[k] / ohms[m])) for m in fresh if m != k]
        half_way = min(others, default=2 * MOST_SPREAD) / 2
        spread = float(np.clip(half_way, LEAST_SPREAD, MOST_SPREAD))
        modes.append(place.mode(float(ohms[k]), spread, 1.0 / len(fresh)))
    return modes
