"""A document laid out as PDF, from HTML and from nothing else; runs in a process of its own."""

import os
import threading
from multiprocessing import connection, parent_process
from pathlib import Path
from typing import Any

STATIC = Path(__file__).parent.parent / "static"

PICTURES = ("data:image/svg+xml;", "data:image/jpeg;")
"""Pictures that are part of a page."""

EPOCH = "1767225600"
"""Time written into every file, so that the same content gives the same bytes."""


def lay_out(text: str) -> bytes:
    """Return HTML as PDF, with the fonts and pictures that ship. Raises OSError without the
    libraries."""
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher

    class Ours(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: dict[str, str] | None = None) -> Any:
            if not url.startswith((STATIC.as_uri() + "/", *PICTURES)):
                raise ValueError(f"{url} is not part of the application")
            return super().fetch(url, headers)

    os.environ.setdefault("SOURCE_DATE_EPOCH", EPOCH)
    page = HTML(
        string=text,
        base_url=STATIC.as_uri() + "/",
        url_fetcher=Ours(allowed_protocols=["file", "data"]),
    )
    return bytes(page.write_pdf(pdf_identifier=b"page"))


def end_with_parent() -> None:
    """Have this process end when the server does, however that ends."""
    parent = parent_process()
    if parent is not None:
        threading.Thread(target=_wait_for, args=(parent.sentinel,), daemon=True).start()


def _wait_for(sentinel: int) -> None:
    connection.wait([sentinel])
    os._exit(0)
