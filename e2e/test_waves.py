"""Rollouts in waves: canaries go ahead, and what stops them keeps the others from beginning."""

import re

from playwright.sync_api import expect

from .houses import REPOSITORY
from .stage import Journey

PACKAGES = REPOSITORY / "demo" / "brinehouse"


class Waves(Journey):
    seats = ("rake-01", "rake-02", "rake-03")

    def test_a_canary_that_stops_halts_the_rest_until_somebody_has_looked(self) -> None:
        self.demo.standin("change", "rake-03", "memory.held_back", "8 GiB", "--app", "plinthe")
        for seat in ("rake-01", "rake-02"):
            self.demo.standin("change", seat, "playback.keep", "real-time", "--app", "plinthe")
        self.go("/floor")
        expect(self.level("rake-03", "Memory")).to_have_accessible_name(re.compile("Memory reserve is 8 GiB"))
        for seat in ("rake-01", "rake-02"):
            self.go(f"/seats/{seat}")
            expect(self.row("playback.keep", "plinthe")).to_have_attribute("data-status", "off-norm")
        self.go("/floor")
        for seat in ("rake-01", "rake-02", "rake-03"):
            self.seat(seat).get_by_role("checkbox").check()
        self.page.keyboard.press("c")
        plan = self.page.get_by_role("dialog", name=re.compile("^Plan: 4 changes on 3 seats"))
        order = plan.locator("[data-order]")
        expect(order).to_contain_text("1 canary covers all 2 combinations that seats share; this is the minimum.")
        plan.get_by_text("Limits").click()
        plan.get_by_role("checkbox", name="Canaries first").uncheck()
        expect(order).to_have_text("3 seats in 1 wave.")
        plan.get_by_role("checkbox", name="Canaries first").check()
        plan.get_by_role("spinbutton", name="Halt at failed seats per wave").fill("1")
        self.page.keyboard.press("Tab")
        expect(order).to_contain_text("Then 2 seats in 1 wave.")
        self.check_accessible()
        plan.get_by_role("button", name="Start rollout").click()

        expect(self.track("rake-02")).to_have_attribute("data-state", "stopped")
        expect(self.track("rake-03")).to_have_attribute("data-state", "halted")
        expect(self.page.locator("[data-reason]")).to_contain_text("rake-02 of the canaries stopped")
        self.check_accessible()
        self.go("/")
        halted = self.page.locator("li[data-kind=halted]")
        expect(halted).to_contain_text("no more seats start until a person has checked")
        halted.get_by_role("link", name="Open rollout").click()
        self.page.get_by_role("button", name="Resume").click()
        expect(self.track("rake-03")).to_have_attribute("data-state", "settled")
        expect(self.page.locator("[data-reason]")).to_have_count(0)

        self.track("rake-03").get_by_role("button", name="rake-03").click()
        self.page.get_by_role("button", name="Put rake-03 back").click()
        expect(self.page.get_by_role("heading", name=re.compile("^Put back: "))).to_be_visible()
        expect(self.page.locator("li.track")).to_have_count(1)
        expect(self.track("rake-03")).to_contain_text("put back byte for byte")

        self.page.go_back()
        self.page.get_by_role("button", name="Put the canaries back").click()
        expect(self.page.get_by_role("heading", name=re.compile("^Put back: "))).to_be_visible()
        expect(self.track("rake-02")).to_have_attribute("data-state", "settled")
