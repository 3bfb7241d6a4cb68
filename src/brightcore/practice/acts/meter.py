"""The meter: its two leads on any pins, in volts, ohms or diode, as the bike stands."""

from collections.abc import Iterator
from dataclasses import replace

from brightcore.bike.model import Bike
from brightcore.practice.acts.base import Act, Choice, Done, Play, Said, careless, one_of, refused
from brightcore.practice.meter import read
from brightcore.practice.state import METER_MODES, State
from brightcore.tracing.tests.base import access_min

READ_MIN = 0.7
"""Minutes of one reading, beside reaching the plug (common practice)."""

LIVE_V = 1.0
"""More than this between the leads and an ohms range feeds against live volts."""


def pins_of(bike: Bike) -> tuple[str, ...]:
    """Return every pin of a bike."""
    found = []
    for part in bike.parts:
        for port in part.ports:
            for pin in port.pins:
                found.append(f"{part.id}.{port.id}.{pin.name}")
    return tuple(found)


class Leads(Act):
    """Put a lead on a pin, or choose what the meter reads. It takes no time worth counting."""

    key, group = "leads", "Meter"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """The ranges that it does not stand on."""
        for mode, words in METER_MODES.items():
            if mode != state.mode:
                yield Choice((("mode", mode),), words)

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Set the range, the red lead, the black lead, or all of them."""
        pins = pins_of(play.bike)
        mode = one_of(said.get("mode") or state.mode, tuple(METER_MODES), "range")
        red = one_of(said.get("red") or state.red, ("", *pins), "pin")
        black = one_of(said.get("black") or state.black, ("", *pins), "pin")
        return Done(replace(state, shown="", mode=mode, red=red, black=black), "", 0.0)


class Measure(Act):
    """Read what the meter shows."""

    key, group = "measure", "Meter"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """Once both leads are on different pins."""
        if state.red and state.black and state.red != state.black:
            yield Choice((), "Read")

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Read what the circuit gives with the meter in it. Ohms on anything live costs the meter's
        fuse."""
        if not state.red or not state.black or state.red == state.black:
            return refused(state, "Put both leads on, on two pins.")
        if state.mode != "volts" and state.power != "out":
            return careless(state, "ohms-live")
        if state.mode != "volts" and state.charged:
            return replace(careless(state, "ohms-charged"), state=replace(state, charged=False))
        shown, found = read(play.hidden(state), play.engine, state)
        minutes = READ_MIN + _reach_min(play.bike, state)
        return Done(replace(state, shown=shown), f"The meter shows {shown}.", minutes, found)


def _reach_min(bike: Bike, state: State) -> float:
    """Return the minutes to reach both pins: those of the harder one."""
    reach = [0.0]
    for pin in (state.red, state.black):
        part, port, _ = bike.pin(pin)
        for join in bike.joins_of(part.id, port.id):
            reach.append(access_min(bike, join))
    return max(reach)
