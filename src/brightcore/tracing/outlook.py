"""Looking ahead: the expected tree a few tests deep, and the questions that tell most by
telephone."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.belief.bayes import expected_information
from brightcore.simulation.words import question_words
from brightcore.tracing.advice import Proposal, answers, propose
from brightcore.tracing.endings import Conclusion, conclude
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import kind_of
from brightcore.tracing.tests.base import Floats
from brightcore.tracing.trace import Trace

DEPTH, BRANCHES, LEAST_LIKELY = 3, 3, 0.08
"""How deep a flow sheet goes, how many answers it follows at a test, and how likely they are at
least."""

QUESTIONS = 5


@dataclass(frozen=True, slots=True)
class Branch:
    """One answer of a test on the flow sheet, and what comes then."""

    label: str
    probability: float
    then: "Leaf"


@dataclass(frozen=True, slots=True)
class Leaf:
    """Where the flow sheet stands: a conclusion, or the next test with its answers; `meaning` in
    words."""

    meaning: str
    conclusion: Conclusion | None
    proposal: Proposal | None
    branches: tuple[Branch, ...] = ()


def flow_sheet(trace: Trace, skip: frozenset[str] = frozenset(), depth: int = DEPTH) -> Leaf:
    """Return the expected tree from where a trace stands; `skip` as in `propose`."""
    return _leaf(trace, skip, depth, {}, "")


def _leaf(
    trace: Trace, skip: frozenset[str], depth: int, cache: dict[Evidence, Floats], meaning: str
) -> Leaf:
    found = conclude(trace, skip)
    if found.status != "measure":
        return Leaf(meaning, found, None)
    best = propose(trace, 1, skip, explained=0)
    if not best or depth == 0:
        return Leaf(meaning, None, best[0] if best else None)
    table = trace.engine.outcome(best[0].test.id)
    if table is None:
        return Leaf(meaning, None, best[0])
    branches = []
    for answer in answers(trace, table)[:BRANCHES]:
        if answer.probability >= LEAST_LIKELY:
            evidence = [*trace.evidence, *answer.outcome.evidence]
            then = _leaf(
                Trace(trace.engine, evidence, cache, trace.terms),
                skip,
                depth - 1,
                cache,
                answer.meaning,
            )
            branches.append(Branch(answer.outcome.label, answer.probability, then))
    return Leaf(meaning, None, best[0], tuple(branches))


@dataclass(frozen=True, slots=True)
class Question:
    """One thing to ask the rider: what to do, what to look at, the possible answers, bits about the
    repair."""

    scene: str
    observable: str
    act: str
    question: str
    answers: tuple[tuple[str, str], ...]
    bits: float


def telephone(trace: Trace, count: int = QUESTIONS) -> tuple[Question, ...]:
    """Return the questions that split the suspects most before the bike comes in, the best first.

    Only what a rider can see at home, wheel up or standing: no probes, no plugs parted, no riding
    uphill. Each further question is worth what it adds on average to those before it, taken as
    independent of them.
    """
    asked = {(item.scene, item.observable) for item in trace.evidence}
    found: list[Question] = []
    seen: set[str] = set()
    for bits, engine_scene, observable in sorted(_worth(trace), reverse=True):
        if (engine_scene, observable) in asked or observable in seen:
            continue
        seen.add(observable)
        scene = trace.engine.table.scenes[engine_scene]
        words = question_words(trace.engine.bike, observable)
        classes = OBSERVABLES[observable].classes
        found.append(Question(engine_scene, observable, scene.title, words, classes, bits))
        if len(found) == count:
            break
    return tuple(found)


def _worth(trace: Trace) -> Iterator[tuple[float, str, str]]:
    """Yield (bits about the repair, scene, observable) of everything that a rider could be
    asked."""
    engine, belief = trace.engine, trace.belief
    for test in engine.tests:
        if (
            test.kind != "look"
            or not kind_of(test.kind).first
            or "road" in test.gates
            or test.id == "look spin"
        ):
            continue
        for observable, codes in engine.table.seen_by_makes(test.scene).items():
            yield _bits(engine, belief, observable, codes), test.scene, observable


def _bits(engine: Engine, belief: Floats, observable: str, codes: np.ndarray) -> float:
    """Return the expected bits about the repair of one observable of one scene."""
    given = OBSERVABLES[observable].seen_given()
    rows = np.einsum("k,krc->cr", engine.table.makes, given[codes])
    chances = engine.hypotheses.of_rows(rows, always=True)
    whole = np.concatenate([chances, np.full((len(chances), 1), 1.0 / len(chances))], axis=1)
    return float(expected_information(whole[None], belief, engine.membership)[0])


def answer_evidence(question: Question, value: str) -> Evidence:
    """Return what a rider's answer by telephone enters."""
    return Evidence("look", value, scene=question.scene, observable=question.observable, told=True)
