"""The described bike tried in its circuit: what keeps its motor from turning, by name.

Asked where the first power-up does not run. The reasons come from the solved circuit and the controller's
own rules, none from a list of faults.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from brightcore.analysis.bike import analysis_of
from brightcore.bike.model import Bike, Part
from brightcore.describing.edit import port_words
from brightcore.errors import BrightError
from brightcore.kinds import REGISTRY
from brightcore.kinds.controller_rules import ControllerRules
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.select import motors
from brightcore.simulation.table import Row, Table

SCENES = ("throttle", "pedal")
"""Scenes in which the motor is asked to turn."""


@dataclass(frozen=True, slots=True)
class Hindrance:
    """One thing that keeps the motor from turning: a code, the part it is about, and a sentence."""

    code: str
    part: str
    words: str


def hindrances(bike: Bike) -> tuple[Hindrance, ...]:
    """Return what keeps the motor of a bike from turning, the cause before its effects; empty where it
    turns."""
    found = list(_missing(bike))
    if found:
        return tuple(found)
    try:
        circuit = analysis_of(bike).circuit
    except BrightError as error:
        return (Hindrance("no-circuit", "", str(error)),)
    table = Table(circuit, [Row()])
    asked = [scene for scene in SCENES if scene in table.scenes]
    if not asked:
        return (Hindrance("no-demand", "", "Neither throttle nor pedal sensor reaches a controller."),)
    found += _open_plugs(bike)
    for scene in asked:
        for part in bike.having(ControllerSpec):
            found += _of_controller(bike, part, table, scene)
    return tuple(dict.fromkeys(found))


def _missing(bike: Bike) -> Iterator[Hindrance]:
    """Yield what no motor turns without."""
    for kind in REGISTRY:
        if kind.needed and not bike.of_kind(kind.name):
            yield Hindrance("no-part", "", f"No {kind.title.lower()} is described.")
    if not motors(bike):
        yield Hindrance("no-part", "", "No motor is described.")


def _open_plugs(bike: Bike) -> Iterator[Hindrance]:
    """Yield the plugs that have to be connected and are not."""
    for part in bike.parts:
        for port in part.ports:
            if port.required and not any(bike.joins_of(part.id, port.id)):
                yield Hindrance("open-plug", part.id, f"{port_words(part, port)} is not connected.")


def _of_controller(bike: Bike, part: Part[ControllerSpec], table: Table, scene: str) -> Iterator[Hindrance]:
    """Yield what one controller finds in its way in a scene."""
    rules = ControllerRules(part, table.view(scene))
    if not rules.motors():
        yield Hindrance("phases", part.id, f"{part.name}: no motor's phases reach it.")
        return
    codes = rules.in_the_way()
    # A controller that is off reads nothing right: all else is only what follows from it.
    for code in codes if "off" not in codes else ("off",):
        yield Hindrance(code, part.id, f"{part.name}: {WORDS[code](bike, part, rules)}")


Say = Callable[[Bike, Part[ControllerSpec], ControllerRules], str]


def _volts(value: Any) -> str:
    return f"{float(np.atleast_1d(value)[0]):.1f} V"


def _key(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    key, rail = _volts(rules.volts("key", "rest")), _volts(rules.volts("rail", "rest"))
    return (
        f"it stays off: {key} on its key line (on from {part.spec.key_on_v:g} V), {rail} on its 5 V supply."
    )


def _supply(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    low, high = part.spec.low_cutoff_v, part.spec.max_v
    return f"it gets {_volts(rules.volts('plus', 'rest'))} and runs from {low:g} to {high:g} V."


def _at_rest(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    rest = _volts(rules.throttle_v("rest"))
    return (
        f"throttle gives {rest} at rest, above its start at {part.spec.throttle_start_v:g} V: it does "
        "not arm."
    )


def _error_level(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    rest = _volts(rules.throttle_v("rest"))
    return f"throttle gives {rest} at rest, above its error level of {part.spec.throttle_error_v:g} V."


def _pulled(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    names = [p.name for p in bike.parts if REGISTRY[p.kind].cuts]
    return f"a brake input says braking with every lever released ({', '.join(names) or 'nothing is on it'})."


def _full(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    full = _volts(rules.throttle_v("demand"))
    return (
        f"throttle gives {full} when pulled, outside its window of {part.spec.throttle_start_v:g} to "
        f"{part.spec.throttle_error_v:g} V."
    )


def _turned(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    return "turning the cranks does not reach it as pulses, or with no push."


def _talk(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    return "it runs only with a display that talks to it, and none does."


def _warm(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    return "its temperature input reads open or shorted."


def _sensed(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    return "the motor's hall signals do not reach it in order: hall plug off, or wires exchanged."


def _wound(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    return "not all three phases reach it evenly."


WORDS: dict[str, Say] = {
    "off": _key,
    "volts": _supply,
    "throttle-high": _at_rest,
    "throttle-error": _error_level,
    "brake": _pulled,
    "throttle-low": _full,
    "pedal": _turned,
    "serial": _talk,
    "temperature": _warm,
    "halls": _sensed,
    "phases": _wound,
}
"""What is said of each code of `ControllerRules.in_the_way`."""
