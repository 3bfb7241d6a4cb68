"""Bridge two pins with a fused wire: where the meter's leads are."""

from collections.abc import Iterator

from brightcore.bike.roles import role_of
from brightcore.practice.acts.base import Act, Choice, Done, Play, Said, careless, refused
from brightcore.practice.state import State

BRIDGE_MIN = 1.0
LIVE_V, FUSE_A = 2.0, 1.0
"""Volts between two pins from which a bridge sparks, and amps at which its fuse lets go."""

PACK_PLUS = ("battery_plus", "pack_plus")


class Bridge(Act):
    """Bridge red and black through a small fuse."""

    key, group = "bridge", "Meter"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """Once both leads are on different pins."""
        if state.red and state.black and state.red != state.black:
            yield Choice((), "Bridge the two pins, fused")

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Bridge them: between live volts the fuse goes; a phase on the pack burns the
        controller."""
        if not state.red or not state.black:
            return refused(state, "Put both leads on the pins to be bridged.")
        if state.power == "out":
            return Done(state, "With the pack out nothing happens.", BRIDGE_MIN)
        uses = []
        for pin in (state.red, state.black):
            uses.append(role_of(play.bike.pin(pin)[2].role))
        if any(role.use == "phase" for role in uses) and any(
            role.name in PACK_PLUS for role in uses
        ):
            return careless(state, "phase-on-pack")
        probing, _ = play.hidden(state).table.probe(state.condition, state.red, state.black)
        volts, ohm = abs(float(probing.volts[0])), max(float(probing.source_ohm[0]), 1e-3)
        if volts > LIVE_V and volts / ohm > FUSE_A:
            return careless(state, "short")
        return Done(
            state,
            "Nothing to be seen from that alone: look what it does while bridged.",
            BRIDGE_MIN,
        )
