"""Rows of practice to core objects and back, and the bikes that can be practised on."""

from dataclasses import asdict
from functools import lru_cache
from pathlib import Path
from typing import Any
from uuid import UUID

from brightcircuit.bikes.models import Bike, Revision
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.practice.models import Round
from brightcore.bike.model import Bike as CoreBike
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.errors import UnknownNameError
from brightcore.formats.bike_file import load_bike
from brightcore.practice.case import Case
from brightcore.practice.graded import graded_case
from brightcore.practice.score import Acted, Debrief, Told, Way
from brightcore.practice.state import State, read_state
from brightcore.tracing.evidence import Evidence

SHIPPED = Path(__file__).parent.parent / "demo"
"""Bikes that ship as files."""

OF_SHOP = "shop-"
"""Begins the key of a bike of the shop: the rest is its UUID."""


@lru_cache(maxsize=1)
def shipped() -> dict[str, str]:
    """Return the bikes that ship, as files and as patterns: key → title."""
    files = {}
    for path in sorted(SHIPPED.glob("*.json")):
        files[path.stem] = load_bike(path.read_bytes()).info
    named = {key: f"{info.label}: {info.description}" for key, info in files.items()}
    return named | {key: title for key, (title, _) in PATTERNS.items()}


@lru_cache(maxsize=24)
def shipped_bike(key: str) -> CoreBike:
    """Return a bike that ships; raises UnknownNameError."""
    if key in PATTERNS:
        return make_pattern(key, PATTERNS[key][0])
    path = SHIPPED / f"{key}.json"
    if key not in shipped():
        raise UnknownNameError("bike", key, tuple(shipped()))
    return load_bike(path.read_bytes())


def revision_of(key: str) -> Revision | None:
    """Return the description of a bike of the shop by its key, None where the key is of a shipped
    one.

    Raises UnknownNameError where the shop does not have it.
    """
    if not key.startswith(OF_SHOP):
        return None
    try:
        bike = Bike.objects.filter(uuid=UUID(key.removeprefix(OF_SHOP))).first()
    except ValueError:
        bike = None
    if bike is None:
        raise UnknownNameError("bike of this shop", key, ())
    return latest_revision(bike)


def case_of(row: Round) -> Case:
    """Return the case of a round."""
    if row.revision:
        bike = core_bike(row.revision)
    else:
        bike = shipped_bike(row.bike)
    if row.graded:
        return graded_case(row.graded, bike)
    return Case(bike, row.sort, row.seed)


def state_of(row: Round) -> State:
    """Return the state of a round."""
    return read_state(row.state)


def acted_document(acted: Acted, key: str, said: str) -> dict[str, Any]:
    """Return an act as JSON has it; what is as usual is left out."""
    evidence = []
    for item in acted.evidence:
        evidence.append({k: v for k, v in asdict(item).items() if v})
    return {
        "key": key,
        "said": said,
        "title": acted.title,
        "words": acted.words,
        "minutes": acted.minutes,
        "evidence": evidence,
        "hazard": acted.hazard,
        "repair": acted.repair,
        "cost": acted.cost,
    }


def acts_of(row: Round) -> list[Acted]:
    """Return the acts of a round."""
    found: list[Acted] = []
    for raw in row.acts:
        found.append(
            Acted(
                raw["title"],
                raw["words"],
                raw["minutes"],
                tuple(Evidence(**{"value": "", **item}) for item in raw["evidence"]),
                raw["hazard"],
                raw["repair"],
                raw["cost"],
            )
        )
    return found


def debrief_document(found: Debrief) -> dict[str, Any]:
    """Return a debrief as JSON has it: the evidence of its acts is with the round."""
    document = asdict(found)
    for row in document["rows"]:
        row["acted"] = {
            k: row["acted"][k] for k in ("title", "words", "minutes", "hazard", "repair", "cost")
        }
    return document


def read_debrief(document: dict[str, Any]) -> Debrief:
    """Return the debrief of a document that `debrief_document` made."""
    rows = tuple(Told(**{**row, "acted": Acted(**row["acted"])}) for row in document["rows"])
    ways = {
        name: Way(**{**document[name], "steps": tuple(document[name]["steps"])}) for name in WAYS
    }
    texts = {}
    for name in ("hidden", "repairs", "causes", "hazards", "sentences"):
        texts[name] = tuple(document[name])
    return Debrief(**{**document, **ways, **texts, "rows": rows})


WAYS = ("engine", "swapping")
