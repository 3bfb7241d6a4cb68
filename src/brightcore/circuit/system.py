"""Arrays of a circuit and the batched linear algebra on them.

`System` holds the circuit's topology as index arrays and, for many right-hand sides and
many bikes at once, a sparse LU factorisation with one shared elimination order. Node
matrices of a bike are nearly trees, so the shared pattern has little fill and each
elimination step is one vector operation over the whole batch. The matrices are close to
diagonally dominant (resistors, sources behind resistances), so no pivoting is needed; the
dense solver in `dense.py` is the oracle for that.

Shapes: N nodes, E elements, K regions, B systems in a batch. Node index N is ground.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from brightcore.circuit.elements import INF, Override, Regions
from brightcore.circuit.netlist import Circuit

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Numbers = tuple[float, ...]

LEAK_S = 1e-9
"""Conductance from every node to ground, so that an island has a solution (it is reported as
floating)."""

MAX_REGIONS = 3


@lru_cache(maxsize=16384)
def region_row(regions: Regions) -> tuple[Numbers, Numbers, Numbers, Numbers]:
    """Return (g1, g2, j, upto), each padded to MAX_REGIONS with the last region."""
    more = MAX_REGIONS - len(regions)
    # Repeating the last region makes every element the same shape; its end at infinity keeps
    # anything from ever reaching the copies.
    padded = (*regions, *(regions[-1:] * more))
    uptos = (*(r.upto for r in regions), *((INF,) * more))
    return (
        tuple(r.g1 for r in padded),
        tuple(r.g2 for r in padded),
        tuple(r.j for r in padded),
        uptos,
    )


@dataclass(frozen=True)
class Pattern:
    """Elimination order and index arrays of the shared factorisation."""

    order: Ints
    pivot: Ints
    upper: tuple[Ints, ...]
    lower: tuple[Ints, ...]
    later: tuple[Ints, ...]
    fill: tuple[Ints, ...]
    size: int


class System:
    """Index arrays of one circuit; holds no state of any particular bike condition."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
        self.index = {name: i for i, name in enumerate(circuit.nodes)}
        # Ground is the row after the last: arrays of volts get one zero row appended, and no
        # reading needs a special case for it.
        self.index["0"] = self.index[""] = len(circuit.nodes)
        self.n = len(circuit.nodes)
        self.element_index = {e.id: i for i, e in enumerate(circuit.elements)}
        elements = circuit.elements
        self.a, self.b, self.c, self.d = (
            np.array([self.index[getattr(e, end)] for e in elements], dtype=np.intp)
            for end in "abcd"
        )
        self.by_control = np.array([e.by_control for e in elements])
        rows = [region_row(e.regions) for e in elements]
        self.g1, self.g2, self.j, self.upto = (np.array([r[k] for r in rows]) for k in range(4))
        self.tol_g = np.array([e.tol_g for e in elements])
        self.tol_j = np.array([e.tol_j for e in elements])
        self.tol_dead = np.array([e.dead_spread for e in elements])
        self.fuse_a = np.array([e.fuse_a for e in elements])
        self.pattern, self._slot = self._eliminate()
        self._places = np.array(list(self._slot), dtype=np.intp).T
        self._stamp1, by_control, self._rhs = self._stamps()
        # Few elements have a gain. Multiplying only their columns keeps the second stamp from
        # doubling the cost of every matrix.
        self._controlled = np.flatnonzero(np.diff(by_control.tocsc().indptr))
        self._control_slots = np.flatnonzero(np.diff(by_control.indptr))
        self._stamp2 = by_control[self._control_slots][:, self._controlled]

    def node(self, name: str) -> int:
        """Return the index of a pin or node name."""
        return self.index[self.circuit.node(name)]

    def overrides(self, found: tuple[Override, ...]) -> list[tuple[int, Override]]:
        """Return overrides with their element index."""
        return [(self.element_index[o.element], o) for o in found]

    def _edges(self) -> set[tuple[int, int]]:
        edges = set()
        for ends in (
            (self.a, self.b),
            (self.a, self.c),
            (self.a, self.d),
            (self.b, self.c),
            (self.b, self.d),
        ):
            for p, q in zip(*ends, strict=True):
                if p != q and p < self.n and q < self.n:
                    edges.add((int(min(p, q)), int(max(p, q))))
        return edges

    def _eliminate(self) -> tuple[Pattern, dict[tuple[int, int], int]]:
        """Return the minimum-degree elimination pattern and the slot of every matrix entry."""
        adjacent: list[set[int]] = [set() for _ in range(self.n)]
        for p, q in self._edges():
            adjacent[p].add(q)
            adjacent[q].add(p)
        slot: dict[tuple[int, int], int] = {}

        def place(p: int, q: int) -> int:
            return slot.setdefault((p, q), len(slot))

        for p in range(self.n):
            place(p, p)
            for q in sorted(adjacent[p]):
                place(p, q)
        left = set(range(self.n))
        order, upper, lower, later, fill = [], [], [], [], []
        while left:
            # Minimum degree: a wiring harness is nearly a tree, and taking leaves first leaves
            # almost no fill. The name breaks ties so that the order, and with it every rounding, is
            # the same on each run.
            k = min(left, key=lambda p: (len(adjacent[p]), p))
            left.remove(k)
            others = sorted(adjacent[k])
            for p in others:
                adjacent[p] |= set(others)
                adjacent[p] -= {k, p}
            order.append(k)
            later.append(np.array(others, dtype=np.intp))
            upper.append(np.array([place(k, q) for q in others], dtype=np.intp))
            lower.append(np.array([place(p, k) for p in others], dtype=np.intp))
            fill.append(np.array([place(p, q) for p in others for q in others], dtype=np.intp))
        pivot = np.array([slot[k, k] for k in order], dtype=np.intp)
        pattern = Pattern(
            np.array(order, dtype=np.intp),
            pivot,
            tuple(upper),
            tuple(lower),
            tuple(later),
            tuple(fill),
            len(slot),
        )
        return pattern, slot

    def _stamps(self) -> tuple[sparse.csr_matrix, sparse.csr_matrix, sparse.csr_matrix]:
        """Return sparse maps from g1, g2 to matrix slots and from j to the right-hand side."""
        entries: list[list[tuple[int, int, float]]] = [[], [], []]
        for e in range(len(self.a)):
            a, b, c, d = int(self.a[e]), int(self.b[e]), int(self.c[e]), int(self.d[e])
            for which, plus, minus in ((0, a, b), (1, c, d)):
                for row, sign in ((a, 1.0), (b, -1.0)):
                    for column, side in ((plus, 1.0), (minus, -1.0)):
                        if row < self.n and column < self.n:
                            entries[which].append((self._slot[row, column], e, sign * side))
            entries[2] += [(row, e, sign) for row, sign in ((a, -1.0), (b, 1.0)) if row < self.n]
        shapes = (self.pattern.size, self.pattern.size, self.n)
        maps = []
        for rows, size in zip(entries, shapes, strict=True):
            p, e_index, value = zip(*rows, strict=True) if rows else ((), (), ())
            maps.append(
                sparse.csr_matrix((value, (p, e_index)), shape=(size, len(self.a)), dtype=float)
            )
        return maps[0], maps[1], maps[2]

    def matrix(self, g1: Floats, g2: Floats) -> Floats:
        """Return the matrix entries [slots, B] for element conductances [E, B]."""
        values = self._stamp1 @ g1
        values[self._control_slots] += self._stamp2 @ g2[self._controlled]
        # Without it a part that hangs on nothing makes the matrix singular, and the whole batch
        # with it.
        values[self.pattern.pivot] += LEAK_S
        return np.asarray(values)

    def rhs(self, j: Floats) -> Floats:
        """Return the right-hand side [N, B] for element currents [E, B]."""
        return np.asarray(self._rhs @ j)

    def dense(self, values: Floats) -> Floats:
        """Return full matrices [B, N, N] from slots (for the oracle and for inspection)."""
        full = np.zeros((values.shape[1], self.n, self.n))
        full[:, self._places[0], self._places[1]] = values.T
        return full

    def factor(self, values: Floats) -> Floats:
        """Factorise in place: unit lower and upper triangle share the slots. Returns `values`."""
        p = self.pattern
        for pivot, upper, lower, fill in zip(p.pivot, p.upper, p.lower, p.fill, strict=True):
            if len(upper) == 0:
                continue
            low = values[lower] / values[pivot]
            values[lower] = low
            step = low[:, None, :] * values[upper][None, :, :]
            values[fill] -= step.reshape(len(fill), -1)
        return values

    def solve_once(self, values: Floats, rhs: Floats) -> Floats:
        """Return x [N, B] of A x = rhs in one pass: nothing of the factors is kept. Both are used
        up."""
        p = self.pattern
        for k, pivot, upper, lower, later, fill in zip(
            p.order, p.pivot, p.upper, p.lower, p.later, p.fill, strict=True
        ):
            if len(later) == 0:
                continue
            low = values[lower] / values[pivot]
            step = low[:, None, :] * values[upper][None, :, :]
            values[fill] -= step.reshape(len(fill), -1)
            rhs[later] -= low * rhs[k]
        return self._back(values, rhs)

    def solve(self, factors: Floats, rhs: Floats) -> Floats:
        """Return x [N, ...] of A x = rhs for factors [slots, B]; rhs [N, B] or [N, M, B]."""
        x, p = rhs.copy(), self.pattern
        for k, lower, later in zip(p.order, p.lower, p.later, strict=True):
            if len(later):
                x[later] -= _wide(factors[lower], x) * x[k]
        return self._back(factors, x)

    def _back(self, factors: Floats, x: Floats) -> Floats:
        """Substitute backwards in place: x solves U x = x; returns it."""
        p = self.pattern
        for k, pivot, upper, later in zip(
            p.order[::-1], p.pivot[::-1], p.upper[::-1], p.later[::-1], strict=True
        ):
            if len(later):
                x[k] -= (_wide(factors[upper], x) * x[later]).sum(axis=0)
            x[k] /= factors[pivot]
        return x

    def solve_transposed(self, factors: Floats, rhs: Floats) -> Floats:
        """Return x of Aᵀ x = rhs; shapes as in `solve`."""
        x, p = rhs.copy(), self.pattern
        for k, pivot, upper, later in zip(p.order, p.pivot, p.upper, p.later, strict=True):
            x[k] /= factors[pivot]
            if len(later):
                x[later] -= _wide(factors[upper], x) * x[k]
        for k, lower, later in zip(p.order[::-1], p.lower[::-1], p.later[::-1], strict=True):
            if len(later):
                x[k] -= (_wide(factors[lower], x) * x[later]).sum(axis=0)
        return x


def _wide(factors: Floats, x: Floats) -> Floats:
    """Return factors [m, B] shaped to multiply x[later] of [m, B] or [m, M, B]."""
    if x.ndim == 2:
        return factors
    return factors[:, None, :]
