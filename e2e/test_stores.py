"""Stores in the real interface: what fills first, its year, and the way there from the round."""

import re

from playwright.sync_api import expect

from .houses import eventually
from .stage import Journey

AMISS = "Remaining problems: Corrow source cache is on the system volume v0; the house standard does not allow"


class StoresJourney(Journey):
    def drop_errand(self) -> None:
        """Of the errand that is shown nobody has to do anything."""
        self.demo.post(f"/errands/{self.page.url.rpartition('/')[2]}/drop", {"why": "shown"})


class Volumes(StoresJourney):
    def test_the_volume_that_fills_stands_first_and_opens_with_its_year(self) -> None:
        self.go("/stores")
        filling = self.page.get_by_role("region", name="Filling up")
        line = filling.get_by_role("listitem").filter(has_text="loft-03")
        expect(line).to_contain_text(re.compile(r"Grows by 12\.0 GB a day: full on"), timeout=90_000)
        button = line.get_by_role("button", name=re.compile("^loft-03 .fast"))
        button.focus()
        self.page.keyboard.press("Enter")
        expect(button).to_have_attribute("aria-expanded", "true")
        row = line.get_by_role("row", name=re.compile("Corrow source cache .* 240 GB"))
        expect(row).to_contain_text("limit 100 GB, exceeded")
        expect(row.get_by_role("cell").nth(4)).to_have_text("171 GB")
        expect(row).to_contain_text("open or locked files")
        expect(line.get_by_role("img", name=re.compile("^Used of .fast: .* of 500 GB"))).to_be_visible()
        self.check_accessible()
        self.page.reload()
        expect(button).to_have_attribute("aria-expanded", "true")
        line.get_by_role("link", name="Open seat").click()
        machine = self.page.get_by_role("region", name="Machine")
        expect(machine).to_contain_text(re.compile(r"Grows by 12\.0 GB a day: full on"))
        expect(machine.get_by_role("link", name="Plan clean-up")).to_be_visible()

    def test_a_seat_says_where_its_stores_lie_best_and_how_they_come_there(self) -> None:
        self.go("/stores?open=loft-03/v1")
        self.page.get_by_role("link", name="Plan store placement").click()
        expect(self.page.get_by_role("heading", name="Store placement on loft-03")).to_be_visible()
        self.page.get_by_role("combobox", name="Seat").select_option("pan-03")
        row = self.page.get_by_role("row", name=re.compile("^Corrow source cache"))
        expect(row).to_contain_text("/ (v0)")
        expect(row).to_contain_text("/fast (v1)")
        expect(self.page.get_by_text("is on the system volume v0")).to_be_visible()
        move = self.page.get_by_role("listitem").filter(has_text="free afterwards")
        expect(move).to_contain_text(re.compile("free afterwards: / .*, /fast"))
        self.check_accessible()

        rules = self.page.get_by_role("region", name="Rules")
        expect(rules).to_contain_text("No remaining problems.")
        self.page.get_by_role("button", name="Show current placement").click()
        expect(rules).to_contain_text(AMISS)
        expect(rules).to_contain_text("No moves needed.")
        card = self.page.locator("[data-store='Corrow source_cache']")
        card.focus()
        self.page.keyboard.press("ArrowRight")
        expect(rules).to_contain_text("No remaining problems.")
        card.drag_to(self.page.get_by_role("group", name="/ (v0)"))
        expect(rules).to_contain_text(AMISS)
        self.page.get_by_role("button", name="Use best placement").click()
        rules.get_by_role("button", name="Plan these moves").click()
        plan = self.page.get_by_role("dialog")
        expect(plan).to_contain_text("/fast/corrow/source_cache")
        self.page.keyboard.press("Escape")
        rules.get_by_role("button", name="Create errand").click()
        expect(self.page.get_by_role("heading", level=1)).to_contain_text("Move stores to their best volumes")
        self.drop_errand()

    def test_the_round_leads_to_it(self) -> None:
        self.go("/")
        item = self.page.get_by_role("listitem").filter(has_text="/fast on loft-03 fills up within a week")
        item.get_by_role("link", name="Open volume").click()
        expect(self.page.get_by_role("button", name=re.compile("^loft-03 .fast"))).to_have_attribute(
            "aria-expanded", "true"
        )


class Clearing(Journey):
    seats = None  # automatic clean-up asks every seat that has such a store

    def renders(self) -> set[str]:
        """What lies in the renders of pan-02, on its disk."""
        folder = self.demo.run / "seats" / "pan-02" / "disks" / "fast/corrow/renders"
        return {path.relative_to(folder).as_posix() for path in folder.rglob("*.mkv")}

    def test_a_plan_is_read_signed_carried_out_and_put_back(self) -> None:
        before = self.renders()
        self.go("/stores/clearings?seat=pan-02")
        expect(self.page.get_by_label("Where")).to_have_value("seat pan-02")
        for kind in ("renders", "backups"):
            self.page.get_by_role("checkbox", name=re.compile(f"^{kind}")).check()
        self.page.get_by_role("button", name="Create clean-up plan").click()
        sentence = self.page.locator("[data-sentence]")
        expect(sentence).to_have_text(re.compile(r"^38 files \(.*\) will be held for 24 hours and can be put back"))
        staying = self.page.get_by_role("region", name="Kept, with reasons")
        for why in ("second_night has no delivered export", "write-protected", "a link, never followed"):
            expect(staying.get_by_text(why)).to_be_visible()
        self.check_accessible()
        self.page.get_by_role("button", name="pan-02 Pan House").click()
        store = self.page.get_by_role("listitem").filter(has_text="Corrow renders /fast/corrow/renders").last
        store.get_by_role("button", name="Show files").click()
        expect(store.get_by_text("14 of 14")).to_be_visible()
        store.get_by_role("textbox", name="Search files").fill("0003")
        expect(store.get_by_text("1 of 14")).to_be_visible()
        expect(store.get_by_text("quay_nights/pilot/0003.mkv")).to_be_visible()
        self.page.get_by_role("button", name="Sign clean-up").click()
        self.page.get_by_role("button", name=re.compile(r"^Sign clean-up \(")).click()
        expect(sentence).to_have_text(re.compile("^Finished: 38 files"))
        gone = before - self.renders()
        self.assertEqual({name.rpartition("/")[0] for name in gone}, {"quay_nights/pilot"})
        self.assertEqual(len(gone), 14)
        self.page.get_by_role("button", name=re.compile("^Put back")).click()
        expect(self.page.get_by_text("all held files were put back").first).to_be_visible()
        expect(self.page.get_by_role("button", name=re.compile("^Put back"))).to_have_count(0)
        self.assertEqual(self.renders(), before)

    def test_standing_care_waits_for_a_person_the_first_time_and_is_stopped(self) -> None:
        self.go("/stores")
        self.page.get_by_role("link", name="Automatic clean-up").click()
        care = self.page.locator("[data-care='Frames of last month']")
        expect(care).to_contain_text("files unused for 30 days are deleted, each day from 00:00 to 23:59")
        expect(care).to_have_attribute("data-state", "waits")
        self.check_accessible()
        care.get_by_role("link", name="Read and sign").click()
        expect(self.page.get_by_role("heading", level=1)).to_have_text("Automatic clean-up: Frames of last month")
        sentence = self.page.locator("[data-sentence]")
        expect(sentence).to_have_text(re.compile(r"^22 files \(3.3 GB\) will be held"))
        self.page.get_by_role("button", name="Sign clean-up").click()
        self.page.get_by_role("button", name=re.compile(r"^Sign clean-up \(")).click()
        expect(sentence).to_have_text(re.compile("^Finished: 22 files"))
        self.page.get_by_role("button", name=re.compile("^Put back")).click()
        self.go("/stores/care")
        expect(care.locator("[data-agreed]")).to_contain_text("supervisor approved up to 3.3 GB")
        care.get_by_role("button", name="Stop…").click()
        care.get_by_label("Reason").fill("The grade is reopened.")
        care.get_by_role("button", name="Stop Frames of last month").click()
        expect(care).to_have_attribute("data-state", "stopped")
        expect(care).to_contain_text("The grade is reopened.")
        care.get_by_role("button", name="Resume").click()
        expect(care).to_have_attribute("data-state", "agreed")

    def test_a_sentence_of_standing_care_is_written_and_its_impact_is_seen(self) -> None:
        self.go("/standard")
        self.page.get_by_role("button", name="Automatic clean-up in Whole facility").click()
        self.page.get_by_label("Name", exact=True).fill("Old renders")
        self.page.get_by_role("checkbox", name="renders").check()
        self.page.get_by_label("Days unused").fill("180")
        self.page.get_by_label("Because").fill("They fill the fast disks.")
        self.page.get_by_role("button", name="Apply").click()
        written = self.page.get_by_role("list", name="Automatic clean-up in Whole facility")
        sentence = (
            "Renders: files unused for 180 days are deleted, each Sunday from 03:00 to 07:00, at most 500 GB per seat."
        )
        expect(written.get_by_role("button", name=sentence)).to_be_visible()
        impact = self.page.locator("[data-care-impact] li").filter(has_text="Old renders")
        expect(impact).to_contain_text("the first run needs a signature")
        self.check_accessible()
        impact.get_by_role("button", name="List files now").click()
        expect(self.page.get_by_role("heading", level=1)).to_have_text("Preview of Old renders")
        self.page.get_by_role("button", name=re.compile("^Discard")).first.click()

    def test_a_delivery_releases_what_rests_on_it_when_it_is_signed(self) -> None:
        self.go("/stores")
        self.page.get_by_role("link", name="Deliveries").click()
        waiting = self.page.get_by_role("region", name="To be signed")
        self.check_accessible()
        proposed = waiting.get_by_role("listitem").filter(has_text="lamp_three")  # agents propose others meanwhile
        proposed.get_by_role("button", name="Sign…", exact=True).click()
        release = proposed.get_by_role("region", name="Sign delivery of lamp_three")
        expect(release).to_contain_text("of renders on")
        expect(release).to_contain_text("This file has not been inspected.")
        self.check_accessible()
        release.get_by_role("button", name="Sign delivery").click()
        delivered = self.page.get_by_role("region", name="Delivered")
        line = delivered.get_by_role("listitem").filter(has_text="lamp_three")
        expect(line).to_contain_text("signed by supervisor")
        line.get_by_role("button", name="Withdraw…").click()
        line.get_by_label("Reason").fill("The wrong reel was exported.")
        line.get_by_role("button", name="Withdraw delivery").click()
        withdrawn = self.page.get_by_role("region", name="Withdrawn")
        expect(withdrawn).to_contain_text("The wrong reel was exported.")
        self.page.get_by_label("Production name").fill("Nine Lamps")
        self.page.get_by_role("button", name="Mark production as ended").click()
        expect(self.page.get_by_role("alert")).to_contain_text("Nine Lamps is live on")
        self.faults.clear()  # the refusal that was to be seen


class Projects(StoresJourney):
    seats = ("pan-06",)

    def test_projects_are_read_at_their_seat_and_what_is_wrong_is_handed_on(self) -> None:
        self.go("/stores/projects")
        look = self.page.get_by_role("region", name="Scan projects")
        look.get_by_label("Application").select_option("corrow")
        seat = look.get_by_label("Seat")
        expect(seat.locator("option", has_text="pan-06")).to_have_count(1)
        seat.select_option("pan-06")
        look.get_by_label("Media folder").fill("/brine/media")
        look.get_by_role("button", name="Scan projects on this seat").click()
        line = self.page.locator("[data-project='nine_lamps/lamp_three.corrow']")
        expect(line).to_contain_text("71 items, 51 used; 5.6 MB of media, 900 kB unused; 4 missing, 11 listed twice")
        self.check_accessible()
        line.get_by_role("link").click()
        misplaced = self.page.get_by_role("region", name="In the wrong place")
        expect(misplaced).to_contain_text("it is on the system's disk and outside the production's storage")
        self.check_accessible()
        self.page.get_by_role("button", name="Send list to pan-06").click()
        expect(self.page.get_by_role("status")).to_contain_text("List shown to the editor of pan-06")
        self.page.get_by_role("button", name="Create errand for missing or misplaced media").click()
        expect(self.page.get_by_role("heading", level=1)).to_contain_text("lamp_three.corrow")
        expect(self.page.get_by_text("pickup_0.mov").first).to_be_visible()

    def test_one_is_brought_and_a_production_is_looked_at_each_night(self) -> None:
        self.go("/stores/projects")
        item = '<item id="{}"><file at="/brine/a.mov"/></item>'
        text = f"<project><media>{item.format(1)}{item.format(2)}</media></project>"
        self.page.get_by_label("Application").select_option("corrow")
        self.page.get_by_label("Or upload a project").set_input_files(
            {"name": "mill.corrow", "mimeType": "application/xml", "buffer": text.encode()}
        )
        self.page.get_by_role("button", name="Upload project").click()
        expect(self.page.locator("[data-words]")).to_have_text("2 items, 0 used; 1 listed twice.")
        self.page.get_by_role("button", name="Delete project").click()
        nightly = self.page.get_by_role("region", name="Nightly scans")
        nightly.get_by_label("Production").select_option("Nine Lamps")
        nightly.get_by_role("button", name="Scan every night").click()
        nightly.get_by_role("button", name="Stop scanning Nine Lamps").click()
        expect(nightly).to_contain_text("No nightly scans yet.")


class EditorsProjects(Journey):
    role = "editor"
    seats = ("pan-03",)

    def test_a_list_stands_on_the_seats_own_page(self) -> None:
        self.demo.post("/projects/look", {"seat": "pan-03", "app": "corrow"})
        [project] = eventually(lambda: [p for p in self.demo.answer("/projects")["items"] if p["seat"] == "pan-03"])
        with self.demo.api() as api:
            api.post(f"/projects/{project['id']}/send", json={"sent": True}).raise_for_status()
        self.go("/my-seat")
        tidy = self.page.locator("[data-project='the_salt_ledger/reel_three.corrow']")
        expect(tidy).to_contain_text("Clean up the_salt_ledger/reel_three.corrow")
        expect(tidy.get_by_role("region", name="Missing")).to_contain_text("pickup_0.mov")
        self.check_accessible()
