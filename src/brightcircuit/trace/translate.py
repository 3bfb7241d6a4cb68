"""Evidence rows to core evidence and back."""

from collections.abc import Iterable
from typing import Any

from brightcircuit.trace.models import Entry
from brightcore.formats.case_file import evidence_document
from brightcore.tracing.evidence import Evidence


def entry_fields(item: Evidence) -> dict[str, Any]:
    """Return the model fields of core evidence."""
    return {
        "kind": item.kind, "value": item.value, "condition": item.condition, "red": item.red, "black": item.black,
        "scene": item.scene, "observable": item.observable, "subject": item.subject, "sometimes": item.sometimes,
    }  # fmt: skip


def core_evidence(entry: Entry) -> Evidence:
    """Return the core evidence of a row."""
    return Evidence(
        entry.kind, entry.value, entry.condition, entry.red, entry.black, entry.scene, entry.observable,
        entry.subject, entry.sometimes,
    )  # fmt: skip


def active(entries: Iterable[Entry], round_number: int) -> list[Entry]:
    """Return the entries that count in a round."""
    return [e for e in entries if e.round == round_number and not e.undone]


def entry_document(entry: Entry) -> dict[str, Any]:
    """Return a row as job-file evidence."""
    return evidence_document(core_evidence(entry)) | {
        "uuid": str(entry.uuid), "round": entry.round, "at": entry.at.isoformat(), "by": entry.by_name,
        "undone": entry.undone, "minutes": entry.minutes,
    }  # fmt: skip
