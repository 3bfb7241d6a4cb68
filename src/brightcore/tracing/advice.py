"""What to do next, and why: the next test, what each answer would mean, the repair and its proof."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.belief.bayes import posterior, posterior_after
from brightcore.circuit.conditions import Condition
from brightcore.circuit.faults import RepairKind
from brightcore.simulation.words import look_words
from brightcore.tracing.engine import SUSPECT_PROBABILITY, Engine, Suspect, Trace
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import Outcome, OutcomeTable, Test, kind_of, test_id

SEEN_BEFORE = 0.25
"""Worth of a look whose observables were seen in another scene: not independent of it."""

MIN_BITS = 0.01
"""Expected information below which a test is not worth proposing."""


PACK_MIN, SWITCH_MIN, PLUG_MIN, WHEEL_MIN = 1.2, 0.2, 0.6, 0.4
"""Minutes to take the pack out or put it in, to switch, to part a plug, to lift the wheel (common practice).
"""

LEAST_ANSWER, MOST_ANSWERS = 0.005, 6
"""Answers less likely than this are not shown, nor more than so many."""

TELLING_SHARE, OPEN_SHARE = 0.15, 0.02
"""Share of belief from which an answer points to a suspect, and from which a suspect is still open."""

MOVED = 0.01
"""A change of belief that is told."""

PROVING = 0.8
"""How far apart a proof by meter must set the fault and the healthy bike (total variation)."""


@dataclass(frozen=True, slots=True)
class Answer:
    """A possible answer of a test: how likely, and what would then be suspected."""

    outcome: Outcome
    probability: float
    meaning: str
    index: int


@dataclass(frozen=True, slots=True)
class Proposal:
    """A test with its worth and the minutes it takes from the bike's present state."""

    test: Test
    bits: float
    minutes: float
    answers: tuple[Answer, ...]


@dataclass(frozen=True, slots=True)
class Proof:
    """How to show that a repair worked: what to do and what must then be seen."""

    title: str
    expected: str
    test_id: str


@dataclass(frozen=True, slots=True)
class Conclusion:
    """Where the trace stands: `measure`, `repair` (stop rule holds), `choose` (nothing left to
    tell the set apart), `nothing-found` or `not-modelled`."""

    status: str
    repair: RepairKind | None
    probability: float
    members: tuple[Suspect, ...]
    proof: Proof | None


def setup_minutes(before: Condition | None, after: Condition, gates: tuple[str, ...]) -> float:
    """Return the minutes to bring the bike from one state to another (common practice)."""
    if before is None:
        before = Condition("off")
    minutes = 0.0
    if (before.power == "out") != (after.power == "out"):
        minutes += PACK_MIN
    elif before.power != after.power:
        minutes += SWITCH_MIN
    minutes += PLUG_MIN * len(set(before.unplugged) ^ set(after.unplugged))
    if "wheel_up" in gates and before.power != "on":
        minutes += WHEEL_MIN
    return minutes


def present_state(trace: Trace) -> Condition | None:
    """Return the bike's state after the last evidence, None before any."""
    for item in reversed(trace.evidence):
        test = trace.engine.by_id.get(test_id(item))
        if test is not None:
            return test.condition
    return None


def propose(
    trace: Trace, count: int = 1, skip: frozenset[str] = frozenset(), explained: int | None = None
) -> tuple[Proposal, ...]:
    """Return the best next tests by expected bits about the repair per minute.

    `skip` holds ids of tests that cannot be done (out of reach, tool or spare missing); only the first
    `explained` get what their answers would mean, all where it is None.
    """
    tables, bits = trace.information()
    done = {test_id(item) for item in trace.evidence} | skip
    state = present_state(trace)
    scored = []
    seen = {item.observable for item in trace.evidence if item.observable}
    for item, gain in zip(tables, bits, strict=True):
        if item.test.scene and seen & set(trace.engine.table.scenes[item.test.scene].seen):
            gain = gain * SEEN_BEFORE
        if gain < MIN_BITS or item.test.id in done:
            continue
        minutes = item.test.minutes + setup_minutes(state, item.test.condition, item.test.gates)
        scored.append((float(gain) / minutes, float(gain), minutes, item))
    scored.sort(key=lambda row: (-row[0], row[3].test.id))
    most = count if explained is None else explained
    return tuple(
        Proposal(item.test, gain, minutes, answers(trace, item) if n < most else ())
        for n, (_, gain, minutes, item) in enumerate(scored[:count])
    )


def answers(trace: Trace, item: OutcomeTable) -> tuple[Answer, ...]:
    """Return what each outcome of a test would mean, most likely first."""
    found = []
    groups = np.full(len(trace.belief), len(trace.suspects))
    for n, suspect in enumerate(trace.suspects):
        groups[list(suspect.members)] = n
    for k, outcome in enumerate(item.outcomes):
        likely = float(item.probability[k] @ trace.belief)
        if not outcome.evidence or likely < LEAST_ANSWER:
            continue
        after = posterior_after(item.probability[k], trace.belief)
        found.append(Answer(outcome, likely, meaning(trace, after, groups), k))
    return tuple(sorted(found, key=lambda a: -a.probability)[:MOST_ANSWERS])


def meaning(trace: Trace, after: NDArray[np.float64], groups: NDArray[np.int_]) -> str:
    """Return in words what a belief [H] points to; `groups` [H] says to which suspect a hypothesis
    belongs."""
    shares = np.bincount(groups, weights=after, minlength=len(trace.suspects) + 1)[: len(trace.suspects)]
    lead = [
        trace.suspects[n].title for n in np.argsort(-shares, kind="stable")[:2] if shares[n] > TELLING_SHARE
    ]
    return " or ".join(lead) if lead else f"still open, {int((shares > OPEN_SHARE).sum())} suspects"


def conclude(trace: Trace) -> Conclusion:
    """Return where the trace stands."""
    lead = trace.leading_repair
    repair = trace.engine.hypotheses.repairs[lead]
    probability = float(trace.repair_belief[lead])
    members = tuple(s for s in trace.suspects if s.repair.id == repair.id and s.probability > 0.01)
    if trace.stopped and repair.id not in ("none", "other"):
        return Conclusion("repair", repair, probability, members, proof_of(trace, repair.id))
    if trace.stopped:
        return Conclusion(
            "nothing-found" if repair.id == "none" else "not-modelled", repair, probability, members, None
        )
    if trace.engine.ready and not propose(trace, explained=0):
        likely = tuple(s for s in trace.suspects if s.probability > SUSPECT_PROBABILITY)
        return Conclusion("choose", repair, probability, likely, proof_of(trace, repair.id))
    return Conclusion("measure", repair, probability, members, None)


def proof_of(trace: Trace, repair_id: str) -> Proof | None:
    """Return the quickest test that must now give the healthy answer and did not before."""
    h = trace.engine.hypotheses
    members = [i for i, item in enumerate(h.items) if item.repair.id == repair_id and item.mode is not None]
    if not members:
        return None
    lead = max(members, key=lambda m: trace.belief[m])
    table = trace.engine.table
    for scene_id, scene in table.scenes.items():
        if scene.unplugged:
            continue
        seen = table.seen(scene_id)
        if any(codes[lead] != codes[0] for codes in seen.values()):
            words = []
            for name, codes in seen.items():
                class_id, text = OBSERVABLES[name].classes[int(codes[0])]
                words.append(look_words(trace.engine.bike, name, class_id, text))
            return Proof(scene.title, ", ".join(words), f"look {scene_id}")
    return _proof_by_meter(trace, lead)


def _proof_by_meter(trace: Trace, lead: int) -> Proof | None:
    best: tuple[float, OutcomeTable] | None = None
    for item in trace.engine.stack()[0]:
        if kind_of(item.test.kind).probes:
            apart = float(0.5 * np.abs(item.probability[:, lead] - item.probability[:, 0]).sum())
            if apart > PROVING and (best is None or item.test.minutes < best[0]):
                best = (item.test.minutes, item)
    if best is None:
        return None
    item = best[1]
    expected = item.outcomes[int(np.argmax(item.probability[:, 0]))].label
    return Proof(item.test.title, expected, item.test.id)


@dataclass(frozen=True, slots=True)
class Shift:
    """What one piece of evidence did: suspects it raised and lowered (title, before, after)."""

    raised: tuple[tuple[str, float, float], ...]
    lowered: tuple[tuple[str, float, float], ...]
    remaining: int


def shifts(trace: Trace) -> tuple[Shift, ...]:
    """Return per piece of evidence, in order, which suspects it moved."""
    prior = trace.engine.hypotheses.prior
    before = posterior(prior, [])
    found = []
    for k in range(len(trace.logs)):
        after = posterior(prior, trace.logs[: k + 1])
        rows = []
        for suspect in trace.suspects:
            members = list(suspect.members)
            rows.append((suspect.title, float(before[members].sum()), float(after[members].sum())))
        up = sorted((r for r in rows if r[2] - r[1] > MOVED), key=lambda r: r[1] - r[2])[:3]
        down = sorted((r for r in rows if r[1] - r[2] > MOVED), key=lambda r: r[2] - r[1])[:3]
        found.append(Shift(tuple(up), tuple(down), sum(r[2] > MOVED for r in rows)))
        before = after
    return tuple(found)


def expectation(trace: Trace, item: Evidence, hypothesis: int) -> str:
    """Return in words what a hypothesis would have given for a piece of evidence."""
    table = trace.engine.table
    if hypothesis >= table.count:
        return "anything"
    return kind_of(item.kind).expected(table, item, hypothesis)


def evidence_title(engine: Engine, item: Evidence) -> str:
    """Return a piece of evidence in words, without its value."""
    kind = kind_of(item.kind)
    listed = engine.by_id.get(kind.test_id(item))
    if listed is None or item.observable:
        return kind.title(engine.bench, item)
    return listed.title


def evidence_value(item: Evidence) -> str:
    """Return the value of a piece of evidence in words."""
    return kind_of(item.kind).value_words(item)
