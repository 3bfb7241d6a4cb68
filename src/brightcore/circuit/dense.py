"""The plain dense solver: one full matrix per system. Slow, simple, the oracle for `solver`."""

import numpy as np

from brightcore.circuit.solver import Small, Solution, Values, solve
from brightcore.circuit.system import Floats, System


def dense_linear(system: System, g1: Floats, g2: Floats, j: Floats) -> Floats:
    """Return node volts [N+1, B] by `numpy.linalg.solve` on full matrices."""
    full, rhs = system.dense(system.matrix(g1, g2)), system.rhs(j)
    x = np.linalg.solve(full, rhs.T[:, :, None])[:, :, 0].T
    return np.vstack([x, np.zeros((1, rhs.shape[1]))])


def solve_dense(system: System, values: Values, start: Small | None = None) -> Solution:
    """Return the operating points of all systems by dense linear algebra."""
    return solve(system, values, start, dense_linear)
