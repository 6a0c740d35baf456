"""The stage of a journey: a house in a known state, and a browser."""

import re
from functools import cache
from typing import ClassVar
from unittest import TestCase, addModuleCleanup

from playwright.sync_api import Browser, Locator, Page, Playwright, Request, expect, sync_playwright

from .houses import PATIENCE_SECONDS, REPOSITORY, Running, house

AXE = REPOSITORY / "web" / "node_modules" / "axe-core" / "axe.min.js"
CHROMIUM = "/usr/bin/chromium-headless-shell"  # half the processor time of the whole browser
FLAGS = ["--no-sandbox", "--disable-background-networking", "--disable-component-update"]
RULES = {"runOnly": ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]}
PATIENCE_MS = PATIENCE_SECONDS * 1000
expect.set_options(timeout=PATIENCE_MS)


@cache
def browser() -> Browser:
    """The one browser; a module that used it lets go of it, since its event loop would bar Django from its database."""
    driver = sync_playwright().start()
    made = driver.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    addModuleCleanup(_close, driver, made)
    return made


def _close(driver: Playwright, opened: Browser) -> None:
    opened.close()
    driver.stop()
    browser.cache_clear()


class Journey(TestCase):
    """A signed-in browser page, as a supervisor unless `role` says otherwise, in a house as the image has it.

    A journey that made any request but a read gets the house back as it was, for the next one.
    `env` are options of the server's; `seats` those whose agents are at work, None for all. The others are as the image
    left them.
    """

    role = "supervisor"
    browser_time_zone: ClassVar[str | None] = None
    env: ClassVar[dict[str, str]] = {}
    seats: ClassVar[tuple[str, ...] | None] = ()
    demo: Running
    page: Page

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.demo = house()

    def setUp(self) -> None:
        house().ready(self.env, self.seats)
        context = browser().new_context(
            viewport={"width": 1280, "height": 800},
            reduced_motion="reduce",
            storage_state=self.demo.signed_in(self.role),
            timezone_id=self.browser_time_zone,
        )
        self.addCleanup(context.close)
        self.page = context.new_page()
        self.page.set_default_timeout(PATIENCE_MS)
        self.faults: list[str] = []
        self.page.on("pageerror", lambda error: self.faults.append(str(error)))
        self.page.on("console", lambda message: self.faults.append(message.text) if message.type == "error" else None)
        self.addCleanup(lambda: self.assertEqual(self.faults, []))
        context.on("request", self._note)
        self.go("/")
        expect(self.page.get_by_role("navigation")).to_be_visible()

    def _note(self, request: Request) -> None:
        self.demo.changed |= request.method != "GET"

    def go(self, path: str) -> None:
        """By address."""
        self.page.goto(self.demo.known["address"] + path)

    def seat(self, name: str) -> Locator:
        """A seat on the floor."""
        return self.page.locator(f"li[data-seat={name}]")

    def track(self, name: str) -> Locator:
        """A seat's track in a rollout."""
        return self.page.locator(f"li.track[data-seat={name}]")

    def row(self, setting: str, app: str = "") -> Locator:
        """A reading of a seat."""
        return self.page.locator(f"[data-setting='{setting}'][data-app='{app}']")

    def level(self, seat: str, family: str) -> Locator:
        """One of a seat's five levels on the floor, by its spoken text."""
        return self.seat(seat).get_by_role("img", name=re.compile(f"^{family}: "))

    def check_accessible(self) -> None:
        """No fault by axe-core, WCAG 2.2 AA, in either theme. Themes differ by their colours alone."""
        self.page.evaluate(AXE.read_text("utf-8"))
        for theme, rules in (("night", RULES), ("paper", {"runOnly": ["color-contrast"]})):
            self.page.evaluate("theme => (document.documentElement.dataset.theme = theme)", theme)
            # A colour on its way to the next is neither.
            self.page.evaluate("Promise.allSettled(document.getAnimations().map(a => a.finished))")
            violations = self.page.evaluate(
                "rules => axe.run(rules).then(({violations}) => violations.map("
                "({id, nodes}) => [id, nodes.slice(0, 3).map(({html}) => html.slice(0, 120))]))",
                {**rules, "resultTypes": ["violations"]},
            )
            self.assertEqual(violations, [], f"{self.page.url}, {theme}")
