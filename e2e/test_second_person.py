"""In a house that asks for a second person, what one proposes another one carries out."""

from typing import ClassVar

from playwright.sync_api import Locator, Page, expect

from .stage import Journey, browser


def asked(page: Page, app: str) -> Locator:
    """What waits on the round for a second person; the demo's own packages wait there as well."""
    return page.locator("[data-proposal]").filter(has_text=f"sends the preference files of {app}")


class SecondPerson(Journey):
    env: ClassVar[dict[str, str]] = {"NORMANT_SECOND_PERSON": "1"}
    seats = ("pan-03",)

    def as_role(self, role: str) -> Page:
        """Another browser, in which somebody of that role stands on the round."""
        context = browser().new_context(
            viewport={"width": 1280, "height": 800}, storage_state=self.demo.signed_in(role)
        )
        self.addCleanup(context.close)
        page = context.new_page()
        page.goto(self.demo.known["address"])
        expect(page.get_by_role("navigation")).to_be_visible()
        return page

    def propose(self, app: str) -> None:
        """Ask for a seat's files, as somebody does who teaches a dialect."""
        with self.demo.api() as api:
            self.assertEqual(api.post(f"/dialects/{app}/watch", json={"seat": "pan-03"}).status_code, 202)

    def orders(self) -> list[str]:
        """Acts of the ledger that ask a seat for its files."""
        entries = self.demo.answer("/ledger?limit=50")["items"]
        return [entry["subject"] for entry in entries if entry["action"] == "watch seat"]

    def test_who_proposes_does_not_approve_and_another_does(self) -> None:
        self.propose("corrow")
        own = asked(self.page, "corrow")
        own.locator("summary").click()
        expect(own).to_contain_text("pan-03")
        expect(own.get_by_role("button", name="Approve")).to_have_count(0)
        self.check_accessible()
        self.assertEqual(self.orders(), [])

        viewer = asked(self.as_role("viewer"), "corrow")
        viewer.locator("summary").click()
        expect(viewer.get_by_role("button")).to_have_count(0)

        theirs = asked(self.as_role("administrator"), "corrow")
        theirs.locator("summary").click()
        theirs.get_by_role("button", name="Approve").click()
        expect(theirs).to_have_count(0)
        expect(own).to_have_count(0)  # told, not asked for
        self.assertEqual(self.orders(), ["pan-03"])

    def test_who_proposes_may_withdraw_it(self) -> None:
        self.propose("glaize")
        own = asked(self.page, "glaize")
        own.locator("summary").focus()
        self.page.keyboard.press("Enter")
        own.get_by_role("button", name="Withdraw proposal").focus()
        self.page.keyboard.press("Enter")
        expect(own).to_have_count(0)
        decided = [proposal for proposal in self.demo.answer("/proposals")["items"] if proposal["approved"] is False]
        self.assertEqual([proposal["decided_by"] for proposal in decided], ["supervisor"])
