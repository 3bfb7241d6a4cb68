"""Looks: do something and say what is seen, as it is or with a plug apart."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from brightcore.behaviour.scene import Scene
from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.circuit.conditions import Condition, describe
from brightcore.circuit.contacts import join_title
from brightcore.procedure.gates import is_high, is_ridden, volts_gates
from brightcore.simulation.table import Table
from brightcore.simulation.words import look_words, question_words
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.states import State, state_of
from brightcore.tracing.tests.base import (
    MAX_OUTCOMES,
    Bench,
    Floats,
    Outcome,
    OutcomeTable,
    Test,
    TestKind,
    Truth,
    one_of,
    with_unmodelled,
)

TRUE_SHARE = 0.5
"""How much rarer than in the model a simulated technician mistakes what is seen."""

LEAST_REST = 1e-9


class Look(TestKind):
    """Do a scene and look."""

    name, evidence, family, kicker, entry = "look", "look", "Look", "Look next", "looks"
    first = True

    def candidates(self, bench: Bench) -> Iterator[Test]:
        for scene in bench.table.scenes.values():
            if scene.kind == self.name:
                yield self.make(bench, scene, self.title_of(bench, scene))

    def title_of(self, bench: Bench, scene: Scene) -> str:
        """Return what is done, in words."""
        return scene.title

    def make(self, bench: Bench, scene: Scene, title: str) -> Test:
        """Return the test of a scene."""
        states = [state for _, state in scene.states]
        # Cautions follow the hardest state of a scene: one that ends on the road is a road test
        # from its first step.
        condition = next((state for state in states if is_ridden(state)), states[0])
        if condition.power == "out":
            gates: tuple[str, ...] = ("pack_out",)
        else:
            gates = volts_gates(condition)
        high: tuple[str, ...] = ()
        if self.touches and condition.power != "out" and is_high(bench.bike):
            high = ("high_volts",)
        gates = tuple(dict.fromkeys((*gates, *scene.gates, *high)))
        shown = Condition(condition.power, (), condition.unplugged)
        steps = scene.steps or describe(bench.circuit, shown)
        return Test(
            f"look {scene.id}",
            self.name,
            title,
            shown,
            scene.minutes,
            gates,
            scene=scene.id,
            steps=steps,
        )

    def validate(self, table: Table, item: Evidence) -> None:
        one_of(item.scene, table.scenes, "scene")
        one_of(item.observable, table.scenes[item.scene].seen, "observable")
        one_of(item.value, OBSERVABLES[item.observable].answers())

    def likelihood(self, table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
        seen = OBSERVABLES[item.observable]
        codes = table.seen_by_makes(item.scene)[item.observable]
        # An answer that leaves open which of several it was holds where any of them is seen.
        given = seen.seen_given()[:, seen.meant(item.value)].sum(axis=1)
        chances = table.makes @ given[codes]
        return hypotheses.blurred(np.asarray(chances))

    def anything(self, item: Evidence) -> float:
        seen = OBSERVABLES[item.observable]
        return len(seen.meant(item.value)) / len(seen.classes)

    def outcomes(self, table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
        seen = table.seen_by_makes(test.scene)
        names = tuple(seen)
        if not names:
            return None
        # Everything that is seen at once is one answer: a motor that shudders while the lamp is
        # dark is one thing to the eye, and the parts of it are not independent.
        codes = np.stack([seen[name] for name in names])
        unique, inverse = np.unique(codes.reshape(len(names), -1), axis=1, return_inverse=True)
        if unique.shape[1] < 2:
            return None
        weight = np.bincount(
            inverse.ravel(), weights=np.outer(table.makes, hypotheses.row_prior).ravel()
        )
        rows, outcomes = [], []
        for k in np.argsort(-weight, kind="stable")[: MAX_OUTCOMES - 1]:
            answer = [int(code) for code in unique[:, k]]
            rows.append(table.makes @ _probability(names, codes, answer))
            outcomes.append(_outcome(table, test, names, answer))
        stack = np.stack(rows)
        # What no line foretells is "something else", with a floor: it may always be seen.
        rest = np.maximum(1.0 - stack.sum(axis=0), LEAST_REST)
        every = (*outcomes, Outcome("something else", ()))
        every_row = hypotheses.blurred(np.vstack([stack, rest]))
        chances = hypotheses.of_rows(every_row, test.state)
        return OutcomeTable(test, every, with_unmodelled(hypotheses, chances))

    def test_id(self, item: Evidence) -> str:
        if item.state and not item.told:
            return f"look {item.scene} ~{item.state}"
        return f"look {item.scene}"

    def title(self, bench: Bench, item: Evidence) -> str:
        scene = bench.table.scenes[item.scene]
        question = question_words(bench.bike, item.observable)[:-1]
        if scene.kind == "unplug":
            done = _unplugged_title(bench, scene)
        else:
            done = scene.title
        if item.told:
            return f"Told: {question[0].lower()}{question[1:]} — {done.lower()}"
        return (
            f"{question} — {done.lower()}{f', {state_of(item.state).done}' if item.state else ''}"
        )

    def value_words(self, item: Evidence) -> str:
        words = OBSERVABLES[item.observable].words(item.value)
        words = f"{words}, sometimes" if item.sometimes else words
        if item.told and item.state:
            return f"{words}, {state_of(item.state).told}"
        return words

    def read(self, test: Test, value: str) -> tuple[Evidence, ...]:
        observable, _, answer = value.partition("=")
        return (_seen(test, observable, answer),)

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        seen = truth.table.seen(test.scene)
        found = []
        for name, codes in seen.items():
            found.append(_seen(test, name, _mistaken(truth, name, int(codes[which]))))
        return tuple(found)

    def expected(self, table: Table, item: Evidence, hypothesis: int) -> str:
        code = int(table.seen(item.scene)[item.observable][hypothesis])
        return OBSERVABLES[item.observable].classes[code][1]


class Unplug(Look):
    """Take a plug apart, do a scene and look."""

    name, family, kicker, first = "unplug", "Unplug and see", "Unplug and see", False

    def title_of(self, bench: Bench, scene: Scene) -> str:
        return _unplugged_title(bench, scene)


def in_state(test: Test, state: State) -> Test:
    """Return a look in a state that may bring out what comes and goes."""
    return replace(
        test,
        id=f"{test.id} ~{state.id}",
        title=f"{test.title}, {state.done}",
        minutes=test.minutes + state.minutes,
        gates=(*test.gates, *state.gates),
        state=state.id,
        steps=(*test.steps, f"{state.done[0].upper()}{state.done[1:]}"),
    )


def _seen(test: Test, observable: str, value: str) -> Evidence:
    return Evidence("look", value, scene=test.scene, observable=observable, state=test.state)


def _unplugged_title(bench: Bench, scene: Scene) -> str:
    plug = join_title(bench.bike, bench.bike.join(scene.unplugged))
    return f"Unplug the {plug}, then: {scene.title[0].lower()}{scene.title[1:]}"


def _probability(names: tuple[str, ...], codes: NDArray[np.int8], answer: list[int]) -> Floats:
    """Return P(answer | circuit) [K, R] of one combination of things seen, by make."""
    p = np.ones(codes.shape[1:])
    for name, own, code in zip(names, codes, answer, strict=True):
        p = p * OBSERVABLES[name].seen_given()[own, code]
    return p


def _outcome(table: Table, test: Test, names: tuple[str, ...], answer: list[int]) -> Outcome:
    evidence, words = [], []
    for name, code in zip(names, answer, strict=True):
        class_id, text = OBSERVABLES[name].classes[code]
        evidence.append(_seen(test, name, class_id))
        words.append(look_words(table.circuit.bike, name, class_id, text))
    return Outcome(", ".join(word for word in words if word), tuple(evidence))


def _mistaken(truth: Truth, observable: str, code: int) -> str:
    """Return what a technician says they saw: mostly what was there."""
    item = OBSERVABLES[observable]
    soft = (1 - TRUE_SHARE) * item.seen_given()[code]
    soft[code] += TRUE_SHARE
    return item.ids()[int(truth.rng.choice(len(soft), p=soft / soft.sum()))]
