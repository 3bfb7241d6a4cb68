"""What every answer gets: a page of the shop where Django leaves it bare, marks for what cannot be
seen."""

import re
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed
from django.shortcuts import render

Answer = Callable[[HttpRequest], HttpResponse]


def dressed(answer: Answer) -> Answer:
    """Middleware: a method that is not served gets a page, and still says which are."""

    def with_page(request: HttpRequest) -> HttpResponse:
        found = answer(request)
        if not isinstance(found, HttpResponseNotAllowed):
            return found
        page = render(request, "405.html", status=405)
        page["Allow"] = found["Allow"]
        return page

    return with_page


UNSEEN = re.compile(
    "[\u00ad\u061c\u180e\u200b\u200e\u200f\u202a-\u202e\u2060-\u2069\ufeff\ufff9-\ufffb\U000e0000-\U000e007f]"
)
"""Characters that turn the direction of a text round, or take no room: a text that holds one is not
what it looks like. Those that join letters of a script (U+200C, U+200D) are part of good words."""

SHOWN_AS = ("text/html", "image/svg+xml")


def unkept(answer: Answer) -> Answer:
    """Middleware: no browser of a shared tablet keeps a page for whoever comes next."""

    def without_store(request: HttpRequest) -> HttpResponse:
        found = answer(request)
        found.setdefault("Cache-Control", "no-store")
        return found

    return without_store


def marked(answer: Answer) -> Answer:
    """Middleware: characters that cannot be seen are shown by their number on pages and
    drawings."""

    def with_marks(request: HttpRequest) -> HttpResponse:
        found = answer(request)
        kind = found.get("Content-Type", "").partition(";")[0]
        if kind in SHOWN_AS and not found.streaming:
            text = found.content.decode(found.charset)
            shown = with_unseen_shown(text)
            if shown != text:
                found.content = shown
        return found

    return with_marks


def with_unseen_shown(text: str) -> str:
    """Return a text with every character that cannot be seen named.

    >>> with_unseen_shown("Fern\\u202egnp"), with_unseen_shown("x\\u200cy") == "x\\u200cy"
    ('Fern[U+202E]gnp', True)
    """
    if text.isascii():
        return text
    return UNSEEN.sub(lambda match: f"[U+{ord(match[0]):04X}]", text)
