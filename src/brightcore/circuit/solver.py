"""Batched DC operating points of piecewise-linear circuits.

Newton over regions: every element may move one region a step (a limiter that jumps
between its outer regions would cycle). Systems that settle leave the batch. Those that do
not settle are reported as uncertain, never as a number.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from brightcore.circuit.elements import Override, spread_when_dead
from brightcore.circuit.system import Floats, System, region_row

Small = NDArray[np.int8]
MAX_STEPS = 60
CHUNK_LEAST, CHUNK_MOST, CHUNK_WORK = 1024, 4096, 1_500_000
"""Systems solved together: as many as come to so many matrix entries, between the two."""

PROBE_CHUNK = 384
FEW = 3


@dataclass(frozen=True)
class Values:
    """Element values of B systems that share S common tables (one per electrical state).

    g1, g2, j, upto [S, E, K] and tol_g, tol_j, tol_dead [S, E] are common; `which` [B] says whose
    table a system uses. `changes` is a list per system of (element index, override), later entries
    win. `scale_g`, `scale_j` [E, B] are for true bikes that differ from the model.
    """

    g1: Floats
    g2: Floats
    j: Floats
    upto: Floats
    tol_g: Floats
    tol_j: Floats
    tol_dead: Floats
    which: NDArray[np.intp]
    changes: tuple[tuple[tuple[int, Override], ...], ...]
    scale_g: Floats | None = None
    scale_j: Floats | None = None

    @property
    def count(self) -> int:
        """Number of systems B."""
        return len(self.changes)


@dataclass(frozen=True)
class Solution:
    """Node volts [N+1, B] (last row is ground), regions [E, B], and which systems settled [B]."""

    volts: Floats
    regions: Small
    settled: NDArray[np.bool_]

    def part(self, columns: slice) -> "Solution":
        """Return the solution of some of the systems, as a copy."""
        return Solution(
            self.volts[:, columns].copy(),
            self.regions[:, columns].copy(),
            self.settled[columns].copy(),
        )


def base_values(
    system: System,
    common: Sequence[Override],
    changes: Sequence[Sequence[Override]],
    last: Sequence[Override] = (),
    scale_g: Floats | None = None,
    scale_j: Floats | None = None,
) -> Values:
    """Return values of B systems; precedence is common (condition) < changes (fault) < last
    (unplug)."""
    arrays = [a.copy() for a in (system.g1, system.g2, system.j, system.upto)]
    tol_g, tol_j, tol_dead = system.tol_g.copy(), system.tol_j.copy(), system.tol_dead.copy()
    for index, override in (*system.overrides(tuple(common)), *system.overrides(tuple(last))):
        for array, row in zip(arrays, region_row(override.regions), strict=True):
            array[index] = row
        tol_g[index] = tol_g[index] if override.tol_g is None else override.tol_g
        tol_j[index] = tol_j[index] if override.tol_j is None else override.tol_j
        tol_dead[index] = spread_when_dead(override.regions, tol_g[index])
    # An unplugged pin is open whatever fault it has: a short in a cable that hangs in the air
    # shorts nothing. So changes of the same element are dropped, not only overruled, or they would
    # count as varying.
    closed = {o.element for o in last}
    rows = tuple(
        tuple(item for item in system.overrides(tuple(row)) if item[1].element not in closed)
        for row in changes
    )
    g1, g2, j, upto = (array[None] for array in arrays)
    which = np.zeros(len(rows), dtype=np.intp)
    tolerances = (tol_g[None], tol_j[None], tol_dead[None])
    return Values(g1, g2, j, upto, *tolerances, which, rows, scale_g, scale_j)


def join_values(items: Sequence[Values]) -> Values:
    """Return the values of several states as one batch, in order."""
    names = ("g1", "g2", "j", "upto", "tol_g", "tol_j", "tol_dead")
    g1, g2, j, upto, tol_g, tol_j, tol_dead = (
        np.concatenate([getattr(item, name) for item in items]) for name in names
    )
    which = np.concatenate([np.full(item.count, k, dtype=np.intp) for k, item in enumerate(items)])
    changes = tuple(row for item in items for row in item.changes)
    scales: list[Floats | None] = []
    for name in ("scale_g", "scale_j"):
        columns = [getattr(item, name) for item in items]
        scales.append(None if columns[0] is None else np.concatenate(columns, axis=1))
    return Values(g1, g2, j, upto, tol_g, tol_j, tol_dead, which, changes, *scales)


class Batch:
    """Element tables of one chunk. Only elements with more than one region keep tables by
    region."""

    def __init__(self, system: System, values: Values, columns: NDArray[np.intp]) -> None:
        self.values, self.which = values, values.which[columns]
        self.changes = [
            (position, index, override)
            for position, column in enumerate(columns)
            for index, override in values.changes[column]
        ]
        # Most elements are plain resistors with one region. Keeping tables by region for all of
        # them would cost three times the memory and, worse, a gather per element and step.
        several: NDArray[np.bool_] = np.asarray(np.isfinite(values.upto[:, :, 0]).any(axis=0))
        for _, index, override in self.changes:
            several[index] |= len(override.regions) > 1
        self.varying = np.flatnonzero(several)
        commons = (values.g1, values.g2, values.j)
        self.first = [np.take(table[:, :, 0].T, self.which, axis=1) for table in commons]
        self.tables = [
            np.take(table[:, self.varying].transpose(1, 2, 0), self.which, axis=2)
            for table in (*commons, values.upto)
        ]
        self._change(len(system.a))
        if values.scale_g is not None and values.scale_j is not None:
            self._scale(values.scale_g[:, columns], values.scale_j[:, columns])
        ends = (
            np.where(system.by_control, system.c, system.a),
            np.where(system.by_control, system.d, system.b),
        )
        self.left, self.right = ends[0][self.varying], ends[1][self.varying]

    def _change(self, elements: int) -> None:
        """Put what is changed in single systems into the tables; later changes win."""
        if not self.changes:
            return
        rows = np.array([region_row(override.regions) for _, _, override in self.changes])
        position = np.array([position for position, _, _ in self.changes], dtype=np.intp)
        index = np.array([index for _, index, _ in self.changes], dtype=np.intp)
        for k, first in enumerate(self.first):
            first[index, position] = rows[:, k, 0]
        # `place` turns an element's index into its row among the varying ones; −1 stands for "has
        # none".
        place = np.full(elements, -1, dtype=np.intp)
        place[self.varying] = np.arange(len(self.varying))
        among = np.flatnonzero(place[index] >= 0)
        for k, table in enumerate(self.tables):
            table[place[index[among]], :, position[among]] = rows[among, k]

    def _scale(self, scale_g: Floats, scale_j: Floats) -> None:
        """Give every system values of its own; `scale_g`, `scale_j` [E, B]."""
        # A true bike differs from its model in two ways: its resistances (g1) and its gains and
        # sources (g2, j). The latter two stand behind the same part, so they move together.
        factors = (scale_g, scale_g * scale_j, scale_g * scale_j)
        for first, table, factor in zip(self.first, self.tables, factors, strict=False):
            first *= factor
            table *= factor[self.varying][:, None, :]

    @cached_property
    def tolerances(self) -> tuple[Floats, Floats, Floats]:
        """Spreads `tol_g`, `tol_j` and `tol_dead` [E, B] of every element."""
        commons = (self.values.tol_g, self.values.tol_j, self.values.tol_dead)
        tol_g, tol_j, tol_dead = (np.take(common.T, self.which, axis=1) for common in commons)
        for position, index, override in self.changes:
            if override.tol_g is not None:
                tol_g[index, position] = override.tol_g
            if override.tol_j is not None:
                tol_j[index, position] = override.tol_j
            tol_dead[index, position] = spread_when_dead(override.regions, tol_g[index, position])
        return tol_g, tol_j, tol_dead

    def at(self, regions: Small, which: NDArray[np.intp]) -> tuple[Floats, Floats, Floats]:
        """Return g1, g2, j [E, len(which)] with the varying elements in the given regions [V,
        ·]."""
        varying, most, count = self.tables[0].shape
        # One flat gather instead of fancy indexing on three axes: this line runs in every Newton
        # step for every bike of the batch, and was a third of the time of solving.
        flat = (np.arange(varying)[:, None] * most + regions) * count + which[None, :]
        out = []
        for first, table in zip(self.first, self.tables, strict=False):
            values = np.take(first, which, axis=1)
            values[self.varying] = table.ravel().take(flat)
            out.append(values)
        return out[0], out[1], out[2]

    def wanted(self, volts: Floats, which: NDArray[np.intp]) -> Small:
        """Return the region [V, len(which)] that each controlling voltage asks for."""
        control = volts[self.left] - volts[self.right]
        uptos = self.tables[3][:, :, which]
        # Upper ends rise from region to region, so the region is the number of ends that the volts
        # have passed. Padded regions end at infinity and are never passed.
        found = (control >= uptos[:, 0]).astype(np.int8)
        for k in range(1, uptos.shape[1]):
            found += control >= uptos[:, k]
        return found


Linear = Callable[[System, Floats, Floats, Floats], Floats]


def solve(
    system: System, values: Values, start: Small | None = None, linear: "Linear | None" = None
) -> Solution:
    """Return the operating points of all systems.

    `start` [E, B] is the region of each element to begin with (from another state, where known).
    `linear` solves the linear systems of one step; the oracle in `dense.py` passes its own.
    """
    count = values.count
    volts = np.zeros((system.n + 1, count))
    regions = np.zeros((len(system.a), count), dtype=np.int8)
    settled = np.zeros(count, dtype=bool)
    chunk = max(CHUNK_LEAST, min(CHUNK_MOST, CHUNK_WORK // system.pattern.size))
    for low in range(0, count, chunk):
        columns = np.arange(low, min(low + chunk, count))
        batch = Batch(system, values, columns)
        # Beginning in the regions of a neighbouring state saves most steps: of two states that
        # differ by one lever, nearly every element keeps its region.
        state = np.zeros((len(batch.varying), len(columns)), dtype=np.int8)
        if start is not None:
            state[:] = start[np.ix_(batch.varying, columns)]
        active = np.arange(len(columns))
        for step in range(MAX_STEPS):
            x = (linear or _linear)(system, *batch.at(state[:, active], active))
            want = batch.wanted(x, active)
            move = one_region(want, state[:, active], step)
            done = ~move.any(axis=0)
            volts[:, columns[active]] = x
            settled[columns[active[done]]] = True
            state[:, active] += move
            # What has settled leaves the batch: a few stubborn systems would otherwise drag
            # thousands along.
            active = active[~done]
            if len(active) == 0:
                break
        regions[np.ix_(batch.varying, columns)] = state
    return Solution(volts, regions, settled)


def _linear(system: System, g1: Floats, g2: Floats, j: Floats) -> Floats:
    """Return node volts [N+1, B] of linear systems; a handful is quicker dense."""
    matrix, rhs = system.matrix(g1, g2), system.rhs(j)
    # Below a handful of systems the loop over pivots costs more in Python than LAPACK does in work.
    if rhs.shape[1] <= FEW:
        x = np.linalg.solve(system.dense(matrix), rhs.T[:, :, None])[:, :, 0].T
    else:
        x = system.solve_once(matrix, rhs)
    return np.vstack([x, np.zeros((1, rhs.shape[1]))])


def one_region(want: Small, state: Small, step: int) -> Small:
    """Return the moves of one step: a region at most for each element, late in the search one
    element."""
    move: Small = np.sign(want - state).astype(np.int8)
    # Two elements that answer each other (a pull-up and the input it holds) can swap regions for
    # ever when both move at once. Letting one move a step breaks that; it is slow, so it comes
    # late.
    if step > MAX_STEPS // 2:
        return _first_only(move)
    return move


def _first_only(move: Small) -> Small:
    """Keep only the first move of each system: breaks cycles of elements that move together."""
    first = np.zeros_like(move)
    where = (move != 0).argmax(axis=0)
    across = np.arange(move.shape[1])
    first[where, across] = move[where, across]
    return first


@dataclass(frozen=True)
class Probing:
    """What a meter sees between point pairs: open-circuit volts, source resistance, spread.

    All [M, B]: M point pairs, B systems. `spread_v` is the standard deviation from part tolerances.
    """

    volts: Floats
    source_ohm: Floats
    spread_v: Floats


def probe(
    system: System, values: Values, solution: Solution, pairs: Sequence[tuple[int, int]]
) -> Probing:
    """Return volts, source resistance and tolerance spread for pairs of node indices.

    One adjoint solve per pair gives all three: with Aᵀλ = e₊ − e₋, the source resistance is
    λ₊ − λ₋ and the reading's sensitivity to an element's current is λ over its ends.
    """
    count, m = values.count, len(pairs)
    out = [np.zeros((m, count)) for _ in range(3)]
    plus = np.array([p for p, _ in pairs], dtype=np.intp)
    minus = np.array([q for _, q in pairs], dtype=np.intp)
    for low in range(0, count, PROBE_CHUNK):
        columns = np.arange(low, min(low + PROBE_CHUNK, count))
        batch = Batch(system, values, columns)
        everyone = np.arange(len(columns))
        g1, g2, j = batch.at(solution.regions[np.ix_(batch.varying, columns)], everyone)
        factors = system.factor(system.matrix(g1, g2))
        # The adjoint is solved once per pair of points for the whole batch; solving forwards for
        # every element that may be off would take as many solves as there are elements.
        wide = np.repeat(between(system, plus, minus)[:, :, None], len(columns), axis=2)
        adjoint = np.concatenate(
            [system.solve_transposed(factors, wide), np.zeros((1, m, len(columns)))]
        )
        volts = solution.volts[:, columns]
        across = volts[system.a] - volts[system.b]
        control = volts[system.c] - volts[system.d]
        tol_g, tol_j, _ = batch.tolerances
        # First-order propagation of independent tolerances. A conductance moves with its current, a
        # source with its own value, a gain with what controls it.
        variance = (tol_g * (g1 * across + g2 * control + j)) ** 2
        variance += (tol_j * j) ** 2 + (tol_j * g2 * control) ** 2
        out[0][:, columns] = volts[plus] - volts[minus]
        out[1][:, columns] = adjoint[plus, np.arange(m)] - adjoint[minus, np.arange(m)]
        some = np.flatnonzero((variance > 1e-24).any(axis=1))
        # Single precision is plenty for a spread, and this product is by far the largest array
        # here.
        seen = (adjoint[system.a[some]] - adjoint[system.b[some]]).astype(np.float32)
        np.square(seen, out=seen)
        seen *= variance[some][:, None, :].astype(np.float32)
        out[2][:, columns] = np.sqrt(seen.sum(axis=0, dtype=np.float64))
    return Probing(*out)


def between(system: System, plus: NDArray[np.intp], minus: NDArray[np.intp]) -> Floats:
    """Return right-hand sides [N, M] of one ampere into each plus node and out of its minus
    node."""
    count = np.arange(len(plus))
    rhs = np.zeros((system.n + 1, len(plus)))
    rhs[plus, count] += 1.0
    rhs[minus, count] -= 1.0
    return rhs[: system.n]
