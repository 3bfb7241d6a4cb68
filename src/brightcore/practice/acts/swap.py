"""Swap in a known-good part and try: is the trouble gone?"""

from collections.abc import Iterator

from brightcore.kinds import REGISTRY
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.practice.acts.base import Act, Choice, Done, Play, Said, careless, one_of
from brightcore.practice.hidden import Bench, HiddenBike, hidden_bike, seen_on
from brightcore.practice.state import State
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests.swap import TRY_MIN


def spares(play: Play) -> dict[str, float]:
    """Return the parts for which a known good one lies ready, with the minutes to swap it."""
    found: dict[str, float] = {}
    for part in play.bike.parts:
        if REGISTRY[part.kind].has_spare:
            found[part.id] = REGISTRY[part.kind].swap_min
    return found


class Swap(Act):
    """Swap, try, and put its own part back in."""

    key, group = "swap", "Swap in a known-good part"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """Every part with a spare."""
        for part in spares(play):
            yield Choice((("part", part),), f"Known-good {play.names[part].lower()}")

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Swap it in and try. With the pack in that is careless; a controller on shorted phases
        burns."""
        known = spares(play)
        part = one_of(said.get("part", ""), tuple(known), "spare part")
        if state.power != "out":
            return careless(state, "plug-live")
        hidden = play.hidden(state)
        if isinstance(play.bike.part(part).spec, ControllerSpec) and shorted(hidden, part):
            return careless(state, "good-part-burnt")
        lent = hidden_bike(play.case, frozenset((*state.gone, f"swap:{part}")))
        lent = lent.at(Bench(state.act, state.brought))
        if hidden.shows() and cured_by(hidden, lent):
            value = "gone"
        else:
            value = "same"
        words = {
            "gone": "With the known-good one the trouble is gone. Its own is back in.",
            "same": "Unchanged with the known-good one. Its own is back in.",
        }[value]
        return Done(state, words, known[part] + TRY_MIN, (Evidence("swap", value, subject=part),))


def cured_by(hidden: HiddenBike, lent: HiddenBike) -> bool:
    """Return whether what a rider meets on one bike is gone on the other, which has no more
    faults."""
    if lent.modes == hidden.modes:
        return False
    if not lent.modes:
        return True
    return all(
        seen_on(lent.faulty, scene) == hidden.healthy(scene) for scene, _ in hidden.differs()
    )


def shorted(hidden: HiddenBike, part: str) -> bool:
    """Return whether phases are shorted somewhere that a good controller in place of a part does
    not mend."""
    return any(
        ".phases." in mode.id and "short" in mode.id.partition("/")[2] and mode.repair.owner != part
        for mode in hidden.modes
    )
