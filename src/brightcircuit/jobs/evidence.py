"""Evidence rows to core evidence and back. The rows themselves are of the Trace station."""

from collections.abc import Iterable
from datetime import datetime
from typing import Protocol, TypeVar
from uuid import UUID

from brightcore.formats.case_file import evidence_document
from brightcore.formats.plain import JsonObject
from brightcore.tracing.evidence import Evidence


class EvidenceRow(Protocol):
    """What is read of a row."""

    pk: int
    uuid: UUID
    client: str
    round: int
    kind: str
    value: str
    condition: str
    red: str
    black: str
    scene: str
    observable: str
    subject: str
    meter: str
    sometimes: bool
    told: bool
    state: str
    questioned: str
    words: str
    of: str
    at: datetime
    by_id: int
    by_name: str
    minutes: float
    undone: bool


R = TypeVar("R", bound=EvidenceRow)


def entry_fields(item: Evidence) -> JsonObject:
    """Return the model fields of core evidence."""
    return {
        "kind": item.kind,
        "value": item.value,
        "condition": item.condition,
        "red": item.red,
        "black": item.black,
        "scene": item.scene,
        "observable": item.observable,
        "subject": item.subject,
        "sometimes": item.sometimes,
        "meter": item.meter,
        "told": item.told,
        "state": item.state,
    }


def core_evidence(row: EvidenceRow) -> Evidence:
    """Return the core evidence of a row."""
    return Evidence(
        row.kind,
        row.value,
        row.condition,
        row.red,
        row.black,
        row.scene,
        row.observable,
        row.subject,
        row.sometimes,
        row.meter,
        row.told,
        row.state,
    )


def active(rows: Iterable[R], round_number: int) -> list[R]:
    """Return the rows that count in a round."""
    return [row for row in current_rows(rows, round_number) if not row.questioned]


def current_rows(rows: Iterable[R], round_number: int) -> list[R]:
    """Return the rows of a round that were not undone, those in question among them."""
    return [row for row in rows if row.round == round_number and not row.undone]


def entry_document(row: EvidenceRow) -> JsonObject:
    """Return a row as job-file evidence."""
    return (
        evidence_document(core_evidence(row))
        | {
            "uuid": str(row.uuid),
            "round": row.round,
            "at": row.at.isoformat(),
            "by": row.by_name,
            "undone": row.undone,
            "minutes": row.minutes,
            "questioned": row.questioned,
        }
        | ({"words": row.words} if row.words else {})
    )
