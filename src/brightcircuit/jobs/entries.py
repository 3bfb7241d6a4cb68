"""Making a row of evidence: every one of them is made here, with the words and the description of
its day.

What is read later says what was read then: neither a new name nor another part in its place changes
the record.
"""

from datetime import datetime

from brightcircuit.bikes.translate import circuit_of
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.evidence import EvidenceRow, entry_fields
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import drawn_of, key_of
from brightcircuit.shop.models import Person
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.plain_words import plain_bench, plain_title

MOST_WORDS = 300


def new_entry(
    job: Job,
    actor: Person,
    item: Evidence,
    *,
    at: datetime | None = None,
    minutes: float = 0.0,
    client: str = "",
    questioned: str = "",
) -> EvidenceRow:
    """Store one piece of evidence of the present round; returns its row."""
    row: EvidenceRow = job.evidence.create(
        round=job.round,
        at=at or now(),
        by=actor,
        by_name=str(actor),
        minutes=minutes,
        client=client,
        questioned=questioned,
        words=words_now(job, item),
        of=key_of(job),
        **entry_fields(item),
    )
    return row


def carried(job: Job, row: EvidenceRow, item: Evidence) -> None:
    """Let evidence of an earlier round stand in this one, with who made it, when, and in which
    words."""
    job.evidence.create(
        round=job.round,
        at=row.at,
        by_id=row.by_id,
        by_name=row.by_name,
        questioned=row.questioned,
        words=row.words,
        of=row.of,
        **entry_fields(item),
    )


def words_now(job: Job, item: Evidence) -> str:
    """Return evidence in words without its value, as the bike is described now."""
    repairs = {}
    for row in job.repairs.all():
        repairs[row.repair] = row.action
        if row.made:
            repairs[f"part:{row.made}"] = row.action
    return plain_title(plain_bench(circuit_of(drawn_of(job))), item, repairs)[:MOST_WORDS]
