"""What is entered and brought, teaching, the register, and a large house."""

import json
import re
import tempfile
from pathlib import Path

from playwright.sync_api import expect

from .houses import REPOSITORY
from .stage import Journey

SURVEY = json.loads((REPOSITORY / "docs" / "examples" / "pan-03.survey.json").read_bytes())


class ByHand(Journey):
    def test_a_reading_is_entered_on_a_phone_and_says_by_whom(self) -> None:
        self.page.set_viewport_size({"width": 390, "height": 800})
        self.go("/seats/kiln-03")
        self.page.get_by_role("button", name="Enter reading").click()
        sheet = self.page.get_by_role("dialog")
        sheet.get_by_label("Setting").select_option("engine.workers")
        sheet.get_by_label(re.compile("^Application")).select_option("glaize")
        sheet.get_by_label("Value").fill("many")
        self.page.get_by_role("button", name="Save").click()
        expect(self.page.get_by_role("alert")).to_contain_text("expected a number")
        self.faults.clear()
        sheet.get_by_label("Value").fill("12")
        self.check_accessible()
        self.page.get_by_role("button", name="Save").click()
        expect(self.row("engine.workers", "glaize")).to_contain_text("by hand of supervisor")

    def test_a_file_is_brought_from_a_seat_without_a_network(self) -> None:
        self.go("/floor")
        self.page.get_by_role("button", name="Upload a survey").click()
        survey = {**SURVEY, "seat": "sluice-02", "taken_at": "2026-01-01T00:00:00Z"}
        files = self.page.locator("input[type=file]")
        files.set_input_files({"name": "s.json", "mimeType": "application/json", "buffer": b"{}"})
        expect(self.page.get_by_role("alert")).to_contain_text("Upload failed")
        self.faults.clear()
        self.check_accessible()
        raw = json.dumps(survey).encode()
        files.set_input_files({"name": "s.json", "mimeType": "application/json", "buffer": raw})
        expect(self.page.get_by_text("no changes, or older than the last survey")).to_be_visible()


class Teach(Journey):
    seats = ("kiln-01", "pan-07", "pan-08")

    def test_a_switch_is_toggled_shown_learnt_tried_and_kept(self) -> None:
        made = tempfile.TemporaryDirectory()
        self.addCleanup(made.cleanup)
        was = (self.demo.run / "seats/pan-08/preferences/pockle/3/pockle.ini").read_bytes()
        now = was.replace(b"HideWaves=1", b"HideWaves=0")
        folders = {"before": was, "after": now}
        for name, raw in folders.items():
            path = Path(made.name, name, "pockle/3/pockle.ini")
            path.parent.mkdir(parents=True)
            path.write_bytes(raw)
        self.go("/dialects/pockle")
        self.page.locator(".cm-line", has_text='setting = "playback.waveforms"').click()
        self.remove_binding()
        self.page.get_by_role("button", name="Teach by example").click()
        self.page.get_by_label("Before", exact=True).set_input_files(Path(made.name, "before"))
        self.page.get_by_label("After one setting changed").set_input_files(Path(made.name, "after"))
        expect(self.page.get_by_text('/Play/HideWaves: "1" became "0"')).to_be_visible()
        self.page.get_by_label("Value in the application, sample 1").fill("off")
        self.page.get_by_label("Value in the application, sample 2").fill("on")
        self.page.get_by_role("button", name="Find rule").click()
        expect(self.page.get_by_text("turned round: the file holds the opposite")).to_be_visible()
        self.check_accessible()
        self.page.get_by_role("button", name="Add to dialect").click()
        self.page.get_by_label("Test on seat").select_option("pan-08")
        self.page.get_by_role("button", name="Test", exact=True).click()
        tried = self.page.get_by_role("table", name="Values read")
        expect(tried.get_by_role("row", name=re.compile("playback.waveforms"))).to_contain_text("false")
        self.page.get_by_role("button", name="Save version 2").click()
        expect(self.page.get_by_text("version 2, saved just now")).to_be_visible()

    def test_a_seat_is_watched_while_something_is_toggled(self) -> None:
        file = self.demo.run / "seats/pan-07/preferences/pockle/3/pockle.ini"
        was = file.read_bytes()
        self.addCleanup(file.write_bytes, was)
        self.go("/dialects/pockle")
        self.page.get_by_role("button", name="Teach by example").click()
        self.page.get_by_role("combobox", name=re.compile("^Seat")).select_option("pan-07")
        self.page.get_by_role("button", name="Before: read pan-07 now").click()
        expect(self.page.get_by_text("1 file", exact=True)).to_have_count(1)
        file.write_bytes(was.replace(b"HideWaves=1", b"HideWaves=0"))
        self.page.get_by_role("button", name="After one setting changed: read pan-07 now").click()
        expect(self.page.get_by_text('/Play/HideWaves: "1" became "0"')).to_be_visible()
        self.check_accessible()

    def test_where_files_belong_and_where_a_project_lists_its_media_are_taught(self) -> None:
        self.go("/dialects/glaize")
        self.page.get_by_role("button", name="Teach by example").click()
        what = self.page.get_by_label("What to teach")
        what.select_option("production and project of files")
        self.page.get_by_role("combobox", name="Store").select_option("frame cache")
        self.page.get_by_label("Path under the store").fill("mill/a.mkv")
        self.page.get_by_label("Production", exact=True).fill("Salt Ledger")
        self.page.get_by_role("button", name="Find pattern").click()
        expect(self.page.get_by_role("alert")).to_contain_text("is 'Salt Ledger'")
        self.faults.clear()  # the browser tells of every refusal
        self.page.get_by_label("Production", exact=True).fill("Mill")
        self.page.get_by_role("button", name="Find pattern").click()
        expect(self.page.get_by_text("the production is the first folder")).to_be_visible()
        self.check_accessible()
        self.page.get_by_role("button", name="Add to dialect").click()
        what.select_option("a project format")
        content = b'<p><media><item id="1" at="/b/a.mov"/></media><cut><clip of="1"/></cut></p>'
        project = {"name": "mill.glz", "mimeType": "text/xml", "buffer": content}
        self.page.get_by_label("glaize project").set_input_files(project)
        expect(self.page.get_by_text("1 media item, 1 of them used")).to_be_visible()
        self.check_accessible()
        self.page.get_by_role("button", name="Add to dialect").click()
        tried = self.page.get_by_role("table", name="Values read")
        for seat, counted in (("kiln-03", "not counted yet"), ("kiln-01", "items")):
            self.page.get_by_label("Test on seat").select_option(seat)
            self.page.get_by_role("button", name="Test", exact=True).click()
            expect(self.page.get_by_role("heading", name=f"Values read on {seat}")).to_be_visible()
            expect(tried.get_by_role("row", name=re.compile(f"store.frame_cache.path.*{counted}"))).to_be_visible()
        self.page.get_by_role("button", name="Save version 2").click()
        expect(self.page.get_by_text("version 2, saved just now")).to_be_visible()

    def remove_binding(self) -> None:
        """The four lines of the binding that the cursor stands in the second of."""
        self.page.keyboard.press("ArrowUp")
        for _ in range(4):
            self.page.keyboard.press("Control+Shift+k")


class Register(Journey):
    def test_a_table_is_looked_at_before_it_is_taken(self) -> None:
        self.go("/floor")
        self.page.get_by_role("button", name="Import").click()
        bad = b"seat,role,room\nrake-77,cook,Rake Room\n"
        table = self.page.get_by_label("A CSV or XLSX table")
        table.set_input_files({"name": "register.csv", "mimeType": "text/csv", "buffer": bad})
        expect(self.page.get_by_role("alert")).to_contain_text("unknown role 'cook'")
        expect(self.page.get_by_role("button", name="Import register")).to_be_disabled()
        self.check_accessible()
        good = bad.replace(b"cook", b"comp")
        table.set_input_files({"name": "register.csv", "mimeType": "text/csv", "buffer": good})
        self.page.get_by_role("button", name="Import register").click()
        expect(self.seat("rake-77")).to_contain_text("no survey yet")

    def test_seats_are_edited_together_and_one_is_retired(self) -> None:
        with self.demo.api() as api:
            table = ("register.csv", b"seat,role,room\nrake-77,comp,Rake Room\n")
            api.post("/register/import?apply=true", files={"table": table})
        self.go("/floor")
        self.seat("rake-77").get_by_role("checkbox").check()
        self.page.get_by_role("button", name="Edit").click()
        self.page.get_by_role("textbox", name="Room").fill("Kiln")
        self.check_accessible()
        self.page.get_by_role("button", name="Save").click()
        expect(self.page.get_by_role("region", name="Kiln").locator("li[data-seat=rake-77]")).to_be_visible()
        self.go("/seats/rake-77")
        self.page.get_by_role("button", name="Retire or replace").click()
        self.page.get_by_role("button", name="Retire seat").click()
        expect(self.seat("pan-01")).to_be_visible()
        expect(self.seat("rake-77")).to_have_count(0)

    def test_the_floor_is_arranged_by_keys_and_stays_so(self) -> None:
        self.go("/floor")
        self.page.get_by_role("button", name="Arrange").click()
        self.page.get_by_role("button", name="pan-01").focus()
        self.page.keyboard.press("ArrowRight")
        expect(self.page.get_by_text("pan-01: position 2 in Pan House")).to_be_attached()
        self.page.get_by_role("button", name="pan-08").drag_to(self.page.get_by_role("button", name="pan-02"))
        expect(self.page.get_by_text("pan-08: position 1 in Pan House")).to_be_attached()
        self.check_accessible()
        self.page.get_by_role("button", name="Save").click()
        self.page.reload()
        seats = self.page.get_by_role("region", name="Pan House").locator("li[data-seat] a")
        expect(seats).to_have_text([f"pan-0{n}" for n in (8, 2, 1, 3, 4, 5, 6, 7)])

    def test_a_list_is_taken_along(self) -> None:
        self.go("/floor")
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="CSV").click()
        self.assertTrue(download.value.suggested_filename.startswith("normant-seat-table-"))


class Large(Journey):
    def test_a_large_house_draws_what_is_in_sight_and_chooses_all_of_it(self) -> None:
        names = [f"hall-{number:03}" for number in range(240)]
        table = "seat,role,room\n" + "".join(f"{n},ingest,Wharf {i // 40}\n" for i, n in enumerate(names))
        with self.demo.api() as api:
            answer = api.post("/register/import?apply=true", files={"table": ("register.csv", table.encode())}).json()
            self.assertEqual((answer["applied"], len(answer["rows"])), (True, 240))
        self.go("/floor")
        drawn = self.page.locator("li[data-seat]")
        self.page.get_by_role("region", name="Pan House").scroll_into_view_if_needed()
        expect(self.seat("pan-03").get_by_role("img")).to_have_count(5)
        self.assertLess(drawn.count(), 240)
        expect(self.page.get_by_role("region", name="Wharf 5")).to_have_count(1)  # its place is kept
        far = self.page.get_by_role("region", name="Wharf 0")
        far.scroll_into_view_if_needed()
        expect(far.locator("li[data-seat]")).to_have_count(40)
        self.page.get_by_label("role").select_option("offline")
        expect(drawn).to_have_count(8)
        self.page.keyboard.press("/")
        self.page.keyboard.type("hall-239")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("heading", name="hall-239")).to_be_visible()
