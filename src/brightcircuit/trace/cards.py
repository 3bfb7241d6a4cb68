"""What the Trace page shows, as plain values for its templates."""

from dataclasses import dataclass

from django.db.models import QuerySet
from django.http import QueryDict

from brightcircuit.common.shown import Context, Shown
from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.dangers import standing_dangers
from brightcircuit.jobs.models import Job, Repair
from brightcircuit.jobs.repairs import RepairPlan, confirmed_counts, pending_repair
from brightcircuit.jobs.safety import Block, blocks
from brightcircuit.library.models import StockItem
from brightcircuit.library.queries import on_shelf, parts
from brightcircuit.stations.frame import percent
from brightcircuit.trace.places import place_of_test
from brightcircuit.trace.ranking import (
    ContradictionCard,
    EvidenceLine,
    QuestionedLine,
    SuspectRow,
    contradiction_card,
    evidence_rows,
    line_row,
)
from brightcircuit.trace.testcard import TestCard, chosen_proposal, minutes_words, test_card
from brightcore.bike.model import Bike
from brightcore.circuit.faults import RepairKind
from brightcore.describing.on_line import kinds_on
from brightcore.formats.engine_version import engine_version
from brightcore.kinds import REGISTRY
from brightcore.tracing.acts import act_of_test
from brightcore.tracing.advice import evidence_title, evidence_value, minutes_left, propose
from brightcore.tracing.beside import options_beside
from brightcore.tracing.endings import Conclusion, conclude
from brightcore.tracing.hypotheses import fault_class
from brightcore.tracing.proving import Proof, proof_of
from brightcore.tracing.stakes import in_vain
from brightcore.tracing.suspects import Suspect
from brightcore.tracing.trace import Trace

MOST_SUSPECTS, LEAST_SHOWN = 8, 0.005
"""Lines of the ranking at most, and their least belief."""


@dataclass(frozen=True, slots=True)
class LeftOut:
    """What the model leaves out of a kind of part."""

    kind: str
    what: str


def left_out(trace: Trace) -> list[LeftOut]:
    """Return what the model leaves out, by kind of part on this bike."""
    kinds = {part.kind: REGISTRY[part.kind] for part in trace.engine.bike.parts}
    return [
        LeftOut(
            kind=kind.title,
            what=", ".join(kind.not_modelled),
        )
        for kind in kinds.values()
    ]


def _lines(trace: Trace) -> tuple[tuple[Suspect, ...], ...]:
    """Return the ranking; while tests are still worked out nobody can say what they tell apart."""
    if trace.engine.ready:
        return trace.lines
    return tuple((s,) for s in trace.suspects)


@dataclass(frozen=True, slots=True)
class Way:
    """Repair or replace: title, usual parts cost, minutes."""

    title: str
    parts: str
    minutes: str


def ways_on(bike: Bike, repair: RepairKind) -> list[Way]:
    """Return the repair beside replacing the part that it is about, and the whole bike."""
    found: list[Way] = []
    for option in options_beside(bike, repair):
        found.append(Way(option.title, f"{option.parts_cost:.0f}", f"{option.minutes:.0f} min"))
    return found


@dataclass(frozen=True, slots=True)
class MemberRow:
    """A suspect that a repair would put right."""

    title: str
    percent: str
    repair: RepairKind


@dataclass(frozen=True, slots=True)
class UnprovenRow:
    """A suspect that nothing has shown yet."""

    title: str
    percent: str


@dataclass(frozen=True, slots=True)
class VainRow:
    """What a repair loses where it is the wrong one: how often, minutes, parts ("" for none)."""

    action: str
    percent: str
    minutes: str
    parts: str


def vain_row(repair: RepairKind, probability: float) -> VainRow:
    """Return what a repair that is this probable may lose, in words."""
    lost = in_vain(repair, probability)
    parts = f"{lost.parts:.0f}" if lost.parts else ""
    return VainRow(repair.action, percent(lost.share), minutes_words(lost.minutes), parts)


@dataclass(frozen=True, slots=True)
class ConclusionCard:
    """What Trace concludes, with what it costs and what stands beside it."""

    status: str
    repair: RepairKind
    percent: str
    members: list[MemberRow]
    proof: Proof | None
    minutes: str
    in_vain: VainRow
    against: list[str]
    second: str
    unasked: str
    ways: list[Way]
    on_line: list[tuple[str, str]]
    alike: list[tuple[str, str]]
    shelf: QuerySet[StockItem] | list[StockItem]
    proven: tuple[str, ...]
    unproven: list[UnprovenRow]


def conclusion_card(trace: Trace, conclusion: Conclusion) -> ConclusionCard | None:
    """Return the card of a conclusion, None while there is something to measure."""
    bike = trace.engine.bike
    if conclusion.status == "measure" or conclusion.repair is None:
        return None
    own_members = []
    for s in conclusion.members:
        own_members.append(
            MemberRow(
                title=s.title,
                percent=percent(s.probability),
                repair=s.repair,
            )
        )
    on_line = []
    for kind in kinds_on(conclusion.repair.id):
        on_line.append((kind, REGISTRY[kind].title.lower()))
    return ConclusionCard(
        status=conclusion.status,
        repair=conclusion.repair,
        percent=percent(conclusion.probability),
        members=own_members,
        proof=conclusion.proof,
        minutes=minutes_words(conclusion.repair.minutes),
        in_vain=vain_row(conclusion.repair, conclusion.probability),
        against=_against(trace, conclusion),
        second=conclusion.second,
        unasked=conclusion.unasked,
        ways=ways_on(bike, conclusion.repair),
        on_line=on_line,
        alike=alike(bike, conclusion.repair),
        shelf=on_shelf() if conclusion.repair.replaces else [],
        proven=conclusion.proven,
        unproven=[
            UnprovenRow(
                title=s.title,
                percent=percent(s.probability),
            )
            for s in conclusion.unproven
        ],
    )


def _against(trace: Trace, conclusion: Conclusion) -> list[str]:
    """Return what was read, and read again, that the repair to be named does not explain."""
    if conclusion.status != "repair" or conclusion.second:
        return []
    found = []
    for index in sorted({*trace.odd, *(i for i, _ in trace.contradicting)} & set(trace.now)):
        item = trace.evidence[index]
        found.append(f"{evidence_title(trace.engine, item)}: {evidence_value(item)}")
    return found


def alike(bike: Bike, repair: RepairKind) -> list[tuple[str, str]]:
    """Return (slug, name) of what the library has in the place of the part that a repair
    replaces."""
    if not repair.replaces:
        return []
    kind = next((part.kind for part in bike.parts if part.id == repair.replaces), "")
    if kind:
        return list(parts(kind).order_by("name").values_list("slug", "name"))
    return []


def repair_plan(trace: Trace, repair_id: str) -> RepairPlan | None:
    """Return the plan of a repair with the ranking, reasons and engine version frozen."""
    h = trace.engine.hypotheses
    members = [i for i, item in enumerate(h.items) if item.repair.id == repair_id]
    if not members:
        return None
    lead = max(members, key=lambda m: trace.belief[m])
    item = h.items[lead]
    proof = proof_of(trace, repair_id)
    ranking = []
    for s in trace.suspects[:6]:
        ranking.append({"title": s.title, "probability": round(s.probability, 4)})
    reasons = []
    for e in trace.evidence:
        reasons.append({"title": evidence_title(trace.engine, e), "value": evidence_value(e)})
    frozen = {
        "engine": engine_version(),
        "fault": item.title,
        "minutes": item.repair.minutes,
        "cost_level": item.repair.cost_level,
        "probability": float(trace.belief[members].sum()),
        "ranking": ranking,
        "reasons": reasons,
    }
    return RepairPlan(
        repair_id,
        item.repair.action,
        item.repair.root_cause,
        item.id,
        fault_class(item.mode) if item.mode else "",
        proof.title if proof else "",
        proof.expected if proof else "",
        frozen,
    )


def proof_card(job: Job) -> Repair | None:
    """Return the repair of this round that waits for its proof."""
    return pending_repair(job)


@dataclass(frozen=True, slots=True)
class OtherTest:
    """A test that may be done instead."""

    id: str
    title: str
    minutes: str


@dataclass(frozen=True)
class TracePage(Shown):
    """What Trace shows once the engine can answer."""

    conclusion: ConclusionCard | None
    instead: VainRow | None
    card: TestCard | None
    others: list[OtherTest]
    suspects: list[SuspectRow]
    suspect_count: int
    suspect_total: int
    evidence: list[EvidenceLine | QuestionedLine]
    contradiction: ContradictionCard | None
    left_out: list[LeftOut]
    minutes_to_go: int | None
    skipped: int
    computing: bool
    left_out_states: int
    held: list[Block]


def trace_context(
    job: Job,
    found: JobTrace,
    wanted: str,
    typed: QueryDict | None = None,
    errors: dict[str, str] | None = None,
) -> Context:
    """Return everything the Trace page needs once the engine can answer."""
    trace = found.trace
    assert trace is not None
    confirmed = confirmed_counts()
    with found.holder.lock:
        conclusion = conclude(trace)
        held = _held(job, trace)
        best = propose(trace, 8, held.tests, explained=1)
        chosen = chosen_proposal(trace, best, wanted)
        show_test = chosen is not None and (bool(wanted) or conclusion.status == "measure")
        context: Context = TracePage(
            conclusion=conclusion_card(trace, conclusion) if not wanted else None,
            instead=_instead(trace, conclusion),
            card=test_card(job, trace, chosen, typed, errors or {})
            if show_test and chosen
            else None,
            others=[
                OtherTest(
                    id=p.test.id,
                    title=p.test.title,
                    minutes=minutes_words(p.minutes),
                )
                for p in best
                if chosen is None or p.test.id != chosen.test.id
            ],
            suspects=[
                line_row(trace, line, confirmed)
                for line in _lines(trace)[:MOST_SUSPECTS]
                if sum(s.probability for s in line) >= LEAST_SHOWN
            ],
            suspect_count=sum(s.is_left for s in trace.suspects),
            suspect_total=len(trace.suspects),
            evidence=evidence_rows(trace, found),
            # "It does not fit" and "found" never stand together: what speaks against a repair
            # that is named is told with it.
            contradiction=None
            if conclusion.status == "repair" and not conclusion.second
            else contradiction_card(trace),
            left_out=left_out(trace),
            minutes_to_go=minutes_left(trace, best),
            skipped=len(job.skipped_tests),
            computing=not found.holder.finished.is_set(),
            left_out_states=found.holder.left_out,
            held=held.why,
        ).context()
    return context


LIKELY = 0.3
"""Belief from which a repair is one that somebody would be tempted to make now."""


def _instead(trace: Trace, conclusion: Conclusion) -> VainRow | None:
    """Return what the likeliest repair may lose if it is made now instead of the next test, None
    where nothing is likely yet."""
    if conclusion.status != "measure" or trace.names_nothing:
        return None
    repair = trace.engine.hypotheses.repairs[trace.leading_repair]
    probability = float(trace.repair_belief[trace.leading_repair])
    if probability < LIKELY or repair.describes:
        return None
    return vain_row(repair, probability)


@dataclass(frozen=True, slots=True)
class Held:
    """Tests that are not proposed while a danger finding stands, and what stands."""

    tests: frozenset[str]
    why: list[Block]


def _held(job: Job, trace: Trace) -> Held:
    """Return what waits while a danger of the wiring stands: everything powered.

    While the pack itself is in question nothing is held back here: that stands in place of the
    test.
    """
    standing = blocks(job)
    if not standing or any(block.kind in ("quarantine", "triage") for block in standing):
        return Held(frozenset(), [])
    again = {danger.place for danger in standing_dangers(job)}
    rows = []
    for test in trace.engine.tests:
        if act_of_test(trace.engine, test).needs_safe_pack and place_of_test(test) not in again:
            rows.append(test.id)
    powered = frozenset(rows)
    if len(powered) < len(trace.engine.tests):
        return Held(powered, standing)
    return Held(frozenset(), [])
