"""The suspects and the evidence beside a test, as plain values."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.evidence import core_evidence
from brightcircuit.stations.frame import percent
from brightcircuit.trace.testcard import minutes_words
from brightcore.circuit.faults import RepairKind
from brightcore.tracing.advice import evidence_title, evidence_value, expectation, shifts
from brightcore.tracing.context import is_ticked
from brightcore.tracing.hypotheses import fault_class
from brightcore.tracing.pairs import pair_explanations
from brightcore.tracing.suspects import Suspect
from brightcore.tracing.tests import test_id
from brightcore.tracing.trace import Trace

SUSPECT_BAR_WIDTH = 420


@dataclass(frozen=True)
class SuspectRow:
    """One line of the ranking."""

    title: str
    percent: str
    bar: int
    repair: RepairKind
    minutes: str
    reasons: list[dict[str, str]]
    lead: int
    confirmed: int
    id: str
    special: bool
    together: list[tuple[str, str, RepairKind]] = field(default_factory=list)


MOST_NAMED = 3
"""Suspects of one line that are named in its title."""


def line_title(line: Sequence[Suspect]) -> str:
    """Return the title of a line of suspects that no test tells apart."""
    titles = [suspect.title for suspect in line]
    if len(titles) > MOST_NAMED:
        titles = [*titles[: MOST_NAMED - 1], f"{len(titles) - MOST_NAMED + 1} more"]
    if len(titles) > 1:
        return " or ".join([", ".join(titles[:-1]), titles[-1]])
    return titles[0]


def line_row(trace: Trace, line: Sequence[Suspect], confirmed: dict[str, int]) -> SuspectRow:
    """Return one line of the ranking: a suspect, or several that no test tells apart."""
    row = suspect_row(trace, line[0], confirmed)
    share = sum(suspect.probability for suspect in line)
    return replace(
        row,
        title=line_title(line),
        percent=percent(share),
        bar=round(SUSPECT_BAR_WIDTH * share),
        together=[(s.title, percent(s.probability), s.repair) for s in line]
        if len(line) > 1
        else [],
    )


def suspect_row(trace: Trace, suspect: Suspect, confirmed: dict[str, int]) -> SuspectRow:
    """Return one line of the ranking with its reasons and how often the shop confirmed its
    class."""
    lead = max(suspect.members, key=lambda m: trace.belief[m])
    reasons = []
    for e in trace.evidence:
        reasons.append(
            {
                "title": evidence_title(trace.engine, e),
                "value": evidence_value(e),
                "expected": expectation(trace, e, lead),
            }
        )
    mode = trace.engine.hypotheses.items[lead].mode
    if mode:
        seen = confirmed.get(fault_class(mode), 0)
    else:
        seen = 0
    return SuspectRow(
        title=suspect.title,
        percent=percent(suspect.probability),
        bar=round(SUSPECT_BAR_WIDTH * suspect.probability),
        repair=suspect.repair,
        minutes=minutes_words(suspect.repair.minutes),
        reasons=reasons,
        lead=lead,
        confirmed=seen,
        id=suspect.id,
        special=mode is None,
    )


@dataclass(frozen=True, slots=True)
class QuestionedLine:
    """A reading that cannot be as typed: kept, not used."""

    id: int
    title: str
    value: str
    questioned: str
    by: str
    at: datetime


@dataclass(frozen=True, slots=True)
class EvidenceLine:
    """A piece of evidence with what it moved."""

    id: int
    title: str
    value: str
    odd: bool
    ticked: bool
    from_station: str
    moved: list[str]
    by: str
    at: datetime
    remaining: int


def evidence_rows(trace: Trace, found: JobTrace) -> list[EvidenceLine | QuestionedLine]:
    """Return the evidence list, newest first, with what each piece moved."""
    if trace.contradictory:
        odd = {i for i, _ in trace.contradicting}
    else:
        odd = set()
    rows = []
    for i, (entry, item, shift) in enumerate(
        zip(found.entries, trace.evidence, shifts(trace), strict=True)
    ):
        moved = [f"{t}: {percent(a)} → {percent(b)}" for t, a, b in (*shift.raised, *shift.lowered)]
        rows.append(
            EvidenceLine(
                id=entry.pk,
                title=evidence_title(trace.engine, item),
                value=evidence_value(item),
                odd=i in odd,
                ticked=is_ticked(item),
                from_station=_station_of(entry.client),
                moved=moved,
                by=entry.by_name,
                at=entry.at,
                remaining=shift.remaining,
            )
        )
    return [*_in_question(trace, found), *rows[::-1]]


STATIONS = {"set": "Set", "program": "Program"}
"""Stations whose readings are evidence here as well, by the mark that they leave."""


def _station_of(client: str) -> str:
    """Return the station that a reading comes from, "" where it was taken here."""
    return STATIONS.get(client.partition("-")[0], "")


def _in_question(trace: Trace, found: JobTrace) -> list[QuestionedLine]:
    """Return readings that cannot be as typed: kept, not used, with why."""
    rows = []
    for entry in found.questioned:
        item = core_evidence(entry)
        rows.append(
            QuestionedLine(
                id=entry.pk,
                title=evidence_title(trace.engine, item),
                value=evidence_value(item),
                questioned=entry.questioned,
                by=entry.by_name,
                at=entry.at,
            )
        )
    return rows


@dataclass(frozen=True, slots=True)
class OddReading:
    """A reading that does not fit, and the test that repeats it."""

    title: str
    value: str
    minutes: float
    test: str


@dataclass(frozen=True, slots=True)
class Pair:
    """Two faults that explain the evidence together."""

    first: str
    second: str
    percent: str


@dataclass(frozen=True, slots=True)
class ContradictionCard:
    """What does not fit together: the readings, cheapest to repeat first, and pairs of faults."""

    readings: list[OddReading]
    pairs: list[Pair]


def contradiction_card(trace: Trace) -> ContradictionCard | None:
    """Return what does not fit together, the cheapest reading to repeat, and pairs of faults."""
    if not trace.contradictory:
        return None
    rows: list[OddReading] = []
    for i, _ in trace.contradicting:
        item = trace.evidence[i]
        test = trace.engine.by_id.get(test_id(item))
        rows.append(
            OddReading(
                title=evidence_title(trace.engine, item),
                value=evidence_value(item),
                minutes=test.minutes if test else 9.0,
                test=test.id if test else "",
            )
        )
    rows.sort(key=lambda r: r.minutes)
    pairs = []
    for a, b, w in pair_explanations(trace):
        pairs.append(
            Pair(
                first=a,
                second=b,
                percent=percent(w),
            )
        )
    return ContradictionCard(
        readings=rows,
        pairs=pairs,
    )
