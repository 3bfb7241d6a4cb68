"""The case file: a bike, a complaint and evidence; and evidence to and from plain JSON."""

from dataclasses import asdict, dataclass, fields
from functools import cache

import jsonschema

from brightcore.bike.model import Bike
from brightcore.errors import BrightError, FormatError, Problem
from brightcore.formats.bike_file import check_format, parse_json, read_bike, schema_problems
from brightcore.formats.bike_writing import bike_document
from brightcore.formats.plain import Json, JsonObject
from brightcore.formats.schema import CASE_FORMAT, VERSION, case_schema
from brightcore.kinds import REGISTRY
from brightcore.simulation.table import Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import validate


@dataclass(frozen=True, slots=True)
class Case:
    """What a case file holds."""

    bike: Bike
    complaint: str
    evidence: tuple[Evidence, ...]


@cache
def _validator() -> Json:
    return jsonschema.Draft202012Validator(case_schema(REGISTRY))


def load_case(text: str | bytes) -> Case:
    """Return the case in a file's text; raises FormatError listing every problem."""
    document = parse_json(text)
    check_format(document, CASE_FORMAT)
    problems = []
    for p in schema_problems(_validator(), document):
        if not p.path.startswith("$.bike"):
            problems.append(p)
    try:
        if "bike" not in document:
            raise FormatError(())
        bike = read_bike(document["bike"], prefix="$.bike")
    except FormatError as error:
        raise FormatError((*error.problems, *problems)) from None
    if problems:
        raise FormatError(tuple(problems))
    rows = []
    for item in document.get("evidence", ()):
        rows.append(read_evidence(item))
    evidence = tuple(rows)
    return Case(bike, document.get("complaint", ""), evidence)


def check_evidence(
    table: Table, evidence: tuple[Evidence, ...], prefix: str = "$.evidence"
) -> None:
    """Raise FormatError where evidence names what the bike does not have."""
    problems = []
    for i, item in enumerate(evidence):
        try:
            validate(table, item)
        except BrightError as error:
            problems.append(Problem(f"{prefix}[{i}]", str(error)))
    if problems:
        raise FormatError(tuple(problems))


def read_evidence(raw: JsonObject) -> Evidence:
    """Return the evidence in one JSON object that has passed the schema."""
    known = {f.name for f in fields(Evidence)}
    return Evidence(**{k: v for k, v in raw.items() if k in known})


def evidence_document(item: Evidence) -> JsonObject:
    """Return evidence as a JSON object without empty fields."""
    return {k: v for k, v in asdict(item).items() if v not in ("", False)}


def case_document(case: Case) -> JsonObject:
    """Return the JSON document of a case."""
    return {
        "format": CASE_FORMAT,
        "version": VERSION,
        "bike": bike_document(case.bike),
        "complaint": case.complaint,
        "evidence": [evidence_document(item) for item in case.evidence],
    }
