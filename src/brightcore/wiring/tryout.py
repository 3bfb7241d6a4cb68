"""The described bike tried in its circuit: does it light, rest, run, stop, feed what hangs on it?

What does not is named with its reason. The reasons come from the solved circuit and the
controller's own rules, none from a list of faults.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from brightcore.analysis.bike import Place, analysis_of
from brightcore.behaviour.vocabulary import DISPLAY, MOTOR
from brightcore.bike.model import Bike, Part, narrowed
from brightcore.bike.roles import Role
from brightcore.circuit.conditions import Condition
from brightcore.circuit.elements import INF
from brightcore.describing.join_words import port_words
from brightcore.errors import BrightError
from brightcore.kinds import REGISTRY
from brightcore.kinds.controller_rules import ControllerRules
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.display import DisplaySpec
from brightcore.kinds.levers import LeverSpec
from brightcore.kinds.modules import ConverterSpec
from brightcore.kinds.pedal_sensor import PedalSpec
from brightcore.kinds.select import motors
from brightcore.kinds.sensors import TorqueSpec
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.simulation.table import Row, Table

SCENES = ("throttle", "pedal")
"""Scenes in which the motor is asked to turn."""

RUNS_WELL = ("smooth", "weak")
"""What a motor does that turns: slowly is told apart."""

FED_FROM, FED_TO = 0.8, 1.25
"""Volts given over volts made for, between which a part works and lasts (common practice)."""

CONVERTER_SPARE_V = 1.0
"""A step-down converter needs this much more than it gives (common practice)."""


@dataclass(frozen=True, slots=True)
class Hindrance:
    """One thing that keeps the motor from turning: a code, the part it is about, and a sentence."""

    code: str
    part: str
    words: str


def hindrances(bike: Bike) -> tuple[Hindrance, ...]:
    """Return what keeps the motor of a bike from turning, the cause before its effects; empty where
    it turns."""
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
        return (
            Hindrance("no-demand", "", "Neither throttle nor pedal sensor reaches a controller."),
        )
    found += _open_plugs(bike)
    for scene in asked:
        for part in bike.having(ControllerSpec):
            found += _of_controller(bike, part, table, scene)
    return tuple(dict.fromkeys(found))


def tried(bike: Bike) -> tuple[Hindrance, ...]:
    """Return what a bike that is wholly connected does wrong in its circuit, gravest cause first.

    Empty where all is well, and where a needed part or plug is missing: then there is nothing to
    try.
    """
    case = analysis_of(bike)
    return case.remember("tried-out", lambda: tuple(dict.fromkeys(_tried(bike))))


def _tried(bike: Bike) -> Iterator[Hindrance]:
    needed_open = (item for item in _open_plugs(bike) if REGISTRY[bike.part(item.part).kind].needed)
    # A bike that is still being put together would be told everything at once; its open plugs are
    # told by other rules, one by one.
    if any(_missing(bike)) or any(needed_open):
        return
    try:
        table = Table(analysis_of(bike).circuit, [Row()])
    except BrightError:
        return
    dark = list(_dark(bike, table))
    yield from dark
    # A dark bike runs nothing: what follows from that is no finding of its own.
    if not dark:
        yield from _running(bike, table)
    yield from _stopping(bike, table)
    yield from _fed(bike, table)


def _running(bike: Bike, table: Table) -> Iterator[Hindrance]:
    """Yield what keeps each controller's motor from turning well, scene by scene."""
    for scene in SCENES:
        if scene not in table.scenes or not _is_asked_by(bike, scene):
            continue
        for part in bike.having(ControllerSpec):
            does = _motor(bike, table, scene, part)
            if does and does not in RUNS_WELL:
                yield from _of_controller(bike, part, table, scene)
            elif does == "weak" and scene == "throttle":
                rules = ControllerRules(part, table.view(scene))
                full, end = _volts(rules.throttle_v("demand")), part.spec.throttle_full_v
                words = f"{part.name}: the throttle reaches {full}, it gives all from {end:g} V."
                yield Hindrance("slow", part.id, words)


def _is_asked_by(bike: Bike, scene: str) -> bool:
    """Return whether what asks in a scene is connected at all; a grip in the box asks for
    nothing."""
    specs: tuple[type, ...] = (ThrottleSpec,)
    if scene != "throttle":
        specs = (PedalSpec, TorqueSpec)
    connected = analysis_of(bike).connected
    return any(isinstance(part.spec, specs) and part.id in connected for part in bike.parts)


def _motor(bike: Bike, table: Table, scene: str, part: Part[ControllerSpec]) -> str:
    """Return what the motor of a controller does in a scene, "" where nothing says."""
    seen = table.seen(scene)
    code = seen.get(f"motor-{part.id}", seen.get("motor"))
    if code is None:
        return ""
    return MOTOR.ids()[int(code[0])]


def _dark(bike: Bike, table: Table) -> Iterator[Hindrance]:
    """Yield the displays that stay dark when switched on, and what they get."""
    if "switch_on" not in table.scenes:
        return
    seen = table.seen("switch_on")
    for part in bike.having(DisplaySpec):
        code = seen.get(f"display-{part.id}", seen.get("display"))
        if code is None or DISPLAY.ids()[int(code[0])] != "dark":
            continue
        given = _read(bike, table, part, lambda role: role.polarity == "plus" and role.wants)
        words = f"it lights from {part.spec.lit_from_v:g} V"
        if given is not None:
            words += f" and gets {given:.1f} V"
        yield Hindrance("dark", part.id, f"{words}.")


def _stopping(bike: Bike, table: Table) -> Iterator[Hindrance]:
    """Yield what is connected to a cut-off input and does not stop a motor that would run."""
    running = "throttle" if "throttle" in table.scenes else "pedal"
    for part in bike.parts:
        if not REGISTRY[part.kind].cuts or not _reaches_input(bike, part):
            continue
        scene = next((s for s in (f"brake.{part.id}", "brake") if s in table.scenes), "")
        if not scene:
            continue
        for controller in _cut_by(bike, part):
            # Only a motor that would run can fail to stop. Where it does not run at all, that is
            # told instead.
            runs = running in table.scenes and _motor(bike, table, running, controller) in RUNS_WELL
            if runs and _motor(bike, table, scene, controller) in RUNS_WELL:
                act = REGISTRY[part.kind].controls(part)[0].words[-1].format(part=part.name)
                yield Hindrance(
                    "no-stop", part.id, f"{act}: the motor of the {controller.name} runs on."
                )


def _reaches_input(bike: Bike, part: Part) -> bool:
    return any(_cut_by(bike, part))


def _cut_by(bike: Bike, part: Part) -> list[Part[ControllerSpec]]:
    """Return the controllers on one of whose cut-off inputs a part's signal stands."""
    case = analysis_of(bike)
    found = []
    for own in case.places_of(part, lambda role: role.use == "cut_off"):
        for place in case.net_of(own.id):
            controller = narrowed(place.part, ControllerSpec)
            if controller is not None and place.role.use == "cut_off" and controller not in found:
                found.append(controller)
    return found


def _fed(bike: Bike, table: Table) -> Iterator[Hindrance]:
    """Yield what hangs on a supply and gets other volts than it is made for, switched on."""
    for part in bike.parts:
        window = _window(part)
        if window is None:
            continue
        given = _read(bike, table, part, lambda role: role.wants and role.level == "own")
        if given is None and _feeds_something(bike, part):
            given = 0.0
        if given is None or window[0] <= given <= window[1]:
            continue
        low, high = window
        if high == INF:
            made = f"from {low:.1f} V on"
        else:
            made = f"for {low:.1f} to {high:.1f} V"
        words = f"{part.name} gets {given:.1f} V when switched on, it is made {made}."
        yield Hindrance("not-fed", part.id, words)


def _feeds_something(bike: Bike, part: Part) -> bool:
    """Return whether a part's own output is joined: then its input has to be."""
    given = analysis_of(bike).places_of(part, lambda role: role.gives and role.use == "supply")
    return any(_joined(bike, place) for place in given)


def _window(part: Part) -> tuple[float, float] | None:
    """Return the volts between which a part works; None where nobody says."""
    converter = narrowed(part, ConverterSpec)
    if converter is not None:
        return converter.spec.out_v + CONVERTER_SPARE_V, converter.spec.max_in_v
    volt = REGISTRY[part.kind].made_for_v(part.spec)
    if volt:
        return (FED_FROM * volt, FED_TO * volt)
    return None


def _read(bike: Bike, table: Table, part: Part, wanted: Callable[[Role], bool]) -> float | None:
    """Return the volts on a part's own supply pin against its ground, switched on; None where one
    of the two is not connected."""
    case = analysis_of(bike)
    plus = next((place for place in case.places_of(part, wanted) if _joined(bike, place)), None)
    minus = next(
        (
            place
            for place in case.places_of(part, lambda role: role.ground_like)
            if _joined(bike, place)
        ),
        None,
    )
    if plus is None or minus is None:
        return None
    found = table.read_volts(Condition(), plus.id, minus.id)
    # A floating wire shows a phantom to a meter; what hangs on it gets nothing.
    if found.floating[0]:
        return 0.0
    return float(found.mean[0])


def _joined(bike: Bike, place: Place) -> bool:
    return any(bike.joins_of(place.part.id, place.port.id))


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


def _of_controller(
    bike: Bike, part: Part[ControllerSpec], table: Table, scene: str
) -> Iterator[Hindrance]:
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
        f"it stays off: {key} on its key line (on from {part.spec.key_on_v:g} V), {rail} "
        "on its 5 V supply."
    )


def _supply(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    low, high = part.spec.low_cutoff_v, part.spec.max_v
    return f"it gets {_volts(rules.volts('plus', 'rest'))} and runs from {low:g} to {high:g} V."


def _at_rest(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    rest = _volts(rules.throttle_v("rest"))
    return (
        f"throttle gives {rest} at rest, above its start at {part.spec.throttle_start_v:g} V: it "
        "does not arm."
    )


def _error_level(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    rest = _volts(rules.throttle_v("rest"))
    return (
        f"throttle gives {rest} at rest, above its error level of {part.spec.throttle_error_v:g} V."
    )


def _pulled(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    cutting = []
    for p in bike.parts:
        if REGISTRY[p.kind].cuts and part in _cut_by(bike, p):
            cutting.append(p)
    closed = []
    for p in cutting:
        if isinstance(p.spec, LeverSpec) and p.spec.normally_closed:
            closed.append(p.name)
    if closed:
        return (
            f"{closed[0]} is closed while released, the input wants a switch that closes "
            "when pulled."
        )
    names = ", ".join(p.name for p in cutting) or "nothing is on it"
    return f"a brake input says braking with every lever released ({names})."


def _full(bike: Bike, part: Part[ControllerSpec], rules: ControllerRules) -> str:
    full = _volts(rules.throttle_v("demand"))
    return (
        f"throttle gives {full} when pulled, outside its window of {part.spec.throttle_start_v:g} "
        f"to {part.spec.throttle_error_v:g} V."
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
