"""A scene: what a technician does in order to look, and the states that decide what is seen.

A scene names the electrical states it needs. The kinds read solved pins through a
`SceneView` and write what would be seen; all arrays are [R], one value per bike variant.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.circuit.conditions import Condition
from brightcore.circuit.netlist import Circuit

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]
Classes = NDArray[np.int8]

SECTORS = ("0", "1", "2", "3", "4", "5")


@dataclass(frozen=True, slots=True)
class Scene:
    """A thing to do and watch. `states` holds (name, condition); `seen` the observables, `kind` the
    kind of test that does it, `gates` the cautions it needs beside those of its power, `steps`
    how the bike is brought into its state where that says more than the state."""

    id: str
    title: str
    states: tuple[tuple[str, Condition], ...]
    seen: tuple[str, ...]
    minutes: float
    unplugged: str = ""
    kind: str = "look"
    gates: tuple[str, ...] = ()
    steps: tuple[str, ...] = ()

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
        slack: float | Floats = 1.0,
    ) -> None:
        self.circuit, self.scene, self.count, self.slack = circuit, scene, count, slack
        self._volts, self._trait = volts, trait
        self.phase_ohm = phase_ohm
        self.result: dict[str, Classes] = {}

    def has(self, state: str) -> bool:
        """Return whether the scene has a state of that name."""
        return any(name == state for name, _ in self.scene.states)

    def volts(self, plus: str, minus: str, state: str = "rest") -> Floats:
        """Return volts [R] between two pins or inner nodes in one of the scene's states."""
        return self._volts(self.scene.condition(state), plus, minus)

    def limit(self, usual: float, low: float, high: float) -> Floats:
        """Return a threshold that differs between makes: the usual one times the slack, within what
        a healthy bike allows."""
        return np.asarray(np.clip(np.asarray(usual * self.slack), low, high))

    def trait(self, part_id: str, name: str) -> Flags:
        """Return which variants carry a trait."""
        return self._trait(part_id, name)

    def node(self, part_id: str, name: str) -> bool:
        """Return whether the circuit has an inner node of that name."""
        return f"{part_id}:{name}" in self.circuit.node_of

    def name_for(self, observable: str, part_id: str) -> str:
        """Return the observable's name in this scene for one part: its own where several parts have
        one."""
        own = f"{observable}-{part_id}"
        if own in self.scene.seen:
            return own
        return observable

    def none(self) -> Flags:
        """Return a vector of False."""
        return np.zeros(self.count, dtype=bool)

    def see(
        self, observable: str, *cases: tuple[Flags, str], otherwise: str, part_id: str = ""
    ) -> None:
        """Write what is seen (of one part): the class of the first case that holds."""
        observable = self.name_for(observable, part_id)
        if observable not in self.scene.seen:
            return
        ids = OBSERVABLES[observable].ids()
        if not cases:
            self.result[observable] = np.full(self.count, ids.index(otherwise), dtype=np.int8)
            return
        flags = [flag for flag, _ in cases]
        codes = [np.int8(ids.index(class_id)) for _, class_id in cases]
        self.result[observable] = np.select(flags, codes, np.int8(ids.index(otherwise))).astype(
            np.int8
        )

    def without(self, *observables: str) -> "SceneView":
        """Return a view of the same scene that writes into the same result, some observables left
        out."""
        rows = []
        for name in self.scene.seen:
            if name not in observables:
                rows.append(name)
        kept = tuple(rows)
        scene = replace(self.scene, seen=kept)
        narrow = SceneView(
            self.circuit, scene, self._volts, self.phase_ohm, self._trait, self.count, self.slack
        )
        narrow.result = self.result
        return narrow

    def codes(self, observable: str) -> dict[str, int]:
        """Return class codes by id."""
        found: dict[str, int] = {}
        for i, class_id in enumerate(OBSERVABLES[observable].ids()):
            found[class_id] = i
        return found
