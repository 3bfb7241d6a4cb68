"""Plays one case: from the rider's words to an end, as the page would lead a technician."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.errors import BrightError, ReadingError
from brightcore.tracing.advice import propose
from brightcore.tracing.doubts import repeated
from brightcore.tracing.endings import Conclusion, conclude
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import kind_of
from brightcore.tracing.trace import Trace
from brightcore.units import parse_quantity
from strangers.rules import Temper
from strangers.truth import NOTHING, Trouble, TrueBike

MOST_TESTS = 24
"""Tests after which a technician gives up."""

WRONG_SHARE, UNSURE_SHARE = 0.03, 0.1
SCENES = ("switch_on", "throttle", "pedal", "brake", "pull", "horn", "spin")
DESCRIBE_MIN = 3.0

UNITS = {"volts": "V", "ohms": "Ω", "diode": "V"}
APART, LEAST_APART = 0.1, 0.3
"""Readings differ where they are so far apart: a share, and volts or ohms on top."""


@dataclass
class Played:
    """How one case went. `named` is the first repair that was named as the end, `half` the first
    that stood above one half."""

    sort: str
    words: str
    status: str = ""
    named: str = ""
    half: str = ""
    half_right: bool = False
    right: bool = False
    wrong: bool = False
    bought: bool = False
    probability: float = 0.0
    tests: int = 0
    minutes: float = 0.0
    asked: bool = False
    shown: list[tuple[float, bool]] = field(default_factory=list)
    kinds: list[str] = field(default_factory=list)

    @property
    def ended(self) -> bool:
        """Whether it came to an end of its own."""
        return self.status not in ("measure", "choose", "")


def complaint(bike: TrueBike) -> tuple[Evidence, ...]:
    """Return what the rider tells: one or two things of the first scene in which it shows."""
    for name in SCENES:
        for scene_id, scene in bike.scenes.items():
            if scene_id.split(".")[0] != name or scene.unplugged or scene.kind != "look":
                continue
            own, well = bike.seen(scene_id), bike.sound().seen(scene_id)
            differs = [key for key in own if own[key] != well.get(key)]
            if differs:
                count = 1 if bike.rng.random() < 0.6 else 2
                picked = [str(x) for x in bike.rng.permutation(differs)[:count]]
                return tuple(
                    Evidence("look", own[key], scene=scene_id, observable=key, told=True)
                    for key in picked
                )
    if bike.trouble.drains:
        return (Evidence("past", "drains", told=True),)
    return ()


def as_described(bike: TrueBike, engine: Engine) -> bool:
    """Return whether the sound bike shows what the engine takes a sound bike to show."""
    for scene_id in engine.table.scenes:
        scene = engine.table.scenes[scene_id]
        if scene.unplugged or scene.kind != "look" or scene_id not in bike.scenes:
            continue
        seen = bike.sound().seen(scene_id)
        for name, codes in engine.table.seen(scene_id).items():
            if name in seen and OBSERVABLES[name].ids()[int(codes[0])] != seen[name]:
                return False
    return True


def is_right(trouble: Trouble, found: Conclusion) -> bool:
    """Return whether a conclusion names the part or the place."""
    if found.status == "nothing-found":
        return trouble is NOTHING
    if found.repair is None:
        return False
    return repair_right(trouble, found.repair.id)


def repair_right(trouble: Trouble, repair: str) -> bool:
    """Return whether a repair is at the place of the trouble, and buys nothing in vain."""
    family, _, rest = repair.partition(":")
    owner = rest.split(":")[0]
    if family == "describe":
        return rest in trouble.roles
    if family == "order":
        return trouble.orders
    if family == "part" and ":" not in rest and owner not in trouble.buys:
        return False
    return owner in trouble.owners


def buys(trouble: Trouble, found: Conclusion) -> bool:
    """Return whether a part is bought in vain."""
    repair = found.repair
    if found.status != "repair" or repair is None:
        return False
    if repair.cost_level < 1 or repair.of_join or repair.of_setting or repair.describes:
        return False
    return repair.owner not in trouble.buys


def play(
    engine: Engine,
    bike: TrueBike,
    told: Sequence[Evidence],
    slips: bool = False,
    rides: bool = True,
) -> Played:
    """Trace one true bike to an end, or to `MOST_TESTS`."""
    trouble = bike.trouble
    played = Played(trouble.sort, f"{engine.bike.info.label}: {trouble.words}")
    evidence, cache = list(told), {}
    skipped: set[str] = set()
    trace = Trace(engine, evidence, cache)
    rng = bike.rng
    while True:
        found = conclude(trace, frozenset(skipped))
        _note(trace, trouble, played)
        harmless = [
            e
            for e in evidence
            if e.kind == "ask"
            and e.value == "yes"
            and e.subject.removeprefix("describe:") not in trouble.roles
        ]
        if found.status == "describe" and harmless:
            gone = {id(e) for e in harmless}
            evidence = [e for e in evidence if id(e) not in gone]
            evidence += [replace(e, value="no") for e in harmless]
            played.minutes += DESCRIBE_MIN
            trace = Trace(engine, evidence, cache)
            continue
        if found.status in ("repair", "describe", "nothing-found", "not-shown", "not-modelled"):
            break
        if played.tests >= MOST_TESTS:
            break
        best = propose(trace, skip=frozenset(skipped), explained=0)
        if not best:
            break
        test = best[0].test
        played.kinds.append(test.id)
        if (slips and rng.random() < UNSURE_SHARE) or (not rides and "road" in test.gates):
            skipped.add(test.id)
            played.minutes += 0.3
            continue
        entered = bike.answer(test)
        if slips and rng.random() < WRONG_SHARE:
            others = [
                t for t in engine.tests if t.kind == test.kind and t.condition == test.condition
            ]
            if test.red and others:
                other = others[int(rng.integers(len(others)))]
                value = bike.answer(other)
                if value:
                    entered = kind_of(test.kind).read(test, value[0].value)
        if not entered:
            skipped.add(test.id)
            continue
        played.minutes += best[0].minutes
        played.tests += 1
        played.asked = played.asked or test.kind == "ask"
        for item in entered:
            # Read a second time and something else: the new one replaces the old.
            older = repeated(item, evidence)
            if older is not None and _differs(item, evidence[older]):
                del evidence[older]
        evidence += entered
        try:
            trace = Trace(engine, evidence, cache)
        except BrightError:
            evidence = evidence[: -len(entered)]
            skipped.add(test.id)
            trace = Trace(engine, evidence, cache)
    found = conclude(trace, frozenset(skipped))
    played.status = found.status
    played.probability = found.probability
    played.named = found.repair.id if found.repair and played.ended else ""
    if not played.ended and found.repair is not None and found.status == "choose":
        played.named = found.repair.id
    played.right = is_right(trouble, found)
    played.wrong = found.status == "repair" and not played.right
    played.bought = buys(trouble, found)
    return played


def _differs(one: Evidence, other: Evidence) -> bool:
    """Return whether two readings of the same points are not the same value."""
    values = []
    for item in (one, other):
        try:
            values.append(parse_quantity(item.value, UNITS[item.kind]))
        except (ReadingError, KeyError):
            return one.value != other.value
    if np.isinf(values).any():
        return values[0] != values[1]
    return abs(values[0] - values[1]) > APART * max(map(abs, values)) + LEAST_APART


def _note(trace: Trace, trouble: Trouble, played: Played) -> None:
    """Keep what the page would show as its leading percentage, and whether that was right."""
    h = trace.engine.hypotheses
    lead = trace.leading_repair
    share = float(trace.repair_belief[lead])
    repair = h.repairs[lead].id
    right = trouble is NOTHING if repair == "none" else repair_right(trouble, repair)
    if not any(e for e in trace.evidence if not e.told):
        return
    played.shown.append((share, right))
    if share > 0.5 and not played.half:
        played.half, played.half_right = repair, right


def temper_of(rng: np.random.Generator, strange: bool) -> Temper:
    """Return a controller of the usual temper, or another."""
    return Temper.strange(rng) if strange else Temper.usual(rng)
