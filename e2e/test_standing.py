"""How the house stands: what is accepted, the grid of drift, the standard it follows. These come after the record."""

import re

from playwright.sync_api import expect

from .stage import Journey


class T1Waive(Journey):
    def test_a_finding_is_waived_for_a_reason_prolonged_and_ended(self) -> None:
        self.go("/seats/rake-06")
        self.page.get_by_label("Select Driver branch").check()
        self.page.keyboard.press("w")
        sheet = self.page.get_by_role("dialog", name="Waive")
        expect(sheet.get_by_role("status")).to_contain_text("Covers 1 finding on rake-06")
        sheet.get_by_role("combobox").first.select_option("every seat: role comp")
        expect(sheet.get_by_role("status")).to_contain_text("Covers 2 findings on 2 seats")
        expect(sheet.get_by_role("button", name="Waive")).to_be_disabled()
        self.check_accessible()
        sheet.get_by_label("Why").fill("The new branch is on trial in the Rake Room")
        sheet.get_by_role("button", name="Waive").click()
        row = self.row("driver.branch")
        expect(row).to_have_attribute("data-status", "waived")
        expect(row).to_contain_text("on trial in the Rake Room, until")
        self.go("/floor")
        expect(self.level("rake-04", "Driver")).to_have_accessible_name(re.compile("waived: The new branch"))
        self.go("/drift/waivers")
        waiver = self.page.get_by_role("listitem").filter(has_text="role comp")
        expect(waiver).to_contain_text("covers 2 findings")
        was = waiver.get_by_text(re.compile("^ends")).inner_text()
        self.check_accessible()
        waiver.get_by_role("button", name="Longer").click()
        expect(waiver.get_by_text(was)).to_have_count(0)
        waiver.get_by_role("button", name="End now").click()
        expect(waiver).to_contain_text("by hand")
        self.go("/seats/rake-06")
        expect(row).to_have_attribute("data-status", "off-norm")

    def test_the_round_warns_of_one_that_ends(self) -> None:
        self.go("/")
        item = self.page.locator("li[data-kind=waiver]")
        expect(item).to_contain_text("A waiver ends: Preview pool of Plinthe on kiln-01")
        expect(item).to_contain_text("it ends tomorrow")
