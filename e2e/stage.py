"""The stage: one demo for all journeys, in a folder of its own, and a browser."""

import atexit
import json
import os
import re
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any
from unittest import TestCase, TestSuite, addModuleCleanup

import httpx
from playwright.sync_api import Browser, Locator, Page, Playwright, expect, sync_playwright

from normant_standin.postgres import free_port

REPOSITORY = Path(__file__).resolve().parents[1]
AXE = REPOSITORY / "web" / "node_modules" / "axe-core" / "axe.min.js"
CHROMIUM = "/usr/bin/chromium"
FLAGS = ["--no-sandbox", "--disable-background-networking", "--disable-component-update"]


PATIENCE_MS = 90_000  # events decide when; this only ends a failure, also where others take the machine
expect.set_options(timeout=PATIENCE_MS)


class Demo:
    """`script/demo`'s process in a temporary folder."""

    def __init__(self, *, bare: bool = True, **env: str) -> None:
        self.bare, self.env = bare, env
        self.run = Path(tempfile.mkdtemp(prefix="normant-e2e-"))
        self.run.chmod(0o755)
        self.port = free_port()
        self.process: subprocess.Popen[str] | None = None

    module, more = "normant_standin.demo", ()

    def start(self) -> None:
        """Wait until the address is printed."""
        command = [sys.executable, "-m", self.module, "--run", str(self.run), "--port", str(self.port), *self.more]
        command += ["--bare"] if self.bare else []  # journeys make what they look at
        pipes = {"stdout": subprocess.PIPE, "stderr": subprocess.STDOUT, "text": True}
        # The clock of the suite is the house's: nothing of the test run's own database may leak in.
        env = {name: value for name, value in os.environ.items() if name not in ("DATABASE_URL", "NORMANT_KEYS")}
        self.process = subprocess.Popen(command, env={**env, **self.env}, **pipes)  # type: ignore[call-overload]
        assert self.process and self.process.stdout
        lines = []
        for line in self.process.stdout:
            lines.append(line)
            if "Ctrl-C" in line:
                return
        raise AssertionError("the demo did not start:\n" + "".join(lines))

    def stop(self) -> None:
        """As Ctrl-C does."""
        if self.process:
            self.process.send_signal(signal.SIGINT)
            self.process.wait(timeout=30)
            assert self.process.stdout
            self.process.stdout.close()
            self.process = None

    @property
    def known(self) -> dict[str, Any]:
        """demo.json."""
        state: dict[str, Any] = json.loads((self.run / "demo.json").read_text("utf-8"))
        return state

    def api(self) -> httpx.Client:
        """A script with the supervisor's rights."""
        headers = {"Authorization": f"Bearer {self.known['token']}"}
        address = f"{self.known['address']}/api/v1"
        hooks = {"response": [_raise_with_problem]}
        return httpx.Client(
            base_url=address, headers=headers, trust_env=False, timeout=PATIENCE_MS / 1e3, event_hooks=hooks
        )

    def answer(self, path: str) -> Any:
        """What the API answers."""
        with self.api() as client:
            return client.get(path).json()

    def post(self, path: str, body: dict[str, Any]) -> Any:
        """What the API answers to that."""
        with self.api() as client:
            return client.post(path, json=body).raise_for_status().json()

    def standin(self, *words: str) -> None:
        """Turn something on a stand-in seat."""
        command = [sys.executable, "-m", "normant_standin.cli", *words, "--folder", str(self.run / "seats")]
        subprocess.run(command, check=True, cwd=REPOSITORY)

    def file(self, seat: str, path: str) -> bytes:
        """A seat's preference file."""
        return (self.run / "seats" / seat / "preferences" / path).read_bytes()

    def child(self, name: str) -> int:
        """The process of that command line, among the demo's own."""
        assert self.process
        pattern = ["pgrep", "-P", str(self.process.pid), "-f", name]
        return int(subprocess.run(pattern, capture_output=True, text=True, check=True).stdout.split()[0])


@cache
def demo() -> Demo:
    """The one demo, all its seats heard."""
    made = Demo()
    atexit.register(made.stop)
    made.start()
    eventually(lambda: all(seat["levels"] for seat in made.answer("/seats")["items"]))
    return made


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


def eventually(holds: Callable[[], Any], seconds: float = PATIENCE_MS / 1e3) -> Any:
    """What `holds` gives once it is true; events decide when, the limit only ends a failure."""
    deadline = time.monotonic() + seconds
    while True:
        try:
            if result := holds():
                return result
        except httpx.HTTPError:
            pass
        if time.monotonic() > deadline:
            raise AssertionError("this did not come about in time")
        time.sleep(0.1)


def as_written(module: str) -> Callable[..., TestSuite]:
    """A module's `load_tests`: its journeys in the order in which they are written, whatever they are called.

    Those of one file share a house, as people do, and some begin where another ended.
    """

    def load(*_: Any) -> TestSuite:
        made = [kind for kind in vars(sys.modules[module]).values() if getattr(kind, "__module__", "") == module]
        cases = [kind for kind in made if isinstance(kind, type) and issubclass(kind, TestCase)]
        return TestSuite(case(name) for case in cases for name in vars(case) if name.startswith("test"))

    return load


class Journey(TestCase):
    """A signed-in browser page, as a supervisor unless `role` says otherwise."""

    role = "supervisor"
    demo: Demo
    page: Page

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.demo = demo()

    def setUp(self) -> None:
        context = browser().new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(context.close)
        self.page = context.new_page()
        self.page.set_default_timeout(PATIENCE_MS)
        self.faults: list[str] = []
        self.page.on("pageerror", lambda error: self.faults.append(str(error)))
        self.page.on("console", lambda message: self.faults.append(message.text) if message.type == "error" else None)
        self.addCleanup(lambda: self.assertEqual(self.faults, []))
        self.sign_in()

    def sign_in(self) -> None:
        """Through the form."""
        self.page.goto(self.demo.known["address"])
        self.page.evaluate("localStorage.setItem('normant.theme', 'paper')")
        known = self.demo.known["sign_ins"][self.role]
        self.page.get_by_label("Name").fill(known["name"])
        self.page.get_by_label("Password").fill(known["password"])
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_role("navigation")).to_be_visible()

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
        """No fault by axe-core, WCAG 2.2 AA, in either theme."""
        for theme in ("night", "paper"):
            self.page.evaluate("theme => (document.documentElement.dataset.theme = theme)", theme)
            # A colour on its way to the next is neither.
            self.page.evaluate("Promise.allSettled(document.getAnimations().map(a => a.finished))")
            self.page.evaluate(AXE.read_text("utf-8"))
            tags = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
            result = self.page.evaluate("tags => axe.run({runOnly: tags})", tags)
            violations = [(v["id"], [node["html"][:120] for node in v["nodes"][:3]]) for v in result["violations"]]
            self.assertEqual(violations, [], f"{self.page.url}, {theme}")


def _raise_with_problem(response: httpx.Response) -> None:
    """Raises HTTPStatusError for a refusal, with what the server says of it."""
    if response.is_error:
        message = f"{response.status_code} for {response.url}: {response.read().decode()}"
        raise httpx.HTTPStatusError(message, request=response.request, response=response)
