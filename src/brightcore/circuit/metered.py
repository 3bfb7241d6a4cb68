"""A dead circuit read by a meter that feeds it: ohms and diode test, the meter an element of the
circuit.

The meter is a source of `open_v` behind `behind_ohm`, plus on red. Where nothing changes its region
under the meter's volts, one solve from the dead state is exact; the rest is solved step by step,
the meter's resistance put in by one term of rank one.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcore.circuit.solver import (
    MAX_STEPS,
    PROBE_CHUNK,
    Batch,
    Small,
    Solution,
    Values,
    between,
    one_region,
)
from brightcore.circuit.system import Floats, System

Flags = NDArray[np.bool_]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Feeding:
    """A meter that feeds what it reads: open volts behind a resistance."""

    open_v: float
    behind_ohm: float


@dataclass(frozen=True)
class Metered:
    """What stands between red and black with the meter on, all [M, B]: volts, their spread from
    part tolerances, and whether the state was found."""

    volts: Floats
    spread_v: Floats
    settled: Flags


def metered(
    system: System,
    values: Values,
    solution: Solution,
    pairs: Sequence[tuple[int, int]],
    meter: Feeding,
) -> Metered:
    """Return the volts that a feeding meter has across pairs of node indices in a dead circuit."""
    plus = np.array([p for p, _ in pairs], dtype=np.intp)
    minus = np.array([q for _, q in pairs], dtype=np.intp)
    shape = (len(pairs), values.count)
    found = Metered(np.zeros(shape), np.zeros(shape), np.ones(shape, dtype=bool))
    for low in range(0, values.count, PROBE_CHUNK):
        columns = np.arange(low, min(low + PROBE_CHUNK, values.count))
        # What did not settle dead is not known with the meter on either; it is carried on as
        # unknown.
        settled = solution.settled[columns]
        found.settled[:, columns] = settled
        turned = _at_once(system, values, solution, columns, (plus, minus), meter, found) & settled
        which, where = np.nonzero(turned)
        for start in range(0, len(which), PROBE_CHUNK):
            part = slice(start, start + PROBE_CHUNK)
            ends = (plus[which[part]], minus[which[part]])
            step = _step_by_step(system, values, solution, columns[where[part]], ends, meter)
            at = (which[part], columns[where[part]])
            for whole, piece in zip(
                (found.volts, found.spread_v, found.settled),
                (step.volts, step.spread_v, step.settled),
                strict=True,
            ):
                whole[at] = piece
    return found


def _at_once(
    system: System,
    values: Values,
    solution: Solution,
    columns: Ints,
    ends: tuple[Ints, Ints],
    meter: Feeding,
    found: Metered,
) -> Flags:
    """Fill in what the dead state's regions give; return [M, b] where the meter's volts change a
    region."""
    batch = Batch(system, values, columns)
    regions = solution.regions[np.ix_(batch.varying, columns)]
    g1, g2, j = batch.at(regions, np.arange(len(columns)))
    factors = system.factor(system.matrix(g1, g2))
    plus, minus = ends
    m = np.arange(len(plus))
    wide = np.repeat(between(system, plus, minus)[:, :, None], len(columns), axis=2)
    # The response to one ampere holds as long as no element changes its region. Then Thévenin gives
    # the reading with any meter by one division, without solving again.
    response = np.concatenate([system.solve(factors, wide), np.zeros((1, len(plus), len(columns)))])
    dead = solution.volts[:, columns]
    source_ohm = response[plus, m] - response[minus, m]
    ampere = (meter.open_v - dead[plus] + dead[minus]) / (meter.behind_ohm + source_ohm)
    found.volts[:, columns] = meter.open_v - ampere * meter.behind_ohm
    share = meter.behind_ohm / (meter.behind_ohm + source_ohm)
    variance = np.zeros((len(plus), len(columns)))
    _, tol_j, tol_dead = batch.tolerances
    # Only elements that conduct and may be off count. Most of a dead bike is copper whose tolerance
    # no meter sees.
    for e in np.flatnonzero(((g1 != 0) & (tol_dead > 0)).any(axis=1) | (j != 0).any(axis=1)):
        along = response[system.a[e]] - response[system.b[e]]
        across = ampere * along + (dead[system.a[e]] - dead[system.b[e]])
        current = g1[e] * across + j[e]
        if g2[e].any():
            control = response[system.c[e]] - response[system.d[e]]
            current = current + g2[e] * (ampere * control + (dead[system.c[e]] - dead[system.d[e]]))
        variance += ((tol_dead[e] * current) ** 2 + (tol_j[e] * j[e]) ** 2) * along**2
    found.spread_v[:, columns] = share * np.sqrt(variance)
    left, right = batch.left, batch.right
    # The meter's few volts open a diode or wake an input: then the one-shot answer is wrong, and
    # those systems alone are solved again step by step.
    control = (dead[left] - dead[right])[:, None, :] + ampere * (response[left] - response[right])
    wanted = np.zeros(control.shape, dtype=np.int8)
    for k in range(batch.tables[3].shape[1]):
        wanted += control >= batch.tables[3][:, k][:, None, :]
    return np.asarray((wanted != regions[:, None, :]).any(axis=0))


def _step_by_step(
    system: System,
    values: Values,
    solution: Solution,
    columns: Ints,
    ends: tuple[Ints, Ints],
    meter: Feeding,
) -> Metered:
    """Return what is read in systems where the meter turns something on or off; one pair a
    system."""
    batch = Batch(system, values, columns)
    state = solution.regions[np.ix_(batch.varying, columns)].copy()
    count = len(columns)
    volts, spread, settled = np.zeros(count), np.zeros(count), np.zeros(count, dtype=bool)
    active = np.arange(count)
    for step in range(MAX_STEPS):
        here = (ends[0][active], ends[1][active])
        x, response, read, share = _linear(system, batch, state[:, active], active, here, meter)
        move = one_region(batch.wanted(x, active), state[:, active], step)
        done = ~move.any(axis=0)
        volts[active] = read
        spread[active] = share * _spread(system, batch, state[:, active], active, x, response)
        settled[active[done]] = True
        state[:, active] += move
        active = active[~done]
        if len(active) == 0:
            break
    return Metered(volts, spread, settled)


def _linear(
    system: System,
    batch: Batch,
    state: Small,
    active: Ints,
    ends: tuple[Ints, Ints],
    meter: Feeding,
) -> tuple[Floats, Floats, Floats, Floats]:
    """Return node volts and response to one ampere [N+1, b], volts read [b] and the meter's share
    [b]."""
    g1, g2, j = batch.at(state, active)
    factors = system.factor(system.matrix(g1, g2))
    one = between(system, *ends)
    both = system.solve(factors, np.stack([system.rhs(j), one], axis=1))
    padded = np.concatenate([both, np.zeros((1, 2, len(active)))])
    free, response = padded[:, 0], padded[:, 1]
    b = np.arange(len(active))
    open_v = free[ends[0], b] - free[ends[1], b]
    source_ohm = response[ends[0], b] - response[ends[1], b]
    ampere = (meter.open_v - open_v) / (meter.behind_ohm + source_ohm)
    share = meter.behind_ohm / (meter.behind_ohm + source_ohm)
    return free + ampere * response, response, meter.open_v - ampere * meter.behind_ohm, share


def _spread(
    system: System, batch: Batch, state: Small, active: Ints, volts: Floats, response: Floats
) -> Floats:
    """Return the spread of the volts before the meter's own share, from the spread of every
    element."""
    g1, g2, j = batch.at(state, active)
    current = (
        g1 * (volts[system.a] - volts[system.b]) + g2 * (volts[system.c] - volts[system.d]) + j
    )
    along = response[system.a] - response[system.b]
    _, tol_j, tol_dead = batch.tolerances
    variance = (tol_dead[:, active] * current) ** 2 + (tol_j[:, active] * j) ** 2
    return np.asarray(np.sqrt((variance * along**2).sum(axis=0)))
