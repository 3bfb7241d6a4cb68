"""The hidden bike: built apart from its description, with what the seed hides; it answers as a real
one does.

Two circuits stand behind it, with the same values of parts: one with its faults, one without. What
comes and goes is played by choosing between them, act by act.
"""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np

from brightcore.analysis.bike import analysis_of
from brightcore.behaviour.scene import Scene
from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.netlist import Circuit
from brightcore.practice.case import OFTEN, Case, candidates, hides_nothing
from brightcore.practice.chance import generator, normal, uniform
from brightcore.practice.sorts import BY_KEY
from brightcore.simulation.table import Row, Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import BROUGHT_OUT
from brightcore.tracing.simulated import CHARGE_SPREAD, COMPLAINT_SCENES, PART_SPREAD, own_severity
from brightcore.tracing.tests import Test, kind_of
from brightcore.tracing.tests.ask import THERE_HARMLESS
from brightcore.tracing.tests.wiggle import MOVES_BAD, MOVES_BY_CHANCE, MOVES_LOOSE

MOST_TRIED = 24
"""Faults that are tried until one shows something that a rider would come for."""

SIGNS_TOLD = ("heard", "smelt", "hot", "fast", "faded")
Seen = dict[str, str]
"""What is seen: observable → class."""


@dataclass(frozen=True, slots=True)
class Bench:
    """The state that an answer is given in: which act it is, and what was done to bring a fault
    out."""

    act: int = 0
    brought: str = ""


class HiddenBike:
    """A true bike with hidden faults. `gone`: repairs that were made, by id, and parts that were
    swapped."""

    def __init__(self, case: Case, modes: Sequence[FaultMode], gone: Collection[str] = ()) -> None:
        self.case, self.hidden = case, tuple(modes)
        self.circuit = analysis_of(case.bike).circuit
        self.modes = tuple(
            mode for mode in modes if mode.repair.id not in gone and not _swapped(mode, gone)
        )
        sort = BY_KEY[case.sort]
        self.comes_and_goes = sort.comes_and_goes and bool(self.modes)
        rows = []
        for mode in self.modes:
            for o in mode.overrides:
                rows.append(own_severity(o, generator(case.seed, "severity", mode.id, o.element)))
        overrides = tuple(rows)
        kept = []
        for mode in self.modes:
            for trait in mode.traits:
                kept.append(trait)
        traits = frozenset(kept)
        scale_g, scale_j, slack = scales(self.circuit, case.seed)
        self.faulty = Table(self.circuit, [Row(overrides, traits, scale_g, scale_j, slack)])
        self._sound_row = Row((), frozenset(), scale_g, scale_j, slack)
        self._differs: list[tuple[Scene, Seen]] | None = None
        self.rng = generator(case.seed, "idle")
        self._bench = Bench()
        self._mode: FaultMode | None = None

    # What the kinds of test ask of a true bike (`tracing.tests.base.Truth`).

    @property
    def table(self) -> Table:
        """The circuit that shows at this act."""
        if self.shows():
            return self.faulty
        return self.sound

    def mode(self, which: int) -> FaultMode | None:
        """Return the fault that answers now."""
        return self._mode

    def moves(self, which: int, place: str) -> float:
        """Return how often something changes while a plug or cable is moved."""
        at_place = any(mode.loose > 0 and mode.repair.owner == place for mode in self.modes)
        if not at_place:
            return MOVES_BY_CHANCE
        if self.comes_and_goes:
            return MOVES_LOOSE
        return MOVES_BAD

    def undescribed(self, which: int, line: str) -> float:
        """Return how often something undescribed is found on a line."""
        return THERE_HARMLESS / 2

    # What the bench asks.

    @cached_property
    def sound(self) -> Table:
        """The circuit of the same bike without its faults."""
        if self.modes:
            return Table(self.circuit, [self._sound_row])
        return self.faulty

    @property
    def is_well(self) -> bool:
        """Whether nothing is wrong with it any more."""
        return not self.modes

    def shows(self) -> bool:
        """Return whether the fault shows at this act."""
        if not self.comes_and_goes:
            return True
        often = BROUGHT_OUT if self._bench.brought else OFTEN
        return uniform(self.case.seed, "shows", str(self._bench.act)) < often

    def at(self, bench: Bench) -> "HiddenBike":
        """Put it into the state of an act; what is then asked is answered for that act."""
        self._bench = bench
        return self

    def answer(self, test: Test, name: str = "") -> tuple[Evidence, ...]:
        """Return what would be entered for a test: what any of its faults shows there.

        What is seen is seen as it is: nobody takes one thing for another here.
        """
        if test.scene:
            seen = self.seen(self.circuit_scene(test.scene))
            return tuple(
                Evidence("look", value, scene=test.scene, observable=name, state=test.state)
                for name, value in seen.items()
            )
        sound = self._answered(test, None, name)
        if not self.shows():
            return sound
        for mode in self.modes:
            found = self._answered(test, mode, name)
            if found != sound:
                return found
        return sound

    def circuit_scene(self, scene_id: str) -> Scene:
        """Return a scene of the bike by its id."""
        return self.faulty.scenes[scene_id]

    def _answered(self, test: Test, mode: FaultMode | None, name: str) -> tuple[Evidence, ...]:
        self._mode = mode
        self.rng = generator(self.case.seed, str(self._bench.act), name or test.id)
        return kind_of(test.kind).answer(self, test, 0)

    def seen(self, scene: Scene) -> Seen:
        """Return what a scene shows, as it is: whoever practises sees with own eyes."""
        return seen_on(self.table, scene)

    def healthy(self, scene: Scene) -> Seen:
        """Return what the same scene would show without its faults."""
        return seen_on(self.sound, scene)

    def differs(self) -> list[tuple[Scene, Seen]]:
        """Return what a rider meets that a healthy bike does not show: scenes with what differs in
        them."""
        if self._differs is None:
            self._differs = list(self._found_differences())
        return self._differs

    def _found_differences(self) -> Iterator[tuple[Scene, Seen]]:
        for name in COMPLAINT_SCENES:
            for scene in tuple(self.faulty.scenes.values()):
                if scene.id.split(".")[0] != name or scene.unplugged:
                    continue
                faulty, sound = seen_on(self.faulty, scene), seen_on(self.sound, scene)
                odd = {}
                for key, value in faulty.items():
                    if sound[key] != value:
                        odd[key] = value
                if odd:
                    yield scene, odd

    def signs(self) -> list[str]:
        """Return what a rider notices that no look shows, by name."""
        found: list[str] = []
        for name in SIGNS_TOLD:
            if any(mode.sign(name) > 0.5 for mode in self.modes) or (name == "hot" and self._hot()):
                found.append(name)
        return found

    def _hot(self) -> bool:
        return any(mode.hot > 0.5 for mode in self.modes)


def _swapped(mode: FaultMode, gone: Collection[str]) -> bool:
    """Return whether a known good part in place of its own takes a fault away."""
    return not mode.repair.of_join and f"swap:{mode.repair.owner}" in gone


def seen_on(table: Table, scene: Scene) -> Seen:
    """Return what a scene shows on the one bike of a table; the scene need not be one of the bike's
    own."""
    if scene.id not in table.scenes:
        table.scenes[scene.id] = scene
    codes = table.seen(scene.id)
    found = {}
    for name, code in codes.items():
        found[name] = OBSERVABLES[name].ids()[int(code[0])]
    return found


def scales(circuit: Circuit, seed: str) -> tuple[np.ndarray, np.ndarray, float]:
    """Return (scale of conductances, scale of sources, slack of thresholds) of a seed's bike."""
    charge = 1 + CHARGE_SPREAD * normal(seed, "charge")
    scale_g = np.array([np.exp(PART_SPREAD * normal(seed, "g", e.id)) for e in circuit.elements])
    scale_j = np.array(
        [
            charge
            if e.id.endswith("/cells")
            else 1 + PART_SPREAD * normal(seed, "j", e.id)
            if e.id.endswith("/output")
            else 1.0
            for e in circuit.elements
        ]
    )
    return scale_g, scale_j, float(np.exp(PART_SPREAD * normal(seed, "slack")))


def faults_of(case: Case) -> tuple[FaultMode, ...]:
    """Return what a case hides: the first faults of its seed that a rider would come for."""
    circuit = analysis_of(case.bike).circuit
    if case.named:
        known = {mode.id: mode for mode in circuit.faults}
        return tuple(known[name] for name in case.named)
    if hides_nothing(case):
        return ()
    wanted = BY_KEY[case.sort].count
    found: list[FaultMode] = []
    for mode in candidates(circuit, case)[:MOST_TRIED]:
        if any(mode.family == other.family or mode.repair == other.repair for other in found):
            continue
        alone = HiddenBike(replace(case, sort="anything"), [mode])
        if alone.differs() or alone.signs():
            found.append(mode)
        if len(found) == wanted:
            break
    return tuple(found)


@lru_cache(maxsize=32)
def hidden_bike(case: Case, gone: frozenset[str] = frozenset()) -> HiddenBike:
    """Return the bike of a case with what was repaired or swapped on it."""
    return HiddenBike(case, _faults(case), gone)


@lru_cache(maxsize=64)
def _faults(case: Case) -> tuple[FaultMode, ...]:
    return faults_of(case)


def scene_with(
    scene: Scene, unplugged: Sequence[str], held: Sequence[tuple[str, str]] = ()
) -> Scene:
    """Return a scene as it is done with plugs apart and controls held."""
    if not unplugged and not held:
        return scene
    states = []
    for name, condition in scene.states:
        for control, value in held:
            if control not in dict(condition.settings):
                condition = condition.having(control, value)
        for join in unplugged:
            condition = condition.without(join)
        states.append((name, condition))
    apart = "".join(f"/unplug {join}" for join in sorted(unplugged))
    kept = "".join(f"/{control}={value}" for control, value in held)
    return replace(scene, id=f"{scene.id}{apart}{kept}", states=tuple(states))
