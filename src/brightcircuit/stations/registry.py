"""The registry of stations. A station is an app with a `station.py` that holds its `STATION`, and
one line in the setting `STATIONS`; everything a job page, the Bench, a job file and the record
know of it comes from there."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from functools import lru_cache
from importlib import import_module
from typing import Protocol

from django.conf import settings
from django.core.exceptions import ValidationError

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import Block
from brightcircuit.shop.models import Person
from brightcircuit.stations.help import Help
from brightcore.formats.plain import JsonObject
from brightcore.procedure.next_thing import NextThing


@dataclass(frozen=True, slots=True)
class Section:
    """A page of a station: its name and the name of its address, which takes the job's UUID.

    `slow`: what is said while it is worked out.
    """

    name: str
    url_name: str
    slow: str = ""


@dataclass(frozen=True, slots=True)
class RecordPart:
    """What a station adds to the sheet of a job: a heading and its lines."""

    title: str
    lines: tuple[str, ...]


Proven = tuple[str, str, bool]
"""Something to prove: its key, what it is, whether it has passed for what stands now."""


@dataclass(frozen=True, slots=True)
class Live:
    """What a device on a link reads now, in words; `tells_a_fault`: whether it reports one, where
    asked."""

    words: str
    tells_a_fault: bool = False


@dataclass(frozen=True, slots=True)
class OpenItem:
    """One thing that is open on a job before it closes.

    `key`: what it is, the same as long as it is open; `station`: where it is seen to.
    """

    key: str
    station: str
    words: str


@dataclass(frozen=True)
class Restoring:
    """A job being stored from a file: who does it, the document, and its parsed times by path."""

    actor: Person
    job: Job
    document: JsonObject
    dates: dict[str, datetime]
    copy: bool

    def part(self, key: str) -> JsonObject:
        """Return what a station added, empty where it added nothing."""
        found: JsonObject = self.head.get("stations", {}).get(key, {})
        return found

    @property
    def head(self) -> JsonObject:
        """The job's own part of the document."""
        found: JsonObject = self.document["job"]
        return found

    def who(self, row: JsonObject) -> JsonObject:
        """Return who made a row: the person who restores it, with the name it came with."""
        return {"by": self.actor, "by_name": (row.get("by") or str(self.actor))[:150]}


class TakeOver(Protocol):
    """Takes readings that another station has made."""

    def __call__(
        self,
        *,
        actor: Person,
        job: Job,
        key: str,
        subject: str,
        typed: dict[str, str],
        ticked: Sequence[str],
    ) -> None: ...


def _nothing(job: Job) -> JsonObject:
    return {}


@dataclass(frozen=True)
class Station:
    """One station of the order of work.

    `key`: app label, folder of its addresses and name of its first page. `opened` begins its rows
    with a new job. `done`: whether its tab is marked. `next_thing`: what it would have done next,
    None where it has nothing; the core says what comes first. `blocks`: what it holds against
    powered acts. `export` adds to the job file, `restore` takes that back. `schema` is the JSON
    Schema of that part, which stands under `job.stations` by the key; None where the station is one
    of those whose values stand in the head of the file. `worked` names the parts it has worked on,
    `open` what is open on it before the job closes (told whether the job needs the station),
    `later` what is looked at again after it has gone. `tells` says in a line each what its work
    means to the rider, `proven` what was to be proven and whether it passed, `wh_per_km` what a
    ride told, 0 where none did. `answers_until`: the day to which the shop answers for the job;
    `left_open`: what was let go when it closed, with its reason. `take_over` takes readings that
    another station has made for it. `live` reads values of the given names over the links that a
    job holds, in words. `labour` tells the minutes that its work took, as (words, minutes).
    `record` adds to the sheet, `log_words` names what it writes to the log, `help` explains its
    pages by the names of their addresses.
    """

    key: str
    name: str
    shortcut: str
    done: Callable[[Job], bool]
    sections: tuple[Section, ...] = ()
    opened: Callable[[Job], None] = lambda job: None
    next_thing: Callable[[Job, JobTrace], NextThing | None] = lambda job, found: None
    blocks: Callable[[Job], list[Block]] = lambda job: []
    export: Callable[[Job], JsonObject] = _nothing
    restore: Callable[[Restoring], None] = lambda restoring: None
    schema: JsonObject | None = None
    record: Callable[[Job], list[RecordPart]] = lambda job: []
    take_over: TakeOver | None = None
    live: Callable[[Job, Person, Collection[str]], list[Live]] = lambda job, actor, names: []
    labour: Callable[[Job], list[tuple[str, float]]] = lambda job: []
    worked: Callable[[Job], Collection[str]] = lambda job: ()
    open: Callable[[Job, bool], list[OpenItem]] = lambda job, needed: []
    later: Callable[[Job], list[str]] = lambda job: []
    tells: Callable[[Job], list[str]] = lambda job: []
    proven: Callable[[Job], list[Proven]] = lambda job: []
    wh_per_km: Callable[[Job], float] = lambda job: 0.0
    answers_until: Callable[[Job], date | None] = lambda job: None
    left_open: Callable[[Job], list[str]] = lambda job: []
    log_words: dict[str, str] = field(default_factory=dict)
    help: dict[str, Help] = field(default_factory=dict)


@lru_cache(maxsize=8)
def _loaded(names: tuple[str, ...]) -> tuple[Station, ...]:
    found = []
    for name in names:
        station: Station = import_module(f"{name}.station").STATION
        found.append(station)
    return tuple(found)


def log_words() -> dict[str, str]:
    """Return what every word of the log means."""
    found: dict[str, str] = {}
    for station in stations():
        found |= station.log_words
    return found


def hand_over(
    station: str,
    *,
    actor: Person,
    job: Job,
    key: str,
    subject: str,
    typed: dict[str, str],
    ticked: Sequence[str],
) -> None:
    """Hand readings to another station; raises ValidationError where it takes none, or not
    these."""
    found = next((item for item in stations() if item.key == station), None)
    if found is None or found.take_over is None:
        raise ValidationError("That station takes no readings.")
    found.take_over(actor=actor, job=job, key=key, subject=subject, typed=typed, ticked=ticked)


def worked_parts(job: Job) -> frozenset[str]:
    """Return the parts that stations have worked on in a job."""
    found = []
    for station in stations():
        for part in station.worked(job):
            found.append(part)
    return frozenset(found)


def live_of(job: Job, actor: Person, names: Collection[str]) -> list[Live]:
    """Return what devices on the links of a job read now; raises ValidationError."""
    rows: list[Live] = []
    for station in stations():
        for found in station.live(job, actor, names):
            rows.append(found)
    return rows


def labour_of(job: Job) -> list[tuple[str, float]]:
    """Return (words, minutes) of what was worked on a job, as its stations know it."""
    found: list[tuple[str, float]] = []
    for station in stations():
        for row in station.labour(job):
            if row[1] > 0:
                found.append(row)
    return found


def proven_of(job: Job) -> list[Proven]:
    """Return what was to be proven on a job, and whether it has passed for what stands now."""
    found: list[Proven] = []
    for station in stations():
        for row in station.proven(job):
            found.append(row)
    return found


def station_done(job: Job, key: str) -> bool:
    """Return whether a station has nothing left to do; False where there is none of that key."""
    return any(station.key == key and station.done(job) for station in stations())


def station_blocks(job: Job) -> list[Block]:
    """Return what the stations hold against powered acts."""
    found: list[Block] = []
    for station in stations():
        for block in station.blocks(job):
            found.append(block)
    return found


def stations() -> tuple[Station, ...]:
    """Return every station, in the order of work."""
    return _loaded(tuple(settings.STATIONS))
