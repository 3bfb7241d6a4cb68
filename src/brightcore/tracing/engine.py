"""One bike's diagnosis engine: tables of predictions, and belief from evidence.

`Engine` is built once per bike revision and shared; `Trace` is one job's evidence on it.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from brightcore.analysis.bike import analysis_of
from brightcore.bike.model import Bike
from brightcore.circuit.conditions import Condition, parse_condition
from brightcore.simulation.table import Row, Table
from brightcore.tracing.hypotheses import Hypothesis, HypothesisSet, enumerate_hypotheses
from brightcore.tracing.stacked import Stacked
from brightcore.tracing.tests import (
    Bench,
    OutcomeTable,
    Test,
    enumerate_tests,
    kind_of,
    outcome_table,
    prepare,
    tests_by_state,
)

Floats = NDArray[np.float64]
Progress = Callable[[int, int], None]

LOOK_WEIGHT, QUICK_WEIGHT, STATE_WEIGHT = 4, 1, 2
"""Shares of the work of preparing: a look, all quick tests together, one electrical state."""

MOST_AT_ONCE = 1_000_000
"""Rows times nodes times states that are solved in one step: about a second's work."""

MOST_WORK = 60_000_000
"""Rows times nodes times states worked out beforehand: about five minutes' work, a bike of some 70
parts."""


@dataclass(frozen=True, slots=True)
class Step:
    """A piece of the work of preparing: its share, what it does, whether the first proposal needs
    it."""

    weight: int
    run: Callable[[], object]
    first: bool


class Engine:
    """Circuit, hypotheses, predictions and candidate tests of one bike."""

    def __init__(self, bike: Bike, counts: dict[str, int] | None = None) -> None:
        self.bike = bike
        self.circuit = analysis_of(bike).circuit
        self.hypotheses = enumerate_hypotheses(self.circuit, counts)
        self.table = Table(self.circuit, circuit_rows(self.hypotheses))
        self.nets = self.circuit.nets
        self.bench = Bench(self.circuit, self.hypotheses, self.table)
        self.tests = enumerate_tests(self.bench)
        self.by_id = {test.id: test for test in (*self.tests, *tests_by_state(self.bench))}
        self._tables: dict[str, OutcomeTable | None] = {}
        self.left_out = 0
        self._stack: Stacked | None = None
        h = self.hypotheses
        self.membership = np.zeros((len(h.items), len(h.repairs)))
        self.membership[np.arange(len(h.items)), h.repair_of] = 1.0

    @property
    def system_size(self) -> int:
        """Rows times nodes: how large one electrical state of this bike is."""
        return self.hypotheses.rows * len(self.circuit.nodes)

    def work(self) -> Iterator["Step"]:
        """Yield the steps in the order that serves the first proposal best; none is long.

        A large bike gets fewer states worked out beforehand (`MOST_WORK`); the rest is read by
        hand.
        """
        looks = [test for test in self.tests if test.scene]
        # Looks come first: they are what a technician can do at once, and the first proposal is
        # always one. Everything after may still be in the making while somebody reads it.
        spent = self.left_out = 0
        for look in (test for test in looks if kind_of(test.kind).first):
            states = []
            for _, state in self.table.scenes[look.scene].states:
                states.append(state)
            together = max(1, MOST_AT_ONCE // self.system_size)
            for low in range(0, len(states), together):
                ahead = partial(self.table.solve_ahead, look.scene, states[low : low + together])
                yield Step(LOOK_WEIGHT, ahead, True)
            spent += len(states) * self.system_size
            yield Step(QUICK_WEIGHT, partial(self._settle, [look]), True)
        quick = []
        for test in self.tests:
            if kind_of(test.kind).first and not test.scene:
                quick.append(test)
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
        # States with nothing unplugged are asked for first and most often, and pack out costs the
        # least to prove; so the order of work is also the order of likely use.
        for condition in sorted(
            groups, key=lambda c: (len(c.unplugged), c.power == "out", len(c.settings))
        ):
            yield 1, Step(STATE_WEIGHT, partial(self._settle, groups[condition]), False)
        for look in (test for test in looks if not kind_of(test.kind).first):
            states = len(self.table.scenes[look.scene].states)
            yield states, Step(LOOK_WEIGHT, partial(self._settle, [look]), False)

    def prepare(
        self, progress: Progress | None = None, stop: Callable[[], bool] | None = None
    ) -> None:
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
        self.rest()

    def rest(self) -> None:
        """Let go of what only the making of predictions needs; all of it can be solved again."""
        self.table.forget_states()

    def _settle(self, tests: Sequence[Test]) -> None:
        """Compute predictions and outcome tables of tests that share a condition."""
        tests = [test for test in tests if test.id not in self._tables]
        prepare(self.table, tests)
        for test in tests:
            self._tables[test.id] = outcome_table(self.table, self.hypotheses, test)
        # Looks in a state of the rider's belong to one job and not to the common stack.
        if any(not test.state for test in tests):
            self._stack = None

    @property
    def ready(self) -> bool:
        """Whether every test that is worked out beforehand has its predictions."""
        # A bike so large that some states are left out will never have all of them; what is there
        # counts as everything.
        return all(test.id in self._tables for test in self.tests) or self.left_out > 0

    @property
    def settled(self) -> int:
        """How many tests have their predictions so far: it grows, and never shrinks."""
        return len(self._tables)

    def outcome(self, test_id: str) -> OutcomeTable | None:
        """Return the outcome table of a test, computing it where needed; None without
        information."""
        if test_id not in self._tables:
            self._settle([self.by_id[test_id]])
        return self._tables[test_id]

    def stack(self) -> Stacked:
        """Return the tests ready so far with their outcome probabilities."""
        if self._stack is None:
            ready = []
            for table in self._tables.values():
                if table is not None and not table.test.state:
                    ready.append(table)
            self._stack = Stacked(ready, len(self.hypotheses.items))
            # Each test now reads its part of the common array; its own copy is let go.
            for table in self._stack.tables:
                self._tables[table.test.id] = table
        return self._stack

    def restore(self, arrays: dict[str, NDArray[np.generic]]) -> None:
        """Take predictions back from a cache (see `Table.dump`)."""
        self.table.restore(arrays, lambda text: parse_condition(self.circuit, text))


def circuit_rows(hypotheses: HypothesisSet) -> list[Row]:
    """Return the circuits of hypotheses, each once, in the order of `Hypothesis.row`."""
    found = {item.row: row_of(item) for item in hypotheses.items[:-1]}
    return [found[k] for k in range(len(found))]


def row_of(item: Hypothesis) -> Row:
    """Return the circuit row of a hypothesis."""
    if item.mode is None:
        return Row()
    return Row(item.mode.overrides, frozenset(item.mode.traits))
