"""The one next thing to do on a job: what each station would have done, and which of it comes
first.

The order is common practice: what can hurt, what was repaired and not yet proven, what is not
connected, and only then the next measurement.
"""

from collections.abc import Iterable
from dataclasses import dataclass

ORDER = (
    "quarantine",
    "pack",
    "danger",
    "station-first",
    "prove",
    "close",
    "connect",
    "station",
    "purpose",
    "describe",
    "repair",
    "measure",
    "done",
)
"""Steps of a job, the first that has something to do is next. `station-first` and `station` are for
stations that have one step only."""


@dataclass(frozen=True, slots=True)
class NextThing:
    """What to do next, as a person would say it aloud, why, and at which station.

    `step` is one of `ORDER`; `minutes` is what is left to do there, None where nobody can tell.
    """

    step: str
    station: str
    words: str
    why: str = ""
    minutes: int | None = None


def first_of(things: Iterable[NextThing | None]) -> NextThing | None:
    """Return what comes first, the earlier one of a step; None where nothing is left to do."""
    return min((thing for thing in things if thing is not None), key=_place, default=None)


def _place(thing: NextThing) -> int:
    return ORDER.index(thing.step)


def quarantined(why: Iterable[str]) -> NextThing:
    """Return what to do about a pack in quarantine: nothing, until a shop lead decides."""
    reasons = "; ".join(why)
    return NextThing(
        "quarantine",
        "arrive",
        "Pack in quarantine: the shop lead decides",
        f"Found: {reasons}. Do not charge, power or measure it." if reasons else "",
    )


def look_at_pack(unanswered: int) -> NextThing:
    """Return what to do about packs nobody has looked at; `unanswered` questions (> 0) are open."""
    if unanswered == 1:
        words = "1 question is open"
    else:
        words = f"{unanswered} questions are open"
    return NextThing(
        "pack",
        "arrive",
        "Look at the pack",
        f"{words}; nothing is switched on before they are answered.",
    )


def danger_read(words: str, do: str, station: str, more: int) -> NextThing:
    """Return what to do about a danger that was read; `more` others stand beside it."""
    beside = f" {more} more." if more else ""
    return NextThing("danger", station, f"Danger: {words}", f"{do}{beside}")


def mend_danger(code: str, text: str, hint: str, more: int) -> NextThing:
    """Return what to do about a danger finding; `more` others stand beside it."""
    beside = f" {more} more." if more else ""
    station = "arrive" if code.startswith("M") else "wire"
    return NextThing("danger", station, f"Danger {code}: {text}", f"{hint}{beside}")


def connect(words: str, reason: str, count: int) -> NextThing:
    """Return what to connect first; `count` connections (>= 0) are proposed."""
    if not count:
        return NextThing(
            "connect", "wire", "Connect what is free", "No proposal fits: choose both plugs."
        )
    more = f" {count - 1} more to connect." if count > 1 else ""
    return NextThing(
        "connect", "wire", f"Connect {words}", f"{reason[:1].upper()}{reason[1:]}.{more}"
    )


BY_PURPOSE = {
    "match": ("See whether the parts suit each other", "Before anything is bought or taken apart."),
    "wire": ("Connect what is added", "Then its way along the frame."),
    "set": ("Bring it in range", "What is to be measured and set on this bike."),
    "program": ("Say what every device is to be set to", "With its reason, before the first ride."),
    "prove": ("Prove what was changed", "Wheel up, at the bike, on the road."),
}
"""What is done next at a station that a job needs by its purpose, and why."""


def by_purpose(station: str) -> NextThing | None:
    """Return what a station that the purpose needs has waiting, None for stations that say it
    themselves."""
    if station not in BY_PURPOSE:
        return None
    return NextThing("purpose", station, *BY_PURPOSE[station])


def prove(title: str, expected: str) -> NextThing:
    """Return the proof that a repair waits for."""
    return NextThing(
        "prove", "trace", f"Prove: {title}", f"Must now be so: {expected}" if expected else ""
    )


def close() -> NextThing:
    """Return what to do with a job whose repair is proven."""
    return NextThing(
        "close", "record", "Close the job", "The proof passed. Read the sheet once more."
    )
