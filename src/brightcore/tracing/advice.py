"""What to do next, and why: the next test, what each answer would mean, the repair and its proof."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.belief.bayes import posterior, posterior_after
from brightcore.bike.kind import RepairKind
from brightcore.circuit.conditions import Condition
from brightcore.tracing.engine import SUSPECT_PROBABILITY, Suspect, Trace
from brightcore.tracing.evidence import Evidence, predict
from brightcore.tracing.hypotheses import NO_FAULT, NOT_MODELLED
from brightcore.tracing.outcomes import Outcome, OutcomeTable, look_words, question_words
from brightcore.tracing.tests import Test, where
from brightcore.units import format_quantity

SEEN_BEFORE = 0.25
"""Worth of a look whose observables were seen in another scene: not independent of it."""

MIN_BITS = 0.01
"""Expected information below which a test is not worth proposing."""


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
        minutes += 1.2
    elif before.power != after.power:
        minutes += 0.2
    minutes += 0.6 * len(set(before.unplugged) ^ set(after.unplugged))
    if "wheel_up" in gates and before.power != "on":
        minutes += 0.4
    return minutes


def present_state(trace: Trace) -> Condition | None:
    """Return the bike's state after the last evidence, None before any."""
    for item in reversed(trace.evidence):
        test = trace.engine.by_id.get(item.test_id)
        if test is not None:
            return test.condition
    return None


def propose(trace: Trace, count: int = 1, skip: frozenset[str] = frozenset(), explained: int | None = None) -> tuple[Proposal, ...]:
    """Return the best next tests by expected bits about the repair per minute.

    `skip` holds ids of tests that cannot be done (out of reach, tool or spare missing); only the first `explained` get
    what their answers would mean, all where it is None.
    """
    tables, bits = trace.information()
    done = {item.test_id for item in trace.evidence} | skip
    state = present_state(trace)
    scored = []
    seen = {item.observable for item in trace.evidence if item.kind == "look"}
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
        if not outcome.evidence or likely < 0.005:
            continue
        after = posterior_after(item.probability[k], trace.belief)
        found.append(Answer(outcome, likely, meaning(trace, after, groups), k))
    return tuple(sorted(found, key=lambda a: -a.probability)[:6])


def meaning(trace: Trace, after: NDArray[np.float64], groups: NDArray[np.int_]) -> str:
    """Return in words what a belief [H] points to; `groups` [H] says to which suspect a hypothesis belongs."""
    shares = np.bincount(groups, weights=after, minlength=len(trace.suspects) + 1)[: len(trace.suspects)]
    lead = [trace.suspects[n].title for n in np.argsort(-shares, kind="stable")[:2] if shares[n] > 0.15]
    return " or ".join(lead) if lead else f"still open, {int((shares > 0.02).sum())} suspects"


def conclude(trace: Trace) -> Conclusion:
    """Return where the trace stands."""
    lead = trace.leading_repair
    repair = trace.engine.hypotheses.repairs[lead]
    probability = float(trace.repair_belief[lead])
    members = tuple(s for s in trace.suspects if s.repair.id == repair.id and s.probability > 0.01)
    if trace.stopped and repair.id not in ("none", "other"):
        return Conclusion("repair", repair, probability, members, proof_of(trace, repair.id))
    if trace.stopped:
        return Conclusion("nothing-found" if repair.id == "none" else "not-modelled", repair, probability, members, None)
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
        if item.test.red:
            apart = float(0.5 * np.abs(item.probability[:, lead] - item.probability[:, 0]).sum())
            if apart > 0.8 and (best is None or item.test.minutes < best[0]):
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
        up = sorted((r for r in rows if r[2] - r[1] > 0.01), key=lambda r: r[1] - r[2])[:3]
        down = sorted((r for r in rows if r[1] - r[2] > 0.01), key=lambda r: r[2] - r[1])[:3]
        found.append(Shift(tuple(up), tuple(down), sum(r[2] > 0.01 for r in rows)))
        before = after
    return tuple(found)


def expectation(trace: Trace, item: Evidence, hypothesis: int) -> str:
    """Return in words what a hypothesis would have given for a piece of evidence."""
    table = trace.engine.table
    if hypothesis >= table.count:
        return "anything"
    if item.kind == "look":
        code = int(table.seen(item.scene)[item.observable][hypothesis])
        return OBSERVABLES[item.observable].classes[code][1]
    if item.kind in ("inspect", "swap"):
        return ""
    from brightcore.circuit.conditions import parse_condition

    condition = parse_condition(trace.engine.circuit, item.condition)
    unit = "Ω" if item.kind == "ohms" else "V"
    found = predict(table, item.kind, condition, item.red, item.black)
    words = [format_quantity(float(p.mean[hypothesis]), unit) for p in found]
    text = " to ".join(dict.fromkeys(words))
    return f"{text} (floating)" if bool(found[0].floating[hypothesis]) and unit == "V" else text


def evidence_title(trace: Trace, item: Evidence) -> str:
    """Return a piece of evidence in words, without its value."""
    engine = trace.engine
    if item.kind == "look":
        scene = engine.table.scenes[item.scene]
        test = engine.by_id[f"look {item.scene}"]
        return f"{question_words(engine.bike, item.observable)[:-1]} — {(test.title if scene.unplugged else scene.title).lower()}"
    if item.test_id in engine.by_id:
        return engine.by_id[item.test_id].title
    nets = engine.nets
    return (
        f"{'Ohms' if item.kind == 'ohms' else 'Volts'} from {nets.title(item.red)} ({where(engine.circuit, item.red)}) "
        f"to {nets.title(item.black)} ({where(engine.circuit, item.black)})"
    )


def evidence_value(item: Evidence) -> str:
    """Return the value of a piece of evidence in words."""
    if item.kind == "look":
        words = OBSERVABLES[item.observable].words(item.value)
        return f"{words}, sometimes" if item.sometimes else words
    if item.kind == "inspect":
        return {"good": "looks good", "damaged": "damage or wrong setting"}[item.value]
    if item.kind == "swap":
        return {"gone": "trouble gone", "same": "the same"}[item.value]
    unit = "Ω" if item.kind == "ohms" else "V"
    bare = item.value.replace(".", "").replace(",", "").replace(" to ", "").replace("-", "").strip()
    return f"{item.value} {unit}" if bare.isdigit() else item.value


SPECIAL = (NO_FAULT, NOT_MODELLED)
