"""True bikes: a netlist that the benchmark changes itself, played by its own solver."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import ClassVar

import numpy as np

from brightcore.behaviour.scene import Scene
from brightcore.bike.model import Bike
from brightcore.circuit.conditions import Condition, condition_overrides, unplug_overrides
from brightcore.circuit.netlist import Circuit
from brightcore.kinds.motor import MotorSpec
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import Test
from strangers.meter import Meter
from strangers.rules import Eyes, Temper
from strangers.solver import Branch, Net, Piece

OPEN_S = 1e-9
INF = float("inf")


def resistance(ohm: float) -> tuple[Piece, ...]:
    """Return the pieces of a resistance."""
    return (Piece(INF, 1.0 / ohm, 0.0, 0.0),)


def drain(ampere: float, from_v: float) -> tuple[Piece, ...]:
    """Return a load that takes its amps from some volts on, and a share below."""
    return (
        Piece(from_v, ampere / from_v, 0.0, 0.0),
        Piece(INF, 0.0, 0.0, ampere),
    )


@dataclass(frozen=True)
class Trouble:
    """What is wrong with a bike: branches with other pieces, branches more, what stands in for
    another; and what counts as having found it.

    `owners` are ids of parts and joins at which it is, `roles` lines (`controller:role`) on which
    something undescribed draws, `orders` whether another order of wires cures it as well.
    """

    sort: str
    words: str
    pieces: Mapping[str, tuple[Piece, ...]] = field(default_factory=dict)
    scaled: Mapping[str, float] = field(default_factory=dict)
    extra: tuple[Branch, ...] = ()
    moved: Mapping[str, str] = field(default_factory=dict)
    owners: frozenset[str] = frozenset()
    buys: frozenset[str] = frozenset()
    roles: frozenset[str] = frozenset()
    orders: bool = False
    drains: bool = False


NOTHING = Trouble("none", "nothing")


class TrueBike:
    """One bike as it really is."""

    def __init__(
        self,
        circuit: Circuit,
        trouble: Trouble,
        rng: np.random.Generator,
        temper: Temper,
        apart: float,
    ) -> None:
        self.circuit, self.trouble, self.rng, self.temper = circuit, trouble, rng, temper
        self.meter = Meter.of(rng)
        self._own = _own_values(circuit, rng, apart)
        self._volts: dict[Condition, tuple[np.ndarray, bool]] = {}
        self._net: dict[Condition, Net] = {}
        self._blown: set[str] = set()
        self._ohms: dict[tuple[tuple[str, ...], Condition], list[float]] = {}
        self.has_thermistor = any(
            pin.role == "thermistor"
            for motor in circuit.bike.having(MotorSpec)
            for port in motor.ports
            for pin in port.pins
        )
        self._blow()
        self.well = self if trouble is NOTHING else None

    @property
    def bike(self) -> Bike:
        """The bike as it is described."""
        return self.circuit.bike

    def sound(self) -> "TrueBike":
        """Return the same bike without its trouble."""
        if self.well is None:
            other = object.__new__(TrueBike)
            other.__dict__.update(self.__dict__)
            other.trouble = NOTHING
            other._volts, other._net, other._blown, other._ohms = {}, {}, set(), {}
            other.well = other
            other._blow()
            self.well = other
        return self.well

    # -- the netlist -------------------------------------------------------------------------

    def branches(self, condition: Condition) -> list[Branch]:
        """Return the branches in a state: set, then broken, then unplugged."""
        regions = {e.id: e.regions for e in self.circuit.elements}
        for override in condition_overrides(self.circuit, condition):
            regions[override.element] = override.regions
        apart = {o.element for o in unplug_overrides(self.circuit, condition)}
        found = []
        for e in self.circuit.elements:
            g, j = self._own[e.id]
            pieces = tuple(
                Piece(r.upto, r.g1 * g, r.g2 * g * j, r.j * g * j) for r in regions[e.id]
            )
            if e.id in self.trouble.pieces:
                pieces = self.trouble.pieces[e.id]
            if e.id in self.trouble.scaled:
                k = self.trouble.scaled[e.id]
                pieces = tuple(Piece(p.upto, p.g1 * k, p.g2 * k, p.j * k) for p in pieces)
            if e.id in apart or e.id in self._blown:
                pieces = (Piece(INF, OPEN_S, 0.0, 0.0),)
            ends = [
                self.trouble.moved.get(f"{e.id}.{end}", at)
                for end, at in (("a", e.a), ("b", e.b), ("c", e.c), ("d", e.d))
            ]
            if ends[0] == ends[1]:
                continue
            found.append(Branch(e.id, *ends[:2], pieces, ends[2], ends[3], e.by_control))
        return [*found, *self.trouble.extra]

    def _blow(self) -> None:
        on = Condition()
        for _ in range(3):
            net = self.net(on)
            volts, settled = net.solve()
            amps = np.abs(net.currents(volts))
            by_name = dict(zip(net.names, amps, strict=True))
            new = {
                e.id
                for e in self.circuit.elements
                if np.isfinite(e.fuse_a) and by_name.get(e.id, 0.0) > e.fuse_a
            } - self._blown
            if not new:
                self._volts[on] = (volts, settled)
                return
            self._blown |= new
            self._net.clear()

    def net(self, condition: Condition) -> Net:
        """Return the net in a state."""
        if condition not in self._net:
            self._net[condition] = Net(self.circuit.nodes, self.branches(condition))
        return self._net[condition]

    def solved(self, condition: Condition) -> np.ndarray:
        """Return the volts of every node in a state."""
        if condition not in self._volts:
            start = None
            if condition.power == "on" and Condition() in self._volts:
                start = self._volts[Condition()][0]
            volts, settled = self.net(condition).solve(start)
            if not settled and start is not None:
                volts, settled = self.net(condition).solve(None)
            self._volts[condition] = (volts, settled)
        return self._volts[condition][0]

    def has_node(self, name: str) -> bool:
        """Return whether there is a pin or an inner node of that name."""
        return name in self.circuit.node_of

    def volts(self, condition: Condition, plus: str, minus: str) -> float:
        """Return volts between two names without a meter."""
        return self._across(self.net(condition), self.solved(condition), plus, minus)

    def _across(self, net: Net, volts: np.ndarray, plus: str, minus: str) -> float:
        full = np.append(volts, 0.0)
        node = self.circuit.node_of
        return float(full[net.at(node.get(plus, plus))] - full[net.at(node.get(minus, minus))])

    def with_branch(
        self, condition: Condition, branch: Branch, red: str, black: str
    ) -> tuple[float, bool]:
        """Return volts between two names with one branch more, and whether it settled."""
        node = self.circuit.node_of
        branch = replace(branch, a=node[red], b=node[black])
        if branch.a == branch.b:
            return 0.0, True
        net = Net(self.circuit.nodes, [*self.branches(condition), branch])
        volts, settled = net.solve(self.solved(condition))
        return self._across(net, volts, red, black), settled

    # -- what a controller's phases look like -------------------------------------------------

    def _ohms_between(self, names: Sequence[str], condition: Condition) -> list[float]:
        key = (tuple(names), condition)
        if key not in self._ohms:
            self._ohms[key] = self._measured_between(names, condition)
        return self._ohms[key]

    def _measured_between(self, names: Sequence[str], condition: Condition) -> list[float]:
        found = []
        node = self.circuit.node_of
        for k, one in enumerate(names if len(names) > 2 else names[:1]):
            two = names[(k + 1) % len(names)]
            if node[one] == node[two]:
                found.append(0.0)
                continue
            probe = Branch("probe", node[one], node[two], (Piece(INF, 0.0, 0.0, -0.01),))
            net = Net(self.circuit.nodes, [*self.branches(condition), probe])
            volts, _ = net.solve(self.solved(condition))
            found.append(abs(self._across(net, volts, one, two)) / 0.01)
        return found

    def phase_ohms(self, part: str) -> list[float]:
        """Return the ohms between the phases of a controller, pack out."""
        names = [f"{part}:phase_{x}" for x in "uvw"]
        if not all(self.has_node(name) for name in names):
            return [0.1, 0.1, 0.1]
        return self._ohms_between(names, Condition("out"))

    def winding_ohms(self, part: str) -> list[float]:
        """Return the ohms between the phases of a motor, pack out."""
        return self._ohms_between([f"{part}:phase_{x}" for x in "uvw"], Condition("out"))

    def phase_shorted(self, part: str) -> bool:
        """Return whether a phase is tied to supply, ground or another phase."""
        names = [f"{part}:phase_{x}" for x in "uvw"]
        if not all(self.has_node(name) for name in names):
            return False
        out = Condition("out")
        for name in names:
            for rail in (f"{part}:plus", f"{part}:ground"):
                # A pair is asked one way round only: the second is the same path backwards.
                if self._ohms_between((name, rail), out)[0] < 8.0:
                    return True
        own, well = self.phase_ohms(part), self.sound().phase_ohms(part)
        return any(a < 0.6 * b for a, b in zip(own, well, strict=True))

    def motor_joined(self, part: str, scene: Scene) -> bool:
        """Return whether the phases of a motor are joined outside its windings."""
        condition = dict(scene.states)["out"]
        names = [f"{part}:phase_{x}" for x in "uvw"]
        own = self._ohms_between(names, condition)
        well = self.sound()._ohms_between(names, condition)
        return any(a < 0.75 * b for a, b in zip(own, well, strict=True))

    def usual_codes(self, part: str) -> list[tuple[int, int, int]]:
        """Return the hall codes over a turn of the same bike when it is well."""
        well = self.sound()
        if not hasattr(well, "_codes"):
            scene = next(
                s
                for s in self.scenes.values()
                if any(n == "sector0" for n, _ in s.states) and not s.unplugged
            )
            eyes = Eyes(well, scene)
            own = next(p for p in self.bike.parts if p.id == part)
            well._codes = eyes._codes(own)
        return well._codes

    scenes: ClassVar[dict[str, Scene]] = {}

    # -- what a technician does ---------------------------------------------------------------

    def seen(self, scene_id: str) -> dict[str, str]:
        """Return what is seen in a scene."""
        return Eyes(self, self.scenes[scene_id]).seen()

    def answer(self, test: Test) -> tuple[Evidence, ...]:
        """Return what is entered for a test; nothing where it cannot be done here."""
        return answer_of(self, test)


def answer_of(bike: TrueBike, test: Test) -> tuple[Evidence, ...]:
    """Return the evidence of one test at a true bike."""
    from strangers.hands import ANSWERS, look

    if test.scene:
        return look(bike, test)
    done = ANSWERS.get(test.kind)
    return done(bike, test) if done else ()


def _own_values(
    circuit: Circuit, rng: np.random.Generator, apart: float
) -> dict[str, tuple[float, float]]:
    """Return (factor of conductance, factor of a source) of every branch: parts differ by a few
    percent, what makers choose freely by up to `apart`."""
    charge = 1 + 0.025 * rng.standard_normal()
    found = {}
    for e in circuit.elements:
        g = float(np.exp(0.04 * rng.standard_normal()))
        words = e.id.partition("/")[2]
        if apart > 1 and any(w in words for w in ("pull", "load", "bleed", "divider", "standby")):
            g = float(np.exp(rng.uniform(-np.log(apart), np.log(apart))))
        j = charge if words == "cells" else 1.0
        if words.endswith("output"):
            j = float(1 + 0.03 * rng.standard_normal())
        found[e.id] = (g, j)
    return found
