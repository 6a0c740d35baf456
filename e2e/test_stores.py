"""Stores in the real interface: what fills first, its year, and the way there from the round."""

import re

from playwright.sync_api import expect

from .houses import eventually
from .stage import Journey

AMISS = "Amiss then: source cache of Corrow lies on the system's volume v0; the house standard does not want"


class StoresJourney(Journey):
    def drop_errand(self) -> None:
        """Of the errand that is shown nobody has to do anything."""
        self.demo.post(f"/errands/{self.page.url.rpartition('/')[2]}/drop", {"why": "shown"})


class Volumes(StoresJourney):
    def test_the_volume_that_fills_stands_first_and_opens_with_its_year(self) -> None:
        self.go("/stores")
        filling = self.page.get_by_role("region", name="They fill")
        line = filling.get_by_role("listitem").filter(has_text="loft-03")
        expect(line).to_contain_text(re.compile(r"It grows by 12\.0 GB a day: full on"), timeout=90_000)
        button = line.get_by_role("button", name=re.compile("^loft-03 .fast"))
        button.focus()
        self.page.keyboard.press("Enter")
        expect(button).to_have_attribute("aria-expanded", "true")
        row = line.get_by_role("row", name=re.compile("source cache of Corrow .* 240 GB"))
        expect(row).to_contain_text("100 GB at most: it holds more")
        expect(row.get_by_role("cell").nth(4)).to_have_text("171 GB")
        expect(row).to_contain_text("what is open or locked")
        expect(line.get_by_role("img", name=re.compile("^Used of .fast: .* of 500 GB"))).to_be_visible()
        self.check_accessible()
        self.page.reload()
        expect(button).to_have_attribute("aria-expanded", "true")
        line.get_by_role("link", name="Look at the seat").click()
        machine = self.page.get_by_role("region", name="The machine")
        expect(machine).to_contain_text(re.compile(r"It grows by 12\.0 GB a day: full on"))
        expect(machine.get_by_role("link", name="Plan a clearing")).to_be_visible()

    def test_a_seat_says_where_its_stores_lie_best_and_how_they_come_there(self) -> None:
        self.go("/stores?open=loft-03/v1")
        self.page.get_by_role("link", name="Where its stores lie best").click()
        expect(self.page.get_by_role("heading", name="Where the stores of loft-03 lie best")).to_be_visible()
        self.page.get_by_role("combobox", name="Seat").select_option("pan-03")
        row = self.page.get_by_role("row", name=re.compile("^source cache of Corrow"))
        expect(row).to_contain_text("/ (v0)")
        expect(row).to_contain_text("/fast (v1)")
        expect(self.page.get_by_text("lies on the system's volume v0")).to_be_visible()
        move = self.page.get_by_role("listitem").filter(has_text="free then")
        expect(move).to_contain_text(re.compile("free then: / .*, /fast"))
        self.check_accessible()

        rules = self.page.get_by_role("region", name="What the rules say")
        expect(rules).to_contain_text("Nothing is amiss then.")
        self.page.get_by_role("button", name="As they lie now").click()
        expect(rules).to_contain_text(AMISS)
        expect(rules).to_contain_text("Nothing moves.")
        card = self.page.locator("[data-store='source_cache of Corrow']")
        card.focus()
        self.page.keyboard.press("ArrowRight")
        expect(rules).to_contain_text("Nothing is amiss then.")
        card.drag_to(self.page.get_by_role("group", name="/ (v0)"))
        expect(rules).to_contain_text(AMISS)
        self.page.get_by_role("button", name="Put them where they lie best").click()
        rules.get_by_role("button", name="Plan these moves").click()
        plan = self.page.get_by_role("dialog")
        expect(plan).to_contain_text("/fast/corrow/source_cache")
        self.page.keyboard.press("Escape")
        rules.get_by_role("button", name="Write an errand for it").click()
        expect(self.page.get_by_role("heading", level=1)).to_contain_text("Move stores to where they lie best")
        self.drop_errand()

    def test_the_round_leads_to_it(self) -> None:
        self.go("/")
        item = self.page.get_by_role("listitem").filter(has_text="/fast of loft-03 fills within a week")
        item.get_by_role("link", name="Look at the volume").click()
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
        self.page.get_by_role("button", name="See what may go").click()
        sentence = self.page.locator("[data-sentence]")
        expect(sentence).to_have_text(re.compile("^38 items, .* would go. They are held for a day and can be put back"))
        staying = self.page.get_by_role("region", name="What stays, and why")
        for why in ("second_night has no delivered export", "locked: nobody may write to it", "a link, never followed"):
            expect(staying.get_by_text(why)).to_be_visible()
        self.check_accessible()
        self.page.get_by_role("button", name="pan-02 Pan House").click()
        store = self.page.get_by_role("listitem").filter(has_text="renders of Corrow /fast/corrow/renders").last
        store.get_by_role("button", name="Show them").click()
        expect(store.get_by_text("14 of 14")).to_be_visible()
        store.get_by_role("textbox", name="Search in the items").fill("0003")
        expect(store.get_by_text("1 of 14")).to_be_visible()
        expect(store.get_by_text("quay_nights/pilot/0003.mkv")).to_be_visible()
        self.page.get_by_role("button", name="Sign this plan").click()
        self.page.get_by_role("button", name=re.compile("^Sign, and let .* go$")).click()
        expect(sentence).to_have_text(re.compile("^Everything that was signed went: 38 items"))
        gone = before - self.renders()
        self.assertEqual({name.rpartition("/")[0] for name in gone}, {"quay_nights/pilot"})
        self.assertEqual(len(gone), 14)
        self.page.get_by_role("button", name=re.compile("^Put back")).click()
        expect(self.page.get_by_text("everything that was held lies where it lay").first).to_be_visible()
        expect(self.page.get_by_role("button", name=re.compile("^Put back"))).to_have_count(0)
        self.assertEqual(self.renders(), before)

    def test_standing_care_waits_for_a_person_the_first_time_and_is_stopped(self) -> None:
        self.go("/stores")
        self.page.get_by_role("link", name="Standing care").click()
        care = self.page.locator("[data-care='Frames of last month']")
        expect(care).to_contain_text("what nobody used for 30 days goes, each day from 00:00 to 23:59")
        expect(care).to_have_attribute("data-state", "waits")
        self.check_accessible()
        care.get_by_role("link", name="Read and sign").click()
        expect(self.page.get_by_role("heading", level=1)).to_have_text("Standing care: Frames of last month")
        sentence = self.page.locator("[data-sentence]")
        expect(sentence).to_have_text(re.compile("^22 items, 3.3 GB would go"))
        self.page.get_by_role("button", name="Sign this plan").click()
        self.page.get_by_role("button", name=re.compile("^Sign, and let .* go$")).click()
        expect(sentence).to_have_text(re.compile("^Everything that was signed went: 22 items"))
        self.page.get_by_role("button", name=re.compile("^Put back")).click()
        self.go("/stores/care")
        expect(care.locator("[data-agreed]")).to_contain_text("supervisor agreed to 3.3 GB")
        care.get_by_role("button", name="Stop it…").click()
        care.get_by_label("Why").fill("The grade is reopened.")
        care.get_by_role("button", name="Stop Frames of last month").click()
        expect(care).to_have_attribute("data-state", "stopped")
        expect(care).to_contain_text("The grade is reopened.")
        care.get_by_role("button", name="Let it go on").click()
        expect(care).to_have_attribute("data-state", "agreed")

    def test_a_sentence_of_standing_care_is_written_and_its_impact_is_seen(self) -> None:
        self.go("/standard")
        self.page.get_by_role("button", name="Standing care in Whole facility").click()
        self.page.get_by_label("Its name").fill("Old renders")
        self.page.get_by_role("checkbox", name="renders").check()
        self.page.get_by_label("Days unused").fill("180")
        self.page.get_by_label("Because").fill("They fill the fast disks.")
        self.page.get_by_role("button", name="Write it into the text").click()
        written = self.page.get_by_role("list", name="Standing care of Whole facility")
        sentence = (
            "Renders: what nobody used for 180 days goes, each Sunday from 03:00 to 07:00, at most 500 GB on a seat."
        )
        expect(written.get_by_role("button", name=sentence)).to_be_visible()
        impact = self.page.locator("[data-care-impact] li").filter(has_text="Old renders")
        expect(impact).to_contain_text("a person agrees the first time")
        self.check_accessible()
        impact.get_by_role("button", name="Ask its seats now").click()
        expect(self.page.get_by_role("heading", level=1)).to_have_text("What Old renders would take")
        self.page.get_by_role("button", name=re.compile("^Drop")).first.click()

    def test_a_delivery_releases_what_rests_on_it_when_it_is_signed(self) -> None:
        self.go("/stores")
        self.page.get_by_role("link", name="Deliveries").click()
        waiting = self.page.get_by_role("region", name="To be signed")
        self.check_accessible()
        proposed = waiting.get_by_role("listitem").filter(has_text="lamp_three")  # agents propose others meanwhile
        proposed.get_by_role("button", name="Sign…", exact=True).click()
        release = proposed.get_by_role("region", name="Sign the delivery of lamp_three")
        expect(release).to_contain_text("of renders on")
        expect(release).to_contain_text("Nobody has inspected this file.")
        self.check_accessible()
        release.get_by_role("button", name="Sign the delivery").click()
        delivered = self.page.get_by_role("region", name="Delivered")
        line = delivered.get_by_role("listitem").filter(has_text="lamp_three")
        expect(line).to_contain_text("signed by supervisor")
        line.get_by_role("button", name="Withdraw…").click()
        line.get_by_label("Reason").fill("The wrong reel was exported.")
        line.get_by_role("button", name="Withdraw the delivery").click()
        withdrawn = self.page.get_by_role("region", name="Withdrawn")
        expect(withdrawn).to_contain_text("The wrong reel was exported.")
        self.page.get_by_label("Name of a production that has ended").fill("Nine Lamps")
        self.page.get_by_role("button", name="End the production").click()
        expect(self.page.get_by_role("alert")).to_contain_text("Nine Lamps is live on")
        self.faults.clear()  # the refusal that was to be seen


class Projects(StoresJourney):
    seats = ("pan-06",)

    def test_projects_are_read_at_their_seat_and_what_is_wrong_is_handed_on(self) -> None:
        self.go("/stores/projects")
        look = self.page.get_by_role("region", name="Look through projects")
        look.get_by_label("Application").select_option("corrow")
        seat = look.get_by_label("At the seat")
        expect(seat.locator("option", has_text="pan-06")).to_have_count(1)
        seat.select_option("pan-06")
        look.get_by_label("Its media belong in").fill("/brine/media")
        look.get_by_role("button", name="Have them read there").click()
        line = self.page.locator("[data-project='nine_lamps/lamp_three.corrow']")
        expect(line).to_contain_text("71 items, 51 used; 5.6 MB of media, 900 kB unused; 4 missing, 11 listed twice")
        self.check_accessible()
        line.get_by_role("link").click()
        misplaced = self.page.get_by_role("region", name="In a wrong place")
        expect(misplaced).to_contain_text("it lies on the system's disk and outside the production's storage")
        self.check_accessible()
        self.page.get_by_role("button", name="Send its list to pan-06").click()
        expect(self.page.get_by_role("status")).to_contain_text("Its list stands on pan-06’s own page")
        self.page.get_by_role("button", name="Write an errand for what is missing or misplaced").click()
        expect(self.page.get_by_role("heading", level=1)).to_contain_text("lamp_three.corrow")
        expect(self.page.get_by_text("pickup_0.mov").first).to_be_visible()

    def test_one_is_brought_and_a_production_is_looked_at_each_night(self) -> None:
        self.go("/stores/projects")
        item = '<item id="{}"><file at="/brine/a.mov"/></item>'
        text = f"<project><media>{item.format(1)}{item.format(2)}</media></project>"
        self.page.get_by_label("Application").select_option("corrow")
        self.page.get_by_label("Or bring one").set_input_files(
            {"name": "mill.corrow", "mimeType": "application/xml", "buffer": text.encode()}
        )
        self.page.get_by_role("button", name="Read this file").click()
        expect(self.page.locator("[data-words]")).to_have_text("2 items, 0 used; 1 listed twice.")
        self.page.get_by_role("button", name="Forget it").click()
        nightly = self.page.get_by_role("region", name="Each night")
        nightly.get_by_label("All projects of").select_option("Nine Lamps")
        nightly.get_by_role("button", name="Look each night").click()
        nightly.get_by_role("button", name="End Nine Lamps").click()
        expect(nightly).to_contain_text("No production’s projects are looked through by themselves.")


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
        expect(tidy).to_contain_text("Please tidy the_salt_ledger/reel_three.corrow")
        expect(tidy.get_by_role("region", name="Missing")).to_contain_text("pickup_0.mov")
        self.check_accessible()
