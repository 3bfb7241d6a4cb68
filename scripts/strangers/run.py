"""The benchmark by strangers: sets, figures, and one line a set."""

import argparse
import os
import sys
import time
from collections import defaultdict
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

os.environ.setdefault("OMP_NUM_THREADS", "1")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
sys.path.insert(0, str(Path(__file__).parent.parent))

import numpy as np

from brightcore.bike.model import Bike
from brightcore.circuit.netlist import Circuit
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.formats.bike_file import load_bike
from brightcore.simulation.scenes import scenes_of
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from strangers.play import Played, as_described, complaint, play, temper_of
from strangers.solver import Piece
from strangers.sorts import SORTS, hidden
from strangers.truth import NOTHING, Trouble, TrueBike

DEMO = Path(__file__).parent.parent.parent / "src" / "brightcircuit" / "demo"
DEMO_BIKES = ("fern", "otter", "teasel")
SETS = (
    "listed",
    "makes",
    "slips",
    "strange",
    "tempers",
    "none",
    "unridden",
    "undescribed",
    "two",
)
TRIES = 60

HEAD = """# Judged by strangers

Written by `./bright bench strangers --write docs/strangers.md`; seed {seed}, {count} cases a bike
and set, {bikes} bikes. A case that no rider would complain of is not counted.

The true bikes share nothing with the engine but the description of the bike and what its parts are
as netlists: the benchmark has a nodal solver of its own with rounded corners
(`scripts/strangers/solver.py`), a meter of its own (1 or 10 MΩ, leads of 0.08 to 0.25 Ω, 0.4 to
2.8 V on ohms), rules of its own for what is seen (`rules.py`) and its own faults at any value
(`sorts.py`). The rider tells of one or two things, not of a whole scene. Shared all the same: the
states of a scene and what a hand sets in them, the thresholds printed in a description, the minutes
that the engine proposes a test with, and for *listed* the values of its own faults.

- **right**: what was named at the end is the part or the place; for *none*, that nothing is found.
- **half**: of the first repair that stood above one half, how often it was right.
- **wrong**: a repair was named as the end and is not at the place, or buys another part.
- **nothing**: ended as "nothing found". **never**: no end within 24 tests, or a choice of several.
- **buys/100**: parts bought in vain. **>.99**: of those named above 0.99, how many are right.
- **min**: median minutes, with the tenth and the ninetieth of a hundred.
- **shown**: how often what led at a percentage was right (all moments of all cases).

*listed* are faults that the engine names, as far as they are electrical; *makes* the same where
pull-ups, loads and dividers differ up to twice; *slips* with 3 % of the readings taken at another
pin and 10 % not given; *strange* what it does not name as such; *tempers* controllers that react
otherwise to halls, an open throttle, a silent display; *none* a sound bike; *unridden* strange ones
whose ride cannot be made; *undescribed* something on a signal line that nobody described; *two*
two faults of the list at once, where naming either is right. Sorts that were written after the
engine are still owed: all of these were written together with it, by the same hand.
"""


def bike_of(name: str) -> Bike:
    """Return a demo bike or a pattern."""
    if name in DEMO_BIKES:
        return load_bike((DEMO / f"{name}.json").read_text())
    return make_pattern(name, name)


def listed(circuit: Circuit, rng: np.random.Generator) -> Iterator[Trouble]:
    """Yield faults of the engine's list that are wholly electrical, played by another solver."""
    modes = [m for m in circuit.faults if m.overrides and not m.traits and not m.repair.describes]
    while modes:
        mode = modes[int(rng.integers(len(modes)))]
        pieces = {}
        for o in mode.overrides:
            pieces[o.element] = tuple(Piece(r.upto, r.g1, r.g2, r.j) for r in o.regions)
        owner = mode.repair.owner
        yield Trouble(
            "listed",
            mode.id,
            pieces,
            owners=frozenset({owner}),
            buys=frozenset({owner}),
            orders=mode.repair.id.startswith("order:"),
        )


def two(circuit: Circuit, rng: np.random.Generator) -> Iterator[Trouble]:
    """Yield two faults of the list at once, at different places: finding either is right."""
    single = listed(circuit, rng)
    while True:
        first, second = next(single), next(single)
        if first.owners & second.owners or set(first.pieces) & set(second.pieces):
            continue
        yield Trouble(
            "two",
            f"{first.words} and {second.words}",
            {**first.pieces, **second.pieces},
            owners=first.owners | second.owners,
            buys=first.buys | second.buys,
            orders=first.orders or second.orders,
        )


def work(job: tuple[str, tuple[str, ...], int, int]) -> list[tuple[str, Played]]:
    """Play some sets on one bike."""
    name, sets, count, seed = job
    engine = Engine(bike_of(name))
    engine.prepare()
    TrueBike.scenes = {s.id: s for s in scenes_of(engine.circuit)}
    found = []
    for which in sets:
        rng = np.random.default_rng([seed, SETS.index(which), sum(map(ord, name))])
        makers = {}
        if which in ("strange", "unridden"):
            makers = {s: maker(engine.circuit, rng) for s, maker in SORTS.items()}
        elif which == "undescribed":
            makers = {"hidden": hidden(engine.circuit, rng)}
        elif which == "two":
            makers = {"two": two(engine.circuit, rng)}
        elif which != "none":
            makers = {"listed": listed(engine.circuit, rng)}
        order = list(makers)
        done = 0
        for turn in range(TRIES * count):
            if done >= count:
                break
            apart = 2.0 if which == "makes" else 1.0
            temper = temper_of(rng, which == "tempers")
            if which == "none":
                trouble = NOTHING
            else:
                maker = makers[order[turn % len(order)]]
                trouble = next(maker, None)
                if trouble is None:
                    continue
            bike = TrueBike(engine.circuit, trouble, rng, temper, apart)
            told = _told(bike, engine, rng, which)
            if which != "none" and not told:
                continue
            if which != "tempers" and not as_described(bike, engine):
                continue
            done += 1
            found.append((which, play(engine, bike, told, which == "slips", which != "unridden")))
    return found


def _told(
    bike: TrueBike, engine: Engine, rng: np.random.Generator, which: str
) -> tuple[Evidence, ...]:
    if which != "none":
        return complaint(bike)
    # A rider who tells of something that is not there now.
    scenes = [s for s in engine.table.scenes if s in ("throttle", "pull", "switch_on", "pedal")]
    scene = str(rng.choice(scenes))
    name = {"switch_on": "display", "throttle": "motor", "pull": "motor", "pedal": "motor"}[scene]
    value = {"switch_on": "dark", "throttle": "silent", "pull": "cuts", "pedal": "silent"}[scene]
    if name not in engine.table.scenes[scene].seen:
        return ()
    return (Evidence("look", value, scene=scene, observable=name, told=True, sometimes=True),)


def line(label: str, rows: list[Played]) -> str:
    """Return one row of figures."""
    n = len(rows)
    if not n:
        return f"{label:18s} no cases"
    sure = [r for r in rows if r.probability > 0.99 and r.ended and r.status != "nothing-found"]
    half = [r for r in rows if r.half]
    minutes = sorted(r.minutes for r in rows)
    return (
        f"{label:18s} n {n:4d} right {np.mean([r.right for r in rows]):6.1%}"
        f" half {np.mean([r.half_right for r in half]) if half else 0:6.1%}"
        f" wrong {np.mean([r.wrong for r in rows]):5.1%}"
        f" nothing {np.mean([r.status == 'nothing-found' for r in rows]):5.1%}"
        f" never {np.mean([not r.ended for r in rows]):5.1%}"
        f" buys/100 {100 * np.mean([r.bought for r in rows]):4.1f}"
        f" >.99 {np.mean([r.right for r in sure]) if sure else 0:6.1%} of {len(sure):3d}"
        f" min {np.median(minutes):4.1f} ({minutes[n // 10]:.0f} to {minutes[-1 - n // 10]:.0f})"
        f"{_asked(label, rows)}"
    )


def _asked(label: str, rows: list[Played]) -> str:
    """Return how often nothing was bought before it was asked what is not described."""
    if label != "undescribed":
        return ""
    return f" asked or nothing bought {np.mean([r.asked or not r.bought for r in rows]):.1%}"


def reliability(rows: list[Played]) -> str:
    """Return how often what stood at a percentage was right."""
    found = []
    every = [pair for row in rows for pair in row.shown]
    for low in np.arange(0.1, 1.0, 0.1):
        here = [right for share, right in every if low <= share < low + 0.1]
        if len(here) >= 10:
            found.append(f"{low:.1f}: {np.mean(here):.0%} of {len(here)}")
    return "  ".join(found)


def main() -> None:
    """Run the sets and print the figures."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--bikes", default="")
    parser.add_argument("--sets", default=",".join(SETS))
    parser.add_argument("--count", type=int, default=6, help="cases a bike and set")
    parser.add_argument("--seed", type=int, default=int(time.time()))
    parser.add_argument("--write", default="", help="write the figures as a page to this file")
    parser.add_argument("--show", action="store_true", help="print what went wrong")
    asked = parser.parse_args()
    names = asked.bikes.split(",") if asked.bikes else [*DEMO_BIKES, *PATTERNS]
    sets = tuple(asked.sets.split(","))
    print(f"seed {asked.seed}", flush=True)
    rows: dict[str, list[Played]] = defaultdict(list)
    jobs = [(name, sets, asked.count, asked.seed) for name in names]
    with ProcessPoolExecutor(max_workers=2) as pool:
        for name, found in zip(names, pool.map(work, jobs), strict=True):
            for which, played in found:
                rows[which].append(played)
            print(f"{name}: {len(found)}", file=sys.stderr, flush=True)
    strange = rows.get("strange", [])
    lines = [line(which, rows[which]) for which in sets]
    lines += ["  " + line(sort, [r for r in strange if r.sort == sort]) for sort in SORTS]
    lines.append("shown: " + reliability([r for which in sets for r in rows[which]]))
    print("\n".join(lines))
    if asked.write:
        head = HEAD.format(seed=asked.seed, count=asked.count, bikes=len(names))
        body = "\n".join(text.rstrip() for text in lines)
        Path(asked.write).write_text(f"{head}\n```\n{body}\n```\n")
    if asked.show:
        for which in sets:
            for r in rows[which]:
                if not r.right:
                    print(
                        which,
                        r.sort,
                        r.words,
                        "->",
                        r.status,
                        r.named,
                        f"{r.probability:.3f}",
                        r.tests,
                        f"{r.minutes:.0f} min",
                        r.kinds[-3:],
                    )


if __name__ == "__main__":
    main()
