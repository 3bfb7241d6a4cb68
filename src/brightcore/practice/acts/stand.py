"""How the bike stands: pack, switch, wheel, capacitors."""

from collections.abc import Iterator
from dataclasses import replace

from brightcore.practice.acts.base import Act, Choice, Done, Play, Said, careless, one_of
from brightcore.practice.hidden import scene_with
from brightcore.practice.state import State
from brightcore.practice.words import evidence_of, seen_words
from brightcore.tracing.pace import PACK_MIN, SWITCH_MIN, WHEEL_MIN

POWER = {"out": "Pack out", "off": "Pack in, off", "on": "Switch on"}
WHEEL = {"up": "Wheel up", "down": "Wheel on the ground"}
DRAIN_MIN = 0.5


class Power(Act):
    """Take the pack out, put it in, switch on and look."""

    key, group = "power", "How it stands"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """Every power but the present one."""
        for value, words in POWER.items():
            if value != state.power:
                yield Choice((("to", value),), words)

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Change the power; switching on, look at what lights."""
        to = one_of(said.get("to", ""), tuple(POWER), "power")
        moved = (to == "out") != (state.power == "out")
        minutes = PACK_MIN if moved else SWITCH_MIN
        after = replace(state, power=to, charged=state.charged or to != "out")
        if to != "on":
            return Done(after, "Pack out." if to == "out" else "Dark.", minutes)
        held_throttle = any("grip" in name for name, _ in state.held)
        if held_throttle and state.wheel == "down":
            return careless(state, "wheel-down")
        scene = scene_with(play.engine.table.scenes["switch_on"], after.unplugged)
        seen = play.hidden(state).seen(scene)
        return Done(
            after,
            seen_words(play.bike, seen) or "Nothing on this bike lights.",
            minutes + scene.minutes,
            evidence_of(play.engine, scene, seen),
        )


class Wheel(Act):
    """Put the wheel up, or down."""

    key, group = "wheel", "How it stands"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """The other way round."""
        to = "down" if state.wheel == "up" else "up"
        yield Choice((("to", to),), WHEEL[to])

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Lift it or set it down."""
        to = one_of(said.get("to", ""), tuple(WHEEL), "wheel")
        if to == "up":
            words = "The wheel is off the ground and clear."
        else:
            words = "The wheel is on the ground."
        return Done(replace(state, wheel=to), words, WHEEL_MIN)


class Drain(Act):
    """Discharge the capacitors through a resistor."""

    key, group = "drain", "How it stands"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """While the pack is out and they hold charge."""
        if state.power == "out" and state.charged:
            yield Choice((), "Discharge the capacitors, confirm under 5 V")

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Discharge them; with the pack in that is a short through a resistor, and does nothing."""
        if state.power != "out":
            return Done(state, "The pack is in: they fill again at once.", DRAIN_MIN)
        return Done(replace(state, charged=False), "Under 5 V.", DRAIN_MIN)
