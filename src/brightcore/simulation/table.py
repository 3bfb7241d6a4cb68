"""Predictions: every hypothesis solved in the electrical states that are asked for.

States are solved when first needed and kept; the table of a bike grows lazily, and the
worker of the web application fills the rest. R is the number of rows (bike variants).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcore.behaviour.scene import Scene, SceneView
from brightcore.circuit.conditions import Condition, condition_overrides, unplug_overrides
from brightcore.circuit.elements import OPEN, Override
from brightcore.circuit.instruments import DEFAULT_METER, Clamp, Multimeter
from brightcore.circuit.metered import Feeding, metered
from brightcore.circuit.netlist import Circuit
from brightcore.circuit.solver import (
    Probing,
    Small,
    Solution,
    Values,
    base_values,
    join_values,
    probe,
    solve,
)
from brightcore.circuit.system import Floats, System
from brightcore.kinds import REGISTRY
from brightcore.simulation.scenes import scenes_of

LEAST_REST_V = 1e-9
"""A meter whose current is gone: below this its leads stand open."""

FLOATING_SIGMA_V = 0.12
"""Least spread of a phantom reading (common practice)."""

MAKES = ((1.0, 0.6), (0.65, 0.2), (1.5, 0.2))
"""How thresholds of inputs differ between makes: (factor, share), the usual one first (common
practice)."""

LOAD_SPREAD = 0.1
"""Spread of what controllers of one setting take under load (common practice)."""

PROBE_BATCH = 24
"""Point pairs probed at once."""


@dataclass(frozen=True)
class Row:
    """One bike variant: fault overrides, traits, and (for true bikes) element scales [E] and the
    slack of its thresholds."""

    overrides: tuple[Override, ...] = ()
    traits: frozenset[str] = frozenset()
    scale_g: Floats | None = None
    scale_j: Floats | None = None
    slack: float | None = None


@dataclass(frozen=True)
class Prediction:
    """A predicted reading per row: mean, standard deviation, floating and uncertain flags, all [R].

    Volts in V; for ohms and diode readings see `kind` of the test.
    """

    mean: Floats
    sigma: Floats
    floating: NDArray[np.bool_]
    uncertain: NDArray[np.bool_]


Latches = tuple[tuple[Override, ...], ...]
"""Fuses that are blown, by row."""


class Table:
    """Solved states and scenes of one circuit for a list of rows."""

    def __init__(self, circuit: Circuit, rows: Sequence[Row]) -> None:
        self.circuit = circuit
        self.rows = tuple(rows)
        self.count = len(self.rows)
        self.system = System(circuit)
        self.scenes = {scene.id: scene for scene in scenes_of(circuit)}
        self._solutions: dict[Condition, Solution] = {}
        self._seen: dict[str, dict[str, NDArray[np.int8]]] = {}
        self._phase: dict[tuple[str, tuple[str, ...]], Floats] = {}
        self._probes: dict[tuple[Condition, str, str], NDArray[np.float32]] = {}
        self._fed: dict[tuple[Condition, str, str, Feeding], NDArray[np.float32]] = {}
        self._start: Small | None = None
        self._latched: Latches | None = None

    def _scales(self) -> tuple[Floats | None, Floats | None]:
        if self.rows and self.rows[0].scale_g is not None:
            return (
                np.stack([r.scale_g for r in self.rows if r.scale_g is not None], axis=1),
                np.stack([r.scale_j for r in self.rows if r.scale_j is not None], axis=1),
            )
        return None, None

    def values(self, condition: Condition) -> Values:
        """Return the element values of all rows in a condition, with the fuses they have blown."""
        return self._values_with(condition, self.blow_fuses())

    def _values_with(self, condition: Condition, latches: Latches) -> Values:
        changes = []
        for row, latch in zip(self.rows, latches, strict=True):
            changes.append((*row.overrides, *latch))
        scale_g, scale_j = self._scales()
        return base_values(
            self.system,
            condition_overrides(self.circuit, condition),
            changes,
            unplug_overrides(self.circuit, condition),
            scale_g,
            scale_j,
        )

    def blow_fuses(self) -> Latches:
        """Return the fuses that each row has blown, found out once."""
        # Fuses first: a fuse that a fault has blown stays blown in every state that is asked for
        # later, as it does on the bench. Not before something is asked for, though: who only wants
        # to know which tests a bike has solves nothing.
        if self._latched is None:
            self._latched = self._latch()
        return self._latched

    def _latch(self) -> Latches:
        """Return what exceeds its fuse at rest, by row: it stays blown in every condition."""
        fused = np.flatnonzero(np.isfinite(self.system.fuse_a))
        # The bike switched on and at rest is the state in which a shorted lead or lamp shows;
        # throttle and brake add nothing that would blow a fuse.
        none_blown: Latches = ((),) * self.count
        solution = solve(self.system, self._values_with(Condition(), none_blown), None)
        self._start = solution.regions
        across = solution.volts[self.system.a[fused]] - solution.volts[self.system.b[fused]]
        current = np.abs(across * self.system.g1[fused, 0][:, None])
        blown = (current > self.system.fuse_a[fused][:, None]) & solution.settled
        ids = [self.circuit.elements[i].id for i in fused]
        # With a fuse gone this solution is not that of the latched bike: it is solved again when
        # asked for.
        if not blown.any():
            self._solutions[Condition()] = solution
        found = []
        for row in range(self.count):
            found.append(tuple(Override(ids[k], OPEN) for k in np.flatnonzero(blown[:, row])))
        return tuple(found)

    def solution(self, condition: Condition, keep: bool = True) -> Solution:
        """Return the operating points of all rows in a condition, solving on first use."""
        self.blow_fuses()
        found = self._solutions.get(condition)
        if found is None:
            found = solve(self.system, self.values(condition), self._near(condition))
            if keep:
                self._solutions[condition] = found
        return found

    def _near(self, condition: Condition) -> Small | None:
        """Return the regions [E, R] to begin with: those of the same supply with nothing moved or
        parted."""
        plain = Condition(condition.power)
        if condition.power == "on" or condition == plain:
            return self._start
        return self.solution(plain).regions

    def solve_all(self, conditions: Sequence[Condition]) -> dict[Condition, Solution]:
        """Return the operating points of several conditions, solved as one batch where new."""
        self.blow_fuses()
        wanted = []
        for c in dict.fromkeys(conditions):
            if c not in self._solutions:
                wanted.append(c)
        found = {}
        for c in conditions:
            if c in self._solutions:
                found[c] = self._solutions[c]
        if wanted:
            # All states of a scene are solved as one batch: the wide arrays cost little more than
            # one state, and the loop over pivots is paid once.
            starts = [near for condition in wanted if (near := self._near(condition)) is not None]
            start = np.concatenate(starts, axis=1) if starts else None
            joined = solve(self.system, join_values([self.values(c) for c in wanted]), start)
            for k, condition in enumerate(wanted):
                found[condition] = joined.part(slice(k * self.count, (k + 1) * self.count))
                # Each way of unplugging is asked for once; keeping its volts for thousands of
                # faults fills the memory for nothing.
                if not condition.unplugged:
                    self._solutions[condition] = found[condition]
        return found

    def forget_states(self) -> None:
        """Let go of the operating points of all states; they are solved again where asked for."""
        self._solutions.clear()

    def solve_ahead(self, scene_id: str, conditions: Sequence[Condition]) -> None:
        """Solve some states of a scene, so that what is seen is quick to tell; nothing where it is
        known."""
        if scene_id not in self._seen:
            self.solve_all(conditions)

    def latched(self, row: int) -> tuple[Override, ...]:
        """Return the overrides of fuses that a row has blown."""
        return self.blow_fuses()[row]

    def volts(self, condition: Condition, plus: str, minus: str) -> Floats:
        """Return volts [R] between two names, without a meter."""
        solution = self.solution(condition)
        return np.asarray(
            solution.volts[self.system.node(plus)] - solution.volts[self.system.node(minus)]
        )

    def trait(self, part_id: str, name: str) -> NDArray[np.bool_]:
        """Return which rows carry a trait."""
        key = f"{part_id}:{name}"
        return np.array([key in row.traits for row in self.rows], dtype=bool)

    def prepare_probes(self, condition: Condition, pairs: Sequence[tuple[str, str]]) -> None:
        """Compute many point pairs of one condition together; `probe` then finds them ready."""
        wanted = [pair for pair in dict.fromkeys(pairs) if (condition, *pair) not in self._probes]
        if not wanted:
            return
        indices = []
        for p, q in wanted:
            indices.append((self.system.node(p), self.system.node(q)))
        values, solution = (
            self.values(condition),
            self.solution(condition, keep=not condition.unplugged),
        )
        for low in range(0, len(indices), PROBE_BATCH):
            result = probe(self.system, values, solution, indices[low : low + PROBE_BATCH])
            uncertain = ~solution.settled
            for k, pair in enumerate(wanted[low : low + PROBE_BATCH]):
                arrays = (result.volts[k], result.source_ohm[k], result.spread_v[k], uncertain)
                # Kept in single precision: a meter is good to half a percent, the table to one part
                # in ten million.
                self._probes[(condition, *pair)] = np.stack(arrays).astype(np.float32)

    def probe(
        self, condition: Condition, red: str, black: str
    ) -> tuple[Probing, NDArray[np.bool_]]:
        """Return what stands between two points for all rows [R], and which rows are uncertain."""
        self.prepare_probes(condition, [(red, black)])
        found = self._probes[(condition, red, black)].astype(np.float64)
        return Probing(*found[:3]), found[3] > 0.5

    def read_current(self, condition: Condition, element: str, clamp: Clamp) -> Prediction:
        """Return the predicted amps of a clamp around a plain resistance of the circuit; their
        size, as a clamp may sit either way round."""
        solution, values = self.solution(condition), self.values(condition)
        index = self.system.element_index[element]
        # The current through an element follows from its own conductance in each row: a fault may
        # have changed just that one.
        conductance = values.g1[values.which, index, 0].copy()
        for row, changes in enumerate(values.changes):
            for changed, override in changes:
                if changed == index:
                    conductance[row] = override.regions[0].g1
        if values.scale_g is not None:
            conductance *= values.scale_g[index]
        across = solution.volts[self.system.a[index]] - solution.volts[self.system.b[index]]
        ampere = np.abs(conductance * across)
        sigma = np.hypot(np.hypot(clamp.ratio, LOAD_SPREAD) * ampere, clamp.offset_a)
        return Prediction(ampere, sigma, np.zeros(self.count, dtype=bool), ~solution.settled)

    def prepare_fed(
        self, condition: Condition, pairs: Sequence[tuple[str, str]], feeding: Feeding
    ) -> None:
        """Compute what a meter that feeds a dead circuit reads at many point pairs of one
        condition."""
        wanted = [
            pair for pair in dict.fromkeys(pairs) if (condition, *pair, feeding) not in self._fed
        ]
        if not wanted:
            return
        indices = []
        for p, q in wanted:
            indices.append((self.system.node(p), self.system.node(q)))
        values, solution = (
            self.values(condition),
            self.solution(condition, keep=not condition.unplugged),
        )
        for low in range(0, len(indices), PROBE_BATCH):
            found = metered(
                self.system, values, solution, indices[low : low + PROBE_BATCH], feeding
            )
            for k, pair in enumerate(wanted[low : low + PROBE_BATCH]):
                arrays = (found.volts[k], found.spread_v[k], ~found.settled[k])
                self._fed[(condition, *pair, feeding)] = np.stack(arrays).astype(np.float32)

    def fed(
        self, condition: Condition, red: str, black: str, feeding: Feeding
    ) -> tuple[Floats, Floats, NDArray[np.bool_]]:
        """Return volts at a feeding meter, their spread and which rows are uncertain, all [R]."""
        self.prepare_fed(condition, [(red, black)], feeding)
        found = self._fed[(condition, red, black, feeding)].astype(np.float64)
        return found[0], found[1], found[2] > 0.5

    def read_volts(
        self, condition: Condition, red: str, black: str, meter: Multimeter = DEFAULT_METER
    ) -> Prediction:
        """Return the predicted reading of a meter: loaded by it, with tolerances and its
        accuracy."""
        found, uncertain = self.probe(condition, red, black)
        # A meter of 10 MΩ on a floating wire reads a divided voltage. What is left where nothing
        # holds the wire is a phantom, which is why it gets a spread of its own.
        loading = meter.loading(found.source_ohm)
        mean = found.volts * loading
        floating = found.source_ohm > meter.floating_ohm
        accuracy = (meter.volts.ratio * mean) ** 2 + meter.volts.offset_v**2
        sigma = np.sqrt((found.spread_v * loading) ** 2 + accuracy)
        sigma = np.where(floating, np.maximum(sigma, FLOATING_SIGMA_V), sigma)
        return Prediction(mean, sigma, floating, uncertain)

    def read_ohms(
        self, condition: Condition, red: str, black: str, meter: Multimeter = DEFAULT_METER
    ) -> Prediction:
        """Return predicted resistance in ohm, infinite where over-limit; sigma in ohm.

        The meter divides the volts across its leads by its own current; it goes up from range to
        range until the reading fits.
        """
        ohm, spread_ohm = np.full(self.count, np.inf), np.zeros(self.count)
        uncertain = np.zeros(self.count, dtype=bool)
        for top, feeding in meter.ohms.ranges:
            volts, spread_v, unsettled = self.fed(condition, red, black, feeding)
            rest_v = np.maximum(feeding.open_v - volts, LEAST_REST_V)
            read = np.maximum(volts, 0.0) * feeding.behind_ohm / rest_v
            # Written so that NaN counts as fitting nowhere but the last range: an unsettled row
            # shall not be read as a number of a low range.
            fits = ~(read > top) | (top >= meter.ohms.over_ohm)
            here = np.isinf(ohm) & fits
            ohm[here] = read[here]
            spread_ohm[here] = (spread_v * feeding.open_v * feeding.behind_ohm / rest_v**2)[here]
            uncertain[here] = unsettled[here]
            if np.isfinite(ohm).all():
                break
        accuracy = (meter.ohms.ratio * ohm) ** 2 + meter.ohms.offset_ohm**2
        sigma = np.sqrt(spread_ohm**2 + accuracy)
        over = ohm > meter.ohms.over_ohm
        return Prediction(np.where(over, np.inf, ohm), sigma, over, uncertain)

    def read_diode(
        self, condition: Condition, red: str, black: str, meter: Multimeter = DEFAULT_METER
    ) -> Prediction:
        """Return the predicted volts of a diode test; what is over the meter's limit stays as it
        is."""
        volts, spread_v, uncertain = self.fed(condition, red, black, meter.diode.feeding)
        accuracy = (meter.volts.ratio * volts) ** 2 + meter.volts.offset_v**2
        over = volts > meter.diode.over_v
        return Prediction(volts, np.sqrt(spread_v**2 + accuracy), over, uncertain)

    def phase_ohm(self, part_id: str, unplugged: tuple[str, ...]) -> Floats:
        """Return resistance [3, R] u-v, v-w, w-u at a part's phase nodes, pack out."""
        key = (part_id, unplugged)
        if key not in self._phase:
            condition = Condition("out", (), unplugged)
            names = [f"{part_id}:phase_{p}" for p in "uvw"]
            nodes = [self.system.node(name) for name in names]
            pairs = [(nodes[0], nodes[1]), (nodes[1], nodes[2]), (nodes[2], nodes[0])]
            solution = self.solution(condition, keep=not unplugged)
            self._phase[key] = probe(
                self.system, self.values(condition), solution, pairs
            ).source_ohm
        return self._phase[key]

    def seen(self, scene_id: str) -> dict[str, NDArray[np.int8]]:
        """Return what is seen in a scene with the usual thresholds: observable → class codes
        [R]."""
        found: dict[str, NDArray[np.int8]] = {}
        for name, codes in self.seen_by_makes(scene_id).items():
            found[name] = codes[0]
        return found

    def seen_by_makes(self, scene_id: str) -> dict[str, NDArray[np.int8]]:
        """Return what is seen in a scene, by each make of `makes`: observable → class codes [K,
        R]."""
        if scene_id not in self._seen:
            scene = self.scenes[scene_id]
            solved = self.solve_all([condition for _, condition in scene.states])
            found = []
            for slack in self._slacks():
                found.append(self._behave(scene, solved, slack))
            self._seen[scene_id] = {
                name: np.stack([codes[name] for codes in found]) for name in found[0]
            }
        return self._seen[scene_id]

    @property
    def makes(self) -> Floats:
        """Shares [K] of the makes by which thresholds differ."""
        if len(self._slacks()) > 1:
            return np.array([share for _, share in MAKES])
        return np.ones(1)

    def _slacks(self) -> list[float | Floats]:
        if self.rows and self.rows[0].slack is not None:
            return [np.array([row.slack for row in self.rows], dtype=float)]
        return [slack for slack, _ in MAKES]

    def view(self, scene_id: str) -> SceneView:
        """Return the solved view of a scene with the usual thresholds, for who wants to know
        why."""
        scene = self.scenes[scene_id]
        return self._view(scene, self.solve_all([condition for _, condition in scene.states]), 1.0)

    def _view(
        self, scene: Scene, solved: dict[Condition, Solution], slack: float | Floats
    ) -> SceneView:
        node = self.system.node

        def volts(condition: Condition, plus: str, minus: str) -> Floats:
            found = solved[condition].volts
            return np.asarray(found[node(plus)] - found[node(minus)])

        def phase_ohm(part_id: str) -> Floats:
            return self.phase_ohm(part_id, scene.states[0][1].unplugged)

        return SceneView(self.circuit, scene, volts, phase_ohm, self.trait, self.count, slack)

    def _behave(
        self, scene: Scene, solved: dict[Condition, Solution], slack: float | Floats
    ) -> dict[str, NDArray[np.int8]]:
        view = self._view(scene, solved, slack)
        first = []
        for p in self.circuit.bike.parts:
            if REGISTRY[p.kind].commutates:
                first.append(p)
        # Controllers first: what a lamp or a display shows may hang on what its controller decided.
        others = []
        for p in self.circuit.bike.parts:
            if not REGISTRY[p.kind].commutates:
                others.append(p)
        for part in (*first, *others):
            REGISTRY[part.kind].behave(part, view)
        return view.result

    def dump(self) -> dict[str, NDArray[np.generic]]:
        """Return the ready scenes and probes as named arrays (for a cache on disk)."""
        arrays: dict[str, NDArray[np.generic]] = {}
        for scene_id, result in self._seen.items():
            arrays[f"seen|{scene_id}|"] = np.zeros(
                0, dtype=np.int8
            )  # also where nothing can be seen in it
            for observable, codes in result.items():
                arrays[f"seen|{scene_id}|{observable}"] = codes
        for (condition, red, black), found in self._probes.items():
            arrays[f"probe|{condition.id}|{red}|{black}"] = found
        for (condition, red, black, fed), found in self._fed.items():
            arrays[f"fed|{condition.id}|{red}|{black}|{fed.open_v!r}|{fed.behind_ohm!r}"] = found
        return arrays

    def restore(
        self, arrays: dict[str, NDArray[np.generic]], parse: Callable[[str], Condition]
    ) -> None:
        """Take back what `dump` gave."""
        for key, array in arrays.items():
            kind, first, *rest = key.split("|")
            if kind == "seen" and first in self.scenes:
                found = self._seen.setdefault(first, {})
                if rest[0]:
                    found[rest[0]] = array.astype(np.int8)
            elif kind == "probe":
                self._probes[(parse(first), rest[0], rest[1])] = array.astype(np.float32)
            elif kind == "fed":
                red, black, *numbers = rest
                feeding = Feeding(*map(float, numbers))
                self._fed[(parse(first), red, black, feeding)] = array.astype(np.float32)
