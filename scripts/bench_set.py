"""How long each instrument of Set takes to say what is next and what readings mean."""

import time
from collections.abc import Callable, Iterator

from brightcore.bike.model import Bike
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.setting import bench_row
from brightcore.setting.contract import Field, Instrument, next_step, read_all

TARGET_S = 0.1
MOST_STEPS = 24


def plausible(item: Field) -> str:
    """Return something that a field takes."""
    if item.choices:
        return item.choices[-1][0]
    if item.words:
        return "red black"
    value = {"pins": 3.0, "groups": 3.8}.get(
        item.id, round((item.low + min(item.high, item.low + 5)) / 2)
    )
    return " ".join([f"{value:g}"] * 4) if item.many else f"{value:g}"


def answers(item: Instrument, bike: Bike, subject: str) -> Iterator[float]:
    """Yield the seconds of every answer of an instrument while a sheet is filled in."""
    typed: dict[str, str] = {}
    for _ in range(MOST_STEPS):
        begun = time.perf_counter()
        steps = item.steps(bike, subject, typed)
        found = read_all([field for step in steps for field in step.fields], typed)
        item.judge(bike, subject, found, {}, {})
        following = next_step(steps, found)
        yield time.perf_counter() - begun
        if following is None:
            return
        fresh = {field.id: plausible(field) for field in following.fields}
        if fresh.items() <= typed.items():
            return
        typed |= fresh


def report(table: Callable[..., str], bikes: tuple[Bike, ...]) -> str:
    """Return the slowest and the middle answer of every instrument over all bikes, first ones
    included."""
    warm = make_pattern(
        "hand-cycle", "warm"
    )  # what a process does once only is no part of an answer
    for item, subject in bench_row(warm):
        list(answers(item, warm, subject.id))
    seconds: dict[str, list[float]] = {}
    for bike in (*bikes, *(make_pattern(name, name) for name in PATTERNS)):
        for item, subject in bench_row(bike):
            seconds.setdefault(item.title, []).extend(answers(item, bike, subject.id))
    rows = [
        (
            title,
            str(len(found)),
            f"{1e3 * sorted(found)[len(found) // 2]:.1f} ms",
            f"{1e3 * max(found):.0f} ms",
            f"{max(found) / TARGET_S:.0%}",
        )
        for title, found in seconds.items()
    ]
    return table(("instrument", "answers", "median", "worst", "of 100 ms"), rows)
