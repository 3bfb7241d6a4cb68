"""Walking every page: links are followed until each kind of page was seen, and each is measured."""

from collections.abc import Iterator
from pathlib import Path
from urllib.parse import urlsplit

from axe_playwright_python.sync_playwright import Axe
from django.urls import Resolver404, resolve
from playwright.sync_api import Page

WIDTHS = (320, 390, 700, 820, 1024, 1280, 1600)

LEAST_TEXT, LEAST_DRAWN, LEAST_TARGET = 14, 13, 44
"""Pixels: text of pages, text of drawings at the standard zoom, height of what is pressed."""

FILES = (".csv", ".json", ".svg", ".cir", ".yaml", ".zip", ".pdf")

NO_PAGE = (
    "logout",
    "photo",
    "wire-pdf",
    "record-pdf",
    "record-rider-pdf",
    "archive",
    "practice-progress-of",
    "trace-progress",
    "wire-plug",
)
"""Addresses that answer with something other than a page."""

MEASURE = (Path(__file__).parent / "measure.js").read_text().rstrip("\n;")


def discover(page: Page, most: int = 400) -> Iterator[tuple[str, str]]:
    """Yield (name of the view, address) of one page of every view that links lead to from where a
    page is."""
    host = urlsplit(page.url).netloc
    waiting, known = [urlsplit(page.url).path], set()
    while waiting and most:
        path = waiting.pop(0)
        try:
            match = resolve(urlsplit(path).path)
        except Resolver404:
            continue
        name = match.url_name or ""
        if name in known or name in NO_PAGE:
            continue
        known.add(name)
        most -= 1
        answer = page.goto(path)
        if answer is None or "text/html" not in answer.headers.get("content-type", ""):
            continue
        yield name, path
        links = page.eval_on_selector_all(
            "a[href]:not([download])",
            "all => all.filter((a) => !a.ownerSVGElement).map((a) => a.href)",
        )
        for link in links:
            parts = urlsplit(link)
            if parts.netloc == host and not parts.path.endswith(FILES):
                waiting.append(f"{parts.path}?{parts.query}" if parts.query else parts.path)


def measure(page: Page) -> list[str]:
    """Return what is wrong with the size of a page, its text and what is pressed, with all details
    open."""
    page.evaluate("document.querySelectorAll('#main details').forEach((d) => (d.open = true))")
    found: list[str] = page.evaluate(MEASURE, [LEAST_TEXT, LEAST_DRAWN, LEAST_TARGET])
    return found


def accessible(page: Page) -> list[str]:
    """Return what the accessibility checker finds on a page."""
    found = Axe().run(page)
    return [found.generate_report()[:600]] if found.violations_count else []
