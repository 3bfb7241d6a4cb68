"""True bikes for harsh trials of the diagnosis engine: what is wrong with them is not always on its
list.

The engine knows none of what stands here: which sets there are, which faults, how often something
shows. Every true bike has parts of its own values, another charge, and is read through a real
meter.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from brightcore.bike.model import Bike
from brightcore.circuit.contacts import contact_id
from brightcore.circuit.elements import Override, ratio_source, resistor
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.netlist import Circuit, compile_circuit
from brightcore.kinds import REGISTRY
from brightcore.kinds.blocks import weakened
from brightcore.simulation.table import Row, Table
from brightcore.tracing.advice import propose
from brightcore.tracing.endings import Conclusion, conclude
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.simulated import COMPLAINT_SCENES, own_severity, scales, told
from brightcore.tracing.symptoms import SYMPTOMS, symptom_evidence
from brightcore.tracing.tests import Test, kind_of
from brightcore.tracing.tests.ask import THERE_HARMLESS
from brightcore.tracing.tests.wiggle import MOVES_BAD, MOVES_BY_CHANCE
from brightcore.tracing.trace import Trace

MOST_TESTS = 20
WRONG_SHARE, UNSURE_SHARE = 0.03, 0.1
MOVES_WHEN_MOVED = 0.85
DESCRIBE_MIN = 3.0
"""Minutes to describe something harmless that was found on a line; then there is nothing more on
it."""

TRIES = 5
"""How many tries a state that brings it out, or trying again, is worth."""


@dataclass(frozen=True)
class Case:
    """One true bike: what is wrong with it, which repairs put it right, how often it shows."""

    label: str
    modes: tuple[FaultMode, ...]
    right: frozenset[str]
    rate: float = 1.0
    places: frozenset[str] = frozenset()
    lines: frozenset[str] = frozenset()


def listed(mode: FaultMode) -> Case:
    """Return the case of a fault of the engine's own list."""
    return Case(mode.id, (mode,), frozenset({mode.repair.id}), 1.0, frozenset({mode.repair.owner}))


class TrueSet:
    """Some cases as bikes: two rows each, with the trouble showing and without."""

    def __init__(
        self,
        engine: Engine,
        cases: Sequence[Case],
        seed: int,
        makes: bool = False,
        circuit: Circuit | None = None,
    ) -> None:
        self.engine, self.cases = engine, tuple(cases)
        self.circuit = circuit or engine.circuit
        self.rng = np.random.default_rng(seed)
        rows = []
        for case in self.cases:
            scale_g, scale_j, slack = scales(self.circuit, self.rng, makes)
            overrides = tuple(
                own_severity(o, self.rng) for mode in case.modes for o in mode.overrides
            )
            traits = frozenset(t for mode in case.modes for t in mode.traits)
            rows += [
                Row(overrides, traits, scale_g, scale_j, slack),
                Row((), frozenset(), scale_g, scale_j, slack),
            ]
        self.table = Table(self.circuit, rows)

    def case(self, row: int) -> Case:
        """Return the case of a row of the table."""
        return self.cases[row // 2]

    def mode(self, row: int) -> FaultMode | None:
        """Return the (first) fault of a row's case."""
        return self.case(row).modes[0] if self.case(row).modes else None

    def moves(self, row: int, place: str) -> float:
        """Return how often something changes while a place is moved."""
        case = self.case(row)
        if place not in case.places:
            return MOVES_BY_CHANCE
        return MOVES_WHEN_MOVED if case.rate < 1 else MOVES_BAD

    def undescribed(self, row: int, line: str) -> float:
        """Return how often something undescribed is found on a line."""
        return 1.0 if line in self.case(row).lines else THERE_HARMLESS / 2

    def healthy(self, which: int) -> bool:
        """Return whether this true bike would be well without its fault, as the engine's is."""
        return all(
            codes[2 * which + 1] == self.engine.table.seen(scene)[name][0]
            for scene in self._shared()
            for name, codes in self._seen(scene).items()
        )

    def _shared(self) -> list[str]:
        """Return the scenes that are the same on the bike as described and as it is."""
        true = self.table.scenes
        return [
            s
            for s, scene in self.engine.table.scenes.items()
            if not scene.unplugged and s in true and scene.states == true[s].states
        ]

    def _seen(self, scene: str) -> dict[str, np.ndarray]:
        """Return what the true bikes show in a scene, by the names that the description has for
        it."""
        found = self.table.seen(scene)
        names = self.engine.table.scenes[scene].seen
        own = {part.id for part in self.engine.bike.parts}
        kept = {}
        for name, codes in found.items():
            bare, _, part = name.partition("-")
            if name in names:
                kept[name] = codes
            elif bare in names and part in own:
                kept[bare] = codes
        return kept

    def answer(self, test: Test, which: int) -> tuple[Evidence, ...]:
        """Return what the technician enters for a test at true bike number `which`."""
        case = self.cases[which]
        rate = 1 - (1 - case.rate) ** TRIES if test.state else case.rate
        row = 2 * which + (0 if self.rng.random() < rate else 1)
        found = kind_of(test.kind).answer(self, test, row)
        if not test.scene:
            return found
        names = self.engine.table.scenes[test.scene].seen
        own = {part.id for part in self.engine.bike.parts}
        kept = []
        for item in found:
            bare, _, part = item.observable.partition("-")
            if item.observable in names:
                kept.append(item)
            elif bare in names and part in own:
                kept.append(replace(item, observable=bare))
        return tuple(kept)

    def complaint(self, which: int) -> tuple[Evidence, ...]:
        """Return what the rider tells: the first scene in which the trouble shows; nothing where
        none does."""
        for name in COMPLAINT_SCENES:
            for scene in self._shared():
                seen = self._seen(scene)
                if scene.split(".")[0] == name and any(
                    codes[2 * which] != codes[2 * which + 1] for codes in seen.values()
                ):
                    test = self.engine.by_id[f"look {scene}"]
                    kept, self.cases = self.cases, tuple(replace(c, rate=1.0) for c in self.cases)
                    found = self.answer(test, which)
                    self.cases = kept
                    return told(found, self.cases[which].rate < 1)
        return ()


@dataclass(frozen=True)
class Ended:
    """How one trace went. `first`: the first repair offered by the stop rule, else the one over one
    half."""

    label: str
    first: str
    right: frozenset[str]
    status: str
    probability: float
    asked: bool
    tests: int
    minutes: float
    evidence: tuple[Evidence, ...] = ()
    why: str = ""

    @property
    def stopped(self) -> bool:
        """Whether it came to an end of its own."""
        return self.status in ("repair", "describe", "nothing-found", "not-modelled")

    @property
    def first_right(self) -> bool:
        """Whether the first repair was right."""
        return self.first in self.right

    @property
    def stop_right(self) -> bool:
        """Whether it ended, and with what is right."""
        return self.stopped and self.first_right

    @property
    def sure_and_wrong(self) -> bool:
        """Whether a repair was named that is wrong."""
        return self.status == "repair" and not self.first_right


def trace_case(
    engine: Engine,
    truth: TrueSet,
    which: int,
    complaint: Sequence[Evidence],
    slips: bool = False,
) -> Ended:
    """Trace one true bike from its complaint to an end, or to `MOST_TESTS`."""
    evidence, cache, skipped = list(complaint), {}, set()
    minutes, tests, asked = 0.0, 0, False
    lines = truth.cases[which].lines
    trace = Trace(engine, evidence, cache)
    while tests < MOST_TESTS:
        status = conclude(trace).status
        harmless = [
            e for e in evidence if e.kind == "ask" and e.value == "yes" and e.subject not in lines
        ]
        if status == "describe" and harmless:
            evidence = [replace(e, value="no") if e in harmless else e for e in evidence]
            minutes += DESCRIBE_MIN
            trace = Trace(engine, evidence, cache)
            continue
        if status in ("repair", "describe", "nothing-found", "not-modelled"):
            break
        best = propose(trace, skip=frozenset(skipped), explained=0)
        if not best and skipped:
            skipped.clear()
            best = propose(trace, explained=0)
        if not best:
            break
        test = best[0].test
        asked = asked or test.kind == "ask"
        minutes += best[0].minutes
        tests += 1
        if slips and truth.rng.random() < UNSURE_SHARE:
            skipped.add(test.id)
            continue
        read = which
        if slips and truth.rng.random() < WRONG_SHARE:
            read = int(truth.rng.integers(len(truth.cases)))
        evidence += truth.answer(test, read)
        trace = Trace(engine, evidence, cache)
    found = conclude(trace)
    return Ended(
        truth.cases[which].label,
        _named(found),
        truth.cases[which].right,
        found.status,
        found.probability,
        asked,
        tests,
        minutes,
        tuple(evidence),
        f"hangs {trace.hangs} shows {trace.shows} odd {trace.odd} ask {trace.before_repair} "
        f"{engine.hypotheses.items[trace.leading].id}",
    )


def _named(found: Conclusion) -> str:
    if found.repair is None:
        return ""
    return found.repair.id if found.status != "measure" or found.probability > 0.5 else ""


def with_symptom(
    engine: Engine, cases: Sequence[Case], seed: int, makes: bool = False
) -> tuple[TrueSet, list[int]]:
    """Return true bikes of some cases and the numbers of those that a rider would complain of."""
    truth = TrueSet(engine, cases, seed, makes)
    return truth, [k for k in range(len(cases)) if truth.healthy(k) and truth.complaint(k)]


def listed_cases(engine: Engine) -> list[Case]:
    """Return every named fault of the engine's list that stays, without what is undescribed."""
    named = {mode.id for mode in engine.circuit.faults}
    modes = [h.mode for h in engine.hypotheses.items if h.mode is not None and h.id in named]
    return [listed(mode) for mode in modes if not mode.repair.describes]


def _mode(label: str, repair: str, *overrides: Override) -> FaultMode:
    kind = RepairKind(repair, label, 10, "")
    return FaultMode(label, label, 1.0, kind, overrides)


def unlisted_cases(engine: Engine, seed: int) -> list[Case]:
    """Return faults that the list does not have as such: what comes and goes, a shared ground, a
    branch of
    0.3 Ω, a sensor that is off, a magnet at its margin, a leak."""
    rng = np.random.default_rng(seed)
    bike, found = engine.bike, []
    for mode in engine.circuit.faults:
        if mode.id.endswith("contact/open") or (mode.id.endswith("/open") and "wire-to" in mode.id):
            case = listed(mode)
            found.append(replace(case, label=f"loose {mode.id}", rate=float(rng.uniform(0.3, 0.7))))
        if "gap" in mode.id or "/lost/" in mode.id:
            case = listed(mode)
            right = case.right | {f"part:{mode.id.split('.')[0]}"}
            found.append(
                Case(f"margin {mode.id}", (mode,), right, float(rng.uniform(0.3, 0.7)), case.places)
            )
    elements = {e.id for e in engine.circuit.elements}
    for join in bike.joins:
        names = list(join.pairs)
        for pair in names:
            pin = f"{join.a_part}.{join.a_port}.{pair[0]}"
            roles = engine.nets.roles_of(pin)
            if roles & {"sensor_ground", "signal_ground"} and not roles & {
                "battery_minus",
                "pack_minus",
            }:
                ohm = float(rng.uniform(2, 20))
                found.append(
                    _at_join(
                        join.id, f"ground {pin}", Override(contact_id(join, pair), resistor(ohm))
                    )
                )
            if "battery_plus" in roles:
                ohm = float(rng.uniform(0.2, 0.4))
                found.append(
                    _at_join(
                        join.id, f"branch {pin}", Override(contact_id(join, pair), resistor(ohm))
                    )
                )
        for one, two in zip(names, names[1:], strict=False):
            element = f"{join.id}/short:{one[0]}-{two[0]}"
            if element in elements:
                ohm = float(np.exp(rng.uniform(np.log(1e3), np.log(1e5))))
                found.append(_at_join(join.id, f"leak {element}", Override(element, resistor(ohm))))
    for part in bike.parts:
        repair = f"part:{part.id}"
        if part.kind == "throttle":
            for ratio in (0.25, 0.28):
                over = Override(f"{part.id}/output", ratio_source(ratio, 150.0))
                found.append(
                    Case(
                        f"off {part.id}",
                        (_mode(f"off {part.id}", repair, over),),
                        frozenset({repair}),
                    )
                )
        if part.kind == "controller":
            for ohm in (25.0, 45.0):
                over = weakened(part, "supply_limit", ohm)
                label = f"supply {part.id}"
                found.append(Case(label, (_mode(label, repair, *over),), frozenset({repair})))
        if part.kind in ("brake_lever", "stand_switch"):
            ohm = float(rng.uniform(1e3, 4e3))
            over = Override(f"{part.id}/contact", resistor(ohm))
            found.append(
                Case(
                    f"drop {part.id}",
                    (_mode(f"drop {part.id}", repair, over),),
                    frozenset({repair}),
                )
            )
    return found


def _at_join(join_id: str, label: str, override: Override) -> Case:
    repair = f"join:{join_id}"
    return Case(
        label, (_mode(label, repair, override),), frozenset({repair}), 1.0, frozenset({join_id})
    )


LEAVES = {
    "brake_lever": ("brake_signal",),
    "magnetic_cut_off": ("brake_signal", "supply_5v"),
    "stand_switch": ("brake_signal",),
    "gear_sensor": ("brake_signal", "supply_5v"),
    "lamp": ("accessory_plus",),
    "brake_lamp": ("accessory_plus", "brake_signal"),
    "pedal_sensor": ("pedal_signal", "supply_5v"),
    "throttle": ("throttle_signal", "supply_5v"),
}


def undescribed(bike: Bike) -> Iterator[tuple[Bike, str, tuple[str, ...]]]:
    """Yield (description without it, part, line) for every lever, lamp or sensor that could have
    been left out."""
    for part in bike.parts:
        joins = tuple(bike.joins_of(part.id))
        if part.kind in LEAVES and len(joins) == 1:
            rest = replace(
                bike,
                parts=tuple(p for p in bike.parts if p is not part),
                joins=tuple(j for j in bike.joins if j not in joins),
            )
            yield rest, part.id, LEAVES[part.kind]


def undescribed_cases(
    whole: Bike, part_id: str, roles: tuple[str, ...]
) -> tuple[Circuit, list[Case]]:
    """Return the true circuit and the faults of the part that the description does not have."""
    circuit = compile_circuit(whole, REGISTRY)
    found = []
    joins = {j.id for j in whole.joins_of(part_id)}
    controllers = [p.id for p in whole.parts if REGISTRY[p.kind].commutates]
    for mode in circuit.faults:
        first = mode.id.split(".")[0]
        if first == part_id or mode.repair.owner in joins:
            lines = frozenset(f"describe:{c}:{role}" for c in controllers for role in roles)
            found.append(Case(f"undescribed {mode.id}", (mode,), lines, 1.0, frozenset(), lines))
    return circuit, found


def pairs_of(engine: Engine, count: int, seed: int) -> list[Case]:
    """Return cases of two listed faults at different places."""
    rng = np.random.default_rng(seed)
    every = listed_cases(engine)
    found = []
    while len(found) < count:
        one, two = (every[int(k)] for k in rng.choice(len(every), 2, replace=False))
        if one.modes[0].family != two.modes[0].family and one.right != two.right:
            touched = {o.element for o in one.modes[0].overrides} & {
                o.element for o in two.modes[0].overrides
            }
            if not touched:
                label = f"{one.label} + {two.label}"
                found.append(
                    Case(
                        label,
                        (*one.modes, *two.modes),
                        one.right | two.right,
                        1.0,
                        one.places | two.places,
                    )
                )
    return found


def healthy_complaint(engine: Engine, rng: np.random.Generator) -> tuple[Evidence, ...]:
    """Return what a rider tells of a bike on which nothing is wrong now."""
    every = [
        symptom_evidence(s.id, engine.table.scenes, bool(rng.random() < 0.4)) for s in SYMPTOMS
    ]
    known = [items for items in every if items]
    return known[int(rng.integers(len(known)))]


__all__ = [
    "Case",
    "Ended",
    "TrueSet",
    "healthy_complaint",
    "listed_cases",
    "pairs_of",
    "trace_case",
    "undescribed",
    "undescribed_cases",
    "unlisted_cases",
    "with_symptom",
]
