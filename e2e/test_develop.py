"""`script/dev`: the interface from its sources, and a server that starts again when a file of it changes."""

import os
from pathlib import Path
from unittest import TestCase

import httpx
from playwright.sync_api import expect

from normant_standin.postgres import free_port

from .houses import REPOSITORY, Demo, eventually
from .stage import browser


class Workshop(Demo):
    module = "normant_standin.develop"

    def __init__(self) -> None:
        super().__init__()
        self.web_port = free_port()
        self.more = ("--web-port", str(self.web_port))


class Developing(TestCase):
    def setUp(self) -> None:
        self.workshop = Workshop()
        self.addCleanup(self._stop)
        self.workshop.start()
        self.web = f"http://127.0.0.1:{self.workshop.web_port}"

    def _stop(self) -> None:
        """Nothing of it goes on."""
        self.workshop.stop()
        with self.assertRaises(httpx.ConnectError):
            httpx.get(self.web, trust_env=False)

    def _answers(self) -> bool:
        try:
            return httpx.get(f"{self.web}/api/v1/session", trust_env=False).is_success
        except httpx.HTTPError:
            return False

    def _server(self) -> int | None:
        """The server's process; None while it starts again."""
        try:
            return self.workshop.child("serve")
        except Exception:
            return None

    def test_people_sign_in_at_the_sources_and_a_change_starts_the_server_again(self) -> None:
        eventually(self._answers, 60)
        page = browser().new_page()
        self.addCleanup(page.close)
        page.goto(self.web)
        person = self.workshop.known["sign_ins"]["supervisor"]
        page.get_by_label("Name").fill(person["name"])
        page.get_by_label("Password").fill(person["password"])
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("link", name="Round")).to_be_visible()
        self.assertIn("/@vite/client", page.content())

        before = self._server()
        assert before
        source = REPOSITORY / "core" / "normant_core" / "rollout" / "report.py"
        self._touch(source)
        eventually(lambda: self._server() not in (None, before), 30)
        eventually(self._answers, 60)

    def _touch(self, source: Path) -> None:
        """Write it as it is, with the times that it had."""
        times = (source.stat().st_atime_ns, source.stat().st_mtime_ns)
        source.write_bytes(source.read_bytes())
        self.addCleanup(os.utime, source, ns=times)
