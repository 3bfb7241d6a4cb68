"""Documents laid out as PDF, in a process of their own.

The letters of drawings take long, and the server goes on meanwhile.
"""

from base64 import b64encode
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from functools import cache
from multiprocessing import current_process, get_context

from django.core.exceptions import ValidationError

from brightcircuit.engines.holders import stand_aside
from brightcircuit.engines.lay_out import end_with_parent, lay_out

PROCESSES = 1
"""Each holds 60 MB with its fonts; documents wait for one another, a second or two at most."""

_warmed: set[str] = set()
"""Pages that the processes that run now have been made ready with."""

EMPTY = "<!DOCTYPE html><title>A</title><p>A</p>"


def picture(content: str | bytes, kind: str = "svg+xml") -> str:
    """Return the address of a picture that is part of the page itself: SVG text, or the bytes of a
    JPEG.

    As a picture, its elements take no part in the layout of the page.
    """
    if isinstance(content, str):
        raw = content.encode()
    else:
        raw = content
    return f"data:image/{kind};base64,{b64encode(raw).decode()}"


def make_ready(page: str = EMPTY) -> None:
    """Start the process without waiting for them: a page that offers a PDF is being looked at.

    Laying out the first page loads the libraries and fonts, which takes seconds; the one who asks
    for the PDF does not wait for that.
    """
    if current_process().daemon or page in _warmed:
        return
    _warmed.add(page)
    for _ in range(PROCESSES):
        _processes().submit(lay_out, page)


def laid_out(documents: list[str]) -> list[bytes]:
    """Return each HTML document as PDF. A process that may have no children lays them out itself.

    Raises ValidationError where the drawing libraries are not installed.
    """
    try:
        with stand_aside():
            return _laid_out(documents)
    except OSError as error:
        raise ValidationError(
            "PDF needs the Debian packages libpango-1.0-0 and libpangoft2-1.0-0 on the server."
        ) from error


def _laid_out(documents: list[str]) -> list[bytes]:
    if current_process().daemon:
        return [lay_out(document) for document in documents]
    try:
        return list(_processes().map(lay_out, documents))
    except BrokenProcessPool:
        _processes.cache_clear()
        _warmed.clear()
        return list(_processes().map(lay_out, documents))


@cache
def _processes() -> ProcessPoolExecutor:
    return ProcessPoolExecutor(PROCESSES, get_context("spawn"), end_with_parent)
