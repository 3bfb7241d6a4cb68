"""Tests that give a number between two points. A number is Gaussian around its prediction, mixed
with a small chance of a wrong reading. For choosing the next test, numbers are binned where the
predictions leave gaps."""

import math
from abc import abstractmethod
from collections.abc import Iterator
from typing import ClassVar

import numpy as np
from scipy.special import ndtr

from brightcore.bike.model import Join
from brightcore.circuit.conditions import Condition, describe, parse_condition
from brightcore.circuit.instruments import Multimeter, meter_of
from brightcore.errors import ReadingError
from brightcore.simulation.table import Prediction, Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.tests.base import (
    Bench,
    Floats,
    Outcome,
    OutcomeTable,
    Test,
    TestKind,
    Truth,
    access_min,
    with_unmodelled,
)
from brightcore.units import format_quantity, parse_quantity

WRONG_READING = 0.02
"""Chance that a reading is simply wrong: slipped probe, misread, wrong pin (common practice)."""

FAR_SHARE, FAR = 0.12, 3.0
"""Share of readings off by several times the spread, and how many: parts of other makes (common
practice)."""

MAX_BINS, MAX_BINS_OF_TWO = 7, 3
"""Bins of a test with one number, and of each number of a test with two."""

GAP_SIGMA = 0.9
"""Predictions further apart than this many joint deviations are told apart."""

LEAST_DENSITY = 1e-12


class NumberKind(TestKind):
    """A reading between two points. `verb` begins its title."""

    entry = "number"
    probes = touches = True
    tool = "a handheld meter"
    verb: ClassVar[str]

    @abstractmethod
    def predict(
        self, table: Table, condition: Condition, red: str, black: str, meter: Multimeter
    ) -> list[Prediction]:
        """Return the predictions of a reading: one for every number of its value."""

    @abstractmethod
    def numbers(self, item: Evidence) -> tuple[float, ...]:
        """Return the typed value as numbers on the comparison scale; raises ReadingError."""

    @abstractmethod
    def scaled(self, found: Prediction, meter: Multimeter) -> tuple[Floats, Floats]:
        """Return (mean, sigma) [R] on the scale on which readings are compared."""

    @abstractmethod
    def scale_width(self, meter: Multimeter) -> float:
        """Return the width of the comparison scale, for the "anything" part."""

    @abstractmethod
    def outcome(self, test: Test, centres: tuple[float, ...]) -> Outcome:
        """Return the outcome around the centres of bins, one for every number."""

    @abstractmethod
    def shown(self, truth: Truth, test: Test, which: int) -> str:
        """Return what the meter at a true bike shows, noise included."""

    def make(
        self,
        bench: Bench,
        condition: Condition,
        red: str,
        black: str,
        minutes: float,
        plug: Join | None = None,
    ) -> Test:
        """Return the test "read between two points in a state", at a plug that has to be
        reached."""
        reach = access_min(bench.bike, plug) if plug else 0.0
        place = bench.where(red)
        there = bench.where(black)
        black_words = bench.nets.title(black)
        if there != place:
            black_words += f" at the {there}"
        return Test(
            f"{self.name} {red} {black} @ {condition.id}",
            self.name,
            (
                f"{self.verb} from {bench.nets.title(red)} (red) to {black_words} (black), at the "
                f"{place}"
            ),
            condition,
            minutes + reach,
            self.gates(condition, bench.bike),
            red,
            black,
            place=place,
            steps=describe(bench.circuit, condition),
            plug=plug.id if plug else "",
            reach_min=reach,
        )

    def validate(self, table: Table, item: Evidence) -> None:
        parse_condition(table.circuit, item.condition)
        for end in (item.red, item.black):
            table.circuit.bike.pin(end)
        if item.red == item.black:
            raise ReadingError("both probes stand on the same point")
        meter_of(item.meter)
        self.numbers(item)

    def likelihood(self, table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
        condition = parse_condition(table.circuit, item.condition)
        meter = meter_of(item.meter)
        found = self.predict(table, condition, item.red, item.black, meter)
        density = np.ones(table.count)
        for prediction, value in zip(found, self.numbers(item), strict=True):
            mean, sigma = self.scaled(prediction, meter)
            off = value - mean
            # Two widths: most parts lie near the usual value, some of other makes far off. One wide
            # curve would blunt every good reading to be kind to the few.
            density *= (1 - FAR_SHARE) * gauss(off, sigma) + FAR_SHARE * gauss(off, FAR * sigma)
        anything = self.anything(item)
        # A slipped probe may give anything. This floor keeps one wrong reading from ruling out the
        # truth for good.
        mixed = (1 - WRONG_READING) * density + WRONG_READING * anything
        # A circuit that did not settle foretells nothing: its faults are neither helped nor hurt.
        return np.where(found[0].uncertain, anything, mixed)

    def anything(self, item: Evidence) -> float:
        return (1.0 / self.scale_width(meter_of(item.meter))) ** len(self.numbers(item))

    def outcomes(self, table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
        meter = meter_of("")
        found = self.predict(table, test.condition, test.red, test.black, meter)
        prior = hypotheses.row_prior
        most = MAX_BINS if len(found) == 1 else MAX_BINS_OF_TWO
        binned = []
        for prediction in found:
            mean, sigma = self.scaled(prediction, meter)
            centres, edges = bins(mean, sigma, prior, most)
            binned.append((centres, mass(mean, sigma, edges)))
        # One bin means every fault reads alike here; the test is not worth a line.
        if all(len(centres) == 1 for centres, _ in binned):
            return None
        rows, outcomes = [], []
        for centres_of, row in self._combined(binned):
            rows.append(row)
            outcomes.append(self.outcome(test, centres_of))
        stack = np.stack(rows)
        stack = stack / np.maximum(stack.sum(axis=0), LEAST_DENSITY)
        stack = (1 - WRONG_READING) * stack + WRONG_READING / len(stack)
        stack[:, found[0].uncertain] = 1.0 / len(stack)
        chances = hypotheses.of_rows(stack, test.state)
        return OutcomeTable(test, tuple(outcomes), with_unmodelled(hypotheses, chances))

    def _combined(
        self, binned: list[tuple[list[float], Floats]]
    ) -> Iterator[tuple[tuple[float, ...], Floats]]:
        """Yield (centres, P [H-1]) of every combination of bins that can be."""
        (centres, found), *_ = binned
        for k, centre in enumerate(centres):
            yield (centre,), found[k]

    def test_id(self, item: Evidence) -> str:
        return f"{self.name} {item.red} {item.black} @ {item.condition}"

    def title(self, bench: Bench, item: Evidence) -> str:
        points = (f"{bench.nets.title(pin)} ({bench.where(pin)})" for pin in (item.red, item.black))
        return f"{self.verb} from {' to '.join(points)}"

    def value_words(self, item: Evidence) -> str:
        bare = (
            item.value.replace(".", "")
            .replace(",", "")
            .replace(" to ", "")
            .replace("-", "")
            .strip()
        )
        if bare.isdigit():
            return f"{item.value} {self.unit}"
        return item.value

    def read(self, test: Test, value: str) -> tuple[Evidence, ...]:
        return (Evidence(self.evidence, value, test.condition.id, test.red, test.black),)

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        return self.read(test, self.shown(truth, test, which))

    def states(self, table: Table, test: Test) -> tuple[Condition, ...]:
        return (test.condition,)

    def expected(self, table: Table, item: Evidence, hypothesis: int) -> str:
        condition = parse_condition(table.circuit, item.condition)
        found = self.predict(table, condition, item.red, item.black, meter_of(item.meter))
        words = (format_quantity(float(p.mean[hypothesis]), self.unit) for p in found)
        text = " to ".join(dict.fromkeys(words))
        floating = bool(found[0].floating[hypothesis]) and self.unit == "V"
        if floating:
            return f"{text} (floating)"
        return text


def gauss(off: Floats, sigma: Floats) -> Floats:
    """Return the Gaussian density of what is `off` the mean."""
    return np.asarray(np.exp(-0.5 * (off / sigma) ** 2) / (sigma * math.sqrt(2 * math.pi)))


def typed_number(item: Evidence, unit: str) -> float:
    """Return a typed value as one number; raises ReadingError."""
    return parse_quantity(item.value, unit)


def bins(mean: Floats, sigma: Floats, prior: Floats, most: int) -> tuple[list[float], Floats]:
    """Return bin centres and the edges between them, cut at the widest gaps in sigma."""
    order = np.argsort(mean, kind="stable")
    m, s, w = mean[order], sigma[order], prior[order]
    # Gaps are measured in the spread of their neighbours: 20 mV apart is far at a hall's low end
    # and nothing at the pack.
    gaps = (m[1:] - m[:-1]) / (s[1:] + s[:-1])
    cuts = np.flatnonzero(gaps > GAP_SIGMA)
    if len(cuts) > most - 1:
        below = np.cumsum(w)[cuts]
        # With more gaps than bins those are kept that part the belief most evenly: cutting off one
        # unlikely fault gains nothing.
        smaller = np.minimum(below, w.sum() - below)
        score = np.minimum(gaps[cuts], 20.0) * np.sqrt(smaller + 1e-6)
        cuts = np.sort(cuts[np.argsort(-score, kind="stable")[: most - 1]])
    # The edge lies nearer the sharper side, where both are equally many spreads away.
    edges = (m[cuts] * s[cuts + 1] + m[cuts + 1] * s[cuts]) / (s[cuts] + s[cuts + 1])
    pieces = np.split(np.arange(len(m)), cuts + 1)
    centres = []
    for piece in pieces:
        centres.append(float(np.average(m[piece], weights=w[piece] + 1e-9)))
    return centres, edges


def mass(mean: Floats, sigma: Floats, edges: Floats) -> Floats:
    """Return the mass [bins, R] of every hypothesis between the edges."""
    off = (edges[:, None] - mean[None, :]) / sigma[None, :]
    below = (1 - FAR_SHARE) * ndtr(off) + FAR_SHARE * ndtr(off / FAR)
    padded = np.vstack([np.zeros_like(mean)[None], below, np.ones_like(mean)[None]])
    return np.diff(padded, axis=0)
