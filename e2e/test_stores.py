"""Stores in the real interface: what fills first, its year, and the way there from the round."""

import re

from playwright.sync_api import expect

from .stage import Journey, as_written

load_tests = as_written(__name__)


class Volumes(Journey):
    def test_the_volume_that_fills_stands_first_and_opens_with_its_year(self) -> None:
        self.go("/stores")
        filling = self.page.get_by_role("region", name="They fill")
        line = filling.get_by_role("listitem").filter(has_text="loft-03")
        expect(line).to_contain_text(re.compile(r"It grows by 12\.0 GB a day: full on"), timeout=90_000)
        button = line.get_by_role("button", name=re.compile("^loft-03 .fast"))
        button.focus()
        self.page.keyboard.press("Enter")
        expect(button).to_have_attribute("aria-expanded", "true")
        expect(line.get_by_role("row", name=re.compile("source cache of Corrow .* 240 GB"))).to_be_visible()
        expect(line.get_by_role("img", name=re.compile("^Used of .fast: .* of 500 GB"))).to_be_visible()
        self.check_accessible()
        self.page.reload()
        expect(button).to_have_attribute("aria-expanded", "true")

    def test_a_seat_says_where_its_stores_lie_best_and_how_they_come_there(self) -> None:
        self.go("/stores?open=loft-03/v1")
        self.page.get_by_role("link", name="Where its stores lie best").click()
        expect(self.page.get_by_role("heading", name="Where the stores of loft-03 lie best")).to_be_visible()
        self.page.get_by_role("combobox", name="Seat").select_option("pan-03")
        row = self.page.get_by_role("row", name=re.compile("^source cache of Corrow"))
        expect(row).to_contain_text("/ (v0)")
        expect(row).to_contain_text("/fast (v1)")
        expect(self.page.get_by_text("lies on the system's volume v0")).to_be_visible()
        move = self.page.get_by_role("listitem").filter(has_text="88 GB")
        expect(move).to_contain_text(re.compile("free then: / .*, /fast"))
        self.check_accessible()

    def test_the_round_leads_to_it(self) -> None:
        self.go("/")
        item = self.page.get_by_role("listitem").filter(has_text="/fast of loft-03 fills within a week")
        item.get_by_role("link", name="Look at the volume").click()
        expect(self.page.get_by_role("button", name=re.compile("^loft-03 .fast"))).to_have_attribute(
            "aria-expanded", "true"
        )
