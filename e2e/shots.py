"""`script/shots`: one picture of each main view, from the demo's data, into docs/screenshots."""

import datetime as dt
import re
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

from normant_standin.first_day import FirstDay

from .houses import REPOSITORY, Demo, eventually
from .stage import CHROMIUM, FLAGS

FOLDER = REPOSITORY / "docs" / "screenshots"
SIZE = {"width": 1280, "height": 800}


def main() -> None:
    """A fresh demo, its seats heard and one of them silent; then the views in the order of a correction."""
    demo = Demo()
    demo.start()
    try:
        eventually(lambda: all(seat["levels"] for seat in demo.answer("/seats")["items"]))
        eventually(lambda: any(seat["presence"] == "silent" for seat in demo.answer("/seats")["items"]), 60)
        first_day = FirstDay(demo.known["address"], demo.known["token"], lambda: dt.datetime.now(dt.UTC))
        first_day.scan_projects()
        first_day.measure()
        eventually(lambda: all(trial["state"] == "ended" for trial in demo.answer("/trials")["items"]), 300)
        with sync_playwright() as driver:
            page = driver.chromium.launch(executable_path=CHROMIUM, args=FLAGS).new_page(viewport=SIZE)
            _sign_in(page, demo)
            for name, view in VIEWS.items():
                view(page, demo.known["address"])
                page.wait_for_timeout(700)  # waits: transitions come to rest
                page.screenshot(path=FOLDER / f"{name}.png")
            _my_seat(page, demo)
    finally:
        demo.stop()


def _my_seat(page: Page, demo: Demo) -> None:
    """As its editor sees it while Corrow is open and a rollout waits for that."""
    demo.standin("busy", "pan-03")
    demo.standin("open", "pan-03", "corrow")
    demo.standin("change", "pan-03", "memory.held_back", "1 GiB", "--app", "corrow")
    finding = eventually(lambda: _off_norm(demo, "memory.held_back"))
    with demo.api() as api:
        body = {"findings": [finding]}
        seen = api.post("/rollouts/plan", json=body).json()["digest"]
        api.post("/rollouts", json={**body, "seen": seen})
    page.get_by_role("button", name="Sign out").click()
    _sign_in(page, demo, "editor")
    expect(page.locator("[data-when]")).to_contain_text("unsaved work")
    page.wait_for_timeout(700)  # waits: transitions come to rest
    page.screenshot(path=FOLDER / "my-seat.png")


def _off_norm(demo: Demo, setting: str) -> int | None:
    findings = demo.answer("/findings?status=open&seat=pan-03&limit=1000")["items"]
    return next(
        (finding["id"] for finding in findings if (finding["setting"], finding["app"]) == (setting, "corrow")), None
    )


def _sign_in(page: Page, demo: Demo, role: str = "supervisor") -> None:
    page.goto(demo.known["address"])
    page.get_by_label("Name").fill(demo.known["sign_ins"][role]["name"])
    page.get_by_label("Password").fill(demo.known["sign_ins"][role]["password"])
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("navigation")).to_be_visible()


def _round(page: Page, address: str) -> None:
    page.goto(address)
    page.get_by_role("button", name=re.compile("^Corrow preview pool")).first.click()
    page.evaluate("scrollTo(0, 0)")  # to open an item scrolls to it; the sentence on top is what the picture is about


def _floor(page: Page, address: str) -> None:
    page.goto(f"{address}/floor")
    page.locator("li[data-seat=pan-03]").get_by_role("checkbox").check()
    page.locator("li[data-seat=rake-02]").get_by_role("checkbox").check()


def _seat(page: Page, address: str) -> None:
    page.goto(f"{address}/seats/pan-03")
    page.get_by_role("button", name="Memory reserve, Corrow").click()


def _plan(page: Page, address: str) -> None:
    page.goto(f"{address}/floor")
    expect(page.locator("li[data-seat]")).to_have_count(28)
    page.wait_for_timeout(500)  # waits: the findings come by a question of their own
    page.keyboard.press("a")
    expect(page.get_by_role("region", name="Selection")).to_be_visible()
    page.keyboard.press("c")
    expect(page.get_by_role("button", name="Start rollout")).to_be_enabled()
    page.get_by_text("Limits").click()


def _rollout(page: Page, address: str) -> None:
    page.get_by_role("button", name="Start rollout").click()
    several = re.compile("^([5-9]|1[0-2]) of")
    expect(page.locator("[data-sentence]")).to_contain_text(several, timeout=60_000)


def _standard(page: Page, address: str) -> None:
    page.goto(f"{address}/standard")
    expect(page.get_by_role("heading", name="Cutting rooms")).to_be_visible()


def _drift(page: Page, address: str) -> None:
    page.goto(f"{address}/drift")
    grid = page.get_by_role("grid")
    grid.focus()
    for _ in range(8):
        page.keyboard.press("n")
    page.keyboard.press("g")
    expect(page.get_by_role("region", name="Selection")).to_be_visible()


def _timeline(page: Page, address: str) -> None:
    page.goto(f"{address}/measure/timelines")
    page.get_by_role("link", name="The Salt Ledger").click()
    expect(page.locator("[data-remedy]").first).to_be_visible()


def _dialects(page: Page, address: str) -> None:
    page.goto(f"{address}/dialects/pockle")
    page.get_by_label("Test on seat").select_option("pan-07")
    page.get_by_role("button", name="Test", exact=True).click()
    expect(page.get_by_role("table", name="Values read")).to_be_visible()


def _stores(page: Page, address: str) -> None:
    page.goto(f"{address}/stores")
    filling = page.get_by_role("region", name="Filling up")
    expect(filling).to_contain_text("Grows by 12.0 GB a day", timeout=90_000)


def _clearing(page: Page, address: str) -> None:
    page.goto(f"{address}/stores/clearings")
    for kind in ("backups", "renders"):
        page.get_by_role("checkbox", name=re.compile(f"^{kind}")).check()
    page.get_by_role("button", name="Create clean-up plan").click()
    for seat in ("pan-02", "loft-03", "sluice-02", "kiln-01"):
        line = page.get_by_role("listitem").filter(has=page.get_by_role("button", name=re.compile(f"^{seat} ")))
        expect(line).to_contain_text("GB", timeout=90_000)
    page.get_by_role("button", name=re.compile("^pan-02 ")).click()
    page.get_by_role("button", name="Continue without the others").click()
    expect(page.get_by_role("button", name="Sign clean-up")).to_be_visible()


def _placement(page: Page, address: str) -> None:
    page.goto(f"{address}/stores/placement?seat=pan-03")
    expect(page.get_by_role("group", name="Stores on volumes")).to_be_visible()


def _routes(page: Page, address: str) -> None:
    page.goto(f"{address}/measure/routes")
    page.get_by_role("button", name=re.compile(r"^kiln-03: avc.*frames per second$")).click()
    expect(page.get_by_role("region", name="Reason for this device")).to_contain_text("Measured on kiln-03")


def _project(page: Page, address: str) -> None:
    page.goto(f"{address}/stores/projects")
    page.get_by_role("link", name="nine_lamps/lamp_three.corrow").click()
    expect(page.get_by_role("region", name="In the wrong place")).to_be_visible()


def _errands(page: Page, address: str) -> None:
    page.goto(f"{address}/errands")
    page.get_by_role("button", name=re.compile("Change GPU driver")).first.click()


def _ledger(page: Page, address: str) -> None:
    page.goto(f"{address}/ledger")
    expect(page.get_by_role("table")).to_be_visible()


def _measure(page: Page, address: str) -> None:
    page.goto(f"{address}/measure")
    expect(page.get_by_text(re.compile("plays .*(faster|as fast)"))).not_to_have_count(0)


def _trial(page: Page, address: str) -> None:
    page.goto(f"{address}/measure")
    page.get_by_role("link", name="Which Corrow preview pool").click()
    page.get_by_role("slider", name="Run").focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("list", name="Machine load during this run")).to_be_visible()


VIEWS: dict[str, Callable[[Page, str], None]] = {
    "round": _round,
    "floor": _floor,
    "seat": _seat,
    "drift": _drift,
    "dialects": _dialects,
    "plan": _plan,
    "rollout": _rollout,
    "standard": _standard,
    "errands": _errands,
    "ledger": _ledger,
    "measure": _measure,
    "trial": _trial,
    "timeline": _timeline,
    "stores": _stores,
    "clearing": _clearing,
    "placement": _placement,
    "routes": _routes,
    "project": _project,
}


if __name__ == "__main__":
    Path(FOLDER).mkdir(parents=True, exist_ok=True)
    main()
