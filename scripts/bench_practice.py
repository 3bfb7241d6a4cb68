"""Practice: how long acts take, and whether who follows the engine finds what is hidden."""

import statistics
import time
from collections.abc import Callable
from dataclasses import replace

from brightcore.describing.patterns import make_pattern
from brightcore.practice.acts import ACTS, Play
from brightcore.practice.case import Case, new_seed
from brightcore.practice.hidden import hidden_bike
from brightcore.practice.play import play_of, step
from brightcore.practice.score import Way, debrief
from brightcore.practice.state import State
from brightcore.practice.words import complaint_evidence
from brightcore.tracing.engine import Engine

BIKES = ("hub-conversion", "mid-conversion", "two-packs", "two-motor-cart")
SORTS = ("anything", "connections", "bar", "drive", "pack", "settings", "nothing", "build")
SEEDS, ACT_MS = 200, 100


def report(table: Callable[..., str]) -> str:
    """Return times of acts, and the engine's way against swapping parts over 200 seeds."""
    return _acts(table) + "\n" + _fairness(table)


def _acts(table: Callable[..., str]) -> str:
    rows = []
    for name in ("hub-conversion", "two-motor-cart"):
        case = Case(make_pattern(name, name), "anything", new_seed(99))
        begun = time.perf_counter()
        play = play_of(case)
        complaint_evidence(hidden_bike(case))
        rows.append(
            (f"{name}, a new case", f"{1000 * (time.perf_counter() - begun):.0f} ms", "", "")
        )
        for act in ACTS:
            seconds = []
            for power in ("out", "on"):
                state = replace(
                    State(),
                    power=power,
                    wheel="up",
                    charged=False,
                    red="controller.throttle.signal" if name == "hub-conversion" else "",
                    black="controller.throttle.ground" if name == "hub-conversion" else "",
                )
                for choice in list(act.choices(play, state))[:12]:
                    begun = time.perf_counter()
                    step(play, state, act.key, dict(choice.said))
                    seconds.append(time.perf_counter() - begun)
            if seconds:
                median, most = statistics.median(seconds), max(seconds)
                share = f"{1000 * most / ACT_MS:.0%}".replace("%", " %")
                rows.append(
                    (
                        f"{name}, {act.key}",
                        f"{1000 * median:.1f} ms",
                        f"{1000 * most:.1f} ms",
                        share,
                    )
                )
    return table(("act", "median", "most", f"of {ACT_MS} ms"), rows)


def _fairness(table: Callable[..., str]) -> str:
    rows = []
    for name in BIKES:
        engine = Engine(make_pattern(name, name))
        engine.prepare()
        ways: list[tuple[Way, Way]] = []
        for k in range(SEEDS // len(BIKES)):
            case = Case(engine.bike, SORTS[k % len(SORTS)], new_seed(31 * k + 5))
            found = debrief(Play(case, engine), replace(State(), ended="gave-up"), ())
            ways.append((found.engine, found.swapping))
        own, swap = [a.minutes for a, _ in ways], [b.minutes for _, b in ways]
        right = sum(a.right for a, _ in ways)
        rows.append(
            (
                name,
                f"{right} of {len(ways)}",
                f"{statistics.median(own):.0f} min",
                f"{statistics.median(swap):.0f} min",
                f"{statistics.mean(a.wasted for a, _ in ways):.0f}",
                f"{statistics.mean(b.wasted for _, b in ways):.0f}",
            )
        )
    head = (
        "bike",
        "engine right",
        "engine",
        "swapping",
        "engine, parts for nothing",
        "swapping, parts for nothing",
    )
    return table(head, rows)
