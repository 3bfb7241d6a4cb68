"""Scenes: what a technician does in order to look, and the states that decide what is seen.

A scene names the electrical states it needs. The kinds read solved pins through a
`SceneView` and write what would be seen; all arrays are [R], one value per bike variant.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import MOTOR_KINDS, Join
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

    def name_for(self, observable: str, part_id: str) -> str:
        """Return the observable's name in this scene for one part: its own where several parts have one."""
        own = f"{observable}-{part_id}"
        return own if own in self.scene.seen else observable

    def none(self) -> Flags:
        """Return a vector of False."""
        return np.zeros(self.count, dtype=bool)

    def see(self, observable: str, *cases: tuple[Flags, str], otherwise: str, part_id: str = "") -> None:
        """Write what is seen (of one part): the class of the first case that holds."""
        observable = self.name_for(observable, part_id)
        if observable not in self.scene.seen:
            return
        ids = OBSERVABLES[observable].ids()
        flags = [flag for flag, _ in cases]
        codes = [np.int8(ids.index(class_id)) for _, class_id in cases]
        self.result[observable] = np.select(flags, codes, np.int8(ids.index(otherwise))).astype(np.int8)

    def without(self, *observables: str) -> "SceneView":
        """Return a view of the same scene that writes into the same result, some observables left out."""
        kept = tuple(name for name in self.scene.seen if name not in observables)
        narrow = SceneView(self.circuit, replace(self.scene, seen=kept), self._volts, self.phase_ohm, self._trait, self.count)
        narrow.result = self.result
        return narrow

    def codes(self, observable: str) -> dict[str, int]:
        """Return class codes by id."""
        return {class_id: i for i, class_id in enumerate(OBSERVABLES[observable].ids())}


def scenes_of(circuit: Circuit) -> tuple[Scene, ...]:
    """Return every scene this bike allows, from its parts and controls."""
    on = Condition()
    controls = circuit.controls

    def named(control_id: str) -> list[str]:
        return [name for name, (_, control) in controls.items() if control.id == control_id]

    def each(observable: str, *kinds: str) -> tuple[str, ...]:
        """Return the observable's name per part, bare where there is one part."""
        parts = circuit.bike.of_kind(*kinds)
        return (observable,) if len(parts) == 1 else tuple(f"{observable}-{part.id}" for part in parts)

    rotor = named("rotor")
    sectors = tuple((f"sector{s}", _all_having(on, rotor, s)) for s in (SECTORS if rotor else ()))
    has_display = bool(circuit.bike.of_kind("display"))
    panel = ("display", "brake_symbol", "error") if has_display else ()
    motor = each("motor", "controller")
    scenes = [Scene("switch_on", "Switch on and look", (("rest", on),), (*panel, *each("lamp", "lamp")), 0.5)]
    speed = ("speed",) if has_display and rotor else ()
    run: list[tuple[str, str, tuple[tuple[str, Condition], ...]]] = []
    for name in named("grip")[:1]:
        run.append(("throttle", "A touch of throttle, wheel up", (("demand", on.having(name, "full")),)))
    for name in named("turn")[:1]:
        pushed = _all_having(on, named("push"), "pushed")
        run.append(("pedal", "Turn the cranks, wheel up", (("pulse", pushed.having(name, "low")), ("demand", pushed))))
    error = ("error",) if has_display else ()
    for scene_id, title, extra in run:
        scenes.append(Scene(scene_id, title, (("rest", on), *extra, *sectors), (*motor, *error, *speed), 1.0))
    if run:
        scene_id, _, extra = run[0]
        for name in named("lever"):
            part = circuit.bike.part(controls[name][0])
            braked = tuple((state, condition.having(name, "pulled")) for state, condition in extra)
            pulled = (("rest", on.having(name, "pulled")), *braked, *sectors)
            scenes.append(
                Scene(f"brake.{part.id}", f"{circuit.registry[part.kind].act.format(part=part.name)} while the motor runs, wheel up", pulled,
                      (*motor, *(("brake_symbol",) if has_display else ())), 1.0)
            )  # fmt: skip
        drive = named("drive")
        if drive:
            demand = dict(extra)["demand"]
            scenes.append(
                Scene("pull", "Pull hard: ride uphill, slowly and off the road",
                      (("rest", on), *extra, ("load", _all_having(demand, drive, "pull")), *sectors), motor, 5.0)
            )  # fmt: skip
    if circuit.bike.of_kind(*MOTOR_KINDS):
        out = Condition("out")
        scenes.append(Scene("spin", "Turn the motor by hand, pack out", (("out", out),), each("drag", *MOTOR_KINDS), 1.5))
    for join in circuit.bike.joins:
        wanted = _unplug_scenes(circuit, join)
        scenes += [_unplugged(scene, join.id) for scene in tuple(scenes) if scene.id in wanted]
    return tuple(scenes)


def _all_having(condition: Condition, controls: list[str], value: str) -> Condition:
    """Return the condition with every one of the controls set; a resting value leaves it as it is."""
    for name in controls if value != "0" else ():
        condition = condition.having(name, value)
    return condition


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
