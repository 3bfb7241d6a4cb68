"""Diagnosis engines in memory, prepared in the background and cached on disk.

One worker prepares one engine at a time. Pages use what is ready and ask again. The disk
cache holds predictions only and may be deleted at any time.
"""

import hashlib
import logging
import threading
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from django.conf import settings
from django.db import close_old_connections
from numpy.typing import NDArray

from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.repairs import confirmed_counts
from brightcore.bike.model import Bike
from brightcore.formats.engine_version import engine_version
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence

logger = logging.getLogger(__name__)
MOST_ENGINES = 4
FIRST_STEPS = 8
"""Steps after which the first proposal can be made (see `Engine.work`)."""


@dataclass
class Holder:
    """An engine in preparation. `lock` guards the engine; the worker holds it one step at a time."""

    bike: Bike
    key: str
    counts: dict[str, int]
    lock: threading.RLock = field(default_factory=threading.RLock)
    engine: Engine | None = None
    logs: dict[Evidence, NDArray[np.float64]] = field(default_factory=dict)
    done: int = 0
    total: int = 1
    first: threading.Event = field(default_factory=threading.Event)
    finished: threading.Event = field(default_factory=threading.Event)
    failure: str = ""
    wanted: threading.Event = field(default_factory=threading.Event)
    """Set once somebody waits for it; until then its preparation lets changes of the wiring settle first."""

    @property
    def percent(self) -> int:
        """Progress in percent."""
        return 100 if self.finished.is_set() else min(99, 100 * self.done // max(self.total, 1))


_holders: OrderedDict[str, Holder] = OrderedDict()
_guard = threading.Lock()
_listeners: list[Callable[[str], None]] = []
_worker = ThreadPoolExecutor(max_workers=1, thread_name_prefix="predictions")


def holder_for(revision: Revision) -> Holder:
    """Return the engine holder of a revision, starting its preparation where it is new.

    Management commands do not prepare (`PREPARE_PREDICTIONS` is off): the server does.
    """
    with _guard:
        found = _holders.get(revision.sha256)
        if found:
            _holders.move_to_end(revision.sha256)
            return found
    holder = Holder(core_bike(revision), revision.sha256, confirmed_counts())
    with _guard:
        found = _holders.setdefault(revision.sha256, holder)
        while len(_holders) > MOST_ENGINES:
            _holders.popitem(last=False)
    if found is holder and settings.PREPARE_PREDICTIONS:
        _worker.submit(_prepare, holder)
    return found


def wait_until_idle() -> None:
    """Return once everything asked for so far is prepared."""
    _worker.submit(lambda: None).result()


def forget_engines() -> None:
    """Drop all engines, so that new priors take effect; predictions stay on disk."""
    with _guard:
        _holders.clear()


def _cache_path(key: str) -> Path:
    name = hashlib.sha256(f"{key}|{engine_version()}".encode()).hexdigest()[:32]
    return Path(settings.PREDICTION_CACHE) / f"{name}.npz"


def _superseded(holder: Holder) -> bool:
    """Return whether no job stands on this description any more; forget the engine then."""
    if Job.objects.filter(revision__sha256=holder.key).exists():
        return False
    with _guard:
        if _holders.get(holder.key) is holder:
            del _holders[holder.key]
    return True


def _prepare(holder: Holder) -> None:
    try:
        if _superseded(holder) or (not holder.wanted.wait(settings.PREPARE_QUIET_S) and _superseded(holder)):
            return
        engine = Engine(holder.bike, holder.counts)
        restored = _restore(engine, holder.key)
        steps = list(engine.work())
        holder.total = sum(weight for weight, _ in steps)
        holder.engine = engine
        for k, (weight, step) in enumerate(steps):
            if _superseded(holder):
                return
            with holder.lock:
                step()
                holder.done += weight
            if k + 1 == FIRST_STEPS:
                holder.first.set()
                _tell(holder.key)
        if not restored:
            _save(engine, holder.key)
    except Exception as error:
        logger.exception("preparing predictions failed")
        holder.failure = str(error)
    finally:
        holder.first.set()
        holder.finished.set()
        _tell(holder.key)
        close_old_connections()


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
