"""Use a shop of its own hard for some minutes: writers, readers, kills, a full disk, five bikes,
bad files.

./bright soak 5           five minutes; prints a table, and what was lost
./bright soak load        two minutes of many at work at once, without kills: how long answers take

Every write that the server has acknowledged is looked for at the end. SQLite's promise beside it: a
committed transaction survives the end of the process, and with `synchronous=FULL`, as here, of the
machine.
"""

import os
import random
import resource
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from http.client import HTTPException
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT), str(Path(__file__).resolve().parent)]

import soak_load
from visitor import Answer, Visitor

PASSWORD = "lantern-yard"
WRITERS, READERS = 4, 3
PAUSE_S = 0.4
"""What somebody thinks between two pages, which is nobody's idea of slow."""

START_MOST_S = float(os.environ.get("BRIGHT_PATIENCE_S", "240"))
CHURN = ("hub-conversion", "mid-conversion", "two-packs", "two-motor-cart", "folding")
GOOD = (200, 302)
PAGES = ("/", "/bikes/", "/?q=dead&status=all", "/parts/", "/jobs/new/")
REFUSED = (200, 400, 409, 413, 422)
SIGN_IN = "/sign-in/"
UNWRITABLE = 507
PATIENCE_S = 900.0
"""Seconds beyond its time that a soak waits for visitors who were not answered yet."""

SMALL = 4096
"""Bytes that a file may have while the disk counts as full: nothing more can be written
anywhere."""


@dataclass
class Told:
    """What has been seen so far; `guard` holds for all of it."""

    written: dict[str, list[str]] = field(default_factory=dict)
    """Job → notes that the server has acknowledged."""

    counts: Counter[str] = field(default_factory=Counter)
    seconds: dict[str, list[float]] = field(default_factory=dict)
    strange: list[str] = field(default_factory=list)
    first_proposals: set[str] = field(default_factory=set)
    guard: threading.Lock = field(default_factory=threading.Lock)

    def count(self, what: str, seconds: float | None = None) -> None:
        """Count something that happened, and how long it took."""
        with self.guard:
            self.counts[what] += 1
            if seconds is not None:
                self.seconds.setdefault(what, []).append(seconds)

    def note_strange(self, words: str) -> None:
        """Remember an answer that nobody should get."""
        with self.guard:
            self.strange.append(words[:200])


class Server:
    """The server under test, on a data folder and a port of its own."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.base = f"http://localhost:{self.port}"
        self.process: subprocess.Popen[bytes] | None = None
        self.up = threading.Event()

    def environment(self) -> dict[str, str]:
        """Return how this server is set up."""
        return {"BRIGHT_DEMO": "1"}

    def start(self) -> float:
        """Start it; return the seconds until it answers."""
        begun = time.monotonic()
        log = (self.folder / "server.log").open("ab")
        environment = os.environ | {
            "BRIGHT_DATA": str(self.folder / "data"),
            "PYTHONPATH": str(ROOT / "src"),
            "MALLOC_ARENA_MAX": "2",  # as `./bright serve` sets it
            **self.environment(),
        }
        command = [sys.executable, "manage.py", "serve", "--port", str(self.port)]
        self.process = subprocess.Popen(command, cwd=ROOT, env=environment, stdout=log, stderr=log)
        while time.monotonic() - begun < START_MOST_S:
            try:
                if Visitor(self.base).get("/sign-in/")[0] == 200:
                    self.up.set()
                    return time.monotonic() - begun
            except OSError:
                time.sleep(0.1)
        self.kill()
        raise SystemExit(f"The server did not start: see {self.folder / 'server.log'}")

    def kill(self) -> None:
        """End it at once, wherever it is."""
        assert self.process is not None
        self.up.clear()
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        """End it in order."""
        assert self.process is not None
        self.up.clear()
        self.process.terminate()
        self.process.wait()

    def fill_disk(self, full: bool) -> None:
        """Let no file grow any more, or let them grow again."""
        assert self.process is not None
        most = SMALL if full else resource.RLIM_INFINITY
        resource.prlimit(self.process.pid, resource.RLIMIT_FSIZE, (most, resource.RLIM_INFINITY))


class Soak:
    """Everything that goes on at once, until the time is over."""

    def __init__(
        self,
        seconds: float,
        seed: int,
        kill_every_s: float = 15.0,
        full_every_s: float = 25.0,
        full_for_s: float = 4.0,
        bikes: tuple[str, ...] = CHURN,
    ) -> None:
        self.bikes = bikes
        self.seconds, self.seed = seconds, seed
        self.kill_every_s, self.full_every_s, self.full_for_s = (
            kill_every_s,
            full_every_s,
            full_for_s,
        )
        self.told = Told()
        self.over = threading.Event()
        self.jobs: list[str] = []
        self.churn: list[str] = []

    def run(self, folder: Path) -> None:
        """Run it all on a new shop."""
        self.server = Server(folder)
        self.server.start()
        self._open_jobs()
        work: list[Callable[[random.Random], None]] = [self._write] * WRITERS + [
            self._read
        ] * READERS
        work += [self._send_files, self._poll]
        threads = [
            threading.Thread(target=self._over_and_over, args=(one, random.Random(self.seed + n)))
            for n, one in enumerate(work)
        ]
        for thread in threads:
            thread.start()
        self._disturb()
        self.over.set()
        for thread in threads:
            thread.join()
        self._count_lost()
        self.server.stop()

    def _open_jobs(self) -> None:
        visitor = self._visitor()
        for name in self.bikes:
            self.churn.append(visitor.new_job(visitor.new_bike(name, name), "Dead"))
        self.jobs = self.churn[:2]

    def _visitor(self) -> Visitor:
        visitor = Visitor(self.server.base)
        visitor.sign_in("lead", PASSWORD)
        return visitor

    def _over_and_over(self, work: Callable[[random.Random], None], chance: random.Random) -> None:
        """Do something until the time is over; a server that is away is waited for."""
        while not self.over.is_set():
            if not self.server.up.wait(0.2):
                continue
            try:
                work(chance)
            except (OSError, HTTPException):
                self.told.count("requests cut off by a kill")
                time.sleep(0.1)

    def _timed(self, what: str, ask: Callable[[], Answer], expected: tuple[int, ...]) -> Answer:
        begun = time.monotonic()
        answer = ask()
        self.told.count(what, time.monotonic() - begun)
        status = answer[0]
        if status == UNWRITABLE:
            self.told.count("told that the disk is full")
        elif status not in expected:
            self.told.note_strange(f"{what}: {status} at {answer[1]}")
        return answer

    def _write(self, chance: random.Random) -> None:
        """Note something on a job, based on what stands there; only what is acknowledged counts."""
        visitor = self._visitor()
        for _ in range(20):
            if self.over.is_set():
                return
            job = chance.choice(self.jobs)
            words = f"note {chance.getrandbits(60):x}"
            page = visitor.get(f"/jobs/{job}/arrive/found/")
            if SIGN_IN in page[1]:
                return
            if page[0] != 200:
                continue
            post = partial(
                visitor.post,
                f"/jobs/{job}/arrive/found/",
                action="note",
                note=words,
                was=_note(page[2]),
            )
            answer = self._timed("writes", post, (*GOOD, 409))
            time.sleep(PAUSE_S)
            if answer[0] in GOOD and SIGN_IN not in answer[1]:
                with self.told.guard:
                    self.told.written.setdefault(job, []).append(words)
            elif answer[0] == 409:
                self.told.count("writes refused because another came first")
            elif answer[0] == UNWRITABLE and words not in answer[2]:
                self.told.note_strange("a page of the full disk without what was typed")

    def _read(self, chance: random.Random) -> None:
        visitor = self._visitor()
        for _ in range(30):
            if self.over.is_set():
                return
            job = chance.choice(self.churn)
            own = tuple(
                f"/jobs/{job}/{name}/" for name in ("arrive", "record", "wire", "match", "trace")
            )
            time.sleep(PAUSE_S)
            answer = self._timed("reads", partial(visitor.get, chance.choice((*PAGES, *own))), GOOD)
            if SIGN_IN in answer[1]:
                return

    def _send_files(self, chance: random.Random) -> None:
        """Send files that were changed at random to every page that takes one."""
        from tests.strange_files import changed, good_files

        visitor = self._visitor()
        ways = {"bike": "/bikes/import/", "job": "/jobs/import/", "parts as YAML": "/parts/import/"}
        for name, text, _ in good_files():
            if name not in ways or self.over.is_set():
                continue
            content = changed(text, chance).encode("utf-8", "surrogatepass")
            visitor.get(ways[name])
            self._timed("bad files", partial(visitor.send_file, ways[name], "x", content), REFUSED)

    def _poll(self, chance: random.Random) -> None:
        """Wait for the first proposals of five bikes, as their pages do."""
        visitor = self._visitor()
        for _ in range(40):
            if self.over.is_set():
                return
            for job in self.churn:
                state = visitor.json(f"/jobs/{job}/trace/progress/")
                if state.get("first"):
                    with self.told.guard:
                        self.told.first_proposals.add(job)
            time.sleep(0.4)

    def _disturb(self) -> None:
        """Kill the server and fill its disk, now and then."""
        begun = time.monotonic()
        next_kill, next_full = begun + self.kill_every_s, begun + self.full_every_s
        while time.monotonic() - begun < self.seconds:
            now = time.monotonic()
            if now > next_full:
                self.server.fill_disk(True)
                time.sleep(self.full_for_s)
                self.server.fill_disk(False)
                self.told.count("times the disk was full")
                next_full = time.monotonic() + self.full_every_s
            if now > next_kill:
                self.server.kill()
                self.told.count("kills", self.server.start())
                next_kill = time.monotonic() + self.kill_every_s
            time.sleep(0.1)
        # On a slow machine the time may be over before anything was answered: then it goes on in
        # peace.
        while not self._has_seen_all() and time.monotonic() - begun < self.seconds + PATIENCE_S:
            time.sleep(0.1)

    def _has_seen_all(self) -> bool:
        """Return whether every kind of visitor was answered at least once."""
        with self.told.guard:
            answered = all(self.told.counts[what] for what in ("reads", "bad files"))
            return answered and bool(self.told.written)

    def _count_lost(self) -> None:
        visitor = self._visitor()
        for job, notes in self.told.written.items():
            kept = visitor.get(f"/jobs/{job}/record/job.json")[2]
            lost = [words for words in notes if words not in kept]
            self.told.counts["acknowledged writes"] += len(notes)
            self.told.counts["acknowledged writes lost"] += len(lost)


def _note(page: str) -> str:
    """Return the note that an Arrive page was made with."""
    from html import unescape

    _, _, rest = page.partition('name="was" value="')
    return unescape(rest.partition('"')[0])


def soundness(folder: Path) -> list[str]:
    """Return what a look over the data folder finds wrong."""
    done = subprocess.run(
        [sys.executable, "manage.py", "look_over"],
        cwd=ROOT,
        env=os.environ | {"BRIGHT_DATA": str(folder / "data"), "PYTHONPATH": str(ROOT / "src")},
        capture_output=True,
        text=True,
        check=False,
    )
    return [line for line in done.stdout.splitlines() if "Database" in line or "nowhere" in line]


def report(soak: Soak, folder: Path) -> str:
    """Return the table of a run."""
    told = soak.told
    log = (folder / "server.log").read_text("utf-8", "replace")
    rows = [(what, str(number)) for what, number in sorted(told.counts.items())]
    rows.append(("first proposals of five bikes", str(len(told.first_proposals))))
    rows.append(("lock errors in the log", str(log.count("database is locked"))))
    rows.append(("answers that nobody should get", str(len(told.strange))))
    lines = ["| what | count | median | 95 % under | longest |", "| --- | --- | --- | --- | --- |"]
    for what, number in rows:
        seconds = sorted(told.seconds.get(what, ()))
        times = (
            [seconds[int(part * (len(seconds) - 1))] for part in (0.5, 0.95, 1.0)]
            if seconds
            else []
        )
        lines.append(
            f"| {what} | {number} | {' | '.join(f'{t:.2f} s' for t in times) or ' | | '} |"
        )
    found = [*soundness(folder), *dict.fromkeys(told.strange[:8])]
    return "\n".join([*lines, "", *found]) + "\n"


def under_load(seconds: float) -> str:
    """Return the tables of many at work at once on a server of its own."""
    with tempfile.TemporaryDirectory() as name:
        server = Server(Path(name))
        server.start()
        assert server.process is not None
        said = (Path(name) / "server.log").read_text("utf-8", "replace")
        _, _, rest = said.partition("Simulated controllers answer at ")
        line = rest.split()[0] if rest else ""
        load = soak_load.Load(server.base, PASSWORD, server.process.pid, line)
        try:
            load.run(seconds)
            return soak_load.report(load)
        finally:
            server.stop()


LOAD_S = 120.0


def main() -> int:
    """Run for the minutes given, then under load; return 1 where something was lost or broke."""
    if sys.argv[1:2] == ["load"]:
        print(under_load(LOAD_S))
        return 0
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 2.0
    with tempfile.TemporaryDirectory() as name:
        soak = Soak(60.0 * minutes, seed=1)
        soak.run(Path(name))
        print(
            f"{minutes:g} minutes, {WRITERS} writers, {READERS} "
            f"readers.\n\n{report(soak, Path(name))}"
        )
    print(under_load(min(60.0 * minutes, LOAD_S)))
    bad = soak.told.counts["acknowledged writes lost"] or soak.told.strange
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
