"""The wiring sheet as PDF, drawn on the server with the fonts that ship; the same sheet gives the
same file.

Laying out the letters of drawings takes nearly all the time. The plug cards are laid out beside the
rest of the sheet, each in a process of its own, and then laid onto the empty pages the sheet leaves
for them.
"""

import io
from collections.abc import Sequence
from functools import lru_cache

from django.template.loader import render_to_string
from pikepdf import Name, Pdf

from brightcircuit.common.shown import Context
from brightcircuit.engines import paper
from brightcircuit.engines.paper import picture

MOST_KEPT = 8
"""Files kept in memory: the same page asked for again is there at once."""


def sheet_as_pdf(context: Context, drawing: str, cards: Sequence[str]) -> bytes:
    """Return the sheet as PDF: the drawing (SVG), a page of cards for each of `cards` (SVG), then
    the lists.

    Raises ValidationError where the drawing libraries are not installed.
    """
    sheet = {**context, "whole": picture(drawing), "card_pages": range(len(cards))}
    return _made(render_to_string("wire/sheet_print.html", sheet), _cards(cards))


def _cards(cards: Sequence[str]) -> str:
    return render_to_string("wire/cards_print.html", {"pages": [picture(card) for card in cards]})


@lru_cache(maxsize=MOST_KEPT)
def _made(sheet: str, cards: str) -> bytes:
    return _laid_onto(*paper.laid_out([sheet, cards]))


def make_ready() -> None:
    """Start the processes without waiting for them: a page that offers a PDF is being looked at."""
    paper.make_ready(_cards(['<svg xmlns="http://www.w3.org/2000/svg"><text y="9">A</text></svg>']))


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
