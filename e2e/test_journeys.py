"""What a supervisor does on a working day."""

import json
import re
from typing import ClassVar

from playwright.sync_api import expect

from .houses import REPOSITORY, eventually
from .stage import Journey

SURVEY = json.loads((REPOSITORY / "docs" / "examples" / "pan-03.survey.json").read_bytes())
CORROW, PLINTHE = "corrow/8/preferences.xml", "plinthe/9/bench.json"


class Floor(Journey):
    seats = ("weigh-01",)

    def test_every_seat_stands_in_their_rooms_with_five_levels(self) -> None:
        self.go("/floor")
        expect(self.page.locator("li[data-seat]")).to_have_count(28)
        pan_house = self.page.get_by_role("region", name="Pan House")
        expect(pan_house.locator("li[data-seat]")).to_have_count(8)
        expect(self.seat("pan-03").get_by_role("img")).to_have_count(5)
        expect(self.level("pan-03", "Engine")).to_have_accessible_name(
            re.compile("Effects engine is cpu, house standard: one of")
        )
        self.check_accessible()

    def test_a_seat_that_changes_by_itself_changes_on_the_screen(self) -> None:
        self.go("/floor")
        expect(self.level("weigh-01", "Power")).to_have_accessible_name("Power: in norm")
        self.demo.standin("change", "weigh-01", "power.profile", "balanced")
        expect(self.level("weigh-01", "Power")).to_have_accessible_name(re.compile("is balanced"))
        self.demo.standin("change", "weigh-01", "power.profile", "performance")
        expect(self.level("weigh-01", "Power")).to_have_accessible_name("Power: in norm")

    def test_keys_walk_select_filter_and_open(self) -> None:
        self.go("/floor?role=offline")
        expect(self.page.locator("li[data-seat]")).to_have_count(8)
        self.page.get_by_role("link", name="pan-01").focus()
        self.page.keyboard.press("ArrowRight")
        self.page.keyboard.press("Space")
        expect(self.page.get_by_role("region", name="Selection")).to_contain_text("1 seat, 1 setting off norm")
        self.page.keyboard.press("Escape")
        expect(self.page.get_by_role("region", name="Selection")).to_have_count(0)
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("heading", name="pan-02")).to_be_visible()
        self.page.keyboard.press("/")
        self.page.keyboard.type("weigh")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("heading", name="weigh-01")).to_be_visible()
        self.page.keyboard.press("?")
        expect(self.page.get_by_role("dialog", name="Keyboard shortcuts")).to_be_visible()


class Seat(Journey):
    seats = ("pan-01",)

    def test_a_reading_shows_its_norm_where_that_comes_from_and_the_native_line(self) -> None:
        self.go("/seats/pan-03")
        row = self.row("memory.held_back", "corrow")
        for words in ("1.5 GiB", "at least 6.4 GiB", "Whole facility", "since"):
            expect(row).to_contain_text(words)
        row.get_by_role("button").click()
        expect(self.page.locator("[data-native]")).to_have_text(f"{CORROW}, line 7")
        expect(self.page.get_by_role("region", name="Machine")).to_contain_text("Hadrel H60")
        self.check_accessible()

    def test_a_seat_that_is_not_there_says_so(self) -> None:
        self.go("/seats/pan-99")
        expect(self.page.get_by_role("alert")).to_contain_text("there is no seat pan-99")
        self.faults.clear()  # the browser tells of the 404

    def test_the_seat_is_read_when_it_is_asked_to(self) -> None:
        self.go("/seats/pan-01")
        self.page.get_by_role("button", name="Survey now").click()
        expect(self.page.get_by_text("survey requested")).to_be_visible()
        done = {"actor": "agent pan-01", "action": "survey_now"}
        eventually(lambda: any(done.items() <= e.items() for e in self.demo.answer("/ledger")["items"]))


class Record(Journey):
    def test_a_seat_is_shown_as_it_was(self) -> None:
        self.go("/seats/pan-05")
        expect(self.page.get_by_text("no changes; current state")).to_be_visible()
        self.go("/seats/pan-02")
        change = self.page.get_by_role("button", name=re.compile("at the seat: Corrow preview pool: 16 GiB to 256 MiB"))
        self.page.get_by_text("All changes, newest first").click()
        change.click()
        pool = self.row("memory.preview_pool", "corrow")
        expect(pool).to_contain_text("256 MiB")
        self.page.get_by_label("as of").focus()
        self.page.keyboard.press("ArrowLeft")
        self.page.keyboard.press("ArrowLeft")
        expect(pool).to_contain_text("16 GiB")
        expect(self.page.get_by_text("state at")).to_be_visible()
        expect(self.page.get_by_role("button", name="Correct")).to_have_count(0)
        self.check_accessible()
        self.page.get_by_role("button", name="Back to now").click()
        expect(pool).to_contain_text("256 MiB")

    def test_two_seats_that_should_play_alike_differ_by_this(self) -> None:
        self.go("/seats/pan-02")
        self.page.get_by_role("link", name="Compare").click()
        expect(self.page.locator("[data-sentence]")).to_contain_text("Most likely Corrow preview pool: 256 MiB here")
        self.page.get_by_label("Compare with").select_option("kiln-03")
        expect(
            self.page.get_by_role("table", name="Differences").get_by_role("row", name=re.compile("^Driver"))
        ).to_have_count(0)
        self.page.get_by_role("button", name=re.compile("^Show [0-9]+ more$")).click()
        expect(self.page.get_by_role("row", name=re.compile("Memory total 64 GiB 128 GiB"))).to_be_visible()
        self.check_accessible()
        self.page.get_by_label("Compare with").select_option("itself, earlier")
        self.page.get_by_role("button", name="29 days ago").click()
        expect(self.page.locator("[data-sentence]")).to_contain_text("256 MiB here, 16 GiB there")


class Correction(Journey):
    env: ClassVar[dict[str, str]] = {"NORMANT_HEARTBEAT": "10"}  # loft-02 is not heard, and is said to be offline soon
    seats = ("pan-02", "pan-03", "pan-04", "loft-02", "rake-02")

    def test_from_the_plan_to_the_beads_to_putting_back(self) -> None:
        before = {seat: self.demo.file(seat, CORROW) for seat in ("pan-02", "pan-03", "pan-04", "loft-02")}
        before["rake-02"] = self.demo.file("rake-02", PLINTHE)

        self.go("/floor")
        for seat in ("pan-02", "pan-03", "pan-04", "loft-02", "rake-02"):
            self.seat(seat).get_by_role("checkbox").check()
        self.page.keyboard.press("c")
        plan = self.page.get_by_role("dialog", name=re.compile("^Plan: "))
        expect(plan).to_contain_text("Corrow must be closed once")
        equal = plan.get_by_role("table", name="Changes").get_by_role("row", name=re.compile("^Memory reserve, Corrow"))
        expect(equal.filter(has_text="1.5 GiB")).to_contain_text("6.4 GiB")
        native = plan.get_by_role("row", name=re.compile("Memory reserve, Corrow 1.5 GiB → 6.4 GiB"))
        for written in ("1536", "6554"):
            expect(native).to_contain_text(written)
        self.check_accessible()
        plan.get_by_text("Limits").click()
        plan.get_by_role("checkbox", name="Canaries first").uncheck()
        expect(plan.locator("[data-order]")).to_have_text("5 seats in 1 wave.")
        plan.get_by_role("button", name="Start rollout").click()

        expect(self.track("pan-03")).to_have_attribute("data-state", "settled")
        expect(self.track("rake-02")).to_have_attribute("data-state", "stopped")
        expect(self.track("rake-02")).to_contain_text("accepted as 5 GiB, asked for 3 GiB")
        expect(self.track("pan-04")).to_contain_text("Corrow is open with unsaved work; waiting")
        expect(self.track("loft-02")).to_contain_text("offline: continues")
        self.check_accessible()
        self.assertEqual(self.demo.file("pan-04", CORROW), before["pan-04"])
        self.assertIn(b"<spare>6554</spare>", self.demo.file("pan-03", CORROW))

        self.demo.standin("busy", "pan-04")
        self.demo.standin("online", "loft-02")
        expect(self.track("loft-02")).to_have_attribute("data-state", "settled")
        self.demo.standin("idle", "pan-04")
        expect(self.track("pan-04")).to_have_attribute("data-state", "settled")
        findings = self.demo.answer("/findings?seat=rake-02&status=open")["items"]
        self.assertEqual([f["verdict"]["reading_shown"] for f in findings], ["5 GiB"])

        self.page.get_by_role("button", name="Put everything back").click()
        expect(self.page.get_by_role("heading", name=re.compile("^Put back: "))).to_be_visible()
        for seat, bytes_before in before.items():
            expect(self.track(seat)).to_have_attribute("data-state", "settled")
            expect(self.track(seat)).to_contain_text("put back byte for byte")
            self.assertEqual(self.demo.file(seat, PLINTHE if seat == "rake-02" else CORROW), bytes_before, seat)
        self._read_what_was_written_down()

    def _read_what_was_written_down(self) -> None:
        self.go("/ledger")
        for words in ("started rollout 1 on 5 seats", "put rollout 1 back"):
            expect(self.page.get_by_role("row", name=re.compile(f"supervisor {words}")).first).to_be_visible()
        row = self.page.get_by_role("row", name=re.compile("agent rake-02 set preferences on rake-02"))
        expect(row).to_contain_text("5 GiB")
        self.go("/rollouts")
        expect(self.page.get_by_role("link", name=re.compile("^Put back: "))).to_be_visible()
        self.check_accessible()

    def test_readings_are_chosen_on_the_seat(self) -> None:
        self.go("/seats/loft-01")
        self.page.get_by_role("checkbox", name="Select Power profile").check()
        self.page.keyboard.press("c")
        expect(self.page.get_by_role("dialog")).to_contain_text("power-saver")
        self.page.keyboard.press("Escape")
        expect(self.page.get_by_role("dialog")).to_have_count(0)


class Standard(Journey):
    def test_an_edition_says_what_it_would_do_and_does_it(self) -> None:
        self.go("/standard")
        words = "Memory reserve is at least 4 GiB or 10 % of installed memory, whichever is more"
        expect(self.page.get_by_text(words)).to_be_visible()
        self.check_accessible()
        self.page.get_by_role("button", name="Text").click()
        self.page.locator(".cm-line", has_text='want = "steady"').click()
        self.page.keyboard.press("End")
        for _ in "steady'":
            self.page.keyboard.press("Backspace")
        impact = self.page.locator("[data-impact]")
        expect(impact).to_contain_text("This text cannot be published")
        self.page.keyboard.type('swift"')
        expect(impact).to_contain_text("This would open 24 findings on 24 seats and close 4 findings on 4 seats")
        self.faults.clear()  # the browser reports each 422 while the line was being typed
        self.check_accessible()
        self.page.get_by_label("Note").fill("the other branch")
        self.page.get_by_role("button", name="Publish edition 2").click()
        # The button says the number too: only the line under the heading tells that it is published, and leaving
        # earlier cancels it.
        expect(self.page.locator("h1 + p")).to_contain_text(re.compile("^edition 2, "))
        self.go("/floor")
        expect(self.level("weigh-01", "Driver")).to_have_accessible_name(re.compile("house standard: swift"))
        expect(self.level("rake-04", "Driver")).to_have_accessible_name("Driver: in norm")


class RoundAndLedger(Journey):
    def test_the_round_groups_by_cause_under_its_sentence(self) -> None:
        self.go("/")
        expect(self.page.get_by_role("heading", level=1)).to_contain_text("went off norm")
        cause = self.page.get_by_role("button", name=re.compile("^Driver branch is swift on"))
        cause.click()
        expect(self.page.get_by_role("row", name=re.compile("rake-06"))).to_contain_text("swift")
        self.check_accessible()

    def test_the_ledger_says_who_did_what_and_is_filtered(self) -> None:
        errand = {"seat": "pan-02", "does": "Look at the cable", "steps": ["Follow it"]}
        self.demo.post("/errands/by-hand", errand)
        self.go("/ledger")
        given = self.page.get_by_role("row", name=re.compile("supervisor created an errand at pan-02"))
        published = self.page.get_by_role("row", name=re.compile("published edition 1 of the standard"))
        expect(given).to_be_visible()
        self.check_accessible()
        self.page.get_by_role("combobox", name="Action").select_option("publish edition")
        expect(published).to_be_visible()
        expect(given).to_have_count(0)
        self.page.get_by_role("textbox", name="Seat").fill("weigh-01")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_text("No matching entries.")).to_be_visible()
        self.page.get_by_role("link", name="Clear filters").click()
        expect(given).to_be_visible()


class Editor(Journey):
    role = "editor"

    def test_an_editor_sees_their_seat_and_changes_nothing(self) -> None:
        self.go("/floor")
        expect(self.page.locator("li[data-seat]")).to_have_count(1)
        self.page.get_by_role("link", name="pan-03").click()
        expect(self.row("memory.held_back", "corrow")).to_be_visible()
        expect(self.page.get_by_role("button", name="Correct")).to_have_count(0)
        expect(self.page.get_by_role("checkbox")).to_have_count(0)

    def test_what_is_not_theirs_says_so(self) -> None:
        self.go("/ledger")
        expect(self.page.get_by_role("alert")).to_contain_text("do not have permission to see")
        self.faults.clear()  # the browser tells of the 403


class SignIn(Journey):
    def test_out_and_in_again(self) -> None:
        self.page.get_by_role("button", name="Sign out").click()
        self.page.get_by_label("Password").fill("guessed")
        self.page.get_by_label("Name").fill("supervisor")
        self.check_accessible()
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_role("alert")).to_have_text("wrong name or password")
        self.faults.clear()  # the browser tells of the 401


class Enrolment(Journey):
    def test_a_code_is_made_for_a_new_seat(self) -> None:
        self.go("/floor")
        self.page.get_by_role("button", name="Enrol seat").click()
        self.check_accessible()
        self.page.get_by_label("Seat name").fill("trolley")
        self.page.get_by_label("Room", exact=True).fill("Kiln")
        self.page.get_by_role("button", name="Create code").click()
        expect(self.page.locator("[data-code]")).to_contain_text("normant enrol http://127.0.0.1")
        self.page.keyboard.press("Escape")
        expect(self.seat("trolley")).to_contain_text("no survey yet")


class Everywhere(Journey):
    role = "viewer"

    def test_a_viewer_reads_the_standard_and_cannot_change_it(self) -> None:
        self.go("/standard?as=text")
        expect(self.page.get_by_text("Only supervisors may change the standard")).to_be_visible()
        self.page.locator(".cm-content").click()
        self.page.keyboard.type("x")
        expect(self.page.get_by_role("button", name=re.compile("^Publish"))).to_have_count(0)

    def test_the_theme_stays_as_it_was_chosen(self) -> None:
        self.page.get_by_role("button", name="Use dark theme").click()
        self.page.reload()
        expect(self.page.locator("html")).to_have_attribute("data-theme", "night")

    def test_a_phone_shows_a_seat_without_scrolling_sideways(self) -> None:
        self.page.set_viewport_size({"width": 390, "height": 844})
        for path in ("/seats/pan-03", "/floor", "/", "/rollouts"):
            self.go(path)
            expect(self.page.get_by_role("heading", level=1)).to_be_visible()
            width = self.page.evaluate("document.documentElement.scrollWidth")
            self.assertLessEqual(width, 390, path)
        self.go("/seats/pan-03")
        self.row("memory.held_back", "corrow").get_by_role("button").click()
        expect(self.page.locator("[data-native]")).to_be_visible()
        self.check_accessible()

    def test_filters_stay_in_the_address(self) -> None:
        self.go("/floor")
        self.page.get_by_label("production").select_option("Nine Lamps")
        expect(self.page.locator("li[data-seat]")).to_have_count(6)
        self.page.reload()
        expect(self.page.locator("li[data-seat]")).to_have_count(6)
        self.go("/floor?role=comp&production=Nine+Lamps")
        expect(self.page.get_by_text("No seats match these filters")).to_be_visible()

    def test_an_address_that_leads_nowhere_says_so(self) -> None:
        self.go("/nowhere")
        expect(self.page.get_by_role("heading", name="Page not found")).to_be_visible()
        self.page.get_by_role("link", name="floor", exact=True).click()
        expect(self.page.locator("li[data-seat=pan-01]")).to_be_visible()

    def test_a_level_says_reading_norm_distance_and_since(self) -> None:
        self.go("/seats/pan-03")
        spoken = self.row("memory.held_back", "corrow").get_by_role("img")
        words = "Memory reserve is 1.5 GiB, house standard: at least 6.4 GiB, 4.3 times too small, since "
        expect(spoken).to_have_accessible_name(re.compile(f"^{re.escape(words)}"))
