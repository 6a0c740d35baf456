"""A plan that is named, kept, opened again, and copied from the rollout that it became."""

import datetime as dt
import re

from playwright.sync_api import expect

from .houses import eventually
from .stage import Journey

SEATS, POWER = ("weigh-01", "sluice-01"), "power.profile"


class Kept(Journey):
    seats = SEATS

    def test_a_plan_is_kept_carried_out_and_planned_again(self) -> None:
        for seat in SEATS:
            self.demo.standin("change", seat, POWER, "power-saver")
        eventually(lambda: all(self._off(seat) for seat in SEATS))
        self.go("/floor")
        for seat in SEATS:
            self.seat(seat).get_by_role("checkbox").check()
        self.page.keyboard.press("c")
        plan = self.page.get_by_role("dialog")
        plan.get_by_role("button", name="Skip sluice-01").click()
        expect(self.page.get_by_role("dialog", name="Plan: 1 change on 1 seat")).to_be_visible()
        plan.get_by_label("Name", exact=True).fill("Weigh House awake")
        plan.get_by_role("button", name="Save plan").click()
        expect(plan.get_by_role("status").filter(has_text="Saved as Weigh House awake.")).to_be_visible()
        self.check_accessible()
        plan.get_by_role("button", name="Cancel").click()

        self.go("/rollouts")
        kept_plan = self.page.locator("[data-kept='Weigh House awake']")
        expect(kept_plan).to_contain_text(re.compile(r"readings? on 1\s+seat, \d off norm now"))
        kept_plan.get_by_role("button", name="Open").click()
        self.page.get_by_role("button", name="Start rollout").click()
        expect(self.page.get_by_role("heading", level=1)).to_have_text("Weigh House awake")
        expect(self.track("weigh-01")).to_have_attribute("data-state", "settled")
        lasting = self.page.locator("[data-stayed='power.profile']")
        expect(lasting).to_contain_text("–")

        self.demo.standin("change", "weigh-01", POWER, "balanced")
        expect(lasting).to_contain_text("weigh-01 at the seat, 1 time")
        self.page.get_by_role("button", name="Create new plan").click()
        expect(self.page.get_by_label("Name", exact=True)).to_have_value("Weigh House awake")
        self.page.get_by_role("button", name="Start rollout").click()
        expect(self.track("weigh-01")).to_have_attribute("data-state", "settled")
        self.demo.standin("change", "sluice-01", POWER, "performance")

    def _off(self, seat: str) -> bool:
        findings = self.demo.answer(f"/findings?status=open&seat={seat}")["items"]
        return any(finding["setting"] == POWER for finding in findings)

    def test_a_plan_is_tried_on_its_seats_and_nothing_is_touched(self) -> None:
        self.demo.standin("change", "weigh-01", POWER, "balanced")
        self.addCleanup(self.demo.standin, "change", "weigh-01", POWER, "performance")
        eventually(lambda: self._off("weigh-01"))
        self.go("/seats/weigh-01")
        self.page.get_by_role("checkbox", name="Select Power profile").check()
        self.page.keyboard.press("c")
        self.page.get_by_role("button", name="Dry run").click()
        tried = self.page.locator("[data-rehearsed]")
        expect(tried).to_contain_text("1 seat: 1 answered: 1 would be done. No files were changed.")
        expect(tried).to_contain_text("Power profile: would be done")
        self.check_accessible()
        self.assertTrue(self._off("weigh-01"))

    def test_everything_is_planned_for_tonight(self) -> None:
        self.go("/")
        self.page.get_by_role("button", name="Plan all corrections for tonight").click()
        plan = self.page.get_by_role("dialog")
        expect(plan.get_by_role("radio", name="Tonight")).to_be_checked()
        plan.get_by_text("Limits").click()
        expect(plan.get_by_label("Finished by")).not_to_have_value("")
        plan.get_by_role("radio", name="At a time").check()
        expect(plan.get_by_label("Start", exact=True)).not_to_have_value("")
        plan.get_by_role("radio", name="Now").check()
        expect(plan.get_by_label("Finished by")).to_have_value("")
        expect(plan.get_by_role("button", name="Start rollout")).to_be_enabled()


class FarAway(Journey):
    """A browser on the other side of the world shows and reads times as the facility's clocks have them."""

    seats = ("weigh-01",)
    browser_time_zone = "Pacific/Auckland"

    def test_a_rollout_starts_at_the_facilitys_time(self) -> None:
        self.demo.standin("change", "weigh-01", POWER, "power-saver")
        eventually(lambda: self.demo.answer("/findings?status=open&seat=weigh-01")["items"])
        tomorrow = (dt.datetime.now(dt.UTC) + dt.timedelta(days=1)).replace(hour=21, minute=30, second=0, microsecond=0)
        self.go("/seats/weigh-01")
        self.page.get_by_role("checkbox", name="Select Power profile").check()
        self.page.keyboard.press("c")
        plan = self.page.get_by_role("dialog")
        expect(plan).to_contain_text("Times: UTC")
        plan.get_by_role("radio", name="At a time").check()
        plan.get_by_label("Start", exact=True).fill(f"{tomorrow:%Y-%m-%dT%H:%M}")
        plan.get_by_label("Start", exact=True).blur()
        plan.get_by_role("button", name="Start rollout").click()
        expect(self.page.get_by_text(f"Starts {tomorrow:%a} 21:30 (UTC)")).to_be_visible()
        expect(self.track("weigh-01")).to_contain_text(f"{tomorrow:%a} 21:30")
        rollout = self.demo.answer("/rollouts/" + self.page.url.rsplit("/", 1)[1])
        self.assertEqual(dt.datetime.fromisoformat(rollout["starts_at"]), tomorrow)
