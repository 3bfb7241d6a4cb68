"""Serving: who holds the data folder, and which proxy is believed."""

import fcntl
import os
import socket
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings
from django.core.management.base import CommandError

LOCK = "serving.lock"


@contextmanager
def holding(what: str) -> Iterator[None]:
    """Hold the data folder while something is done with it; raises CommandError where a server has
    it."""
    path = Path(settings.DATA) / LOCK
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    handle = os.open(path, os.O_RDWR | os.O_CREAT, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        os.close(handle)
        raise CommandError(
            f"A server is running on {settings.DATA}. Stop it first, then {what}."
        ) from None
    try:
        yield
    finally:
        os.close(handle)


def free_port(host: str, wanted: int) -> int:
    """Return a port that nothing listens on: the wanted one, else one that the system gives."""
    for port in (wanted, 0):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((host, port))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    return wanted


FORWARDED = {"x-forwarded-for", "x-forwarded-proto", "x-forwarded-host"}


def proxy_options(proxy: str) -> dict[str, object]:
    """Return the server's options for a proxy by its address, "" for none.

    Scheme and client address come from that proxy alone; the same headers from anybody else are
    thrown away.
    """
    if not proxy:
        return {"clear_untrusted_proxy_headers": True}
    return {
        "trusted_proxy": proxy,
        "trusted_proxy_count": 1,
        "trusted_proxy_headers": FORWARDED,
        "clear_untrusted_proxy_headers": True,
    }
