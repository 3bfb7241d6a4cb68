"""What it costs to be wrong, and whether another test pays.

A repair in vain costs its minutes, its part, and the bike on the stand a second time; a further
test costs its minutes. While the best test saves more than it takes, measuring goes on; after that
the repair is named (see `belief.decision`). Money is told in minutes at the shop's rate, so that
both are of one kind.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from brightcore.belief.decision import loss_after, loss_now
from brightcore.circuit.faults import RepairKind
from brightcore.matching.cost import LEVELS
from brightcore.tracing.pace import Paced, minutes_of, present_state
from brightcore.tracing.terms import Terms
from brightcore.tracing.tests import OutcomeTable, Test

Floats = NDArray[np.float64]

SECOND_VISIT_MIN = 60.0
"""What a repair in vain costs beside itself: the bike comes back, is ridden, lifted and traced
again (common practice)."""

THOUGHT_MIN = 4.0
"""Minutes of the next test where predictions are still being made: one that would settle it."""

LEAST_SURE = 0.85
"""Belief from which a repair is named at all; below it the likely ones are shown side by side."""


def part_cost(repair: RepairKind) -> float:
    """Return the usual cost of a repair's parts, in the shop's money (common practice)."""
    return LEVELS[min(repair.cost_level, len(LEVELS) - 1)]


def wrong_minutes(repair: RepairKind, terms: Terms) -> float:
    """Return what a repair in vain costs, in minutes: its own, its part at the rate of this shop,
    and the second visit."""
    return repair.minutes + 60.0 * part_cost(repair) / terms.rate + SECOND_VISIT_MIN


@dataclass(frozen=True, slots=True)
class InVain:
    """What is lost where a repair turns out to be the wrong one: how likely that is, minutes of
    work with the second visit, and parts in the shop's money (common practice)."""

    share: float
    minutes: float
    parts: float


def in_vain(repair: RepairKind, probability: float) -> InVain:
    """Return what a repair that is this probable may lose."""
    return InVain(1.0 - probability, repair.minutes + SECOND_VISIT_MIN, part_cost(repair))


class Staked(Paced, Protocol):
    """What the stakes are reckoned from, beside a belief: what was tested, and what cannot be."""

    @property
    def made(self) -> frozenset[str]: ...

    @property
    def left_out(self) -> frozenset[str]: ...

    def news_of(self, test: Test) -> float: ...


@dataclass(frozen=True)
class Choice:
    """A belief and the tests that are ready: `outcomes` [T, B, H] of `tables`, `belief` [H],
    `membership` [H, G], `wrong` [G] as in `belief.decision`."""

    tables: Sequence[OutcomeTable]
    outcomes: Floats
    belief: Floats
    membership: Floats
    wrong: Floats

    @property
    def at_stake(self) -> float:
        """Expected minutes lost where the best repair is made now."""
        return loss_now(self.belief, self.membership, self.wrong)


def best_saving(trace: Staked, choice: Choice) -> float:
    """Return the minutes that the best further test saves beyond its own; below zero where none
    pays."""
    now = choice.at_stake
    state = present_state(trace)
    rows: list[int] = []
    minutes: list[float] = []
    for n, item in enumerate(choice.tables):
        if item.test.id in trace.made or item.test.id in trace.left_out:
            continue
        own = minutes_of(trace, item.test, state)
        # No test saves more than everything that is at stake.
        if own < now:
            rows.append(n)
            minutes.append(own)
    if not rows:
        return -np.inf
    after = loss_after(choice.outcomes[rows], choice.belief, choice.membership, choice.wrong)
    best = -np.inf
    for n, own, left in zip(rows, minutes, after, strict=True):
        saved = trace.news_of(choice.tables[n].test) * (now - float(left))
        best = max(best, saved - own)
    return best
