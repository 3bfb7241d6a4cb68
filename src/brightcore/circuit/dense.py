"""The plain dense solver: one full matrix per system. Slow, simple, the oracle for `solver`."""

import numpy as np

from brightcore.circuit.solver import MAX_STEPS, Solution, Values, _Batch
from brightcore.circuit.system import System


def solve_dense(system: System, values: Values) -> Solution:
    """Return the operating points of all systems by `numpy.linalg.solve`."""
    count = values.count
    columns = np.arange(count)
    batch = _Batch(system, values, columns)
    state = np.zeros((len(batch.varying), count), dtype=np.int8)
    volts = np.zeros((system.n + 1, count))
    settled = np.zeros(count, dtype=bool)
    for _ in range(MAX_STEPS):
        g1, g2, j = batch.at(state, columns)
        full = system.dense(system.matrix(g1, g2))
        volts[:-1] = np.linalg.solve(full, system.rhs(j).T[:, :, None])[:, :, 0].T
        move = np.sign(batch.wanted(volts, columns) - state).astype(np.int8)
        settled = ~move.any(axis=0)
        if settled.all():
            break
        state += move
    regions = np.zeros((len(system.a), count), dtype=np.int8)
    regions[batch.varying] = state
    return Solution(volts, regions, settled)
