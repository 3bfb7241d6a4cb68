"""What stands before a powered act at the practice bench, by the same tables as on a job.

A hazard that the rider tells, or that is smelt or read, stands until every dead test is clean. A
reading that is a danger at its points stands until the pack is out and something was done about it.
"""

from collections.abc import Collection, Sequence
from dataclasses import replace

from brightcore.practice.acts import Play, Said
from brightcore.practice.hidden import HiddenBike
from brightcore.practice.state import State
from brightcore.practice.words import complaint_evidence, complaint_words
from brightcore.tracing.doubts import danger_of, is_well
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hazard import dead_checks, is_clean, is_short, seen_in, told_in
from brightcore.tracing.tests import test_id

DONE_ABOUT_IT = ("plug", "repair")
"""Acts that see to a danger that was read: a plug apart, a repair. Both are refused with the pack
in."""

ALWAYS = ("leads", "wheel")
"""Acts that put nothing under power, however the bike stands."""


def told_hazards(hidden: HiddenBike) -> tuple[str, ...]:
    """Return the hazards that the rider of a case tells, by code."""
    found = (*told_in(complaint_words(hidden)), *seen_in(complaint_evidence(hidden)))
    return tuple(dict.fromkeys(found))


def at_first(hidden: HiddenBike) -> State:
    """Return the state in which a case begins: what its rider tells stands from the start."""
    return State(told=told_hazards(hidden))


def is_powered(state: State, key: str, said: Said) -> bool:
    """Return whether an act puts the bike under power, or goes on while it is."""
    if key in ALWAYS:
        return False
    if key == "power":
        return said.get("to") == "on"
    # Whoever swaps a part tries it afterwards.
    return key == "swap" or state.power == "on"


def stands_before(state: State, key: str, said: Said) -> bool:
    """Return whether a danger stands before an act."""
    if not (state.told or state.read) or not is_powered(state, key, said):
        return False
    # A reading is made again as it was made, so that a slip of the probes is seen as one.
    again = (
        key == "measure" and not state.told and state.read == (place_of(state.red, state.black),)
    )
    return not again


def place_of(red: str, black: str) -> str:
    """Return the points of a reading as one name."""
    return f"{red} {black}"


def after_act(
    play: Play, before: State, after: State, key: str, found: Sequence[Evidence]
) -> State:
    """Return the state with what an act has shown: dangers that stand now, or stand no more."""
    told = [*before.told, *seen_in(found)]
    if any(is_short(play.engine, item) for item in found):
        told.append("short")
    dead = {test.id for test in dead_checks(play.engine)}
    clean = _clean(before, found, dead)
    # All of them, each as it was last made: one that read short again afterwards takes the rest
    # back.
    if clean == dead:
        told = []
    read = () if key in DONE_ABOUT_IT else _read(play, before, found)
    return replace(after, told=tuple(dict.fromkeys(told)), clean=tuple(sorted(clean)), read=read)


def _clean(before: State, found: Sequence[Evidence], dead: Collection[str]) -> set[str]:
    """Return the ids of the dead tests that were clean when they were last made."""
    clean = set(before.clean)
    for item in found:
        name = test_id(item)
        if item.told or name not in dead:
            continue
        if is_clean(item):
            clean.add(name)
        else:
            clean.discard(name)
    return clean


def _read(play: Play, before: State, found: Sequence[Evidence]) -> tuple[str, ...]:
    """Return the points at which a danger was read that nobody has seen to."""
    places = dict.fromkeys(before.read)
    for item in found:
        place = place_of(item.red, item.black)
        hazard, _ = danger_of(play.engine, item)
        if hazard is not None:
            places[place] = None
        elif is_well(play.engine, item):
            places.pop(place, None)
    return tuple(places)
