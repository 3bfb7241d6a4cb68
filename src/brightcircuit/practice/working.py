"""Working debriefs out: beside the pages, after all that technicians wait for."""

import logging
import threading
import time
from collections.abc import Callable
from functools import lru_cache

from django.conf import settings
from django.db import close_old_connections
from django.utils import timezone

from brightcircuit.engines.holders import is_busy
from brightcircuit.practice.models import Round
from brightcircuit.practice.translate import acts_of, case_of, debrief_document, state_of
from brightcore.bike.model import Bike
from brightcore.practice.acts import Play
from brightcore.practice.score import debrief
from brightcore.tracing.engine import Engine

logger = logging.getLogger(__name__)
WAIT_S = 0.1
_working: dict[int, int] = {}
"""Rounds being worked out: id → percent."""

_one = threading.Lock()


@lru_cache(maxsize=2)
def _engine(bike: Bike) -> Engine:
    """Return an engine of practice's own; those of jobs are left alone."""
    return Engine(bike)


def progress_of(row: Round) -> int:
    """Return how far the debrief of a round is, in percent; it is begun where nobody has."""
    if row.debrief:
        return 100
    if not settings.PREPARE_PREDICTIONS:
        work_out(row)
        return 100
    if row.pk not in _working:
        _working[row.pk] = 0
        threading.Thread(target=_run, args=(row.pk,), name="debrief", daemon=True).start()
    return min(_working.get(row.pk, 99), 99)


def _run(pk: int) -> None:
    try:
        work_out(Round.objects.get(pk=pk), lambda percent: _working.__setitem__(pk, percent))
    except Exception:
        logger.exception("a debrief failed")
    finally:
        _working.pop(pk, None)
        close_old_connections()


def work_out(row: Round, say: Callable[[int], None] = lambda percent: None) -> None:
    """Work a debrief out and store it. Each step waits while a technician's job wants the
    processor."""
    case = case_of(row)
    with _one:
        engine = _engine(case.bike)
        if not engine.ready:
            steps = list(engine.work())
            total, done = sum(one.weight for one in steps), 0
            for one in steps:
                while is_busy():
                    time.sleep(WAIT_S)
                one.run()
                done += one.weight
                say(90 * done // total)
        found = debrief(Play(case, engine), state_of(row), acts_of(row))
    Round.objects.filter(pk=row.pk).update(
        debrief=debrief_document(found), ended=row.ended or timezone.now()
    )
    row.refresh_from_db()
