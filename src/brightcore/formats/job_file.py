"""The job file: a bike, a job with its evidence and its log. Plain JSON, checked on the way in."""

from functools import cache

import jsonschema

from brightcore.bike.model import Bike
from brightcore.errors import FormatError, Problem
from brightcore.formats.bike_file import check_format, parse_json, read_bike, schema_problems
from brightcore.formats.job_schema import job_schema
from brightcore.formats.plain import Json, JsonObject
from brightcore.formats.schema import JOB_FORMAT, VERSION
from brightcore.kinds import REGISTRY


@cache
def _validator() -> Json:
    return jsonschema.Draft202012Validator(job_schema(REGISTRY))


def load_job(text: str | bytes) -> tuple[Bike, JsonObject]:
    """Return (bike, document) of a job file's text; raises FormatError listing every problem.

    Evidence is checked against the bike by the caller, who holds the engine.
    """
    document = parse_json(text)
    check_format(document, JOB_FORMAT)
    problems = []
    for p in schema_problems(_validator(), document):
        if not p.path.startswith("$.bike"):
            problems.append(p)
    bike = None
    if isinstance(document.get("bike"), dict):
        try:
            bike = read_bike(document["bike"], prefix="$.bike")
        except FormatError as error:
            problems = [*error.problems, *problems]
    if problems or bike is None:
        raise FormatError(tuple(problems))
    return bike, document


def check_parts(document: JsonObject, schemas: dict[str, JsonObject]) -> None:
    """Raise FormatError listing what is wrong with the parts of stations, by the schema of each."""
    problems = []
    for key, part in document["job"].get("stations", {}).items():
        path = f"$.job.stations.{key}"
        if key not in schemas:
            problems.append(
                Problem(path, f"no such station here; there are {', '.join(schemas) or 'none'}")
            )
            continue
        found = schema_problems(jsonschema.Draft202012Validator(schemas[key]), part)
        for problem in found:
            problems.append(Problem(path + problem.path.removeprefix("$"), problem.message))
    if problems:
        raise FormatError(tuple(problems))


SINCE = {
    "set": 2,
    "program": 3,
    "prove": 3,
    "plan": 3,
    "offers": 3,
    "costs": 3,
    "warranty": 3,
    "way": 4,
}
"""The version of the job file since which a part may stand in it."""


def version_of(job: JsonObject) -> int:
    """Return the oldest version of the job file that can say a job."""
    said = [*job.get("stations", {}), *(name for name in SINCE if name in job)]
    return max([VERSION, *(SINCE[key] for key in said if key in SINCE)])


def job_document(
    bike: JsonObject, job: JsonObject, evidence: list[Json], log: list[Json]
) -> JsonObject:
    """Return the JSON document of a job."""
    return {
        "format": JOB_FORMAT,
        "version": version_of(job),
        "bike": bike,
        "job": job,
        "evidence": evidence,
        "log": log,
    }
