"""Who holds which line: one job and person at a time, until let go or idle.

Lines live in this process alone (the server is one process); what a run has found is in the
database.
"""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from brightcircuit.link.transport import Address, ModbusPort
from brightcore.linking.port import LinkError

IDLE_S = 90.0
"""A line that nobody has used for so long may be taken by others."""

WAITS_S = 2.5
"""How long a page waits for another one on the same line."""


class LineBusyError(LinkError):
    """Somebody else holds the line."""


@dataclass
class Held:
    """A line that is held: by which job and whom, and its ports by unit."""

    job: int
    name: str
    used: float
    lock: threading.Lock = field(default_factory=threading.Lock)
    ports: dict[Address, ModbusPort] = field(default_factory=dict)

    def close(self) -> None:
        """Close every port."""
        for port in self.ports.values():
            port.close()


_held: dict[str, Held] = {}
_guard = threading.Lock()


def take(address: Address, job: int, name: str) -> None:
    """Hold a line for a job under somebody's name; raises LineBusyError where another one uses
    it."""
    if not name:
        raise LinkError("a line is held under a name")
    now = time.monotonic()
    with _guard:
        found = _held.get(address.held_as)
        if found is not None and found.job != job and now - found.used < IDLE_S:
            raise LineBusyError(f"{address.line} is held by {found.name} for another job")
        if found is None or found.job != job:
            if found is not None:
                found.close()
            _held[address.held_as] = Held(job, name, now)
        else:
            found.name, found.used = name, now


def let_go(address: Address, job: int) -> None:
    """Let a line go; nothing where the job does not hold it."""
    with _guard:
        found = _held.get(address.held_as)
        if found is None or found.job != job:
            return
        del _held[address.held_as]
    with found.lock:
        found.close()


def let_all_go() -> None:
    """Close every line."""
    with _guard:
        for found in _held.values():
            found.close()
        _held.clear()


def holder(address: Address) -> Held | None:
    """Return who holds a line now, None where nobody does."""
    found = _held.get(address.held_as)
    if found is not None and time.monotonic() - found.used < IDLE_S:
        return found
    return None


@contextmanager
def port_of(address: Address, job: int, name: str) -> Iterator[ModbusPort]:
    """Use a line, one request at a time; raises LineBusyError."""
    take(address, job, name)
    found = _held.get(address.held_as)
    if found is None or not found.lock.acquire(timeout=WAITS_S):
        raise LineBusyError(f"{address.line} is busy with another page of this job; try again")
    try:
        if any(other.line != address.line for other in found.ports):
            # The same wire at another speed: one of the two at a time.
            found.close()
            found.ports.clear()
        port = found.ports.setdefault(address, ModbusPort(address))
        yield port
        found.used = time.monotonic()
    finally:
        found.lock.release()
