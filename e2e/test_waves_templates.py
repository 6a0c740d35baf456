"""The house's template placed by rollout, and the seat's own put back."""

from playwright.sync_api import expect

from .houses import REPOSITORY, eventually
from .stage import Journey

SEAT, FILE = "pan-06", "corrow/8/templates/house.xml"
HOUSE = (REPOSITORY / "demo" / "brinehouse" / "templates" / "house.xml").read_bytes()


class Placed(Journey):
    seats = (SEAT,)

    def has_finding(self) -> bool:
        """Whether the seat's own template is off norm by now."""
        open_ = self.demo.answer(f"/findings?status=open&seat={SEAT}&limit=1000")["items"]
        return any(finding["setting"] == "project.engine" for finding in open_)

    def test_it_takes_the_place_of_the_seats_own_and_goes_again(self) -> None:
        eventually(self.has_finding)  # the view reads it once, and seats have just come
        own = self.demo.file(SEAT, FILE)
        self.assertNotEqual(own, HOUSE)
        self.go("/standard/templates")
        apart = self.page.locator("[data-template='House picture'] [data-apart]").filter(has_text=f"cpu on {SEAT}")
        apart.get_by_role("button", name="Plan correction").click()
        plan = self.page.get_by_role("dialog")
        expect(plan).to_contain_text("the whole file is replaced after a backup")
        plan.get_by_role("button", name="Dry run").click()
        expect(plan).to_contain_text("the whole file would be replaced")
        self.assertEqual(self.demo.file(SEAT, FILE), own)
        self.check_accessible()
        plan.get_by_role("button", name="Start rollout").click()
        expect(self.track(SEAT)).to_have_attribute("data-state", "settled")
        self.assertEqual(self.demo.file(SEAT, FILE), HOUSE)

        self.page.get_by_role("button", name="Put everything back").click()
        expect(self.page.get_by_role("heading", level=1)).to_contain_text("Put back")
        expect(self.track(SEAT)).to_have_attribute("data-state", "settled")
        self.assertEqual(self.demo.file(SEAT, FILE), own)
