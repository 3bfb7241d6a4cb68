"""A simulated technician and true bikes that differ from the model.

Used by the benchmark and the tests to measure how often the engine is right, and by the demo
to make readings. True bikes have 5 % part spread, another state of charge, continuous
severity and meter noise; the engine knows none of it.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from brightcore.circuit.elements import Override, Region
from brightcore.circuit.faults import FaultMode
from brightcore.simulation.table import Row, Table
from brightcore.tracing.advice import conclude, propose
from brightcore.tracing.engine import Engine, Trace
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import Test, kind_of

PART_SPREAD = 0.05
CHARGE_SPREAD = 0.03
SEVERITY_SPREAD = 0.35
COMPLAINT_SCENES = ("switch_on", "throttle", "pedal", "brake", "pull", "spin")


class TrueBikes:
    """Bikes that each carry one fault of the engine's list (or none), built with other values."""

    def __init__(self, engine: Engine, rows: Sequence[int], seed: int) -> None:
        self.engine, self.rows = engine, tuple(rows)
        self.rng = np.random.default_rng(seed)
        elements = engine.circuit.elements
        cells = np.array([e.id.endswith("/cells") for e in elements])
        made = []
        for row in self.rows:
            mode = engine.hypotheses.items[row].mode
            scale_g = np.exp(PART_SPREAD * self.rng.standard_normal(len(elements)))
            scale_j = np.where(cells, 1 + CHARGE_SPREAD * self.rng.standard_normal(), 1.0)
            for k, element in enumerate(elements):
                if len(element.regions) > 1 or element.id.endswith(("_source", "/output", "_diode")):
                    scale_g[k] = 1.0
            overrides = tuple(self._severity(o) for o in mode.overrides) if mode else ()
            traits = frozenset(mode.traits) if mode else frozenset()
            scale_g[cells] = 1.0
            made.append(Row(overrides, traits, scale_g, scale_j))
        self.table = Table(engine.circuit, made)

    def _severity(self, override: Override) -> Override:
        g = override.regions[0].g1
        if len(override.regions) > 1 or override.tol_g is None or override.tol_g < 0.35 or g < 1e-8:
            return override
        factor = float(np.exp(SEVERITY_SPREAD * self.rng.standard_normal()))
        return Override(override.element, (Region(override.regions[0].upto, g * factor),), override.tol_g)

    def mode(self, which: int) -> FaultMode | None:
        """Return the fault that true bike number `which` carries, None for a healthy one."""
        return self.engine.hypotheses.items[self.rows[which]].mode

    def answer(self, test: Test, which: int) -> tuple[Evidence, ...]:
        """Return what the technician at true bike number `which` would enter for a test."""
        return kind_of(test.kind).answer(self, test, which)

    def complaint(self, which: int) -> tuple[Evidence, ...]:
        """Return what the rider's complaint amounts to: the first scene that is not healthy."""
        for name in COMPLAINT_SCENES:
            for scene_id in self.table.scenes:
                if scene_id.split(".")[0] == name:
                    seen = self.table.seen(scene_id)
                    healthy = self.engine.table.seen(scene_id)
                    if any(codes[which] != healthy[o][0] for o, codes in seen.items()):
                        return self.answer(self.engine.by_id[f"look {scene_id}"], which)
        return ()


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
    return Run(
        truth.id,
        right,
        right and trace.stopped,
        trace.stopped,
        conclusion.probability,
        tests,
        minutes,
        symptom,
        repair,
    )
