"""What brings out a fault that comes and goes: bars turned, bumps, warmth, wet."""

from collections.abc import Iterator
from dataclasses import replace

from brightcore.practice.acts.base import Act, Choice, Done, Play, Said, one_of
from brightcore.practice.state import State
from brightcore.tracing.states import BY_ID, STATES, UPHILL

LEFT_OUT = (UPHILL, "stood", "cold")
"""States that a bench cannot bring about, or that it stands in anyway."""


class Bring(Act):
    """Bring the bike into a state, or back."""

    key, group = "bring", "Bring it out"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """Every state but the present one."""
        if state.brought:
            yield Choice((("state", ""),), "Back to as it stood")
        for item in STATES:
            if item.id not in LEFT_OUT and item.id != state.brought:
                yield Choice((("state", item.id),), f"{item.done[0].upper()}{item.done[1:]}")

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Bring it about; it stays so until something else is."""
        known = ("", *(item.id for item in STATES if item.id not in LEFT_OUT))
        name = one_of(said.get("state", ""), known, "state")
        after = replace(state, brought=name)
        if not name:
            return Done(after, "As it stood.", 0.2)
        item = BY_ID[name]
        return Done(after, f"{item.done[0].upper()}{item.done[1:]}: now look again.", item.minutes)
