"""A driver by rollout: the package of the house, leave to start again, and the way back."""

import re
from typing import Any

from playwright.sync_api import expect

from .stage import Journey

SEAT, APP, BRANCH = "kiln-02", "corrow", "driver.branch"


class Driver(Journey):
    seats = (SEAT,)

    def setUp(self) -> None:
        """The seat's driver came in by itself, and its editor works in an application."""
        super().setUp()
        self.demo.standin("driver", SEAT, "31.4.2", "steady")
        with self.demo.api() as api:
            self.wanted = self._of_norm(api.get(f"/seats/{SEAT}").json())
        other = ("32.0.1", "swift") if self.wanted == "steady" else ("31.4.2", "steady")
        self.demo.standin("driver", SEAT, *other)
        self.demo.standin("open", SEAT, APP)
        self.addCleanup(self.demo.standin, "answers", SEAT, "")
        self.went_out, self.comes_in = other[0], "31.4.2" if self.wanted == "steady" else "32.0.1"

    @staticmethod
    def _of_norm(seat: dict[str, Any]) -> str:
        rows = [row for family in seat["families"] for row in family["rows"]]
        return "swift" if "swift" in next(row["norm"] for row in rows if row["setting"] == BRANCH) else "steady"

    def test_it_is_installed_with_leave_and_put_back(self) -> None:
        self.go(f"/seats/{SEAT}")
        self.page.get_by_role("checkbox", name="Select Driver branch").check()
        self.page.keyboard.press("c")
        plan = self.page.get_by_role("dialog")
        expect(plan).to_contain_text("the machine restarts once")
        expect(plan.get_by_role("row", name=re.compile(f"{self.went_out} {self.comes_in}"))).to_be_visible()
        plan.get_by_role("button", name="Start rollout").click()
        expect(self.track(SEAT)).to_contain_text("waiting for an answer at the seat")
        self.demo.standin("answers", SEAT, "agreed")
        expect(self.track(SEAT)).to_have_attribute("data-state", "settled")
        self._check_driver(self.comes_in)

        self.page.get_by_role("button", name="Put everything back").click()
        expect(self.page.get_by_role("heading", level=1)).to_contain_text("Put back")
        expect(self.track(SEAT)).to_have_attribute("data-state", "settled")
        self._check_driver(self.went_out)

    def _check_driver(self, version: str) -> None:
        facts = self.demo.answer(f"/seats/{SEAT}")["facts"]
        self.assertEqual(facts["gpus"][0]["driver"]["version"], version)

    def test_packages_are_approved_and_withdrawn(self) -> None:
        self.go("/rollouts")
        part = self.page.get_by_text("Driver packages")
        part.click()
        section = self.page.locator("[data-packages]")
        expect(section.locator("[data-package]")).to_have_count(2)
        if not section.get_by_label("Version").is_visible():  # what stands above came in under the click
            part.click()
        section.get_by_label("GPUs (comma-separated)").fill("Ostrane R7")
        section.get_by_label("Version").fill("newest")
        installer = {"name": "ostrane.json", "mimeType": "application/json", "buffer": b'{"version":"12.1.0"}'}
        section.get_by_label("Installer").set_input_files(installer)  # type: ignore[arg-type]
        section.get_by_role("button", name="Approve package").click()
        expect(section.get_by_role("alert")).to_contain_text("'newest': expected")
        self.faults.clear()  # the browser tells of the 422
        section.get_by_label("Version").fill("12.1.0")
        section.get_by_role("button", name="Approve package").click()
        expect(section.locator("[data-package='ostrane.json']")).to_contain_text("Ostrane R7")
        self.check_accessible()
        section.get_by_role("button", name="Delete ostrane.json").click()
        expect(section.locator("[data-package]")).to_have_count(2)
