"""WSGI entry point."""

import os
from collections.abc import Callable, Iterable
from typing import Any
from wsgiref.types import StartResponse, WSGIEnvironment

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "brightcircuit.settings")

Application = Callable[[WSGIEnvironment, StartResponse], Iterable[bytes]]


def without_body(app: Application) -> Application:
    """Return an application that answers HEAD with the head alone.

    A body after it would be taken for the next answer on a connection that is kept (RFC 9110,
    9.3.2).
    """

    def answer(environ: WSGIEnvironment, start: StartResponse) -> Iterable[bytes]:
        body: Any = app(environ, start)
        if environ.get("REQUEST_METHOD") != "HEAD":
            return body  # type: ignore[no-any-return]
        close = getattr(body, "close", None)
        if close is not None:
            close()
        return []

    return answer


application = without_body(get_wsgi_application())
