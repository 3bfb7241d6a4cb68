"""Walking every page: links are followed until each kind of page was seen, and each is measured."""

from collections.abc import Iterator
from urllib.parse import urlsplit

from axe_playwright_python.sync_playwright import Axe
from django.urls import Resolver404, resolve
from playwright.sync_api import Page

WIDTHS = (320, 390, 700, 820, 1024, 1280, 1600)

LEAST_TEXT, LEAST_DRAWN, LEAST_TARGET = 14, 13, 44
"""Pixels: text of pages, text of drawings at the standard zoom, height of what is pressed."""

NO_PAGE = ("logout", "photo", "wire-pdf", "trace-progress", "wire-plug")
"""Addresses that answer with something other than a page."""

MEASURE = """
([least, drawn, target]) => {
  const told = [];
  const wide = document.documentElement.scrollWidth - innerWidth;
  if (wide > 0) told.push(`${wide} px too wide`);
  if (document.querySelectorAll("h1").length !== 1) told.push(`${document.querySelectorAll("h1").length} h1`);
  const seen = (e) => e.checkVisibility({ opacityProperty: true, visibilityProperty: true, contentVisibilityAuto: true });
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  const small = new Set();
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    const e = node.parentElement;
    if (!node.data.trim() || !seen(e) || e.closest(".sr, script, style, datalist, option, title, .qr")) continue;
    const box = e.getBoundingClientRect();
    if (box.width < 2 || box.height < 2) continue;
    const size = parseFloat(getComputedStyle(e).fontSize);
    const svg = e.closest("svg");
    const px = svg ? size * e.getScreenCTM().a : size;
    if (px + 0.05 < (svg ? drawn : least)) small.add(`${px.toFixed(1)} px: ${node.data.trim().slice(0, 40)}`);
  }
  told.push(...[...small].slice(0, 4));
  const press = "button, .button, .quietlink, select, textarea, input:not([type=hidden]), summary, .rail a, .views a, .sections a, [role=button]";
  for (const e of document.querySelectorAll(press)) {
    if (!seen(e) || e.closest(".sr, dialog:not([open]), svg")) continue;
    let box = e.getBoundingClientRect();
    if (box.width < 2) continue;
    if (e.matches("[type=checkbox], [type=radio]")) box = (e.closest("label") ?? e).getBoundingClientRect();
    if (Math.round(box.height) < target) {
      told.push(`${box.height.toFixed(0)} px high: ${e.tagName} ${(e.innerText || e.name || "").trim().slice(0, 40)}`);
    }
  }
  return told;
}
"""


def discover(page: Page, most: int = 400) -> Iterator[tuple[str, str]]:
    """Yield (name of the view, address) of one page of every view that links lead to from where a page is."""
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
        links = page.eval_on_selector_all("a[href]:not([download])", "all => all.map((a) => a.href)")
        for link in links:
            parts = urlsplit(link)
            if parts.netloc == host and not parts.path.endswith(
                (".csv", ".json", ".svg", ".cir", ".yaml", ".zip")
            ):
                waiting.append(f"{parts.path}?{parts.query}" if parts.query else parts.path)


def measure(page: Page) -> list[str]:
    """Return what is wrong with the size of a page, its text and what is pressed, with all details open."""
    page.evaluate("document.querySelectorAll('#main details').forEach((d) => (d.open = true))")
    found: list[str] = page.evaluate(MEASURE, [LEAST_TEXT, LEAST_DRAWN, LEAST_TARGET])
    return found


def accessible(page: Page) -> list[str]:
    """Return what the accessibility checker finds on a page."""
    found = Axe().run(page)
    return [found.generate_report()[:600]] if found.violations_count else []
