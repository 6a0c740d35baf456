"""Errands: given in a plan, run with a phone in hand, proved by the seat itself."""

import re

from playwright.sync_api import expect

from .stage import Journey

SEAT, PHONE = "rake-06", {"width": 390, "height": 844}


class Given(Journey):
    def test_what_only_a_person_can_do_becomes_an_errand_with_its_sheet(self) -> None:
        self.go(f"/seats/{SEAT}")
        self.page.get_by_role("checkbox", name="Select Driver branch").check()
        self.page.keyboard.press("c")
        plan = self.page.get_by_role("dialog")
        expect(plan).to_contain_text("Errand: Change GPU driver branch to steady")
        plan.get_by_role("button", name="Create errand").click()
        errand = self.page.get_by_role("button", name=re.compile(f"{SEAT} Change GPU driver branch to steady"))
        errand.click()
        expect(self.page.locator("[data-errand]")).to_contain_text("as a way back")
        self.check_accessible()
        with self.demo.api() as api:
            self.assertEqual(api.get("/errands/sheet").content[:5], b"%PDF-")

    def test_one_in_own_words_is_put_on_the_list(self) -> None:
        self.go("/errands")
        self.page.get_by_role("button", name="Create errand").click()
        sheet = self.page.get_by_role("dialog")
        sheet.get_by_label("Seat").fill("pan-99")
        sheet.get_by_label("Task").fill("Take the fan out and clean it")
        sheet.get_by_label("Steps (one per line)").fill("Open the case\nTake the fan out")
        sheet.get_by_role("button", name="Create errand").click()
        expect(sheet.get_by_role("alert")).to_contain_text("there is no seat pan-99")
        self.faults.clear()  # the browser tells of the 422
        sheet.get_by_label("Seat").fill("pan-02")
        sheet.get_by_role("button", name="Create errand").click()
        self.page.get_by_role("button", name=re.compile("pan-02 Take the fan out")).click()
        self.page.get_by_label("Result").fill("it was broken, a new one is in")
        self.page.get_by_role("button", name="Mark as done").click()
        ended = self.page.get_by_role("region", name="Recently ended")
        expect(ended).to_contain_text("Take the fan out and clean it")


class Run(Journey):
    role = "assistant"
    seats = (SEAT,)

    def test_an_assistant_signs_it_off_and_the_seat_proves_it(self) -> None:
        findings = self.demo.answer(f"/findings?seat={SEAT}&status=open")["items"]
        drivers = [finding["id"] for finding in findings if finding["setting"] == "driver.branch"]
        [stop] = self.demo.post("/errands", {"findings": drivers})["stops"]
        number = stop["errands"][0]["id"]
        self.page.set_viewport_size(PHONE)
        self.go(f"/errands/{number}")
        expect(self.page.get_by_role("heading", level=1)).to_have_text("Change GPU driver branch to steady")
        self.page.get_by_role("button", name="Mark as done").click()
        expect(self.page.locator("[data-message]")).to_contain_text("but the survey of")
        self.check_accessible()

        self.demo.standin("driver", SEAT, "12.2.4", "steady")
        expect(self.page.locator("[data-message]")).to_contain_text(
            "Signed off by assistant, and the survey confirms it"
        )
