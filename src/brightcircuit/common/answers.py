"""What every answer gets on its way out: a page of the shop where Django leaves it bare, the words
of who reads it, marks for what cannot be seen, and that no browser keeps it."""

import re
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed
from django.shortcuts import render

from brightcircuit.common.looking import looking
from brightcircuit.common.pages import with_words_for
from brightcircuit.shop.models import Person
from brightcore.reader import Reader

Answer = Callable[[HttpRequest], HttpResponse]


UNSEEN = re.compile(
    "[\u00ad\u061c\u180e\u200b\u200e\u200f\u202a-\u202e\u2060-\u2069\ufeff\ufff9-\ufffb\U000e0000-\U000e007f]"
)
"""Characters that turn the direction of a text round, or take no room: a text that holds one is not
what it looks like. Those that join letters of a script (U+200C, U+200D) are part of good words."""

SHOWN_AS = ("text/html", "image/svg+xml")


def _text_of(found: HttpResponse, kinds: tuple[str, ...]) -> str | None:
    """Return the text of an answer of some kinds, None where it is of another, or is streamed."""
    kind = found.get("Content-Type", "").partition(";")[0]
    if kind not in kinds or found.streaming:
        return None
    return found.content.decode(found.charset)


def _dressed(request: HttpRequest, found: HttpResponse) -> HttpResponse:
    """A method that is not served gets a page, and still says which are."""
    if not isinstance(found, HttpResponseNotAllowed):
        return found
    page = render(request, "405.html", status=405)
    page["Allow"] = found["Allow"]
    return page


def _worded(request: HttpRequest, found: HttpResponse) -> HttpResponse:
    """Quantities on pages are in the units of who reads them; what was typed stays as typed."""
    person = getattr(request, "user", None)
    if not isinstance(person, Person):
        return found
    reader = Reader(person.units, person.decimal)
    text = None if reader.is_plain else _text_of(found, SHOWN_AS[:1])
    if text is not None:
        found.content = with_words_for(reader, text)
    return found


def _marked(request: HttpRequest, found: HttpResponse) -> HttpResponse:
    """Characters that cannot be seen are shown by their number on pages and drawings."""
    text = _text_of(found, SHOWN_AS)
    if text is not None:
        shown = with_unseen_shown(text)
        if shown != text:
            found.content = shown
    return found


def _unkept(request: HttpRequest, found: HttpResponse) -> HttpResponse:
    """No browser of a shared tablet keeps a page for whoever comes next."""
    found.setdefault("Cache-Control", "no-store")
    return found


LEAVING: tuple[Callable[[HttpRequest, HttpResponse], HttpResponse], ...] = (
    _dressed,
    _worded,
    _marked,
    _unkept,
)
"""What is done to an answer, in this order: what is dressed anew is worded and marked as well."""


def leaving(answer: Answer) -> Answer:
    """Middleware: do everything of `LEAVING` to an answer."""

    def after(request: HttpRequest) -> HttpResponse:
        with looking(request):
            found = answer(request)
        for step in LEAVING:
            found = step(request, found)
        return found

    return after


def with_unseen_shown(text: str) -> str:
    """Return a text with every character that cannot be seen named.

    >>> with_unseen_shown("Fern\\u202egnp"), with_unseen_shown("x\\u200cy") == "x\\u200cy"
    ('Fern[U+202E]gnp', True)
    """
    if text.isascii():
        return text
    return UNSEEN.sub(lambda match: f"[U+{ord(match[0]):04X}]", text)
