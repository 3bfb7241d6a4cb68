"""One bike's diagnosis engine: tables of predictions, and belief from evidence.

`Engine` is built once per bike revision and shared; `Trace` is one job's evidence on it.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, partial

import numpy as np
from numpy.typing import NDArray

from brightcore.analysis.bike import analysis_of
from brightcore.belief.bayes import expected_information, indistinct_groups, posterior
from brightcore.bike.model import Bike
from brightcore.circuit.conditions import Condition, parse_condition
from brightcore.circuit.faults import RepairKind
from brightcore.simulation.table import Row, Table
from brightcore.tracing.evidence import Evidence, repeat_weights
from brightcore.tracing.hypotheses import Hypothesis, enumerate_hypotheses
from brightcore.tracing.tests import (
    MAX_OUTCOMES,
    Bench,
    OutcomeTable,
    Test,
    enumerate_tests,
    kind_of,
    log_likelihood,
    outcome_table,
    prepare,
    validate,
)

Floats = NDArray[np.float64]
Progress = Callable[[int, int], None]

STOP_PROBABILITY = 0.95
"""A repair is named from this belief on, if it leads with any one reading left out."""

LIT_RATIO = 20.0
"""A stretch is lit where every fault of it is this many times less likely than the best explanation."""

SUSPECT_PROBABILITY = 0.05
"""Belief from which a stretch or part is suspect."""

ODD_RATIO = 0.02
"""A reading contradicts the leading explanation where that gives it this share of what the best one does."""

UNMODELLED_LEADS = 0.3
"""Belief in "not modelled" from which evidence counts as contradictory."""

FEW_READINGS = 3
"""Fewer pieces of evidence are not yet called contradictory."""

LOOK_WEIGHT, QUICK_WEIGHT, STATE_WEIGHT = 4, 1, 2
"""Shares of the work of preparing: a look, all quick tests together, one electrical state."""

NEGLIGIBLE = 1e-5
"""Hypotheses below this belief do not count for choosing the next test."""


MOST_AT_ONCE = 1_000_000
"""Rows times nodes times states that are solved in one step: about a second's work."""

MOST_WORK = 60_000_000
"""Rows times nodes times states worked out beforehand: about five minutes' work, a bike of some 70 parts."""


@dataclass(frozen=True, slots=True)
class Step:
    """A piece of the work of preparing: its share, what it does, whether the first proposal needs it."""

    weight: int
    run: Callable[[], object]
    first: bool


class Engine:
    """Circuit, hypotheses, predictions and candidate tests of one bike."""

    def __init__(self, bike: Bike, counts: dict[str, int] | None = None) -> None:
        self.bike = bike
        self.circuit = analysis_of(bike).circuit
        self.hypotheses = enumerate_hypotheses(self.circuit, counts)
        self.table = Table(self.circuit, [row_of(item) for item in self.hypotheses.items[:-1]])
        self.nets = self.circuit.nets
        self.bench = Bench(self.circuit, self.hypotheses, self.table)
        self.tests = enumerate_tests(self.bench)
        self.by_id = {test.id: test for test in self.tests}
        self._tables: dict[str, OutcomeTable | None] = {}
        self.left_out = 0
        self._stack: tuple[tuple[OutcomeTable, ...], NDArray[np.float32]] | None = None
        h = self.hypotheses
        self.membership = np.zeros((len(h.items), len(h.repairs)))
        self.membership[np.arange(len(h.items)), h.repair_of] = 1.0

    @property
    def system_size(self) -> int:
        """Rows times nodes: how large one electrical state of this bike is."""
        return self.hypotheses.rows * len(self.circuit.nodes)

    def work(self) -> Iterator["Step"]:
        """Yield the steps in the order that serves the first proposal best; none is long.

        A large bike gets fewer states worked out beforehand (`MOST_WORK`); the rest is read by hand.
        """
        looks = [test for test in self.tests if test.scene]
        spent = self.left_out = 0
        for look in (test for test in looks if kind_of(test.kind).first):
            states = [state for _, state in self.table.scenes[look.scene].states]
            together = max(1, MOST_AT_ONCE // self.system_size)
            for low in range(0, len(states), together):
                ahead = partial(self.table.solve_ahead, look.scene, states[low : low + together])
                yield Step(LOOK_WEIGHT, ahead, True)
            spent += len(states) * self.system_size
            yield Step(QUICK_WEIGHT, partial(self._settle, [look]), True)
        quick = [test for test in self.tests if kind_of(test.kind).first and not test.scene]
        yield Step(QUICK_WEIGHT, partial(self._settle, quick), True)
        for count, step in self._later(looks):
            spent += count * self.system_size
            if spent > MOST_WORK:
                self.left_out += 1
                continue
            yield step

    def _later(self, looks: list[Test]) -> Iterator[tuple[int, "Step"]]:
        """Yield (electrical states, step) of everything after the first proposal."""
        groups: dict[Condition, list[Test]] = {}
        for test in self.tests:
            if kind_of(test.kind).probes:
                groups.setdefault(test.condition, []).append(test)
        for condition in sorted(groups, key=lambda c: (len(c.unplugged), c.power == "out", len(c.settings))):
            yield 1, Step(STATE_WEIGHT, partial(self._settle, groups[condition]), False)
        for look in (test for test in looks if not kind_of(test.kind).first):
            states = len(self.table.scenes[look.scene].states)
            yield states, Step(LOOK_WEIGHT, partial(self._settle, [look]), False)

    def prepare(self, progress: Progress | None = None, stop: Callable[[], bool] | None = None) -> None:
        """Do all work, telling progress as (done, all); ends early where `stop` says so."""
        steps = list(self.work())
        total, done = sum(step.weight for step in steps), 0
        for step in steps:
            if stop and stop():
                return
            step.run()
            done += step.weight
            if progress:
                progress(done, total)

    def _settle(self, tests: Sequence[Test]) -> None:
        """Compute predictions and outcome tables of tests that share a condition."""
        tests = [test for test in tests if test.id not in self._tables]
        prepare(self.table, tests)
        for test in tests:
            self._tables[test.id] = outcome_table(self.table, self.hypotheses, test)
        self._stack = None

    @property
    def ready(self) -> bool:
        """Whether every test that is worked out beforehand has its predictions."""
        return len(self._tables) == len(self.tests) or self.left_out > 0

    def outcome(self, test_id: str) -> OutcomeTable | None:
        """Return the outcome table of a test, computing it where needed; None without information."""
        if test_id not in self._tables:
            self._settle([self.by_id[test_id]])
        return self._tables[test_id]

    def stack(self) -> tuple[tuple[OutcomeTable, ...], NDArray[np.float32]]:
        """Return the tests ready so far and their probabilities [T, B, H] (unused outcomes are 0)."""
        if self._stack is None:
            tables = tuple(t for t in list(self._tables.values()) if t is not None)
            array = np.zeros((len(tables), MAX_OUTCOMES, len(self.hypotheses.items)), dtype=np.float32)
            for i, item in enumerate(tables):
                array[i, : len(item.outcomes)] = item.probability
            self._stack = (tables, array)
        return self._stack

    def restore(self, arrays: dict[str, NDArray[np.generic]]) -> None:
        """Take predictions back from a cache (see `Table.dump`)."""
        self.table.restore(arrays, lambda text: parse_condition(self.circuit, text))


def row_of(item: Hypothesis) -> Row:
    """Return the circuit row of a hypothesis."""
    return Row() if item.mode is None else Row(item.mode.overrides, frozenset(item.mode.traits))


@dataclass(frozen=True, slots=True)
class Suspect:
    """Hypotheses of one place and repair, as one line of the ranking."""

    id: str
    title: str
    probability: float
    repair: RepairKind
    members: tuple[int, ...]


class Trace:
    """Belief of one job: an engine and its active evidence (weights for repeats included)."""

    def __init__(
        self, engine: Engine, evidence: Sequence[Evidence], cache: dict[Evidence, Floats] | None = None
    ) -> None:
        self.engine = engine
        self.evidence = tuple(evidence)
        cache = {} if cache is None else cache
        for item in self.evidence:
            if item not in cache:
                validate(engine.table, item)
                cache[item] = log_likelihood(engine.table, engine.hypotheses, item)
        weights = repeat_weights(list(self.evidence))
        self.logs = [w * cache[item] for w, item in zip(weights, self.evidence, strict=True)]
        self._information: tuple[tuple[OutcomeTable, ...], Floats] | None = None

    @cached_property
    def belief(self) -> Floats:
        """Posterior over hypotheses [H]."""
        return posterior(self.engine.hypotheses.prior, self.logs)

    @cached_property
    def repair_belief(self) -> Floats:
        """Posterior over repairs [G]."""
        return np.asarray(self.engine.membership.T @ self.belief)

    @property
    def leading_repair(self) -> int:
        """Index of the most probable repair."""
        return int(np.argmax(self.repair_belief))

    def belief_without(self, index: int) -> Floats:
        """Return the posterior [H] with one piece of evidence left out."""
        logs = [log for i, log in enumerate(self.logs) if i != index]
        return posterior(self.engine.hypotheses.prior, logs)

    def without(self, index: int) -> Floats:
        """Return the repair posterior [G] with one piece of evidence left out."""
        return np.asarray(self.engine.membership.T @ self.belief_without(index))

    @cached_property
    def hanging_on(self) -> int | None:
        """Index of a single reading on which a repair above 0.95 alone rests, or None."""
        lead = self.leading_repair
        if self.repair_belief[lead] < STOP_PROBABILITY:
            return None
        left = [float(self.without(i)[lead]) for i in range(len(self.logs))]
        weakest = int(np.argmin(left)) if left else None
        return weakest if weakest is not None and int(np.argmax(self.without(weakest))) != lead else None

    @cached_property
    def stopped(self) -> bool:
        """Whether one repair stands above 0.95 and leads with any one reading left out."""
        return bool(self.repair_belief[self.leading_repair] >= STOP_PROBABILITY) and self.hanging_on is None

    @cached_property
    def suspects(self) -> tuple[Suspect, ...]:
        """Hypotheses grouped by place, most probable first."""
        groups: dict[tuple[str, str], list[int]] = {}
        for i, item in enumerate(self.engine.hypotheses.items):
            place = item.mode.family if item.mode else item.id
            groups.setdefault((item.repair.id, place), []).append(i)
        found = []
        for (repair_id, place), members in groups.items():
            lead = max(members, key=lambda m: self.belief[m])
            item = self.engine.hypotheses.items[lead]
            total = float(self.belief[members].sum())
            found.append(Suspect(f"{repair_id} {place}", item.title, total, item.repair, tuple(members)))
        return tuple(sorted(found, key=lambda s: -s.probability))

    @cached_property
    def indistinct(self) -> tuple[tuple[Suspect, ...], ...]:
        """Leading suspects that no remaining test tells apart, as groups of two or more."""
        tables, stack = self.engine.stack()
        fresh = np.array([t.test.kind != "swap" for t in tables], dtype=bool)
        leading = [s for s in self.suspects if s.probability > 0.02][:12]
        heads = [max(s.members, key=lambda m: self.belief[m]) for s in leading]
        groups = indistinct_groups(stack[fresh].astype(np.float64), heads) if len(tables) else []
        by_head = dict(zip(heads, leading, strict=True))
        return tuple(tuple(by_head[h] for h in group) for group in groups if len(group) > 1)

    @cached_property
    def strength(self) -> Floats:
        """Evidence-only log likelihood [H] relative to the best explanation (priors left out)."""
        total = np.zeros(len(self.engine.hypotheses.items))
        dropped = {i for i, _ in self.contradicting}
        for i, log in enumerate(self.logs):
            if i not in dropped:
                total = total + log
        return np.asarray(total - total.max())

    @cached_property
    def contradicting(self) -> tuple[tuple[int, float], ...]:
        """(index, ratio) of readings that the leading explanation cannot explain.

        The ratio is the reading's likelihood under the leading single fault against the best
        any hypothesis gives it.
        """
        belief = self.belief.copy()
        belief[-1] = 0.0
        lead = int(np.argmax(belief))
        found = []
        for i, log in enumerate(self.logs):
            ratio = float(np.exp(log[lead] - log[:-1].max()))
            if ratio < ODD_RATIO:
                found.append((i, ratio))
        return tuple(found)

    @property
    def contradictory(self) -> bool:
        """Whether the evidence fits no single fault well."""
        top_is_other = bool(self.belief[-1] > UNMODELLED_LEADS)
        return bool(self.contradicting) and (
            top_is_other or (len(self.evidence) >= FEW_READINGS and not self._robust())
        )

    def _robust(self) -> bool:
        """Whether the leading repair would lead without the contradicting readings, too."""
        lead = self.leading_repair
        return len(self.contradicting) == 1 and all(
            int(np.argmax(self.without(i))) == lead for i, _ in self.contradicting
        )

    def information(self) -> tuple[tuple[OutcomeTable, ...], Floats]:
        """Return ready tests and their expected information [T] in bits about the repair.

        Where a repair rests on one reading, that reading is left out of the belief, so that
        what confirms it independently comes first.
        """
        tables, stack = self.engine.stack()
        if self._information is not None and self._information[0] is tables:
            return self._information
        base = self.belief if self.hanging_on is None else self.belief_without(self.hanging_on)
        keep = np.flatnonzero(base > NEGLIGIBLE)
        belief = base[keep] / base[keep].sum()
        repairs = np.flatnonzero(self.engine.membership[keep].any(axis=0))
        membership = self.engine.membership[np.ix_(keep, repairs)]
        bits = expected_information(stack[:, :, keep].astype(np.float64), belief, membership)
        self._information = tables, bits
        return self._information
