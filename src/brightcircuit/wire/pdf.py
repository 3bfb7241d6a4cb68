"""Pages as PDF, drawn on the server with the fonts that ship; the same page gives the same file."""

import os
from base64 import b64encode
from functools import lru_cache
from pathlib import Path
from typing import Any

from django.core.exceptions import ValidationError
from django.template.loader import render_to_string

STATIC = Path(__file__).parent.parent / "static"
EPOCH = "1767225600"
"""Time written into every file, so that the same content gives the same bytes."""


MOST_KEPT = 8
"""Files kept in memory: the same page asked for again is there at once."""


def picture(svg: str) -> str:
    """Return the address of a drawing that is part of the page itself.

    As a picture, its elements take no part in the layout of the page.
    """
    return f"data:image/svg+xml;base64,{b64encode(svg.encode()).decode()}"


def pdf_of(template: str, context: dict[str, Any], identifier: str) -> bytes:
    """Return a template as PDF. Raises ValidationError where the drawing libraries are not installed."""
    return _made(render_to_string(template, context), identifier)


@lru_cache(maxsize=MOST_KEPT)
def _made(text: str, identifier: str) -> bytes:
    try:
        from weasyprint import HTML
        from weasyprint.urls import URLFetcher
    except OSError:
        raise ValidationError(
            "PDF needs the Debian packages libpango-1.0-0 and libpangoft2-1.0-0 on the server."
        ) from None

    class Ours(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: dict[str, str] | None = None) -> Any:
            if not url.startswith((STATIC.as_uri() + "/", "data:image/svg+xml;")):
                raise ValueError(f"{url} is not part of the application")
            return super().fetch(url, headers)

    os.environ.setdefault("SOURCE_DATE_EPOCH", EPOCH)
    page = HTML(
        string=text,
        base_url=STATIC.as_uri() + "/",
        url_fetcher=Ours(allowed_protocols=["file", "data"]),
    )
    return bytes(page.write_pdf(pdf_identifier=identifier.encode()))
