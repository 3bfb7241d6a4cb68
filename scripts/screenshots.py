"""Make docs/screenshots anew: serves the demo on a data folder of its own and takes one picture of
each main view."""

import os
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).resolve().parent.parent
FOLDER = ROOT / "docs/screenshots"
PORT = 8978
BASE = f"http://localhost:{PORT}"
PROGRAMS = (
    "/usr/lib/chromium/chromium-headless-shell",
    "/usr/bin/chromium-headless-shell",
    "/usr/bin/chromium",
)
NARROW = 390
REST_S = 25
"""After the first proposals the rest of the predictions is worked out."""


def views(page: Page) -> list[tuple[str, str, int]]:
    """Return (name, address, width) of every picture, found from the Bench."""
    page.goto("/")
    job = page.get_by_role("link", name="Fern").first.get_attribute("href") or ""
    juniper = page.get_by_role("link", name="Juniper").first.get_attribute("href") or ""
    otter = page.get_by_role("link", name="Otter").first.get_attribute("href") or ""
    bramble = page.get_by_role("link", name="Bramble").first.get_attribute("href") or ""
    clover = page.get_by_role("link", name="Clover").first.get_attribute("href") or ""
    teasel = page.get_by_role("link", name="Teasel").first.get_attribute("href") or ""
    page.goto("/bikes/")
    bike = page.get_by_role("link", name="Juniper").first.get_attribute("href") or ""
    return [
        ("bench", "/", 1280),
        ("new-job", f"/jobs/new/?bike={bike.strip('/').rpartition('/')[2]}", 1280),
        ("arrive", f"{teasel}arrive/", 1280),
        ("trace", f"{job}trace/", 1280),
        ("trace-narrow", f"{job}trace/", NARROW),
        ("wire", f"{bramble}wire/", 1280),
        ("order", f"{clover}wire/order/", 1280),
        ("routes", f"{otter}wire/routes/#ways", 1280),
        ("first-power-up", f"{job}wire/first-power-up/", 1280),
        ("sheet", f"{juniper}wire/sheet/#drawing", 1280),
        ("match-ride", f"{juniper}match/ride/", 1280),
        ("set", f"{otter}set/", 1280),
        ("program", f"{job}program/", 1280),
        ("link", f"{otter}program/link/", 1280),
        ("prove", f"{juniper}prove/", 1280),
        ("describe", f"{bike}describe/", 1280),
        ("record", f"{job}record/", 1280),
        ("practice", "/practice/", 1280),
        ("debrief", "/practice/progress/", 1280),
    ]


def main() -> None:
    """Serve, sign in, wait for the predictions, and take the pictures."""
    with tempfile.TemporaryDirectory() as data:
        environment = os.environ | {
            "BRIGHT_DATA": data,
            "BRIGHT_DEMO": "1",
            "PYTHONPATH": str(ROOT / "src"),
        }
        server = subprocess.Popen(
            [sys.executable, "manage.py", "serve", "--port", str(PORT)],
            cwd=ROOT,
            env=environment,
            stdout=subprocess.DEVNULL,
        )
        try:
            take()
        finally:
            server.terminate()


def connect(page: Page) -> None:
    """Connect to the simulated controller, read it, pull its throttle half."""
    for name in ("Connect", "Read all 36 values"):
        with page.expect_navigation():
            page.get_by_role("button", name=name).click()
    page.get_by_role("button", name="Watch").click()
    page.get_by_text("Hands at the stand-in").click()
    page.get_by_label("Throttle %").fill("50")
    with page.expect_navigation():
        page.get_by_role("button", name="Do it").click()
    page.evaluate("scrollTo(0, 0)")
    page.wait_for_timeout(2500)


def play(page: Page) -> None:
    """Begin the guided case and play its first acts: leads on the throttle plug, one reading."""
    with page.expect_navigation():
        page.get_by_role("button", name="Begin the guided case").click()
    leads = ("leads|red=controller.throttle.signal", "leads|black=controller.throttle.ground")
    for value in ("wheel|to=up", "power|to=on", "watch|scene=throttle", *leads, "measure"):
        if value == leads[0]:
            page.goto(f"{page.url.partition('?')[0].partition('#')[0]}?plug=controller")
        press(page, value)
    page.evaluate("scrollTo(0, 0)")


def debrief(page: Page) -> None:
    """End the case that was begun, by a wrong part first, and wait for its debrief."""
    page.go_back()
    for value in ("power|to=out", "repair|repair=part:throttle", "repair|repair=join:j6"):
        press(page, value)
    page.locator("button[value=done]").click()
    page.locator(".takealong").wait_for(timeout=60_000)


def press(page: Page, value: str) -> None:
    """Press a button of the practice bench and wait until it counts."""
    version = page.locator("[name=version]").first.input_value()
    button = page.locator(f"button[value='{value}']").first
    button.evaluate("b => { const d = b.closest('details'); if (d) d.open = true; }")
    button.click()
    page.wait_for_function(
        "was => document.querySelector('[name=version]')?.value !== was", arg=version
    )


def take() -> None:
    """Take every picture."""
    for _ in range(600):
        try:
            urllib.request.urlopen(f"{BASE}/sign-in/").close()
            break
        except OSError:
            time.sleep(0.2)
    FOLDER.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=next(p for p in PROGRAMS if Path(p).exists()), args=["--no-sandbox"]
        )
        page = browser.new_page(
            base_url=BASE, viewport={"width": 1280, "height": 800}, reduced_motion="reduce"
        )
        page.goto("/sign-in/")
        page.get_by_label("Name").fill("quill")
        page.get_by_label("Password").fill("lantern-yard")
        page.get_by_role("button", name="Sign in").click()
        for _ in range(90):  # the worker prepares the open jobs
            page.goto("/")
            if (
                not page.get_by_text("Working out").count()
                and not page.get_by_text("open Trace").count()
            ):
                break
            time.sleep(1)
        time.sleep(REST_S)
        for name, address, width in views(page):
            page.set_viewport_size({"width": width, "height": 800 if width > NARROW else 844})
            page.emulate_media(color_scheme="light")
            page.goto(address)
            if name == "link":
                connect(page)
            elif name == "practice":
                play(page)
            elif name == "debrief":
                debrief(page)
            else:
                page.wait_for_load_state("networkidle")
            page.screenshot(path=FOLDER / f"{name}.png")
            print(f"docs/screenshots/{name}.png")
        browser.close()


if __name__ == "__main__":
    main()
