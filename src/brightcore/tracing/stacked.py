"""The outcome probabilities of many tests, kept once and one under the other.

Most tests have two to five answers and a few have twelve. Padded to twelve for all, the
probabilities of a bike would take three times the room; they are padded for the few hypotheses that
are still alive, when the next test is chosen. Single precision: what they are made of is known to a
hundredth at best.
"""

from collections.abc import Iterable, Sequence
from copy import copy
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from brightcore.tracing.tests import MAX_OUTCOMES, OutcomeTable

Floats = NDArray[np.float64]


class Stacked:
    """Tests and their outcome probabilities. T tests, R outcomes of all of them, H hypotheses.

    `tables`: the tests, each with its part of the common array. `answers`: [R, H].
    """

    def __init__(self, tables: Sequence[OutcomeTable], hypotheses: int) -> None:
        self.hypotheses = hypotheses
        counts = np.array([len(table.outcomes) for table in tables], dtype=int)
        ends = np.cumsum(counts)
        self._test = np.repeat(np.arange(len(tables)), counts)
        self._place = np.arange(counts.sum()) - np.repeat(ends - counts, counts)
        self.answers = np.zeros((int(counts.sum()), hypotheses), dtype=np.float32)
        found = []
        for table, count, end in zip(tables, counts, ends, strict=True):
            part = self.answers[end - count : end]
            part[:] = table.probability
            found.append(replace(table, probability=part))
        self.tables = tuple(found)

    def padded(self, keep: NDArray[np.int_], tests: Iterable[int] | None = None) -> Floats:
        """Return P(outcome | hypothesis) [T, B, K] of some hypotheses (by index), of all tests or
        of those named by index, in that order; unused outcomes are 0."""
        whole = np.zeros((len(self.tables), MAX_OUTCOMES, len(keep)))
        whole[self._test, self._place] = self.answers[:, keep]
        if tests is None:
            return whole
        return whole[list(tests)]

    def with_more(self, tables: Sequence[OutcomeTable]) -> "Stacked":
        """Return these tests and some more."""
        if not tables:
            return self
        more, made = Stacked(tables, self.hypotheses), copy(self)
        made.tables = (*self.tables, *more.tables)
        made.answers = np.concatenate([self.answers, more.answers])
        made._test = np.concatenate([self._test, more._test + len(self.tables)])
        made._place = np.concatenate([self._place, more._place])
        return made
