"""The floor of a large house in a real browser: when its first levels stand there, and how long its tasks are."""

import statistics
import threading
import time
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, sync_playwright

from ..house import BENCH, generated
from ..measure import Figure
from ..serving import serving

CHROMIUM, FLAGS = (
    "/usr/bin/chromium-headless-shell",
    ["--no-sandbox", "--disable-background-networking", "--disable-component-update"],
)
FIRST_BAR, TASK_BAR = 1500.0, 50.0  # milliseconds
_FIRST = """
new MutationObserver((_, observer) => {
    if (!document.querySelector('[data-seat] .level')) return;
    requestAnimationFrame(() => (window.firstLevels ??= performance.now()));
    observer.disconnect();
}).observe(document, { childList: true, subtree: true });
"""


def floor(seats: int) -> list[Figure]:
    """Milliseconds from asking for the page to its first levels, and the longest task while somebody works on it."""
    generated(seats)
    with serving() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script(_FIRST)
        page.goto(f"{address}/floor")
        page.get_by_label("Name").fill(BENCH)
        page.get_by_label("Password").fill(BENCH)
        page.keyboard.press("Enter")
        page.locator("header").get_by_role("link", name="Floor").wait_for()
        first = statistics.median(_first_levels(page, f"{address}/floor") for _ in range(5))
        figures = [_figure("first", first, FIRST_BAR, seats)]
        for name, work in (("scrolling", _scroll), ("selecting", _select)):
            figures.append(_figure(name, _longest_task(page, work), TASK_BAR, seats))
        browser.close()
    return figures


def _figure(name: str, value: float, bar: float, seats: int) -> Figure:
    return Figure.paced(name, value, "ms", f"{seats:,} seats", bar)


def _first_levels(page: Page, address: str) -> float:
    page.goto(address)
    page.locator("[data-seat] .level").first.wait_for()
    page.wait_for_timeout(200)
    return float(page.evaluate("window.firstLevels"))


def _scroll(page: Page) -> None:
    page.mouse.move(600, 500)
    for step in (120, -200):  # pixels: a notch of the wheel with each frame
        for _ in range(120):
            page.mouse.wheel(0, step)
            time.sleep(0.016)


def _select(page: Page) -> None:
    page.evaluate("scrollTo(0, 0)")
    page.wait_for_timeout(500)
    page.keyboard.press("a")
    page.wait_for_timeout(300)
    page.keyboard.press("Escape")
    names = page.locator("[data-seat]").evaluate_all("cards => cards.slice(0, 10).map((card) => card.dataset.seat)")
    for name in names:
        page.get_by_label(f"Select {name}", exact=True).click()
    page.locator("[data-seat-link]").first.focus()
    for key in ("ArrowDown", "ArrowRight", "ArrowDown", " ", "ArrowLeft", "a", "Escape"):
        page.keyboard.press(key)
        page.wait_for_timeout(100)


def _longest_task(page: Page, work: Callable[[Page], None]) -> float:
    """Milliseconds of the longest task of a page's main thread, by the browser's own trace."""
    wire = page.context.new_cdp_session(page)
    events, done = list[dict[str, Any]](), threading.Event()
    wire.on("Tracing.dataCollected", lambda data: events.extend(data["value"]))
    wire.on("Tracing.tracingComplete", lambda _: done.set())
    wire.send("Tracing.start", {"categories": "toplevel,__metadata", "transferMode": "ReportEvents"})
    work(page)
    page.wait_for_timeout(500)
    wire.send("Tracing.end")
    while not done.is_set():
        page.wait_for_timeout(50)
    pages = {
        (e["pid"], e["tid"]) for e in events if e["name"] == "thread_name" and e["args"]["name"] == "CrRendererMain"
    }
    tasks = [e["dur"] / 1e3 for e in events if e.get("dur") and (e["pid"], e["tid"]) in pages]
    assert tasks, "the trace holds no task of a page"
    return float(max(tasks))
