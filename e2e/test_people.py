"""People come, get tokens of their own, and are out at once."""

import re

import httpx
from playwright.sync_api import Page, expect

from .stage import Journey, browser

PASSWORD = "kelp-and-lanterns-4"


class People(Journey):
    role = "administrator"

    def beside(self) -> Page:
        """Somebody else's browser."""
        context = browser().new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(context.close)
        return context.new_page()

    def test_somebody_new_sets_a_password_by_a_link_and_is_out_once_disabled(self) -> None:
        self.page.get_by_role("link", name="People").click()
        expect(self.page.get_by_role("heading", name="People", exact=True)).to_be_visible()
        self.check_accessible()
        self.page.get_by_label("Name", exact=True).fill("wick")
        self.page.get_by_role("button", name="Add person and create link").click()
        link = self.page.locator("[data-link] .value").inner_text()
        row = self.page.locator("[data-person=wick]")
        expect(row).to_contain_text("no password yet")

        wick = self.beside()
        wick.goto(link)
        expect(wick.get_by_text("Choose a password for wick")).to_be_visible()
        wick.get_by_label("Password").fill(PASSWORD)
        wick.get_by_role("button", name="Save password").click()
        wick.get_by_role("link", name="Sign in").click()
        wick.get_by_label("Name").fill("wick")
        wick.get_by_label("Password").fill(PASSWORD)
        wick.get_by_role("button", name="Sign in").click()
        expect(wick.get_by_role("navigation")).to_be_visible()
        expect(wick.get_by_role("link", name="People")).to_have_count(0)

        row.get_by_role("button", name="Disable").click()
        expect(row).to_contain_text("disabled")
        expect(wick.get_by_role("button", name="Sign in")).to_be_visible()  # without a touch

    def test_the_last_administrator_stays(self) -> None:
        self.go("/people")
        row = self.page.locator("tr", has_text="(you)")
        row.get_by_role("button", name="Disable").click()
        expect(self.page.get_by_role("alert")).to_contain_text(re.compile("last administrator"))
        self.faults.clear()  # the browser tells of a refused request itself


class Account(Journey):
    def test_a_token_is_shown_once_and_withdrawn_in_one_act(self) -> None:
        self.go("/account")
        self.page.get_by_label("Purpose").fill("night script")
        self.page.get_by_role("button", name="Create token").click()
        token = self.page.locator("[data-token] .value").inner_text()
        self.check_accessible()

        def status(method: str, path: str) -> int:
            headers = {"Authorization": f"Bearer {token}"}
            address = self.demo.known["address"]
            return httpx.request(method, f"{address}/api/v1/{path}", headers=headers, trust_env=False).status_code

        self.assertEqual(status("GET", "seats"), 200)
        self.assertEqual(status("POST", "seats/pan-03/survey"), 403)
        self.go("/account")
        expect(self.page.locator("[data-token]")).to_have_count(0)
        row = self.page.get_by_role("listitem").filter(has_text="night script")
        row.get_by_role("button", name="Revoke").click()
        expect(row).to_have_count(0)
        self.assertEqual(status("GET", "seats"), 401)
