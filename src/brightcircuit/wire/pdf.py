"""The wiring sheet as PDF, drawn on the server with the fonts that ship; the same sheet gives the same file.

Laying out the letters of drawings takes nearly all the time. The plug cards are laid out beside the rest of
the sheet, each in a process of its own, and then laid onto the empty pages the sheet leaves for them.
"""

import io
from base64 import b64encode
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from functools import cache, lru_cache
from multiprocessing import current_process, get_context
from typing import Any

from django.core.exceptions import ValidationError
from django.template.loader import render_to_string
from pikepdf import Name, Pdf

from brightcircuit.engines.holders import stand_aside
from brightcircuit.wire.lay_out import end_with_parent, lay_out

MOST_KEPT = 8
"""Files kept in memory: the same page asked for again is there at once."""

PROCESSES = 2
"""One for the sheet, one for its cards."""


def picture(svg: str) -> str:
    """Return the address of a drawing that is part of the page itself.

    As a picture, its elements take no part in the layout of the page.
    """
    return f"data:image/svg+xml;base64,{b64encode(svg.encode()).decode()}"


def sheet_as_pdf(context: dict[str, Any], drawing: str, cards: Sequence[str]) -> bytes:
    """Return the sheet as PDF: the drawing (SVG), a page of cards for each of `cards` (SVG), then the lists.

    Raises ValidationError where the drawing libraries are not installed.
    """
    sheet = {**context, "whole": picture(drawing), "card_pages": range(len(cards))}
    return _made(render_to_string("wire/sheet_print.html", sheet), _cards(cards))


def _cards(cards: Sequence[str]) -> str:
    return render_to_string("wire/cards_print.html", {"pages": [picture(card) for card in cards]})


@lru_cache(maxsize=MOST_KEPT)
def _made(sheet: str, cards: str) -> bytes:
    try:
        with stand_aside():
            return _laid_onto(*_laid_out([sheet, cards]))
    except OSError:
        raise ValidationError(
            "PDF needs the Debian packages libpango-1.0-0 and libpangoft2-1.0-0 on the server."
        ) from None


def make_ready() -> None:
    """Start the processes without waiting for them: a page that offers a PDF is being looked at."""
    if not current_process().daemon:
        page = _cards(['<svg xmlns="http://www.w3.org/2000/svg"><text y="9">A</text></svg>'])
        for _ in range(PROCESSES):
            _processes().submit(lay_out, page)


def _laid_out(documents: list[str]) -> list[bytes]:
    """Return each document as PDF. A process that may have no children lays them out itself."""
    if current_process().daemon:
        return [lay_out(document) for document in documents]
    try:
        return list(_processes().map(lay_out, documents))
    except BrokenProcessPool:
        _processes.cache_clear()
        return list(_processes().map(lay_out, documents))


@cache
def _processes() -> ProcessPoolExecutor:
    return ProcessPoolExecutor(PROCESSES, get_context("spawn"), end_with_parent)


def _laid_onto(sheet: bytes, cards: bytes) -> bytes:
    """Return the sheet with the pages of cards on its second page and those that follow."""
    made = io.BytesIO()
    with Pdf.open(io.BytesIO(sheet)) as whole, Pdf.open(io.BytesIO(cards)) as drawn:
        for k, card in enumerate(drawn.pages):
            name = Name(f"/Cards{k}")
            page = whole.pages[k + 1]
            page.add_resource(whole.copy_foreign(card.as_form_xobject()), Name.XObject, name=name)
            page.contents_add(f"q {name} Do Q".encode(), prepend=True)
        whole.save(made, deterministic_id=True)
    return made.getvalue()
