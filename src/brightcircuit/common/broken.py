"""What is answered when something broke: plainly, and with everything that was typed."""

import errno
import sqlite3
import sys
from collections.abc import Iterator

from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from django.template.loader import render_to_string

from brightcircuit.common.sent import sent_with

FULL_WORDS = ("disk is full", "disk i/o error", "readonly database", "unable to open database")
FULL_NUMBERS = (errno.ENOSPC, errno.EROFS, errno.EDQUOT, errno.EFBIG)
INSUFFICIENT_STORAGE = 507


def cannot_write(error: BaseException | None) -> bool:
    """Return whether an error says that the disk is full or takes nothing.

    >>> cannot_write(sqlite3.OperationalError("database or disk is full"))
    True
    >>> cannot_write(OSError(errno.ENOSPC, "No space left on device"))
    True
    >>> cannot_write(ValueError("full")), cannot_write(OSError(2, "No file"))
    (False, False)
    """
    for one in _chain(error):
        if isinstance(one, OSError) and one.errno in FULL_NUMBERS:
            return True
        if isinstance(one, sqlite3.OperationalError) and any(
            word in str(one).lower() for word in FULL_WORDS
        ):
            return True
    return False


def _chain(error: BaseException | None) -> Iterator[BaseException]:
    """Yield an error and what caused it."""
    while error is not None:
        yield error
        error = error.__cause__ or error.__context__


def other_token(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Return the page of a form whose mark is not this sign-in's: nothing was done, and it can be
    sent again."""
    context = {
        "stale": True,
        "sent": sent_with(request),
        "path": request.path,
        "version": request.POST.get("version", ""),
        "token": get_token(request),
    }
    page = HttpResponse(render_to_string("500.html", context), status=403)
    page["X-Token"] = "stale"
    return page


def broken(request: HttpRequest) -> HttpResponse:
    """Return the page of an error; it reads nothing from the database."""
    full = cannot_write(sys.exc_info()[1])
    sent = sent_with(request)
    context = {
        "full": full,
        "sent": sent,
        "path": request.path,
        "version": request.POST.get("version", "") if sent.again else "",
        "token": get_token(request),
    }
    status = INSUFFICIENT_STORAGE if full else 500
    return HttpResponse(render_to_string("500.html", context), status=status)
