"""Scenes: what a technician does in order to look, and the states that decide what is seen.

A scene names the electrical states it needs. The kinds read solved pins through a
`SceneView` and write what would be seen; all arrays are [R], one value per bike variant.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Join
from brightcore.circuit.conditions import Condition
from brightcore.circuit.netlist import Circuit

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]
Classes = NDArray[np.int8]

SECTORS = ("0", "1", "2", "3", "4", "5")


@dataclass(frozen=True, slots=True)
class Scene:
    """A thing to do and watch. `states` holds (name, condition); `seen` the observables."""

    id: str
    title: str
    states: tuple[tuple[str, Condition], ...]
    seen: tuple[str, ...]
    minutes: float
    unplugged: str = ""

    def condition(self, name: str) -> Condition:
        """Return the state called `name`."""
        return dict(self.states)[name]


class SceneView:
    """Solved volts of a scene's states, traits of the variants, and what was seen so far."""

    def __init__(
        self,
        circuit: Circuit,
        scene: Scene,
        volts: Callable[[Condition, str, str], Floats],
        phase_ohm: Callable[[str], Floats],
        trait: Callable[[str, str], Flags],
        count: int,
    ) -> None:
        self.circuit, self.scene, self.count = circuit, scene, count
        self._volts, self._trait = volts, trait
        self.phase_ohm = phase_ohm
        self.result: dict[str, Classes] = {}

    def has(self, state: str) -> bool:
        """Return whether the scene has a state of that name."""
        return any(name == state for name, _ in self.scene.states)

    def volts(self, plus: str, minus: str, state: str = "rest") -> Floats:
        """Return volts [R] between two pins or inner nodes in one of the scene's states."""
        return self._volts(self.scene.condition(state), plus, minus)

    def trait(self, part_id: str, name: str) -> Flags:
        """Return which variants carry a trait."""
        return self._trait(part_id, name)

    def node(self, part_id: str, name: str) -> bool:
        """Return whether the circuit has an inner node of that name."""
        return f"{part_id}:{name}" in self.circuit.node_of

    def none(self) -> Flags:
        """Return a vector of False."""
        return np.zeros(self.count, dtype=bool)

    def see(self, observable: str, *cases: tuple[Flags, str], otherwise: str) -> None:
        """Write what is seen: the class of the first case that holds."""
        if observable not in self.scene.seen:
            return
        ids = OBSERVABLES[observable].ids()
        flags = [flag for flag, _ in cases]
        codes = [np.int8(ids.index(class_id)) for _, class_id in cases]
        self.result[observable] = np.select(flags, codes, np.int8(ids.index(otherwise))).astype(np.int8)

    def codes(self, observable: str) -> dict[str, int]:
        """Return class codes by id."""
        return {class_id: i for i, class_id in enumerate(OBSERVABLES[observable].ids())}


def scenes_of(circuit: Circuit) -> tuple[Scene, ...]:
    """Return every scene this bike allows, from its parts and controls."""
    on = Condition()
    controls = circuit.controls

    def named(control_id: str) -> list[str]:
        return [name for name, (_, control) in controls.items() if control.id == control_id]

    rotor = named("rotor")
    sectors = tuple((f"sector{s}", on if s == "0" else on.having(rotor[0], s)) for s in (SECTORS if rotor else ()))
    has_display = bool(circuit.bike.of_kind("display"))
    has_lamp = bool(circuit.bike.of_kind("lamp"))
    panel = ("display", "brake_symbol", "error") if has_display else ()
    scenes = [Scene("switch_on", "Switch on and look", (("rest", on),), (*panel, *(("lamp",) if has_lamp else ())), 0.5)]
    speed = ("speed",) if has_display and rotor else ()
    run: list[tuple[str, str, tuple[tuple[str, Condition], ...]]] = []
    for name in named("grip"):
        run.append(("throttle", "A touch of throttle, wheel up", (("demand", on.having(name, "full")),)))
    for name in named("turn"):
        run.append(("pedal", "Turn the cranks, wheel up", (("pulse", on.having(name, "low")), ("demand", on))))
    error = ("error",) if has_display else ()
    for scene_id, title, extra in run:
        scenes.append(Scene(scene_id, title, (("rest", on), *extra, *sectors), ("motor", *error, *speed), 1.0))
    if run:
        scene_id, _, extra = run[0]
        for name in named("lever"):
            part = circuit.bike.part(controls[name][0])
            braked = tuple((state, condition.having(name, "pulled")) for state, condition in extra)
            pulled = (("rest", on.having(name, "pulled")), *braked, *sectors)
            scenes.append(
                Scene(f"brake.{part.id}", f"Pull {part.name} while the motor runs, wheel up", pulled,
                      ("motor", *(("brake_symbol",) if has_display else ())), 1.0)
            )  # fmt: skip
        drive = named("drive")
        if drive:
            demand = dict(extra)["demand"]
            hard = tuple((state, c) for state, c in extra)
            scenes.append(
                Scene("pull", "Pull hard: ride uphill, slowly and off the road",
                      (("rest", on), *hard, ("load", demand.having(drive[0], "pull")), *sectors), ("motor",), 5.0)
            )  # fmt: skip
    if circuit.bike.of_kind("hub_motor"):
        out = Condition("out")
        scenes.append(Scene("spin", "Turn the motor by hand, pack out", (("out", out),), ("drag",), 1.5))
    for join in circuit.bike.joins:
        wanted = _unplug_scenes(circuit, join)
        scenes += [_unplugged(scene, join.id) for scene in tuple(scenes) if scene.id in wanted]
    return tuple(scenes)


def _unplug_scenes(circuit: Circuit, join: Join) -> tuple[str, ...]:
    """Return which scenes are worth repeating with a join unplugged, by what hangs on it."""
    places = {circuit.registry[circuit.bike.part(p).kind].place for p, _ in join.sides()}
    roles = {pin.role for p, q in join.sides() for pin in circuit.bike.part(p).port(q).pins}
    if "phase_u" in roles:
        return ("spin",)
    if "motor" in places:
        return ("switch_on",)
    if "light" in places or (roles & {"brake_signal", "pedal_signal"} and places & {"bar", "sensor"}):
        return ("switch_on", "throttle")
    return ("switch_on",) if places & {"bar", "sensor"} and "key" not in roles else ()


def _unplugged(scene: Scene, join_id: str) -> Scene:
    states = tuple((name, condition.without(join_id)) for name, condition in scene.states)
    return Scene(f"{scene.id}/unplug {join_id}", scene.title, states, scene.seen, scene.minutes + 1.0, join_id)
