"""Playing a case: one act after the other, each a pure step from a state to the next."""

from dataclasses import replace
from functools import lru_cache

from brightcore.bike.model import Bike
from brightcore.practice.acts import Done, Play, Said, act_of
from brightcore.practice.acts.base import careless
from brightcore.practice.case import Case
from brightcore.practice.standing import after_act, stands_before
from brightcore.practice.state import State
from brightcore.tracing.engine import Engine

STILL = ("leads",)
"""Acts that take no time and leave everything as it was."""


@lru_cache(maxsize=6)
def bench_engine(bike: Bike) -> Engine:
    """Return an engine that knows the tests of a bike, with nothing worked out."""
    return Engine(bike)


def play_of(case: Case) -> Play:
    """Return a case ready to be played."""
    return Play(case, bench_engine(case.bike))


def step(play: Play, state: State, key: str, said: Said) -> Done:
    """Do one act; raises UnknownNameError for what there is not.

    What it took is counted in the state that comes back; a refused act changes nothing. A powered
    act while a danger stands is careless, whatever it is; nothing comes of it.
    """
    done = act_of(key).do(play, state, said)
    if done.refused:
        return replace(done, state=state)
    # Judged after the act's own rules: an act that is careless in itself is told as that, not as "a
    # danger stands".
    if not done.hazard and stands_before(state, key, said):
        done = careless(state, "danger-stands")
    after = done.state
    if not done.hazard:
        after = after_act(play, state, after, key, done.evidence)
    if key not in STILL:
        after = replace(
            after,
            act=state.act + 1,
            minutes=round(state.minutes + done.minutes, 2),
            cost=state.cost + done.cost,
            # A meter shows what it read until something else is done; then its number is no longer
            # of this bike.
            shown=after.shown if key == "measure" else "",
        )
    return replace(done, state=after)
