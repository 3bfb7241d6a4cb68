"""Look closely, smell, listen, feel, wiggle, ask: what the engine knows as tests of one place."""

from collections.abc import Iterator

from brightcore.practice.acts.base import Act, Choice, Done, Play, Said, careless, one_of, refused
from brightcore.practice.state import State
from brightcore.tracing.tests import Test, kind_of

KINDS = (
    "inspect",
    "wiggle",
    "smell",
    "listen",
    "feel",
    "warmth",
    "overspeed",
    "insulation",
    "capacity",
    "current",
    "drain",
    "ask",
)
"""Kinds of test that are acts as they are."""


def tests_of(play: Play) -> dict[str, Test]:
    """Return the tests of a bike that are acts."""
    return {test.id: test for test in play.engine.tests if test.kind in KINDS}


class Look(Act):
    """Look, smell, listen, feel, wiggle."""

    key, group = "look", "Look, smell, listen, feel"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """Every such test, by family."""
        for test in tests_of(play).values():
            yield Choice((("test", test.id),), test.title, kind_of(test.kind).family)

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Do it, if the bike stands so that it can be done, and is safe."""
        tests = tests_of(play)
        test = tests[one_of(said.get("test", ""), tuple(tests), "look")]
        dead = test.condition.power == "out"
        if dead and state.power != "out" and "pack_out" in test.gates:
            return careless(state, "plug-live")
        if dead and "discharged" in test.gates and state.charged:
            return careless(state, "plug-charged")
        if test.condition.power == "on" and state.power != "on":
            return refused(state, "It is switched off: switch it on first.")
        if test.condition.power == "off" and "in_line" in test.gates and state.power == "on":
            return refused(state, "Nothing is on while a meter is in line: switch it off first.")
        if "wheel_up" in test.gates and state.wheel == "down":
            return careless(state, "wheel-down")
        if "road" in test.gates and state.wheel == "up":
            return refused(
                state, "For that the wheel goes on the ground, and the bike on the road."
            )
        found = play.hidden(state).answer(test)
        words = "; ".join(kind_of(test.kind).value_words(item) for item in found)
        return Done(state, f"{words[0].upper()}{words[1:]}.", test.minutes, found)
