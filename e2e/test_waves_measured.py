"""A canary that is measured as it is and changed, before it is corrected."""

import re

from playwright.sync_api import expect

from .stage import Journey

SEATS = ("loft-05", "loft-06")


class Measured(Journey):
    seats = SEATS

    def test_it_plays_both_ways_first_and_the_report_holds_the_runs(self) -> None:
        for seat in SEATS:
            self.demo.standin("change", seat, "power.profile", "power-saver")
            self.demo.standin("idle", seat)
        self.go("/floor")
        for seat in SEATS:
            expect(self.level(seat, "Power")).to_have_accessible_name(re.compile("Power profile is power-saver"))
            self.seat(seat).get_by_role("checkbox").check()
        self.page.keyboard.press("c")
        plan = self.page.get_by_role("dialog")
        plan.get_by_text("Limits").click()
        plan.get_by_label("Measure canaries by").select_option("playback")
        expect(plan.locator("[data-order]")).to_contain_text("1 canary")
        self.check_accessible()
        plan.get_by_role("button", name="Start rollout").click()
        # Twenty real plays: a busy machine takes its time.
        expect(self.page.locator("[data-state=settled]")).to_have_count(2, timeout=120_000)
        faster = self.page.get_by_text(re.compile(r"plays \d+ % faster \(\d+ to \d+ %\)"))
        expect(faster).to_have_count(1)
        number = self.page.url.rsplit("/", 1)[1]
        report = self.demo.answer(f"/rollouts/{number}/report?form=json")
        [measured] = [seat["measured"] for seat in report["seats"] if seat["measured"]]
        self.assertEqual((measured["outcome"], len(measured["before"]), len(measured["after"])), ("better", 5, 5))
