"""Engines by bike description, prepared step by step by one worker.

Several people may wait for several bikes. Whoever waits comes first: the first proposals of all who
wait, the smallest bike first, then the rest of what they wait for, then what the server warms by
itself. Nothing is prepared twice, work that nobody wants any more stops at the next step, and
predictions are kept on disk by description and version of the predicting code.
"""

import hashlib
import logging
import threading
import time
from collections import OrderedDict, deque
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from django.conf import settings
from django.db import close_old_connections
from numpy.typing import NDArray

from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.translate import worked_bike
from brightcircuit.engines.memory import give_back
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.repairs import confirmed_counts
from brightcore.bike.model import Bike
from brightcore.formats.engine_version import engine_version
from brightcore.tracing.engine import Engine, Step
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.terms import Terms
from brightcore.tracing.trace import Trace

logger = logging.getLogger(__name__)

MOST_ENGINES = 8
"""Engines kept in memory; those nobody has asked for longest go first."""

MOST_TRACES = 4
"""Beliefs kept of one bike: of the page that is open, and of the one before."""

WAITS_S = 3.0
"""A person who has asked within this time still waits: the page asks twice a second."""

WANTED_S = 12.0
"""Somebody who has asked within this time still reads the page, and wants the rest worked out
meanwhile: an open page asks every second until all is there. Where everybody has left, the machine
is quiet; what was worked out stays, and goes on from there."""

LEAST_KEPT_S = 60.0
"""An engine that was asked for within this time is not given up for another."""


@dataclass(frozen=True)
class Description:
    """What predictions are made of: a bike as it is worked with, and the hash of its description.

    `of`: the hash of the revision that a job uses; it is the same where nothing of its plan is left
    to be done.
    """

    bike: Bike
    key: str
    of: str


def description_of(revision: Revision) -> Description:
    """Return the description of a revision, of which nothing is only planned."""
    return Description(worked_bike(revision), revision.sha256, revision.sha256)


Asked = tuple[tuple[Evidence, ...], Terms, int]
"""Evidence, terms, and how many tests had their predictions."""


@dataclass
class Holder:
    """An engine in preparation. `lock` guards the engine; the worker holds it one step at a time.

    `of`: the revision for whose job it was asked.
    """

    bike: Bike
    key: str
    of: str
    counts: dict[str, int]
    lock: threading.RLock = field(default_factory=threading.RLock)
    engine: Engine | None = None
    logs: dict[Evidence, NDArray[np.float64]] = field(default_factory=dict)
    done: int = 0
    total: int = 1
    first: threading.Event = field(default_factory=threading.Event)
    finished: threading.Event = field(default_factory=threading.Event)
    failure: str = ""
    asked: float = 0.0
    """When a person last waited for it, on the monotonic clock; 0 where nobody has."""
    warm: bool = False
    """Whether it is prepared although nobody waits."""
    steps: deque[Step] = field(default_factory=deque)
    restored: bool = False
    traces: deque[tuple[Asked, Trace]] = field(default_factory=lambda: deque(maxlen=MOST_TRACES))
    """Beliefs of pages that are open, each with what it was asked for."""

    def trace_of(self, evidence: Sequence[Evidence], terms: Terms) -> Trace:
        """Return the belief from some evidence; a page that is looked at again asks for the same.

        Only what was worked out with the same predictions at hand counts: a test that came since
        may be the better one. The lock is held; raises BrightError for evidence of another bike.
        """
        assert self.engine is not None
        wanted = (tuple(evidence), terms, self.engine.settled)
        for asked, known in self.traces:
            if asked == wanted:
                return known
        made = Trace(self.engine, evidence, self.logs, terms)
        self.traces.append((wanted, made))
        return made

    @property
    def percent(self) -> int:
        """Progress in percent."""
        if self.finished.is_set():
            return 100
        return min(99, 100 * self.done // max(self.total, 1))

    @property
    def left_out(self) -> int:
        """How many states are too much to work out beforehand on this bike."""
        if self.engine:
            return self.engine.left_out
        return 0

    @property
    def is_wanted(self) -> bool:
        """Whether it is being prepared at all."""
        return self.warm or self.asked > 0

    def waited_for(self, now: float) -> bool:
        """Return whether a person waits for it now."""
        return self._asked_within(WAITS_S, now)

    def wanted(self, now: float) -> bool:
        """Return whether it is worth another step: somebody may come back to it, or the server
        warms it."""
        return self.warm or self._asked_within(WANTED_S, now)

    def _asked_within(self, seconds: float, now: float) -> bool:
        return self.asked > 0 and now - self.asked < seconds


_holders: OrderedDict[str, Holder] = OrderedDict()
_guard = threading.Condition()
_listeners: list[Callable[[str], None]] = []
_worker: threading.Thread | None = None
_busy: Holder | None = None
_aside = 0
"""How many others want the processor before the next step."""


def resting(wanted: Description) -> Holder:
    """Return a holder that stands for an engine nobody prepares."""
    return Holder(wanted.bike, wanted.key, wanted.of, {})


NOT_WHOLE = (
    "Pack and controller are not both on the bike yet: connect them first, by the order of work."
)


def unfinished(wanted: Description) -> Holder:
    """Return a holder of a bike that makes no circuit yet; it says so instead of preparing
    anything."""
    made = resting(wanted)
    made.failure = NOT_WHOLE
    made.first.set()
    made.finished.set()
    return made


def known_holder(wanted: Description) -> Holder | None:
    """Return the holder of a description where there is one; nothing is started."""
    with _guard:
        return _holders.get(wanted.key)


def holder_for(wanted: Description, warm: bool = False) -> Holder:
    """Return the engine holder of a description, having it prepared; a person waits for it unless
    `warm`.

    Management commands do not prepare (`PREPARE_PREDICTIONS` is off): the server does.
    """
    with _guard:
        found = _holders.get(wanted.key)
    if found is None:
        # Made outside the lock, as it asks the database; whoever was faster wins, and this one is
        # dropped.
        made = Holder(wanted.bike, wanted.key, wanted.of, confirmed_counts())
        with _guard:
            found = _holders.setdefault(wanted.key, made)
    with _guard:
        if warm:
            found.warm = True
        else:
            found.asked = time.monotonic()
        _holders.move_to_end(wanted.key)
        _make_room()
        if settings.PREPARE_PREDICTIONS:
            _start_worker()
            _guard.notify_all()
    return found


def _make_room() -> None:
    """Give up engines beyond the most: those asked for longest ago, never one that is being waited
    for."""
    now = time.monotonic()
    for key in list(_holders):
        if len(_holders) <= MOST_ENGINES:
            return
        # The one being prepared is never given up: its step would go on, and be lost.
        if now - _holders[key].asked >= LEAST_KEPT_S and _holders[key] is not _busy:
            del _holders[key]


def wait_until_idle() -> None:
    """Return once everything asked for so far is prepared."""
    with _guard:
        while _busy is not None or (_worker is not None and _next(time.monotonic()) is not None):
            _guard.wait(0.05)


def is_busy() -> bool:
    """Return whether the worker is at something that somebody waits for."""
    with _guard:
        return _busy is not None or (_worker is not None and _next(time.monotonic()) is not None)


@contextmanager
def stand_aside() -> Iterator[None]:
    """Take no step while a person waits for something else that takes seconds."""
    global _aside
    with _guard:
        _aside += 1
    try:
        yield
    finally:
        with _guard:
            _aside -= 1
            _guard.notify_all()


def forget_engines() -> None:
    """Drop all engines, so that new priors take effect; predictions stay on disk."""
    with _guard:
        _holders.clear()


def _start_worker() -> None:
    global _worker
    if _worker is None or not _worker.is_alive():
        _worker = threading.Thread(target=_work, name="predictions", daemon=True)
        _worker.start()


def _work() -> None:
    """Take the next step of whatever is most wanted; rest while nothing is."""
    global _busy
    while True:
        with _guard:
            if _aside:
                _busy = None
            else:
                _busy = _next(time.monotonic())
            _guard.notify_all()
            if _busy is None:
                # Whoever asks wakes the worker. The time is for those who leave without a word: who
                # waited then no longer does.
                _guard.wait(WAITS_S)
                continue
            holder = _busy
        advance(holder)
        # The thread outlives every request, so nothing else closes what it opened.
        close_old_connections()


def _next(now: float) -> Holder | None:
    """Return the holder whose next step comes first, None where nothing is wanted."""
    wanted = [
        holder
        for holder in _holders.values()
        if not holder.finished.is_set() and holder.wanted(now)
    ]
    return min(wanted, key=lambda holder: _rank(holder, now), default=None)


def _rank(holder: Holder, now: float) -> tuple[bool, bool, int]:
    """Return how soon a holder's step comes: those waited for, first proposals, the least left to
    do."""
    if holder.engine:
        size = holder.engine.system_size
    else:
        size = len(holder.bike.parts)
    if holder.steps:
        left = sum(step.first for step in holder.steps)
    else:
        left = 1
    # False sorts before true: those waited for, of them those without a first proposal, of them the
    # one that is soonest through.
    return not holder.waited_for(now), holder.first.is_set(), size * left


def advance(holder: Holder) -> None:
    """Take one step of preparing: the engine itself at first, then its predictions piece by
    piece."""
    try:
        # The description was edited on: nobody will ask for this one any more.
        if _superseded(holder):
            _finish(holder)
            return
        if holder.engine is None:
            _begin(holder)
        elif holder.steps:
            with holder.lock:
                step = holder.steps.popleft()
                step.run()
                holder.done += step.weight
        if not any(step.first for step in holder.steps) and not holder.first.is_set():
            holder.first.set()
            _tell(holder.of)
        if not holder.steps:
            if not holder.restored and holder.engine is not None:
                _save(holder.engine, holder.key)
            _finish(holder)
    except Exception as error:
        logger.exception("preparing predictions failed")
        holder.failure = str(error)
        _finish(holder)


def prepare(holder: Holder) -> None:
    """Take all steps of a holder, in this thread."""
    while not holder.finished.is_set():
        advance(holder)


def _begin(holder: Holder) -> None:
    """Make the engine, with the predictions of the disk where there are some."""
    engine = Engine(holder.bike, holder.counts)
    holder.restored = _restore(engine, holder.key)
    holder.steps = deque(engine.work())
    holder.total = sum(step.weight for step in holder.steps)
    holder.engine = engine


def _finish(holder: Holder) -> None:
    if holder.engine is not None:
        with holder.lock:
            holder.engine.rest()
        give_back()
    holder.steps.clear()
    holder.first.set()
    holder.finished.set()
    _tell(holder.of)


def _superseded(holder: Holder) -> bool:
    """Return whether no job stands on this description any more; forget the engine then."""
    if Job.objects.filter(revision__sha256=holder.of).exists():
        return False
    with _guard:
        if _holders.get(holder.key) is holder:
            del _holders[holder.key]
    return True


def _cache_path(key: str) -> Path:
    name = hashlib.sha256(f"{key}|{engine_version()}".encode()).hexdigest()[:32]
    return Path(settings.PREDICTION_CACHE) / f"{name}.npz"


def _restore(engine: Engine, key: str) -> bool:
    path = _cache_path(key)
    if not path.exists():
        return False
    try:
        with np.load(path, allow_pickle=False) as stored:
            engine.restore({name: stored[name] for name in stored.files})
        path.touch()
        return True
    except Exception:
        logger.warning("prediction cache %s is unreadable and is made anew", path.name)
        path.unlink(missing_ok=True)
        return False


def _save(engine: Engine, key: str) -> None:
    path = _cache_path(key)
    path.parent.mkdir(parents=True, exist_ok=True)
    scratch = path.with_suffix(".part.npz")
    np.savez(scratch, **engine.table.dump())  # type: ignore[arg-type]
    # Written beside and moved: a server that is killed while it writes leaves no half a file
    # behind.
    scratch.replace(path)
    files = sorted(path.parent.glob("*.npz"), key=lambda p: p.stat().st_mtime)
    for old in files[: -settings.PREDICTION_CACHE_FILES]:
        old.unlink(missing_ok=True)


def subscribe(listener: Callable[[str], None]) -> None:
    """Let something be told, by the key of a description, when its engine has come further."""
    if listener not in _listeners:
        _listeners.append(listener)


def _tell(key: str) -> None:
    for listener in _listeners:
        try:
            listener(key)
        except Exception:
            logger.exception("telling of a prepared engine failed")
