"""What a job is for: which station comes first, which are needed, and what has to be proven."""

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Purpose:
    """One purpose of a job.

    `first`: the station it begins at once the pack was looked at; `needed`: stations that belong to
    it, in their order; `whole`: everything of the bike is worked on and proven, not only what
    changes.
    """

    key: str
    title: str
    words: str
    first: str
    needed: tuple[str, ...]
    whole: bool = False


PURPOSES: tuple[Purpose, ...] = (
    Purpose("repair", "Repair", "something does not work", "trace", ("trace", "prove")),
    Purpose(
        "build",
        "Build",
        "a conversion from nothing",
        "match",
        ("match", "wire", "set", "program", "prove"),
        True,
    ),
    Purpose("retrofit", "Retrofit", "one thing is added", "wire", ("wire", "prove")),
    Purpose(
        "rescue",
        "Rescue",
        "a locked drive is opened or replaced",
        "match",
        ("match", "wire", "prove"),
    ),
    Purpose(
        "upgrade",
        "Upgrade",
        "a stronger pack, motor or controller",
        "match",
        ("match", "wire", "prove"),
    ),
    Purpose("set-up", "Set-up", "calibration and programming", "set", ("set", "program", "prove")),
    Purpose(
        "check-over", "Check-over", "looked over and proven as it is", "prove", ("prove",), True
    ),
)
BY_KEY = {purpose.key: purpose for purpose in PURPOSES}

STANDS, SHALL = "stands", "shall"
DESCRIBED = {
    STANDS: "as it stands: what I change from now on is the plan",
    SHALL: "as it shall be: its new parts are still in the box",
}
"""What the description of a bike is when its job begins."""

USUAL = ("repair",)
"""What a job is for where nobody has said."""

WAITS = {
    "part": "waits for a part",
    "customer": "waits for the customer",
    "setting": "glue sets, or a pack charges",
}
"""What a job can wait for without anybody working on it."""


def purposes_of(keys: Iterable[str]) -> tuple[Purpose, ...]:
    """Return purposes in their usual order; the usual one where none is known."""
    wanted = set(keys)
    found = tuple(purpose for purpose in PURPOSES if purpose.key in wanted)
    return found or tuple(BY_KEY[key] for key in USUAL)


def needed_stations(keys: Iterable[str]) -> tuple[str, ...]:
    """Return the stations that a job needs by its purposes, each once, in the order of work."""
    every = []
    for purpose in purposes_of(keys):
        for station in purpose.needed:
            every.append(station)
    order = ("arrive", "match", "wire", "set", "program", "trace", "prove", "record")
    return tuple(station for station in order if station in every)


def is_whole(keys: Iterable[str]) -> bool:
    """Return whether everything of the bike is worked on, not only what changes."""
    return any(purpose.whole for purpose in purposes_of(keys))


def looks_for_faults(keys: Iterable[str]) -> bool:
    """Return whether a fault is sought."""
    return any(purpose.key == "repair" for purpose in purposes_of(keys))


CHANGING = ("build", "retrofit", "rescue", "upgrade")
"""Purposes that change what is on a bike."""


def changes_the_bike(keys: Iterable[str]) -> bool:
    """Return whether a job is there to change what is on the bike: editing its description then is
    planning."""
    return any(purpose.key in CHANGING for purpose in purposes_of(keys))


def described_as(keys: Iterable[str]) -> str:
    """Return what a description usually is when a job of some purposes begins: a build's is its
    plan."""
    if any(purpose.key == "build" for purpose in purposes_of(keys)):
        return SHALL
    return STANDS


def looks_after_all(keys: Iterable[str]) -> bool:
    """Return whether everything of the bike is set and programmed: a build and a set-up leave
    nothing out."""
    return any(purpose.key in ("build", "set-up") for purpose in purposes_of(keys))
