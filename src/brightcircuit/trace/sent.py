"""What Trace's forms send, one small record an act: the views below know names of fields no more.

Texts are cut and numbers read here; whether an act is allowed is the services' business.
"""

from dataclasses import dataclass

from django.core.exceptions import ValidationError
from django.http import QueryDict

from brightcircuit.common.numbers import whole_number
from brightcircuit.jobs.repairs import NewThing

LONGEST_CLIENT = 80
"""Characters kept of what a page calls the form it sends, as it may send it twice."""

NO_VERSION = -1
"""Stands for a page that did not say which version of the job it shows: always stale."""


@dataclass(frozen=True, slots=True)
class Saving:
    """What comes with any reading: cautions ticked, which form, which version of the job, whether
    it is asked to count once more, and the meter (None where the page did not ask)."""

    ticked: tuple[str, ...]
    client: str
    version: int
    again: str
    meter: int | None


def saving(data: QueryDict) -> Saving:
    """Read what comes with a reading."""
    return Saving(
        ticked=tuple(data.getlist("gate")),
        client=data.get("client", "")[:LONGEST_CLIENT],
        version=whole_number(data.get("version"), NO_VERSION),
        again=data.get("again", ""),
        meter=whole_number(data.get("meter"), 0) if "meter" in data else None,
    )


@dataclass(frozen=True, slots=True)
class Skipping:
    """A test left out, or none left out any more."""

    test: str
    offers_all: bool


def skipping(data: QueryDict) -> Skipping:
    """Read which test is left out."""
    return Skipping(data.get("test", ""), bool(data.get("all")))


@dataclass(frozen=True, slots=True)
class Repairing:
    """A repair done or taken back, with what was fitted and the stock row it came from."""

    repair: str
    withdraws: bool
    decision: str
    thing: NewThing
    stock: str


def repairing(data: QueryDict) -> Repairing:
    """Read which repair was done."""
    return Repairing(
        repair=data.get("repair", ""),
        withdraws=bool(data.get("withdraw")),
        decision=data.get("decision", ""),
        thing=NewThing(data.get("library", ""), data.get("mark", "")),
        stock=data.get("stock", ""),
    )


RESULTS = {"passed": True, "failed": False}


@dataclass(frozen=True, slots=True)
class Proving:
    """Whether a proof passed, whether readings stay where it failed, and what caused the fault."""

    passed: bool
    keeps_readings: bool
    cause: str


def proving(data: QueryDict) -> Proving:
    """Read how a proof ended; raises ValidationError where that is not said."""
    result = data.get("result", "")
    if result not in RESULTS:
        raise ValidationError("Say whether the proof passed or failed.")
    return Proving(RESULTS[result], data.get("keep") == "on", data.get("cause", ""))


def entry_id(data: QueryDict) -> int:
    """Return which reading an act is about, 0 where none is named."""
    return whole_number(data.get("entry"), 0)
