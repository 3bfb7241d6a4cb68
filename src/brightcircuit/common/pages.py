"""Pages in the words of who reads them: only what is shown is changed, never what was typed."""

import re

from brightcore.reader import Reader, in_words_of

_AS_IS = re.compile(
    r"(<(?:script|style|textarea|code|svg)\b.*?</(?:script|style|textarea|code|svg)>"
    r"|<(\w+)[^>]*\sdata-typed[^>]*>.*?</\2>"
    r"|<[^>]*>)",
    re.DOTALL | re.IGNORECASE,
)
"""What stays as it is: tags with their attributes, scripts, drawings, and elements marked as
typed."""


def with_words_for(reader: Reader, page: str) -> str:
    """Return a page with the quantities of its text as a reader wants them.

    >>> with_words_for(Reader("imperial"), '<p title="25 km/h">25 km/h<b data-typed>25
    km/h</b></p>')
    '<p title="25 km/h">15.5 mph<b data-typed>25 km/h</b></p>'
    """
    found: list[str] = []
    at = 0
    for match in _AS_IS.finditer(page):
        found += (in_words_of(reader, page[at : match.start()]), match[0])
        at = match.end()
    return "".join((*found, in_words_of(reader, page[at:])))
