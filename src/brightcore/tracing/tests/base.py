"""What a kind of test is: candidates, state, prediction, likelihood, outcomes, entry and words, all
in one class.

A new kind is one file here and one line in `KINDS`.
"""

from abc import ABC, abstractmethod
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Protocol

import numpy as np
from numpy.typing import NDArray

from brightcore.bike.model import Bike, Join
from brightcore.circuit.conditions import Condition
from brightcore.circuit.contacts import join_title
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.instruments import Multimeter
from brightcore.circuit.metered import Feeding
from brightcore.circuit.netlist import Circuit
from brightcore.circuit.nets import Nets
from brightcore.errors import UnknownNameError
from brightcore.simulation.table import Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis, HypothesisSet

Floats = NDArray[np.float64]

MAX_OUTCOMES = 12
"""Answers of one test that are told apart."""

BROAD_SHARE = 0.5
"""Share of "anything at all" in what a bike with an unmodelled fault would give."""


@dataclass(frozen=True, slots=True)
class Test:
    """One thing to do next. `minutes` counts doing it, not setting the bike up for it; `reach_min`
    of them go into reaching the plug of join `plug`, once."""

    id: str
    kind: str
    title: str
    condition: Condition
    minutes: float
    gates: tuple[str, ...] = ()
    red: str = ""
    black: str = ""
    scene: str = ""
    subject: str = ""
    place: str = ""
    state: str = ""
    steps: tuple[str, ...] = ()
    plug: str = ""
    reach_min: float = 0.0

    def minutes_after(self, reached: frozenset[str]) -> float:
        """Return its minutes where some plugs were reached before."""
        return self.minutes - (self.reach_min if self.plug in reached else 0.0)

    def retitled(self, title: str) -> "Test":
        """Return the test in other words."""
        return replace(self, title=title)


@dataclass(frozen=True, slots=True)
class Outcome:
    """One possible answer: words, and the evidence that choosing it would enter."""

    label: str
    evidence: tuple[Evidence, ...]


@dataclass(frozen=True)
class OutcomeTable:
    """Outcomes of one test with P(outcome | hypothesis) [B, H]."""

    test: Test
    outcomes: tuple[Outcome, ...]
    probability: NDArray[np.floating[Any]]


@dataclass(frozen=True)
class Bench:
    """What candidates are made from: the circuit, its hypotheses and scenes."""

    circuit: Circuit
    hypotheses: HypothesisSet
    table: Table

    @property
    def bike(self) -> Bike:
        """The bike."""
        return self.circuit.bike

    @property
    def nets(self) -> Nets:
        """Its nets."""
        return self.circuit.nets

    def controls(self, control_id: str) -> list[str]:
        """Return the names of all controls of one id, such as every lever."""
        found: list[str] = []
        for name, (_, control) in self.circuit.controls.items():
            if control.id == control_id:
                found.append(name)
        return found

    def where(self, pin: str) -> str:
        """Return words for the place of a pin: plug and side."""
        return where(self.circuit, pin)


def where(circuit: Circuit, pin: str) -> str:
    """Return words for the place of a pin: plug and side."""
    part, port, _ = circuit.bike.pin(pin)
    for join in circuit.bike.joins_of(part.id, port.id):
        return f"{join_title(circuit.bike, join)}, {part.name} side"
    return f"{part.name}, {port.label or port.id}"


def access_min(bike: Bike, join: Join) -> float:
    """Return minutes to reach a join with probes: those of its harder side."""
    return max(bike.part(part).port(port).access_min for part, port in join.sides())


class Truth(Protocol):
    """A simulated true bike as its technician meets it, for tests and the benchmark."""

    rng: np.random.Generator

    @property
    def table(self) -> Table:
        """Predictions of the true bikes, one a row."""

    def mode(self, which: int) -> FaultMode | None:
        """Return the fault that true bike number `which` carries."""

    def moves(self, which: int, place: str) -> float:
        """Return how often something changes on it while a plug or cable is moved."""

    def undescribed(self, which: int, line: str) -> float:
        """Return how often something is found on a line that its description does not have."""


class TestKind(ABC):
    """One kind of test. `name` is that of its tests, `evidence` that of what it enters.

    `entry` says how the answer is given: a "number" in `unit`, one of the `choices`, or "looks" one
    by one. `kicker` stands above the test, `family` heads the list of all of its kind. `free` kinds
    can be read at any two points, in a state with `free_power`. `by_rows`: its likelihoods are of
    circuits, not hypotheses. `tool`: what it needs beside hands and eyes. `seeks`: what a rider
    told (ids of leanings) for which it is made though every look was clean. `clean_ratio`: what it
    finds is no finding where a healthy bike gives it at least this part of what the best
    explanation gives. `probes` kinds read between two pins; in `touches` kinds hands or probes are
    at plugs and wires.
    """

    name: ClassVar[str]
    evidence: ClassVar[str]
    family: ClassVar[str]
    kicker: ClassVar[str]
    entry: ClassVar[str]
    unit: ClassVar[str] = ""
    hint: ClassVar[str] = ""
    choices: ClassVar[tuple[tuple[str, str], ...]] = ()
    touches: ClassVar[bool] = False
    free: ClassVar[str] = ""
    free_power: ClassVar[tuple[str, ...]] = ()
    probes: ClassVar[bool] = False
    first: ClassVar[bool] = False
    by_rows: ClassVar[bool] = True
    seeks: ClassVar[tuple[str, ...]] = ()
    tool: ClassVar[str] = ""
    clean_ratio: ClassVar[float] = 20.0

    @abstractmethod
    def candidates(self, bench: Bench) -> Iterator[Test]:
        """Yield every test of this kind that a bike allows."""

    @abstractmethod
    def validate(self, table: Table, item: Evidence) -> None:
        """Raise BrightError where evidence names what the bike does not have or cannot be
        understood."""

    @abstractmethod
    def likelihood(self, table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
        """Return P(evidence | circuit) [R], or P(evidence | hypothesis) [H-1] where it is not
        `by_rows`."""

    @abstractmethod
    def anything(self, item: Evidence) -> float:
        """Return how likely the evidence is where anything may be."""

    @abstractmethod
    def outcomes(self, table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
        """Return the distinct answers of a test, None where every hypothesis gives the same."""

    @abstractmethod
    def test_id(self, item: Evidence) -> str:
        """Return the id of the test that evidence is an answer to."""

    @abstractmethod
    def title(self, bench: Bench, item: Evidence) -> str:
        """Return evidence that is no answer to a listed test in words, without its value."""

    @abstractmethod
    def value_words(self, item: Evidence) -> str:
        """Return the value of evidence in words."""

    @abstractmethod
    def read(self, test: Test, value: str) -> tuple[Evidence, ...]:
        """Return the evidence of one typed or chosen value."""

    @abstractmethod
    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        """Return what the technician at a true bike would enter."""

    def expected(self, table: Table, item: Evidence, hypothesis: int) -> str:
        """Return in words what a hypothesis would have given, "" where nothing is foretold."""
        return ""

    def feeding(self, meter: Multimeter) -> Feeding | None:
        """Return what the meter feeds the circuit with, None where it only loads it."""
        return None

    def states(self, table: Table, test: Test) -> tuple[Condition, ...]:
        """Return the states in which the test's two points are read."""
        return ()

    def needs(self, test: Test) -> str:
        """Return which half of a donor a test needs, "" where it needs none."""
        return ""

    def gates(self, condition: Condition, bike: Bike) -> tuple[str, ...]:
        """Return the cautions before it in a state of a bike."""
        return ()


def one_of(value: str, allowed: Iterable[str], what: str = "answer") -> None:
    """Raise UnknownNameError where a value is none of those allowed."""
    known = tuple(allowed)
    if value not in known:
        raise UnknownNameError(what, value, known)


def with_unmodelled(hypotheses: HypothesisSet, chances: Floats) -> Floats:
    """Return chances [B, H-1] with a broad column for "not modelled" added."""
    prior = hypotheses.prior[: hypotheses.modelled]
    broad = (1 - BROAD_SHARE) * (chances @ prior) / prior.sum() + BROAD_SHARE / len(chances)
    return np.concatenate([chances, broad[:, None]], axis=1)


class TwoAnswers(TestKind):
    """A test of one subject with two answers.

    `answers` are (value, words). What belongs to a kind is how likely each answer is under every
    hypothesis.
    """

    entry = "choice"
    first = True
    by_rows = False
    answers: ClassVar[tuple[tuple[str, str], ...]]
    said: ClassVar[str]
    """Begins the title of evidence that is no answer to a listed test."""

    @abstractmethod
    def chance(self, hypothesis: Hypothesis, subject: str) -> float:
        """Return P(first answer | hypothesis) for one subject."""

    def chances(self, hypotheses: HypothesisSet, subject: str) -> Floats:
        """Return P(answer | hypothesis) [2, H-1] in the order of `answers`."""
        modelled = hypotheses.items[: hypotheses.modelled]
        first = np.array([self.chance(item, subject) for item in modelled])
        return np.stack([first, 1.0 - first])

    def validate(self, table: Table, item: Evidence) -> None:
        one_of(item.value, [value for value, _ in self.answers])

    def likelihood(self, table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
        values = [value for value, _ in self.answers]
        return np.asarray(self.chances(hypotheses, item.subject)[values.index(item.value)])

    def anything(self, item: Evidence) -> float:
        return 1.0 / len(self.answers)

    def outcomes(self, table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
        return self.table_of(hypotheses, test, self.chances(hypotheses, test.subject))

    def table_of(self, hypotheses: HypothesisSet, test: Test, chances: Floats) -> OutcomeTable:
        """Return the outcomes of a test from P(answer | hypothesis) [2, H-1]."""
        found = []
        for value, words in self.answers:
            found.append(Outcome(words, self.read(test, value)))
        return OutcomeTable(test, tuple(found), with_unmodelled(hypotheses, chances))

    def test_id(self, item: Evidence) -> str:
        return f"{self.name} {item.subject}"

    def title(self, bench: Bench, item: Evidence) -> str:
        return f"{self.said} {item.subject}"

    def value_words(self, item: Evidence) -> str:
        return dict(self.answers)[item.value]

    def read(self, test: Test, value: str) -> tuple[Evidence, ...]:
        return (Evidence(self.evidence, value, subject=test.subject),)
