"""Measure the engine and the application; write docs/benchmarks.md.

./bright bench            everything (some minutes)
./bright bench engine     only the named sections
"""

import os
import platform
import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
sys.path.insert(0, str(Path(__file__).resolve().parent))

import bench_link
import bench_practice
import bench_set
import bench_sets
import bench_study
import bench_way
from tests.bikes import generated_bike
from tests.strange_files import tried

from brightcore.analysis.bike import analysis_of
from brightcore.circuit.dense import solve_dense
from brightcore.circuit.netlist import Circuit
from brightcore.circuit.solver import Values, join_values, solve
from brightcore.describing.join_edits import remove_join
from brightcore.drawing.plug_cards import plug_cards_svg
from brightcore.drawing.sheet_svg import sheet_svg
from brightcore.formats.bike_file import load_bike
from brightcore.formats.spice import parse_operating_point, spice_netlist
from brightcore.simulation.table import Table
from brightcore.tracing.advice import propose
from brightcore.tracing.engine import Engine
from brightcore.tracing.simulated import TrueBikes
from brightcore.tracing.trace import Trace
from brightcore.wiring.cut_list import cut_list
from brightcore.wiring.fixes import fixes_for, has_remedies
from brightcore.wiring.propose import propose_joins
from brightcore.wiring.rules import RULES, check_bike

DEMO = ROOT / "src/brightcircuit/demo"
BIKES = ("fern", "otter", "teasel")
SPICE_SAMPLE = 120
Rows = list[tuple[str, ...]]


def table(head: tuple[str, ...], rows: Rows) -> str:
    """Return a Markdown table."""
    lines = ["| " + " | ".join(row) + " |" for row in (head, ("---",) * len(head), *rows)]
    return "\n".join(lines) + "\n"


def demo_engine(name: str) -> Engine:
    """Return a new engine of a demo bike."""
    return Engine(load_bike((DEMO / f"{name}.json").read_text()))


def timed(work: Callable[[], object], times: int = 1) -> float:
    """Return the median seconds that some work takes."""
    found = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        found.append(time.perf_counter() - begun)
    return float(np.median(found))


def wiring() -> str:
    """A made-up bike of 40 parts: proposals with every plug apart, rules, the drawing; each from
    nothing, median of seven."""
    bike = generated_bike(1, 40)
    bare, apart = replace(bike, joins=()), remove_join(bike, bike.joins[0].id)
    finding = next(f for f in check_bike(apart) if has_remedies(f.code))

    def afresh(work: Callable[[], object]) -> Callable[[], object]:
        """Return some work that finds nothing remembered of any bike."""

        def anew() -> object:
            analysis_of.cache_clear()
            return work()

        return anew

    work = (
        ("proposals, every plug apart", lambda: propose_joins(bare)),
        (f"{len(RULES)} rules", lambda: check_bike(bike)),
        ("drawing on one page", lambda: sheet_svg(bike, "x")),
        ("what puts a finding right, each tried", lambda: fixes_for(apart, finding)),
        ("plug cards", lambda: plug_cards_svg(bike, "x")),
        ("ways and cut list", lambda: cut_list(bike)),
    )
    found = [(name, timed(afresh(run), 7)) for name, run in work]
    rows: Rows = [
        (name, f"{1e3 * seconds:.0f} ms", f"{seconds / 0.2:.0%}") for name, seconds in found
    ]
    total = sum(seconds for _, seconds in found[:3])
    rows.append(("rules, proposals and drawing", f"{1e3 * total:.0f} ms", f"{total / 0.2:.0%}"))
    return f"{len(bike.parts)} parts, {len(bike.joins)} joins.\n\n" + table(
        ("what", "time", "of 200 ms"), rows
    )


def first_proposal() -> str:
    """From a description nobody has seen to the first proposal, and to the whole table."""
    rows: Rows = []
    for name in BIKES:
        begun = time.perf_counter()
        engine = demo_engine(name)
        steps = list(engine.work())
        for step in (step for step in steps if step.first):
            step.run()
        propose(Trace(engine, []))
        first = time.perf_counter() - begun
        for step in (step for step in steps if not step.first):
            step.run()
        whole = time.perf_counter() - begun
        rows.append(
            (
                name,
                str(len(engine.hypotheses.items)),
                str(len(engine.tests)),
                f"{first:.2f} s",
                f"{whole:.1f} s",
            )
        )
    head = (
        "bike",
        "hypotheses",
        "tests",
        "first proposal, cold (target of this slice under 4 s)",
        "all predictions and outcome tables",
    )
    return table(head, rows)


def every_state(found: Table) -> list[object]:
    """Return every electrical state that any scene of a bike needs."""
    return sorted({c for scene in found.scenes.values() for _, c in scene.states})  # type: ignore[type-var]


def solver_speed() -> str:
    """The same systems by the batched solver, the dense oracle and ngspice."""
    engine = demo_engine("fern")
    found, circuit = engine.table, engine.circuit
    states = every_state(found)
    values = [found.values(c) for c in states]  # type: ignore[arg-type]
    start = np.tile(found._start, (1, len(states)))  # type: ignore[arg-type]
    joined = join_values(values)
    begun = time.perf_counter()
    solution = solve(found.system, joined, start)
    batched = joined.count / (time.perf_counter() - begun)
    few = values[: max(1, 900 // found.count)]
    dense = sum(v.count for v in few) / timed(
        lambda: [solve_dense(found.system, v, found._start) for v in few]
    )
    one_process, stepping, worst = spice_rates(circuit, found, values, states, solution.volts)
    rows: Rows = [
        (
            (
                f"batched sparse solver, all {joined.count} systems ({found.count} rows × "
                f"{len(states)} states)"
            ),
            f"{batched:.0f}",
            "1",
        ),
        (
            "dense oracle (full matrices, LAPACK), a part of them",
            f"{dense:.0f}",
            f"{batched / dense:.1f}",
        ),
        (
            f"ngspice, one process a netlist, {SPICE_SAMPLE} of them",
            f"{one_process:.1f}",
            f"{batched / one_process:.0f}",
        ),
        (
            f"ngspice, one process through the same {SPICE_SAMPLE} netlists",
            f"{stepping:.1f}",
            f"{batched / stepping:.0f}",
        ),
    ]
    note = (
        f"\n{len(circuit.nodes)} nodes, {len(circuit.elements)} elements. Not settled: "
        f"{int((~solution.settled).sum())}. "
    )
    note += (
        f"Nine nodes in ten agree with ngspice within {worst * 1e9:.0f} nV in every sampled "
        "system; the tenth part hangs on leaks and reads as floating (the tests compare every "
        "node under 1 MΩ).\n"
    )
    return table(("solver", "systems a second", "times slower than batched"), rows) + note


def spice_rates(
    circuit: Circuit, found: Table, values: list[Values], states: list[object], volts: np.ndarray
) -> tuple[float, float, float]:
    """Return (systems a second with one process each, in one process, worst difference in V)."""
    rng = np.random.default_rng(3)
    texts, expected = [], []
    for _ in range(SPICE_SAMPLE):
        s, row = int(rng.integers(len(states))), int(rng.integers(found.count))
        column = volts[:, s * found.count + row]
        guess = {node: float(column[i]) for i, node in enumerate(circuit.nodes)}
        overrides = (*found.rows[row].overrides, *found.latched(row))
        texts.append(spice_netlist(circuit, states[s], overrides, "", guess))  # type: ignore[arg-type]
        expected.append(column)
    worst, begun = 0.0, time.perf_counter()
    outputs = [
        subprocess.run(
            ["ngspice", "-b"], input=t, capture_output=True, text=True, check=False
        ).stdout
        for t in texts
    ]
    one_process = SPICE_SAMPLE / (time.perf_counter() - begun)
    for output, column in zip(outputs, expected, strict=True):
        read = parse_operating_point(output, circuit)
        differences = [
            abs(read[node] - column[i]) for i, node in enumerate(circuit.nodes) if node in read
        ]
        worst = max(worst, float(np.quantile(differences, 0.9)) if differences else 0.0)
    with tempfile.TemporaryDirectory() as folder:
        lines = ["* all in one process", ".control"]
        for k, text in enumerate(texts):
            path = Path(folder) / f"{k}.cir"
            path.write_text(re.sub(r"\.control.*?\.endc\n", "", text, flags=re.S))
            lines += [f"source {path}", "op", "print all", "remcirc"]
        script = Path(folder) / "all.cir"
        script.write_text("\n".join([*lines, "quit", ".endc", ".end"]) + "\n")
        begun = time.perf_counter()
        subprocess.run(["ngspice", "-b", str(script)], capture_output=True, check=False)
        stepping = SPICE_SAMPLE / (time.perf_counter() - begun)
    return one_process, stepping, worst


def one_update() -> str:
    """One more piece of evidence in, ranking and next test out."""
    rows: Rows = []
    for name in BIKES:
        engine = demo_engine(name)
        engine.prepare()
        bikes = TrueBikes(engine, list(range(1, engine.hypotheses.rows, 9)), 2)
        seconds = []
        for which in range(len(bikes.rows)):
            evidence, cache = list(bikes.complaint(which)), {}
            trace = Trace(engine, evidence, cache)
            for _ in range(6):
                best = propose(trace)
                if not best or trace.stopped:
                    break
                evidence += bikes.answer(best[0].test, which)
                begun = time.perf_counter()
                trace = Trace(engine, evidence, cache)
                propose(trace)
                seconds.append(time.perf_counter() - begun)
        rows.append(
            (
                name,
                str(len(seconds)),
                f"{1e3 * np.median(seconds):.0f} ms",
                f"{1e3 * np.quantile(seconds, 0.95):.0f} ms",
                f"{1e3 * max(seconds):.0f} ms",
            )
        )
    return table(
        ("bike", "updates", "median", "95 % under", "worst (target of this slice under 100 ms)"),
        rows,
    )


def answers_of_set() -> str:
    """Every answer while a sheet is filled in, on 17 bikes: the next step, and what the readings
    mean."""
    return bench_set.report(table, tuple(demo_engine(name).bike for name in BIKES))


def ways() -> str:
    """The difference between two descriptions of a bike of 40 parts and the order of work between
    them, median of seven. The trial of the first power-up is worked out once for a description
    and kept; it is shown beside them."""
    return bench_way.report(table)


def devices() -> str:
    """A controller of 120 registers at the stand-in in its own process, on this machine."""
    return bench_link.report(table)


def practice() -> str:
    """Acts of practice, and its fairness."""
    return bench_practice.report(table)


def application() -> str:
    """Page times with 500 jobs, page weight and memory, on a data folder of their own."""
    return on_own_data("bench_pages.py")


def growth() -> str:
    """Pages of a shop that has grown, and of bikes that have; on a data folder of their own."""
    return on_own_data("bench_growth.py")


def queue() -> str:
    """When each of several bikes opened at once has its first proposal, on a data folder of their
    own."""
    return on_own_data("bench_queue.py")


def strange_files() -> str:
    """Ten thousand good files changed at random, each given to its importer: taken, refused, or a
    crash; then damaged pictures and archives."""
    count, begun = 10_000, time.process_time()
    told: dict[str, list[int]] = {}
    for name, took, wrong in tried(count, seed=1):
        row = told.setdefault(name, [0, 0, 0])
        row[2 if wrong else 0 if took else 1] += 1
    seconds = time.process_time() - begun
    rows = [(name, *(str(n) for n in row)) for name, row in told.items()]
    return table(("importer", "taken", "refused", "crashed"), rows) + (
        f"\n{1e3 * seconds / count:.1f} ms of processor a file.\n\n"
        "| damaged | taken | refused | crashed | processor a file |\n"
        "| --- | --- | --- | --- | --- |\n" + on_own_data("bench_damaged.py")
    )


def largest_files() -> str:
    """The largest and worst files that may be sent: what each takes of processor and memory."""
    return on_own_data("bench_largest.py")


def soak() -> str:
    """A shop of its own, used hard: writers, readers, kills, a full disk, five bikes, bad files.

    SQLite's own promise beside it: what is committed survives the end of the process, and with
    `synchronous=FULL`, as here, that of the machine (sqlite.org, Write-Ahead Logging and PRAGMA
    synchronous).
    """
    script = [sys.executable, str(Path(__file__).with_name("soak.py")), "2"]
    return subprocess.run(script, cwd=ROOT, capture_output=True, text=True, check=False).stdout


def on_own_data(name: str) -> str:
    """Return what a script beside this one prints, run on a fresh data folder."""
    with tempfile.TemporaryDirectory() as folder:
        environment = os.environ | {
            "BRIGHT_DATA": folder,
            "BRIGHT_DEMO": "1",
            "PYTHONPATH": str(ROOT / "src"),
        }
        script = str(Path(__file__).with_name(name))
        return subprocess.run(
            [sys.executable, script],
            env=environment,
            cwd=ROOT,
            capture_output=True,
            text=True,
            check=True,
        ).stdout


def many_at_work() -> str:
    """Eight at Trace (a page every 3 s each), six who begin to practise (every 20 s), one who draws
    PDFs (every 5 s), one who watches a controller, on a server of its own whose predictions are
    there."""
    from soak import LOAD_S, under_load

    return under_load(LOAD_S)


SECTIONS: dict[str, tuple[str, Callable[[], str]]] = {
    "first": ("First proposal", first_proposal),
    "engine": ("Solver against ngspice, same netlists, same run", solver_speed),
    "update": ("One reading in, ranking and next test out", one_update),
    "wiring": ("Wiring of 40 parts", wiring),
    "way": ("The way of 40 parts", ways),
    "set": ("Answers of Set", answers_of_set),
    "link": ("Devices over the link", devices),
    "practice": ("Practice", practice),
    "pages": ("Application", application),
    "growth": ("A shop that has grown", growth),
    "files": ("Files that nobody should send", strange_files),
    "largest": ("The largest files that may be sent", largest_files),
    "soak": ("Used hard", soak),
    "load": ("Many at work at once", many_at_work),
    "queue": ("Several bikes opened at once", queue),
    "sets": ("Harsh trials", lambda: bench_sets.report()),
    "study": (
        "Tracing every modelled fault",
        lambda: bench_study.report(BIKES, demo_engine, table),
    ),
}


PAGE = ROOT / "docs/benchmarks.md"


def put_in(name: str, section: str) -> None:
    """Put a section that was run apart in the place of the one that stands on the page."""
    title = SECTIONS[name][0]
    text = PAGE.read_text()
    before, heading, rest = text.partition(f"## {title}\n")
    if not heading:
        PAGE.write_text(f"{text.rstrip()}\n\n{section}\n")
        return
    _, mark, after = rest.partition("\n## ")
    PAGE.write_text(f"{before}{section.rstrip()}\n{mark}{after}")


def main() -> None:
    """Run the sections asked for, print them, and write the page where all were run.

    With `--keep` the sections asked for are put into the page, marked as run apart.
    """
    keep = "--keep" in sys.argv
    wanted = [word for word in sys.argv[1:] if word != "--keep"] or list(SECTIONS)
    pieces = []
    for name in wanted:
        title, work = SECTIONS[name]
        print(f"… {title}", file=sys.stderr, flush=True)
        pieces.append(
            f"## {title}\n\n{(work.__doc__ or '').strip()}\n\n{work()}".replace("\n\n\n", "\n\n")
        )
        print(pieces[-1], flush=True)
        if keep:
            put_in(name, f"{pieces[-1].rstrip()}\n\nRun apart, on {date.today()}.")
    if set(wanted) == set(SECTIONS):
        head = (
            "# Benchmarks\n\nWritten by `./bright bench`; every figure is of one run on one "
            "machine, ratios are of the same run.\n"
        )
        head += (
            f"{os.cpu_count()} cores, Python {platform.python_version()}, NumPy {np.__version__}.\n"
        )
        (ROOT / "docs/benchmarks.md").write_text("\n".join([head, *pieces]))


if __name__ == "__main__":
    main()
