"""The debrief: minutes, parts bought for nothing, hazards; act by act what it told; what the engine
and what swapping parts would have taken on the same bike; and three sentences to take along.

The engine is the one that traces real bikes. Nothing here moves a shop's priors.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from brightcore.belief.bayes import entropy_bits
from brightcore.circuit.conditions import Condition
from brightcore.circuit.faults import FaultMode
from brightcore.kinds import REGISTRY
from brightcore.matching.cost import LEVELS
from brightcore.practice.acts import Play
from brightcore.practice.hazards import BY_KEY as HAZARD
from brightcore.practice.hidden import Bench, HiddenBike, hidden_bike
from brightcore.practice.standing import told_hazards
from brightcore.practice.state import State
from brightcore.practice.words import complaint_evidence
from brightcore.tracing.advice import propose
from brightcore.tracing.endings import conclude
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hazard import seen_in
from brightcore.tracing.hypotheses import NONE_REPAIR
from brightcore.tracing.pace import minutes_of, present_state
from brightcore.tracing.terms import Terms
from brightcore.tracing.tests.swap import TRY_MIN
from brightcore.tracing.trace import Trace

MOST_STEPS = 30
"""Tests that the engine may take on its own way."""

OUT_SHARE = 0.001
"""A suspect under this belief is out."""

JUMP = 0.5
"""A repair that was believed less than this when it was done was a jump to a conclusion."""

TELLING_BITS, WASTED_BITS = 0.3, 0.05
"""An act that told more, or less, than this told much, or nothing."""

PLACES = ("bar", "sensor", "light", "between", "controller", "motor", "energy")
"""Front to back, as parts are swapped by who measures nothing."""

SWAP_FINDS_NO_PLUG_MIN = 45.0
"""Minutes to go over every plug in the end, where no swapped part has cured it (common
practice)."""

Progress = Callable[[int, int], None]


@dataclass(frozen=True, slots=True)
class Acted:
    """One act as it was done: its words, minutes, evidence, hazard; `repair`: the id of one that
    was done."""

    title: str
    words: str
    minutes: float
    evidence: tuple[Evidence, ...] = ()
    hazard: str = ""
    repair: str = ""
    cost: float = 0.0


@dataclass(frozen=True, slots=True)
class Told:
    """What one act told: bits, suspects that it left, what would have told most then and how much.

    `after`: it came after the repair of what was hidden, and tells of another bike than before.
    """

    acted: Acted
    bits: float
    left: int
    lead: str
    share: float
    best: str
    best_bits: float
    jumped: bool = False
    wrong: bool = False
    after: bool = False


@dataclass(frozen=True, slots=True)
class Way:
    """One way through the same bike: its steps, minutes, cost of parts bought for nothing, whether
    it ends right."""

    steps: tuple[str, ...]
    minutes: float
    wasted: float
    right: bool


@dataclass(frozen=True, slots=True)
class Debrief:
    """What is told afterwards."""

    hidden: tuple[str, ...]
    repairs: tuple[str, ...]
    causes: tuple[str, ...]
    right: bool
    minutes: float
    wasted: float
    hazards: tuple[str, ...]
    rows: tuple[Told, ...]
    engine: Way
    swapping: Way
    sentences: tuple[str, ...]


def debrief(
    play: Play, state: State, acts: Sequence[Acted], progress: Progress | None = None
) -> Debrief:
    """Return the debrief of a case that was ended; `play.engine` is prepared on the way."""
    engine = play.engine
    if not engine.ready:
        engine.prepare(progress)
    hidden = hidden_bike(play.case)
    rows = told(engine, hidden, acts)
    wanted = {mode.repair.id for mode in hidden.hidden}
    done = [acted for acted in acts if acted.repair]
    wasted = sum(acted.cost for acted in done if acted.repair not in wanted)
    right = hidden_bike(play.case, frozenset(state.gone)).is_well and state.ended == "done"
    way, front = engine_way(play, hidden), swapping_way(play, hidden)
    kept = []
    for acted in acts:
        if acted.hazard:
            kept.append(HAZARD[acted.hazard].title)
    hazards = tuple(kept)
    modes = hidden.hidden
    return Debrief(
        tuple(mode.title for mode in modes) or ("Nothing was wrong with it",),
        tuple(mode.repair.action for mode in modes),
        tuple(mode.repair.root_cause for mode in modes if mode.repair.root_cause),
        right,
        state.minutes,
        wasted,
        hazards,
        rows,
        way,
        front,
        sentences(rows, modes, right, state.minutes, wasted, hazards, way),
    )


def told(engine: Engine, hidden: HiddenBike, acts: Sequence[Acted]) -> tuple[Told, ...]:
    """Return what each act told, from the belief before it and after it."""
    cache: dict[Evidence, np.ndarray] = {}
    evidence = list(complaint_evidence(hidden))
    wanted = {mode.repair.id for mode in hidden.hidden} or {NONE_REPAIR.id}
    trace = Trace(engine, evidence, cache, _terms(hidden, evidence))
    rows, mended = [], False
    for acted in acts:
        best = propose(trace, 1, explained=0)
        title, bits = (best[0].test.title, best[0].bits) if best else ("", 0.0)
        before = entropy_bits(trace.repair_belief)
        own = _belief_of(trace, acted.repair) if acted.repair else 1.0
        # What is read after the repair is read on another bike: it proves, but tells nothing of
        # what was hidden.
        if mended:
            usable = []
        else:
            usable = [item for item in acted.evidence if _known(engine, item)]
        if usable:
            evidence += usable
            trace = Trace(engine, evidence, cache, _terms(hidden, evidence))
        after = entropy_bits(trace.repair_belief)
        lead = engine.hypotheses.repairs[trace.leading_repair]
        rows.append(
            Told(
                acted,
                round(float(before - after), 3) if usable else 0.0,
                int((trace.repair_belief > OUT_SHARE).sum()),
                lead.action,
                float(trace.repair_belief[trace.leading_repair]),
                title,
                round(float(bits), 3),
                bool(acted.repair) and own < JUMP,
                bool(acted.repair) and acted.repair not in wanted,
                mended,
            )
        )
        mended = mended or acted.repair in wanted
    return tuple(rows)


def _terms(hidden: HiddenBike, evidence: Sequence[Evidence]) -> Terms:
    """Return the terms on which the engine proposes: dead tests first once a hazard is told or
    smelt."""
    return Terms(dead_first=bool(told_hazards(hidden) or seen_in(evidence)))


def _known(engine: Engine, item: Evidence) -> bool:
    """Return whether the engine has what a piece of evidence names."""
    return not item.scene or item.scene in engine.table.scenes


def _belief_of(trace: Trace, repair: str) -> float:
    ids = [item.id for item in trace.engine.hypotheses.repairs]
    if repair in ids:
        return float(trace.repair_belief[ids.index(repair)])
    return 0.0


def engine_way(play: Play, hidden: HiddenBike) -> Way:
    """Return the way that the engine would have taken on the same bike, with what it would have
    read."""
    engine = play.engine
    evidence = list(complaint_evidence(hidden))
    cache: dict[Evidence, np.ndarray] = {}
    steps: list[str] = []
    minutes = 0.0
    trace = Trace(engine, evidence, cache, _terms(hidden, evidence))
    while not trace.stopped and len(steps) < MOST_STEPS:
        best = propose(trace, 1, explained=0)
        if not best:
            break
        test = best[0].test
        minutes += minutes_of(trace, test, present_state(trace) or Condition("off"))
        # Numbers of acts that no player reaches: what comes and goes is drawn by the number of the
        # act, and the engine's way gets draws of its own.
        bench = Bench(1000 + len(steps), test.state)
        evidence += hidden.at(bench).answer(test)
        steps.append(test.title)
        trace = Trace(engine, evidence, cache, _terms(hidden, evidence))
    conclusion = conclude(trace)
    repair = conclusion.repair
    wanted = {mode.repair.id for mode in hidden.hidden} or {NONE_REPAIR.id}
    named = repair.id if repair is not None else NONE_REPAIR.id
    right = named in wanted or (conclusion.status == "nothing-found" and not hidden.hidden)
    if repair is not None:
        steps.append(repair.action)
        minutes += repair.minutes
    if right or repair is None:
        wasted = 0.0
    else:
        wasted = LEVELS[min(repair.cost_level, len(LEVELS) - 1)]
    return Way(tuple(steps), round(minutes, 1), wasted, right)


def swapping_way(play: Play, hidden: HiddenBike) -> Way:
    """Return what swapping parts front to back takes on the same bike, each bought until it is
    cured."""
    order = sorted(
        (part for part in play.bike.parts if REGISTRY[part.kind].has_spare),
        key=lambda part: PLACES.index(REGISTRY[part.kind].place),
    )
    owners = []
    for mode in hidden.hidden:
        if not mode.repair.of_join:
            owners.append(mode.repair.owner)
    left = [mode for mode in hidden.hidden if mode.repair.of_join]
    steps, minutes, wasted = [], 0.0, 0.0
    for part in order:
        if not owners and not left:
            break
        kind = REGISTRY[part.kind]
        steps.append(part.name)
        minutes += kind.swap_min + TRY_MIN
        if part.id in owners:
            owners = [name for name in owners if name != part.id]
        else:
            wasted += _price(play, part.id)
    if owners or left:
        steps.append("every plug, one by one")
        minutes += SWAP_FINDS_NO_PLUG_MIN
    return Way(tuple(steps), round(minutes, 1), wasted, True)


def _price(play: Play, part: str) -> float:
    """Return what a part costs by the dearest repair that it has (usual figures)."""
    repairs = play.engine.hypotheses.repairs
    levels = []
    for repair in repairs:
        if repair.id == f"part:{part}":
            levels.append(repair.cost_level)
    return LEVELS[min(max(levels, default=1), len(LEVELS) - 1)]


def sentences(
    rows: Sequence[Told],
    modes: Sequence[FaultMode],
    right: bool,
    minutes: float,
    wasted: float,
    hazards: Sequence[str],
    way: Way,
) -> tuple[str, ...]:
    """Return three sentences to take along: what was dangerous or a jump, what told most, what to
    do next."""
    found = []
    if hazards:
        found.append(
            f"First of all: {hazards[0].lower()} hurts somebody or something on a real bike."
        )
    jumped = next((row for row in rows if row.jumped and row.wrong), None)
    if jumped is not None:
        found.append(
            f"“{jumped.acted.title}” was a jump: {jumped.left} explanations were still open, and "
            f"“{jumped.best}” would have told more."
        )
    telling = max(rows, key=lambda row: row.bits, default=None)
    if telling is not None and telling.bits >= TELLING_BITS:
        found.append(
            f"“{telling.acted.title}” told most, {telling.bits:.1f} bits: "
            f"it left {telling.left} repairs open."
        )
    idle = [
        row for row in rows if row.acted.evidence and not row.after and abs(row.bits) < WASTED_BITS
    ]
    if len(idle) > 2:
        found.append(
            f"{len(idle)} readings told nothing that was not known: ask first what an answer "
            "would mean."
        )
    if right and not wasted and not hazards and minutes <= 1.2 * way.minutes:
        found.append("That was about the engine's own way: keep it up.")
    elif way.steps:
        found.append(
            f"The engine would have begun with “{way.steps[0]}” and taken {way.minutes:.0f} min."
        )
    if modes and modes[0].repair.root_cause:
        found.append(f"Look for why it failed: {_lower(modes[0].repair.root_cause)}.")
    if wasted and len(found) < 3:
        found.append(
            "A part that was bought for nothing is dearer than the reading that would have "
            "spared it."
        )
    spare = (
        (
            "Say aloud what you expect before the probes touch: a surprise is worth more than a "
            "number."
        ),
        "The cheapest looks come first: switch on, touch the throttle, pull each lever.",
        "Prove the repair with the same act that showed the fault.",
    )
    return tuple([*found, *spare][:3])


def _lower(words: str) -> str:
    return f"{words[0].lower()}{words[1:]}".rstrip(".")
