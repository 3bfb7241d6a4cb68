"""A simulated technician and true bikes that differ from the model.

Used by the benchmark and the tests to measure how often the engine is right, and by the demo to
make readings. Every part of a true bike has values of its own, it has another state of charge,
continuous severity and meter noise; the engine knows none of it.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from brightcore.circuit.elements import Element, Override
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.netlist import Circuit
from brightcore.simulation.table import Row, Table
from brightcore.tracing.advice import propose
from brightcore.tracing.endings import conclude
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import Test, kind_of
from brightcore.tracing.tests.ask import THERE_HARMLESS
from brightcore.tracing.tests.wiggle import MOVES_BAD, MOVES_BY_CHANCE
from brightcore.tracing.trace import Trace

PART_SPREAD = 0.05
CHARGE_SPREAD = 0.03
SEVERITY_SPREAD = 0.35
MAKES_APART = 2.0
"""Spread of parts, of the charge, of a fault's severity, and how far makes differ at most either
way."""

COMPLAINT_SCENES = ("switch_on", "throttle", "pedal", "brake", "pull", "spin")


def differs_by_make(element: Element) -> bool:
    """Return whether an element is one that makes choose freely: a pull-up, a load, a divider, a
    bleed."""
    name = element.id.partition("/")[2]
    words = ("pull", "load", "bleed", "divider", "standby", "draw", "drive")
    return any(word in name for word in words)


def scales(
    circuit: Circuit, rng: np.random.Generator, makes: bool
) -> tuple[np.ndarray, np.ndarray, float]:
    """Return (scale of conductances [E], scale of sources [E], slack of thresholds) of one true
    bike."""
    elements = circuit.elements
    scale_g = np.exp(PART_SPREAD * rng.standard_normal(len(elements)))
    # All cells of a bike share one state of charge: one draw for all of them, where parts each get
    # their own.
    cells = np.array([e.id.endswith("/cells") for e in elements])
    ratios = np.array([e.id.endswith("/output") for e in elements])
    scale_j = np.where(cells, 1 + CHARGE_SPREAD * rng.standard_normal(), 1.0)
    scale_j = np.where(ratios, 1 + PART_SPREAD * rng.standard_normal(len(elements)), scale_j)
    slack = float(np.exp(PART_SPREAD * rng.standard_normal()))
    if makes:
        apart = np.log(MAKES_APART)
        free = np.array([differs_by_make(e) for e in elements])
        scale_g = np.where(free, np.exp(rng.uniform(-apart, apart, len(elements))), scale_g)
        slack = float(np.exp(rng.uniform(-apart, apart)))
    return scale_g, scale_j, slack


def own_severity(override: Override, rng: np.random.Generator) -> Override:
    """Return a fault's override with a severity of its own, where it has one."""
    region = override.regions[0]
    if (
        len(override.regions) > 1
        or override.tol_g is None
        or override.tol_g < 0.35
        or region.g1 < 1e-8
    ):
        return override
    # Resistances of bad contacts spread over decades, so severity is drawn on a logarithmic scale;
    # what is plainly open or shorted keeps its value.
    factor = float(np.exp(SEVERITY_SPREAD * rng.standard_normal()))
    return Override(override.element, (replace(region, g1=region.g1 * factor),), override.tol_g)


class TrueBikes:
    """Bikes that each carry one fault of the engine's list (or none), built with other values."""

    def __init__(self, engine: Engine, rows: Sequence[int], seed: int, makes: bool = False) -> None:
        self.engine, self.rows = engine, tuple(rows)
        self.rng = np.random.default_rng(seed)
        made = []
        for row in self.rows:
            mode = engine.hypotheses.items[row].mode
            scale_g, scale_j, slack = scales(engine.circuit, self.rng, makes)
            if mode:
                kept = []
                for o in mode.overrides:
                    kept.append(own_severity(o, self.rng))
                overrides = tuple(kept)
            else:
                overrides = ()
            traits = frozenset(mode.traits) if mode else frozenset()
            made.append(Row(overrides, traits, scale_g, scale_j, slack))
        self.table = Table(engine.circuit, made)

    def mode(self, which: int) -> FaultMode | None:
        """Return the fault that true bike number `which` carries, None for a healthy one."""
        return self.engine.hypotheses.items[self.rows[which]].mode

    def moves(self, which: int, place: str) -> float:
        """Return how often something changes while a plug or cable is moved."""
        mode = self.mode(which)
        at_place = mode is not None and mode.loose > 0 and mode.repair.owner == place
        if at_place:
            return MOVES_BAD
        return MOVES_BY_CHANCE

    def undescribed(self, which: int, line: str) -> float:
        """Return how often something undescribed is found on a line."""
        mode = self.mode(which)
        if mode is not None and mode.repair.id == line:
            return 1.0
        return THERE_HARMLESS / 2

    def answer(self, test: Test, which: int) -> tuple[Evidence, ...]:
        """Return what the technician at true bike number `which` would enter for a test."""
        return kind_of(test.kind).answer(self, test, which)

    def complaint(self, which: int) -> tuple[Evidence, ...]:
        """Return what the rider tells: the first scene that is not healthy."""
        for name in COMPLAINT_SCENES:
            for scene_id in self.table.scenes:
                if scene_id.split(".")[0] == name:
                    seen = self.table.seen(scene_id)
                    healthy = self.engine.table.seen(scene_id)
                    if any(codes[which] != healthy[o][0] for o, codes in seen.items()):
                        return told(self.answer(self.engine.by_id[f"look {scene_id}"], which))
        return ()


def told(
    items: Sequence[Evidence], sometimes: bool = False, state: str = ""
) -> tuple[Evidence, ...]:
    """Return what was seen as a rider would tell it."""
    found = []
    for item in items:
        found.append(replace(item, sometimes=sometimes, told=True, state=state))
    return tuple(found)


@dataclass(frozen=True, slots=True)
class Run:
    """How one trace went. `first_right`: the first repair that led above one half was right."""

    fault_id: str
    first_right: bool
    stop_right: bool
    stopped: bool
    probability: float
    tests: int
    minutes: float
    has_symptom: bool
    proposed: str


def trace_one(engine: Engine, bikes: TrueBikes, which: int, most: int = 30) -> Run:
    """Trace one true bike from its complaint to the repair and return how it went."""
    truth = engine.hypotheses.items[bikes.rows[which]]
    evidence = list(bikes.complaint(which))
    symptom = bool(evidence)
    cache: dict[Evidence, np.ndarray] = {}
    minutes, tests = 0.0, 0
    trace = Trace(engine, evidence, cache)
    while not trace.stopped and tests < most:
        best = propose(trace)
        if not best:
            break
        evidence += bikes.answer(best[0].test, which)
        minutes += best[0].minutes
        tests += 1
        trace = Trace(engine, evidence, cache)
    conclusion = conclude(trace)
    repair = conclusion.repair.id if conclusion.repair else ""
    right = repair == truth.repair.id
    ended = trace.stopped or conclusion.status in ("repair", "describe", "nothing-found")
    return Run(
        truth.id,
        right,
        right and ended,
        ended,
        conclusion.probability,
        tests,
        minutes,
        symptom,
        repair,
    )
