"""How the server answers while many are at work: eight at Trace, six who begin to practise, one who
draws PDFs, one who watches a controller.

Part of `./bright soak`: a server of its own without kills. What was aimed at stands beside what was
measured; the memory is that of the server and everything it started, counted once where it is
shared.
"""

import os
import random
import re
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from http.client import HTTPException
from pathlib import Path

from visitor import Answer, Visitor

TRACERS, LEARNERS = 8, 6

HURRIED_S = {"trace": 3.0, "practise": 20.0, "draw": 5.0, "watch": 1.0}
"""Seconds between two requests of one person: somebody in a hurry at Trace, who begins one case
after the other, who draws one sheet after the other; a watched controller is asked every second."""

PAUSE_S = 0.5
"""Seconds between two looks of ours."""

READY_MOST_S = 900.0
"""Seconds that all bikes may take until their tests are worked out, before the load begins."""

QUIET_AFTER_S, LOOKED_AT_S = 15.0, 5.0
QUIET_CPU = 0.05
"""Share of one core below which a server counts as quiet."""

TRACE, PRACTICE, PDF, LIVE = "Trace page", "practice begun", "PDF of the wiring", "live values"
AIMS = (
    # what, part of the answers, seconds under which they shall stay
    (TRACE, 0.5, 0.3),
    (TRACE, 0.95, 1.0),
    (PRACTICE, 0.5, 2.0),
)
MEMORY_AIM_MB = 500.0
STANDS_IN = "brightcircuit.link.standin"
JOB = re.compile(r"/jobs/([0-9a-f-]{36})/")
OPTION = re.compile(r'<option value="([^"]+)"')
TICKS = os.sysconf("SC_CLK_TCK")


Work = Callable[[Visitor, random.Random], None]


class Load:
    """People at work on one server, and how long each of their requests took."""

    def __init__(self, base: str, password: str, server: int, line: str) -> None:
        self.base, self.password, self.server, self.line = base, password, server, line
        self.seconds: dict[str, list[float]] = {}
        self.wrong: list[str] = []
        self.most: list[float] = []
        self.over = threading.Event()
        self.guard = threading.Lock()

    def visitor(self) -> Visitor:
        """Return somebody who is signed in."""
        made = Visitor(self.base)
        made.sign_in("lead", self.password)
        return made

    def timed(self, what: str, ask: Callable[[], Answer]) -> Answer:
        """Ask, and keep how long it took."""
        begun = time.monotonic()
        answer = ask()
        with self.guard:
            self.seconds.setdefault(what, []).append(time.monotonic() - begun)
            if answer[0] != 200:
                self.wrong.append(f"{what}: {answer[0]} at {answer[1]}")
        return answer

    def prepare(self) -> list[str]:
        """Return the jobs that are worked on, once all their tests are worked out.

        A shop's predictions stand on its disk; what is measured is people at work, not the first
        hour of a new shop.
        """
        somebody = self.visitor()
        jobs = list(dict.fromkeys(JOB.findall(somebody.get("/")[2])))
        begun = time.monotonic()
        waiting = set(jobs)
        while waiting and time.monotonic() - begun < READY_MOST_S:
            for job in sorted(waiting):
                if somebody.json(f"/jobs/{job}/trace/progress/").get("all"):
                    waiting.discard(job)
            time.sleep(PAUSE_S)
        return [job for job in jobs if job not in waiting]

    def run(self, seconds: float) -> None:
        """Let everybody work for some time."""
        jobs = self.prepare()
        works: list[tuple[str, Work]] = []
        for n in range(TRACERS):
            works.append(("trace", partial(self._trace, jobs[n % len(jobs)])))
        works += [("practise", self._practise)] * LEARNERS
        works += [("draw", partial(self._draw, jobs[0])), ("watch", partial(self._watch, jobs))]
        threads = []
        for n, (what, work) in enumerate(works):
            told = (work, HURRIED_S[what], random.Random(n))
            threads.append(threading.Thread(target=self._again, args=told))
        for thread in threads:
            thread.start()
        begun = time.monotonic()
        while time.monotonic() - begun < seconds:
            self.most = max(self.most, memory_mb(self.server), key=sum)
            time.sleep(PAUSE_S)
        self.over.set()
        for thread in threads:
            thread.join()

    def _again(self, work: Work, pause_s: float, chance: random.Random) -> None:
        somebody = self.visitor()
        self.over.wait(pause_s * chance.random())  # nobody begins at the same moment
        while not self.over.is_set():
            try:
                work(somebody, chance)
            except (OSError, HTTPException) as error:
                with self.guard:
                    self.wrong.append(f"no answer: {error}")
            self.over.wait(pause_s * (0.5 + chance.random()))

    def _trace(self, job: str, somebody: Visitor, chance: random.Random) -> None:
        self.timed(TRACE, partial(somebody.get, f"/jobs/{job}/trace/"))

    def _practise(self, somebody: Visitor, chance: random.Random) -> None:
        page = somebody.get("/practice/")[2]
        bike, sort = chance.choice(options(page, "bike")), options(page, "sort")[0]
        self.timed(PRACTICE, partial(somebody.post, "/practice/", bike=bike, sort=sort))

    def _draw(self, job: str, somebody: Visitor, chance: random.Random) -> None:
        somebody.get(f"/jobs/{job}/wire/sheet/")
        self.timed(PDF, partial(somebody.get, f"/jobs/{job}/wire/sheet.pdf"))

    def _watch(self, jobs: list[str], somebody: Visitor, chance: random.Random) -> None:
        for job in jobs:
            link = f"/jobs/{job}/program/link/controller/"
            if somebody.get(link)[0] == 200:
                somebody.post(link, do="connect", address=f"{self.line}/1")
                self.timed(LIVE, partial(somebody.post, f"{link}live/"))
                return


def options(page: str, name: str) -> list[str]:
    """Return what a page offers in a field."""
    field = page.partition(f'name="{name}"')[2].partition("</select>")[0]
    return OPTION.findall(field)


def family(process: int) -> list[int]:
    """Return a process and everything that it started, by who started whom now."""
    started: dict[int, list[int]] = {}
    for path in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):
            fields = path.read_text().rpartition(")")[2].split()
            started.setdefault(int(fields[1]), []).append(int(path.parent.name))
    found = [process]
    for one in found:
        found += started.get(one, [])
    return found


def memory_mb(process: int) -> list[float]:
    """Return what a process and each that it started hold, in MB; what they share counts once.

    The stand-in for an outside device is left out: no shop runs one beside its server.
    """
    found = []
    for one in family(process):
        with suppress(OSError):
            if STANDS_IN in Path(f"/proc/{one}/cmdline").read_text():
                continue
            text = Path(f"/proc/{one}/smaps_rollup").read_text()
            kilobytes = int(re.search(r"^Pss:\s+(\d+)", text, re.M)[1])  # type: ignore[index]
            found.append(kilobytes / 1024)
    return found


def cpu_s(process: int) -> float:
    """Return the seconds of processor that a process and everything it started have used."""
    total = 0
    for one in family(process):
        with suppress(OSError):
            fields = Path(f"/proc/{one}/stat").read_text().rpartition(")")[2].split()
            total += int(fields[11]) + int(fields[12])
    return total / TICKS


def cpu_share(process: int) -> float:
    """Return how much of one core a process and everything it started use, over some seconds."""
    before = cpu_s(process)
    time.sleep(LOOKED_AT_S)
    return (cpu_s(process) - before) / LOOKED_AT_S


def part_of(seconds: list[float], part: float) -> float:
    """Return the time under which a part of the answers came."""
    ordered = sorted(seconds)
    return ordered[int(part * (len(ordered) - 1))]


def report(load: Load) -> str:
    """Return the tables of a load: how long answers took, and what was aimed at. The people have
    left when this is asked."""
    lines = ["| what | count | median | 95 % under | longest |", "| --- | --- | --- | --- | --- |"]
    for what, seconds in sorted(load.seconds.items()):
        times = " | ".join(f"{part_of(seconds, part):.2f} s" for part in (0.5, 0.95, 1.0))
        lines.append(f"| {what} | {len(seconds)} | {times} |")
    lines += ["", "| aim | wanted | found |", "| --- | --- | --- |"]
    for what, part, most in AIMS:
        found = part_of(load.seconds[what], part) if what in load.seconds else float("nan")
        lines.append(f"| {what}, {part:.0%} under | {most:g} s | {found:.2f} s |")
    time.sleep(QUIET_AFTER_S)
    by_process = " + ".join(f"{megabytes:.0f}" for megabytes in load.most)
    lines.append(
        f"| memory at most | {MEMORY_AIM_MB:g} MB | {sum(load.most):.0f} MB ({by_process}) |"
    )
    share = cpu_share(load.server)
    lines.append(
        f"| one core, {QUIET_AFTER_S:g} s after all left | {QUIET_CPU:.0%} | {share:.0%} |"
    )
    return "\n".join([*lines, "", *dict.fromkeys(load.wrong)][: len(lines) + 9]) + "\n"
