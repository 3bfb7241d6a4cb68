"""Harsh trials of the diagnosis engine, bike by bike and set by set; see `truths`."""

import sys
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))

from truths import (
    Case,
    Ended,
    TrueSet,
    healthy_complaint,
    listed_cases,
    pairs_of,
    trace_case,
    undescribed,
    undescribed_cases,
    unlisted_cases,
    with_symptom,
)

from brightcore.bike.model import Bike
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.formats.bike_file import load_bike
from brightcore.tracing.engine import Engine
from brightcore.tracing.tests import kind_of

DEMO = Path(__file__).parent.parent / "src" / "brightcircuit" / "demo"
DEMO_BIKES = ("fern", "otter", "teasel")
BIKES = (*DEMO_BIKES, *PATTERNS)
ROUNDS, HIDDEN_ROUNDS = 6, 20
"""Where a set has few cases, each is a true bike of its own as many times."""

SETS = ("listed", "makes", "slips", "unlisted", "undescribed", "two", "none")


def bike_of(name: str) -> Bike:
    """Return a demo bike or a pattern by name."""
    if name in DEMO_BIKES:
        return load_bike((DEMO / f"{name}.json").read_text())
    return make_pattern(name, name)


def _pick(numbers: list[int], count: int, seed: int) -> list[int]:
    rng = np.random.default_rng(seed)
    return sorted(int(k) for k in rng.permutation(numbers)[:count])


def run_set(name: str, engine: Engine, count: int, seed: int) -> Iterator[Ended]:
    """Yield how each case of one set went on one bike."""
    rng = np.random.default_rng(seed)
    if name in ("listed", "makes", "slips"):
        cases = listed_cases(engine)
        picked = [cases[k] for k in _pick(list(range(len(cases))), 3 * count, seed)]
        truth, felt = with_symptom(engine, picked, seed, name == "makes")
        for k in felt[:count]:
            yield trace_case(engine, truth, k, truth.complaint(k), name == "slips")
    elif name == "unlisted":
        every = [case for k in range(ROUNDS) for case in unlisted_cases(engine, seed + k)]
        truth, felt = with_symptom(engine, every, seed)
        kinds = sorted({truth.cases[k].label.split()[0] for k in felt})
        groups = {
            kind: [k for k in felt if truth.cases[k].label.split()[0] == kind] for kind in kinds
        }
        turn = [
            g[k]
            for k in range(count)
            for g in (list(rng.permutation(x)) for x in groups.values())
            if k < len(g)
        ]
        for k in turn[:count]:
            yield trace_case(engine, truth, int(k), truth.complaint(int(k)))
    elif name == "undescribed":
        yield from _undescribed(engine.bike, count, seed)
    elif name == "two":
        truth, felt = with_symptom(engine, pairs_of(engine, 3 * count, seed), seed)
        for k in felt[:count]:
            found = trace_case(engine, truth, k, truth.complaint(k))
            yield found
            if found.stop_right:
                yield from _second(engine, truth.cases[k], found.first, seed + k)
    elif name == "none":
        truth = TrueSet(engine, [Case("none", (), frozenset({"none"}))] * (2 * count), seed, True)
        good = [k for k in range(2 * count) if truth.healthy(k)][:count]
        for k in good:
            yield trace_case(engine, truth, k, healthy_complaint(engine, rng))


def _second(engine: Engine, case: Case, repaired: str, seed: int) -> Iterator[Ended]:
    left = [mode for mode in case.modes if mode.repair.id != repaired]
    if len(left) == len(case.modes) or not left:
        return
    rest = Case(f"second of {case.label}", tuple(left), frozenset({left[0].repair.id}))
    truth, felt = with_symptom(engine, [rest], seed)
    for k in felt:
        yield trace_case(engine, truth, k, truth.complaint(k))


def _undescribed(whole: Bike, count: int, seed: int) -> Iterator[Ended]:
    options = list(undescribed(whole))
    each = -(-count // max(len(options), 1))
    for bike, part_id, roles in options:
        engine = Engine(bike)
        engine.prepare()
        circuit, cases = undescribed_cases(whole, part_id, roles)
        cases = cases * HIDDEN_ROUNDS
        truth = TrueSet(engine, cases, seed, False, circuit)
        felt = [k for k in range(len(cases)) if truth.healthy(k) and truth.complaint(k)]
        for k in _pick(felt, each, seed):
            yield trace_case(engine, truth, k, truth.complaint(k))


def work(job: tuple[str, int, int, tuple[str, ...]]) -> dict[str, list[Ended]]:
    """Run the sets on one bike."""
    name, count, seed, sets = job
    engine = Engine(bike_of(name))
    engine.prepare()
    return {which: list(run_set(which, engine, count, seed)) for which in sets}


def line(label: str, found: list[Ended]) -> str:
    """Return one row of figures."""
    main = [e for e in found if not e.label.startswith("second of")]
    second = [e for e in found if e.label.startswith("second of")]
    if not main:
        return f"{label:28s} no cases"
    stopped = [e for e in main if e.stopped]
    at_stop = np.mean([e.first_right for e in stopped]) if stopped else 0.0
    text = (
        f"{label:28s} n {len(main):4d}  first {np.mean([e.first_right for e in main]):6.1%}"
        f"  at stop {at_stop:6.1%}  never {1 - len(stopped) / len(main):5.1%}"
        f"  sure+wrong {np.mean([e.sure_and_wrong for e in main]):5.1%}"
        f"  min {np.median([e.minutes for e in main]):5.1f}  asked "
        f"{np.mean([e.asked for e in main]):4.0%}"
    )
    sure = [e for e in main if e.status == "repair" and e.probability > 0.99]
    if sure:
        text += f"  >.99: {np.mean([e.first_right for e in sure]):6.1%} of {len(sure)}"
    if second:
        text += f"  second {np.mean([e.first_right for e in second]):5.1%} of {len(second)}"
    return text


HEAD = (
    "bike",
    "cases",
    "right first",
    "right when it ended",
    "never ends",
    "sure and wrong",
    "minutes, median",
)

INTRO = """\
Simulated true bikes that the engine does not know: every part 5 % apart, another charge, continuous
severity, read through a real meter that feeds or loads the circuit; at most 20 tests. *Right
first*: the first repair offered by the stop rule or, where it never held, the one over one half at
the end. *Sure and wrong*: a repair named that does not put it right. Only faults that a rider would
complain of; what is told is of then, and is looked at again first.

- **listed**: faults of the engine's own list. **makes**: the same where pull-ups, loads, dividers
  and thresholds differ up to twice either way. **slips**: 3 % of the readings are of another bike,
  10 % are not given at first.
- **unlisted**: what comes and goes (shows at 30 to 70 % of the tries), a shared ground of 2 to 20
  Ω, a branch of 0.2 to 0.4 Ω, a sensor or supply that is off, a worn switch, a magnet at its
  margin, a leak of 1 to 100 kΩ.
- **undescribed**: the fault is in a lever, lamp or sensor that the description does not have; right
  is to ask for it before anything is bought. **two**: two listed faults; right is one of them.
  **none**: nothing is wrong now.

Where something harmless is found on a line, describing it takes 3 minutes, and the trace goes on.

"""


def report(count: int = 60) -> str:
    """Return the Markdown of every set over every bike."""
    every: dict[str, list[Ended]] = {s: [] for s in SETS}
    rows: dict[str, list[str]] = {s: [] for s in SETS}
    with ProcessPoolExecutor(2) as pool:
        for name, found in zip(
            BIKES, pool.map(work, [(n, count, 7, SETS) for n in BIKES]), strict=True
        ):
            print(name, file=sys.stderr, flush=True)
            for which, ended in found.items():
                every[which] += ended
                rows[which].append(_row(name, ended))
    head = "| " + " | ".join(HEAD) + " |\n|" + " --- |" * len(HEAD)
    pieces = [
        INTRO + head.replace("bike", "set", 1),
        *(_row(f"**{s}**", e) for s, e in every.items()),
    ]
    pieces += ["", *_notes(every), ""]
    for which in SETS:
        pieces += [f"### {which}", "", head, *rows[which], ""]
    return "\n".join(pieces) + "\n"


def _row(label: str, found: list[Ended]) -> str:
    """Return one row of a table."""
    main = [e for e in found if not e.label.startswith("second of")]
    if not main:
        return f"| {label} | 0 | | | | | |"
    stopped = [e for e in main if e.stopped]
    figures = (
        str(len(main)),
        f"{np.mean([e.first_right for e in main]):.1%}",
        f"{np.mean([e.first_right for e in stopped]):.1%}" if stopped else "",
        f"{1 - len(stopped) / len(main):.1%}",
        f"{np.mean([e.sure_and_wrong for e in main]):.1%}",
        f"{np.median([e.minutes for e in main]):.1f}",
    )
    return "| " + " | ".join((label, *figures)) + " |"


def _notes(every: dict[str, list[Ended]]) -> Iterator[str]:
    """Yield what else is measured: belief over 0.99, asking before buying, the second fault."""
    whole = [e for found in every.values() for e in found]
    sure = [e for e in whole if e.status == "repair" and e.probability > 0.99]
    right = np.mean([e.first_right for e in sure])
    yield f"- Belief over 0.99, all sets: right in {right:.1%} of {len(sure)}."
    away = [e for s in ("unlisted", "undescribed", "none") for e in every[s]]
    sure = [e for e in away if e.status == "repair" and e.probability > 0.99]
    if sure:
        right = np.mean([e.first_right for e in sure])
        yield f"- The same off the list (unlisted, undescribed, none): {right:.1%} of {len(sure)}."
    hidden = every["undescribed"]
    asked = np.mean([(e.asked or e.status == "describe") and not e.sure_and_wrong for e in hidden])
    yield f"- Undescribed: asked before any purchase in {asked:.1%} of {len(hidden)}."
    second = [e for e in every["two"] if e.label.startswith("second of")]
    right = np.mean([e.first_right for e in second])
    yield f"- Two faults, the second after the first is repaired: {right:.1%}."


def main() -> None:
    """Run the sets named on the command line on the bikes named, or all."""
    words = sys.argv[1:]
    count = next((int(w) for w in words if w.isdigit()), 20)
    verbose = "-v" in words
    names = [w for w in words if w in BIKES] or list(BIKES)
    sets = tuple(w for w in words if w in SETS) or SETS
    every: dict[str, list[Ended]] = {s: [] for s in sets}
    with ProcessPoolExecutor(2) as pool:
        for name, found in zip(
            names, pool.map(work, [(n, count, 7, sets) for n in names]), strict=True
        ):
            for which, ended in found.items():
                every[which] += ended
                print(line(f"{name} {which}", ended), flush=True)
                if verbose:
                    for e in ended:
                        if not e.stop_right:
                            said = f"{e.status} {e.probability:.2f}, {e.tests} tests, {e.why}"
                            print(f"     {e.label} → {e.first or '?'} ({said})")
                            for item in e.evidence if "-vv" in words else ():
                                print("           ", kind_of(item.kind).name, item)
    for which, ended in every.items():
        print(line(f"ALL {which}", ended))


if __name__ == "__main__":
    main()
