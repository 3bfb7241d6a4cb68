"""Who holds the data folder: a server that runs, so that nothing is put in place beneath it."""

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings
from django.core.management.base import CommandError

LOCK = "serving.lock"


@contextmanager
def holding(what: str) -> Iterator[None]:
    """Hold the data folder while something is done with it; raises CommandError where a server has it."""
    path = Path(settings.DATA) / LOCK
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    handle = os.open(path, os.O_RDWR | os.O_CREAT, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        os.close(handle)
        raise CommandError(f"A server is running on {settings.DATA}. Stop it first, then {what}.") from None
    try:
        yield
    finally:
        os.close(handle)
