"""Pages as PDF, drawn on the server with the fonts that ship; the same page gives the same file."""

import os
from pathlib import Path
from typing import Any

from django.core.exceptions import ValidationError
from django.template.loader import render_to_string

STATIC = Path(__file__).parent.parent / "static"
EPOCH = "1767225600"
"""Time written into every file, so that the same content gives the same bytes."""


def pdf_of(template: str, context: dict[str, Any], identifier: str) -> bytes:
    """Return a template as PDF. Raises ValidationError where the drawing libraries are not installed."""
    try:
        from weasyprint import HTML
        from weasyprint.urls import URLFetcher
    except OSError:
        raise ValidationError(
            "PDF needs the Debian packages libpango-1.0-0 and libpangoft2-1.0-0 on the server."
        ) from None

    class Ours(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: dict[str, str] | None = None) -> Any:
            if not url.startswith(STATIC.as_uri() + "/"):
                raise ValueError(f"{url} is not part of the application")
            return super().fetch(url, headers)

    os.environ.setdefault("SOURCE_DATE_EPOCH", EPOCH)
    page = HTML(
        string=render_to_string(template, context),
        base_url=STATIC.as_uri() + "/",
        url_fetcher=Ours(allowed_protocols=["file"]),
    )
    return bytes(page.write_pdf(pdf_identifier=identifier.encode()))
