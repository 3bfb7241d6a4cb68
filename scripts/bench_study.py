"""The study of the benchmark: every modelled fault traced on true bikes that differ from the
model."""

from collections.abc import Callable

import numpy as np

from brightcore.tracing.endings import conclude
from brightcore.tracing.engine import Engine
from brightcore.tracing.hypotheses import Hypothesis
from brightcore.tracing.simulated import Run, TrueBikes, trace_one
from brightcore.tracing.trace import Trace

CHECK_MIN = 1.0
"""Minutes to see whether a repair has helped (common practice)."""

INTRO = (
    "True bikes have 5 % part spread, another state of charge, continuous severity and meter "
    "noise; the engine knows none of it. *Right* means that the repair proposed removes the true "
    "fault; a trace that never stops counts as a miss of *right at stop, of all*. Only faults "
    "with a symptom in some scene. Harsher trials stand above.\n\n"
)


def checklist_minutes(
    engine: Engine, bikes: TrueBikes, which: int, most: int = 120
) -> tuple[float, bool]:
    """Return (minutes, right) with the same belief but tests done in the fixed order of the
    list."""
    truth = engine.hypotheses.items[bikes.rows[which]].repair.id
    evidence, cache, minutes = list(bikes.complaint(which)), {}, 0.0
    order = [t for t in engine.tests if t.kind not in ("swap", "diode")][:most]
    for test in order:
        trace = Trace(engine, evidence, cache)
        if trace.stopped:
            conclusion = conclude(trace)
            return minutes, bool(conclusion.repair and conclusion.repair.id == truth)
        evidence += bikes.answer(test, which)
        minutes += test.minutes
    return minutes, False


def swapping_minutes(engine: Engine, which_row: int) -> float:
    """Return minutes of doing every repair from the bars back to the motor until the right one."""
    places = ("bar", "sensor", "light", "between", "controller", "motor", "energy")
    bike, truth = engine.bike, engine.hypotheses.items[which_row].repair.id

    def place(repair_id: str) -> int:
        owner = repair_id.split(":")[1]
        joins = [j for j in bike.joins if j.id == owner]
        part = bike.part(joins[0].a_part if joins else owner)
        return places.index(engine.circuit.registry[part.kind].place)

    minutes = 0.0
    for repair in sorted(
        (r for r in engine.hypotheses.repairs if ":" in r.id), key=lambda r: (place(r.id), r.id)
    ):
        minutes += repair.minutes + CHECK_MIN
        if repair.id == truth:
            return minutes
    return minutes


def calibration(runs: list[Run]) -> str:
    """Return how often the proposal was right where the belief was in a band."""
    words = []
    for low, high in ((0.0, 0.8), (0.8, 0.95), (0.95, 0.99), (0.99, 1.01)):
        here = [r for r in runs if low <= r.probability < high]
        if here:
            words.append(
                f"belief {low:.2f}–{min(high, 1):.2f}: right "
                f"{np.mean([r.first_right for r in here]):.1%} of {len(here)}"
            )
    return "; ".join(words)


def report(
    names: tuple[str, ...], demo_engine: Callable[[str], Engine], table: Callable[..., str]
) -> str:
    """Return the Markdown of the study over all faults of the named bikes."""
    rows, notes = [], []
    for name in names:
        engine = demo_engine(name)
        engine.prepare()
        steady = [k for k, h in enumerate(engine.hypotheses.items) if _is_listed(h)]
        felt = TrueBikes(engine, steady, seed=41)
        everyone = [row for k, row in enumerate(steady) if felt.complaint(k)]
        bikes = TrueBikes(engine, everyone, seed=41)
        runs = [trace_one(engine, bikes, k) for k in range(len(everyone))]
        stopped = [r for r in runs if r.stopped]
        sample = range(0, len(everyone), 8)
        listed = [checklist_minutes(engine, bikes, k) for k in sample]
        ours = [runs[k].minutes + repair_minutes(engine, everyone[k]) for k in range(len(everyone))]
        swaps = [swapping_minutes(engine, row) for row in everyone]
        rows.append(
            (
                name,
                str(len(runs)),
                f"{np.mean([r.first_right for r in runs]):.1%}",
                f"{np.mean([r.stop_right for r in stopped]):.1%}",
                f"{np.mean([r.stop_right for r in runs]):.1%}",
                f"{np.median([r.tests for r in runs]):.0f}",
                f"{np.median([r.minutes for r in runs]):.1f}",
                f"{np.median([m for m, _ in listed]):.0f}",
                f"{np.median(ours):.0f}",
                f"{np.median(swaps):.0f}",
            )
        )
        wrong = [f"`{r.fault_id}` → {r.proposed}" for r in runs if not r.first_right]
        notes.append(
            f"- {name}: {calibration(runs)}. Wrong first: {', '.join(wrong[:8]) or 'none'}."
        )
    head = (
        "bike",
        "faults",
        "right first",
        "right when it stops",
        "right at stop, of all",
        "tests, median",
        "minutes, median",
        "minutes by fixed list (every 8th fault)",
        "minutes with the repair",
        "minutes swapping front to back",
    )
    return INTRO + table(head, rows) + "\n" + "\n".join(notes) + "\n"


def _is_listed(item: Hypothesis) -> bool:
    """Return whether a hypothesis is a fault of the described bike that stays."""
    return item.mode is not None and not item.loose and not item.repair.describes


def repair_minutes(engine: Engine, row: int) -> float:
    """Return the minutes of the repair of a hypothesis and the look whether it helped."""
    return engine.hypotheses.items[row].repair.minutes + CHECK_MIN
