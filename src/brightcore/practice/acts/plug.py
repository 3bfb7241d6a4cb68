"""Plugs: apart and together again."""

from collections.abc import Iterator
from dataclasses import replace

from brightcore.circuit.contacts import join_title
from brightcore.practice.acts.base import Act, Choice, Done, Play, Said, careless, one_of
from brightcore.practice.state import State
from brightcore.tracing.pace import PLUG_MIN
from brightcore.tracing.tests.base import access_min


class Plug(Act):
    """Unplug a plug, or connect it again."""

    key, group = "plug", "Plugs"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """Every plug."""
        for join in play.bike.joins:
            apart = join.id in state.unplugged
            words = f"{'Connect' if apart else 'Unplug'} the {join_title(play.bike, join)}"
            yield Choice((("join", join.id),), words)

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Take it apart or put it together; with the pack in that is careless."""
        name = one_of(said.get("join", ""), tuple(join.id for join in play.bike.joins), "plug")
        if state.power != "out":
            return careless(state, "plug-live")
        join = play.bike.join(name)
        apart = name in state.unplugged
        left = tuple(item for item in state.unplugged if item != name)
        after = replace(state, unplugged=left if apart else (*left, name))
        minutes = PLUG_MIN + access_min(play.bike, join)
        words = f"{join_title(play.bike, join)}: {'connected' if apart else 'apart'}."
        if state.charged and not apart:
            return replace(careless(after, "plug-charged"), state=after)
        return Done(after, words, minutes)
