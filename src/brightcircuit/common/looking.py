"""What one look at a page asks more than once is found out once.

Only while a page is shown that changes nothing: a service that is about to change something asks
anew every time, as somebody else may have been quicker.
"""

from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import TypeVar, cast

from django.http import HttpRequest

T = TypeVar("T")
_seen: ContextVar[dict[Hashable, object] | None] = ContextVar("seen", default=None)

ONLY_LOOK = ("GET", "HEAD")


def once_a_look(key: Hashable, ask: Callable[[], T]) -> T:
    """Return what `ask` says; while a page is only looked at, what it said first."""
    seen = _seen.get()
    if seen is None:
        return ask()
    if key not in seen:
        seen[key] = ask()
    return cast("T", seen[key])


@contextmanager
def looking(request: HttpRequest) -> Iterator[None]:
    """Ask everything once while a request is answered that only looks."""
    token = _seen.set({} if request.method in ONLY_LOOK else None)
    try:
        yield
    finally:
        _seen.reset(token)
