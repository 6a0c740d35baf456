"""The Drift view and a new edition in a large house: 120 rules, every seat another."""

import random
import statistics
import time
from collections.abc import Iterator

import msgspec
import psutil
from playwright.sync_api import Browser, Page, sync_playwright

from ..drift import _seat, _standard
from ..house import BENCH, set_up
from ..measure import Figure
from ..serving import serving
from .floor import CHROMIUM, FLAGS, _longest_task

FIRST_BAR, TASK_BAR, KEY_BAR, MEMORY_BAR, PUBLISH_BAR = 1000.0, 50.0, 150.0, 300.0, 10.0
_CELLS = """
(() => {
    const canvas = document.querySelector('canvas');
    if (!canvas || !canvas.width) return false;
    const drawn = canvas.getContext('2d').getImageData(0, 50, canvas.width, 60).data;
    return drawn.some((value) => value !== 0);
})()
"""
_WATCH = f"""
(() => {{
    const look = () => ({_CELLS.strip()} ? (window.firstCells = performance.now()) : requestAnimationFrame(look));
    look();
}})()
"""


def grid(seats: int) -> list[Figure]:
    """What the supervisor of a large house waits for."""
    _filled(seats)
    with serving() as address:
        first, changed = _published(address)
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            page = _signed_in(browser, address)
            cells = statistics.median(_first_cells(page, address) for _ in range(5))
            scrolling = _longest_task(page, _scroll)
            memory = _memory()
            key = statistics.median(_keystrokes(page, address))
            browser.close()
    note = f"{seats:,} seats x 120"
    bars = (
        ("publish", changed, "s", PUBLISH_BAR),
        ("cells", cells, "ms", FIRST_BAR),
        ("scrolling", scrolling, "ms", TASK_BAR),
        ("keystroke", key, "ms", KEY_BAR),
    )
    return [
        Figure("publish 1", first, "s", "the second; every finding new", first / changed, "for comparison", True),
        *(Figure.paced(name, value, unit, note, bar) for name, value, unit, bar in bars),
        Figure.at_most("tab", memory, "MB", f"of {MEMORY_BAR:g} MB; {note}", memory / MEMORY_BAR, 1),
    ]


def _filled(seats: int) -> None:
    """A house of that many seats with their newest surveys, and no standard yet."""
    set_up()
    from django.utils import timezone  # noqa: PLC0415

    from normant.accounts.models import User  # noqa: PLC0415
    from normant.findings.models import Finding, Waiver  # noqa: PLC0415 (after setup)
    from normant.ledger.services.record import record  # noqa: PLC0415
    from normant.rollouts.models import Rollout  # noqa: PLC0415
    from normant.seats.models import Presence, Seat, Survey  # noqa: PLC0415
    from normant.standards.models import Edition  # noqa: PLC0415
    from normant_core.seat.survey import AgentInfo, Reading  # noqa: PLC0415
    from normant_core.seat.survey import Survey as Document  # noqa: PLC0415

    for model in (Rollout, Finding, Waiver, Seat, Edition):
        model.objects.all().delete()
    draw, now = random.Random(1), timezone.now()
    _, keys = _standard()
    made = Seat.objects.bulk_create(
        Seat(name=f"gen-{n:05}", role="offline", room=f"Hall {n // 40}", production=f"Show {n % 30}", position=n)
        for n in range(seats)
    )
    Presence.objects.bulk_create(Presence(seat=seat, seen_at=now, taken_at=now) for seat in made)

    def surveys() -> Iterator[Survey]:
        for number, seat in enumerate(made):
            view = _seat(number, keys, draw)
            settings = dict(keys)
            readings = tuple(Reading(k[0], settings[k].plain(v), k[1]) for k, v in view.readings.items())
            document = Document(
                "normant-survey/1", seat.name, now, AgentInfo("1", "bench"), view.facts, readings=readings
            )
            yield Survey(seat=seat, taken_at=now, body=msgspec.json.encode(document))

    Survey.objects.bulk_create(surveys(), batch_size=500)
    user, _ = User.objects.get_or_create(username=BENCH, defaults={"role": "supervisor"})
    user.set_password(BENCH)
    user.save()
    record("bench", "fill house", "bench", seats=seats)


def _published(address: str) -> tuple[float, float]:
    """Seconds until a house has followed its first edition, and one with another rule."""
    from normant.findings.services.publish import publish  # noqa: PLC0415 (after setup)

    text, _ = _standard()
    taken = []
    for base, published in enumerate((text, text.replace("4 GiB, 10 % of", "5 GiB, 12 % of", 1))):
        edition = publish(published, base=base, note="", user=None)
        begun = time.perf_counter()
        while edition.followed_at is None:
            time.sleep(0.05)
            edition.refresh_from_db()
        taken.append(time.perf_counter() - begun)
    return taken[0], taken[1]


def _signed_in(browser: Browser, address: str) -> Page:
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(f"{address}/drift/waivers")
    page.get_by_label("Name").fill(BENCH)
    page.get_by_label("Password").fill(BENCH)
    page.keyboard.press("Enter")
    page.locator("header").get_by_role("link", name="Drift").wait_for()
    page.goto(f"{address}/drift")  # what is kept in the server's memory is made with the first question
    _until(page, _CELLS)
    page.add_init_script(f"addEventListener('DOMContentLoaded', () => {_WATCH.strip()})")
    return page


def _until(page: Page, script: str) -> None:
    """Ask again and again: the page's content policy bars what would wait inside it."""
    while not page.evaluate(script):
        page.wait_for_timeout(50)


def _first_cells(page: Page, address: str) -> float:
    page.goto(f"{address}/drift")
    _until(page, "window.firstCells")
    return float(page.evaluate("window.firstCells"))


def _scroll(page: Page) -> None:
    page.mouse.move(700, 400)
    for across, down in ((400, 60), (-500, -80), (0, 120), (900, 0)):  # pixels with each frame
        for _ in range(60):
            page.mouse.wheel(across, down)
            time.sleep(0.016)


def _memory() -> float:
    """Megabytes of the tab's process, as the system counts them."""
    children = psutil.Process().children(recursive=True)
    tabs = [child for child in children if "--type=renderer" in child.cmdline()]
    return max(tab.memory_info().rss for tab in tabs) / 1e6


def _keystrokes(page: Page, address: str) -> list[float]:
    """Milliseconds from a key in the text of the standard to the impact on the screen, for each of some keys."""
    page.goto(f"{address}/standard?as=text")
    line = page.locator(".cm-line", has_text="max(").first
    page.locator(".cm-line").first.click()
    while not line.is_visible():  # lines that are out of sight are not there
        page.keyboard.press("PageDown")
        page.wait_for_timeout(50)
    line.click()
    page.keyboard.press("End")
    for _ in range(len('% of memory.total)"')):
        page.keyboard.press("ArrowLeft")
    page.evaluate(
        """() => {
            window.keyed = 0; window.taken = [];
            addEventListener('keydown', () => (window.keyed = performance.now()), true);
            new MutationObserver(() => {
                const told = document.querySelector('[data-impact] p');
                const words = told?.textContent ?? 'Judging';
                if (!window.keyed || words.startsWith('Judging') || words === window.last) return;
                window.last = words;
                const since = window.keyed;
                window.keyed = 0;
                requestAnimationFrame(() => window.taken.push(performance.now() - since));
            }).observe(document.querySelector('aside'), { childList: true, subtree: true, characterData: true });
        }"""
    )
    for key in ("1", "Backspace", "2", "Backspace", "3", "Backspace", "4", "Backspace", "5"):
        page.keyboard.press(key)
        page.wait_for_timeout(1200)
    return [float(taken) for taken in page.evaluate("window.taken")][1:]
