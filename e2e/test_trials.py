"""Trials in the real interface: asked from a selection, made by the seats' own agents, put back to the byte."""

import re
from pathlib import Path

from playwright.sync_api import Locator, expect

from normant_standin.host import StandInHost

from .houses import eventually
from .stage import Journey

FILE = "corrow/8/preferences.xml"
SEAT = "pan-03"
CUTS = Path(__file__).resolve().parents[1] / "demo" / "brinehouse" / "timelines"


class Asked(Journey):
    seats = (SEAT, "kiln-03")

    def test_a_reading_is_measured_and_the_file_has_its_bytes_from_before(self) -> None:
        self.demo.standin("idle", SEAT)
        before = self.demo.file(SEAT, FILE)
        self.go(f"/seats/{SEAT}")
        self.page.get_by_role("checkbox", name=re.compile("^Select Preview pool")).first.check()
        self.page.keyboard.press("m")
        expect(self.page.get_by_role("heading", name="Does this help?")).to_be_visible()
        takes = self.page.get_by_role("complementary", name="Duration and cost")
        expect(takes).to_contain_text("256 MiB, as it is")
        expect(takes).to_contain_text("12.8 GiB")
        expect(takes).to_contain_text("Corrow will be closed and opened again for each change")
        self.check_accessible()
        self.page.get_by_label("Reason").fill("Nobody knows whether it pays.")
        self.page.get_by_role("button", name="Start this trial").click()
        expect(
            self.page.get_by_role("heading", name=re.compile("Does Corrow preview pool at 12.8 GiB"))
        ).to_be_visible()
        sentence = self.page.locator("[data-sentence]")
        expect(sentence).to_contain_text(re.compile(r"On tall offline seats, Corrow 8\.3\.1: 12\.8 GiB plays \d"))
        expect(self.page.get_by_text("Reason: Nobody knows whether it pays.")).to_be_visible()
        self.assertEqual(self.demo.file(SEAT, FILE), before)
        dots = self.page.locator(".dot")
        self.page.get_by_role("slider", name="Run").focus()
        self.page.keyboard.press("ArrowRight")
        expect(self.page.get_by_role("list", name="Machine load during this run")).to_contain_text("processor")
        self.check_accessible()
        number = self.page.url.rsplit("/", 1)[1]
        runs = self.demo.answer(f"/trials/{number}/runs")["items"]
        self.assertEqual(len(runs), dots.count())
        self.assertEqual({*runs[0]}, {"seat", "block", "condition", "value"})
        self._repeat_from_the_list()

    def _repeat_from_the_list(self) -> None:
        self.go("/measure")
        self.page.get_by_role("link", name=re.compile("Does Corrow preview pool")).first.click()
        self.page.get_by_role("link", name="Run again").click()
        expect(self.page.get_by_label("Other value")).to_have_value("12.8 GiB")
        expect(self.page.get_by_label("Reason")).to_have_value(re.compile("repeats trial"))
        expect(self.page.get_by_role("button", name="Start this trial")).to_be_enabled()

    def test_a_ladder_stops_below_what_slows_another_application(self) -> None:
        self.demo.standin("idle", SEAT)
        before = self.demo.file(SEAT, FILE)
        self.go(f"/measure/new?kind=ladder&seat={SEAT}&set=memory.preview_pool corrow=")
        self.page.get_by_role("button", name="Add value").click()
        for place, value in enumerate(("4 GiB", "8 GiB", "40 GiB"), 1):
            self.page.get_by_role("textbox", name=f"Value {place}").fill(value)
        self.choice("Job that must not slow down").select_option("Plinthe export")
        self.check_accessible()
        self.page.get_by_role("button", name="Start this trial").click()
        sentence = self.page.locator("[data-sentence]")
        expect(sentence).to_contain_text("8 GiB is the smallest value that is as fast as any")
        expect(sentence).to_contain_text("from 40 GiB on it slows Plinthe exports")
        self.page.get_by_role("slider", name="Run").focus()
        self.page.keyboard.press("ArrowRight")
        expect(self.page.get_by_text(re.compile(r"Competing job, Plinthe exports: \d+"))).to_be_visible()
        self.assertEqual(self.demo.file(SEAT, FILE), before)

    def test_devices_are_compared_on_a_reference_clip_and_say_whether_a_cut_plays(self) -> None:
        self.demo.standin("idle", "kiln-03")
        self.go("/measure/new?kind=choice&seat=kiln-03")
        self.choice("Job").select_option("decoding")
        self.choice("Reference clip").select_option(label="Salt mill, avc, avc/8/420")
        self.choice("Setting").select_option("Device")
        self.choice("Value 1").select_option("cpu")
        self.choice("Value 2").select_option("gpu0")
        self.page.get_by_role("button", name="Start this trial").click()
        sentence = self.page.locator("[data-sentence]")
        expect(sentence).to_contain_text(re.compile(r"gpu0 decodes .* (faster than|as fast as) cpu"))
        self._lay_a_cut_on_these_rates()

    def _lay_a_cut_on_these_rates(self) -> None:
        cuts = CUTS
        self.go("/measure/timelines")
        self.page.get_by_label("Name", exact=True).fill("Reel 3, second cut")
        self.page.get_by_label("OpenTimelineIO").set_input_files(cuts / "salt-ledger-reel-3.otio")
        self.page.get_by_label("List of its sources").set_input_files(cuts / "salt-ledger-reel-3.media.csv")
        self.page.get_by_role("button", name="Upload timeline").click()
        self.page.get_by_role("link", name="Reel 3, second cut").click()
        self.page.get_by_role("button", name="kiln-03").click()
        on = self.page.get_by_role("region", name="On kiln-03")
        expect(on).to_contain_text("hevc/10/422 1920x1080")
        slider = on.get_by_role("slider")
        slider.focus()
        self.page.keyboard.press("End")
        expect(slider).to_have_attribute("aria-valuetext", re.compile(r"to 3:20: .*real time"))
        expect(on.locator("[data-remedy]").first).to_contain_text("no new files")
        self.check_accessible()
        self.page.get_by_role("button", name="Delete timeline").click()
        expect(self.page.get_by_role("link", name="Reel 3, second cut")).to_have_count(0)

    def choice(self, label: str) -> Locator:
        return self.page.get_by_role("combobox", name=re.compile(f"^{label}"))

    def test_what_a_peer_has_is_tried_from_the_comparison(self) -> None:
        self.go(f"/seats/{SEAT}/compare")
        self.page.get_by_role("link", name="Run a trial").first.click()
        expect(self.page.get_by_role("heading", name="Does this help?")).to_be_visible()
        expect(self.page.get_by_role("button", name="Start this trial")).to_be_enabled()

    def test_what_cannot_be_set_is_said_before_it_starts(self) -> None:
        self.go(f"/measure/new?kind=change&seat={SEAT}&set=engine.workers plinthe=")
        self.page.get_by_label("Other value").fill("a lot")
        expect(self.page.get_by_role("alert")).to_contain_text("engine.workers cannot be 'a lot'")
        expect(self.page.get_by_role("button", name="Start this trial")).to_be_disabled()


class Delivered(Journey):
    seats = ("weigh-02",)

    def test_a_seat_says_whether_it_is_ready_to_deliver(self) -> None:
        self.go(f"/seats/{SEAT}")
        self.page.get_by_role("button", name="Ready to deliver?").click()
        sheet = self.page.get_by_role("dialog")
        expect(sheet).to_contain_text("No: 1 setting affects the export.")
        expect(sheet).to_contain_text("Plinthe: Raw decoding scale is 1/4")
        self.check_accessible()

    def test_an_export_is_looked_into_by_the_seats_own_agent(self) -> None:
        self.demo.standin("idle", "weigh-02")
        self.go("/seats/weigh-02")
        self.page.get_by_role("button", name="Ready to deliver?").click()
        sheet = self.page.get_by_role("dialog")
        sheet.get_by_role("button", name="Inspect export").click()
        expect(sheet.locator("[data-inspected='2 problems found']")).to_contain_text("00:00:00:13")
        sheet.get_by_role("button", name="salt_ledger_reel_1.mov").click()
        sheet.get_by_text("Delivery specification").click()
        sheet.get_by_label("Delivery specification, TOML").fill('format = "normant-deliverable/1"\nwidth = 960')
        sheet.get_by_role("button", name="Inspect export").click()
        expect(sheet.locator("[data-inspected='whole']")).to_contain_text("salt_ledger_reel_1.mov")
        self.check_accessible()


class ByHand(Journey):
    """On a phone, at the seat."""

    seats = (SEAT, "weigh-01")

    def sheet(self, **fields: object) -> str:
        pool = {"setting": "memory.preview_pool", "app": "corrow", "value": "2 GiB"}
        asked = {"kind": "change", "conditions": [{}, {"sets": [pool]}], **fields}
        number = self.demo.post("/trials", asked)["id"]
        self.page.set_viewport_size({"width": 390, "height": 844})
        self.go(f"/measure/trials/{number}/sheet?seat={asked['seats'][0]}")  # type: ignore[index]
        return str(number)

    def test_a_run_is_set_played_twice_noted_and_the_seat_is_as_it_was(self) -> None:
        self.page.clock.install()
        before = self.demo.file(SEAT, FILE)
        stretch = {"what": "Salt mill, 0:00 to 0:01", "frames": 25, "rate": 25}
        number = self.sheet(job="play", seats=[SEAT], by_hand=stretch)
        run = self.page.get_by_role("region", name="Next run")
        for then in ("Block 1, run 2 of 2", "Block 2, run 1 of 2"):
            condition = run.get_by_role("heading").inner_text()
            run.get_by_role("button", name="Set this condition").click()
            expect(run.get_by_text("Condition set")).to_be_visible()
            self.check_accessible()
            if condition == "2 GiB":
                self.assertNotEqual(self.demo.file(SEAT, FILE), before)
            for take in range(2):
                run.get_by_role("button", name="Start").click()
                self.page.clock.fast_forward(1100)
                run.get_by_role("button", name="Stop").click()
                run.get_by_label("Frames dropped").fill(str(2 - take))
                run.get_by_role("button", name="Save take").click()
            expect(run).to_contain_text(then)
        self.assertEqual(self.demo.file(SEAT, FILE), before)
        self.assertEqual(len(self.demo.answer(f"/trials/{number}/runs")["items"]), 2)
        self.demo.post(f"/trials/{number}/halt", {"why": "shown"})

    def test_exports_are_timed_by_the_seats_agent(self) -> None:
        self.demo.standin("idle", "weigh-01")
        by_hand = {"what": "reel 3 with house-uhd-25", "app": "tamsel"}
        number = self.sheet(job="render", seats=["weigh-01"], by_hand=by_hand)
        run = self.page.get_by_role("region", name="Next run")
        run.get_by_role("button", name="Set this condition").click()
        expect(run.get_by_text("the agent on weigh-01 times each file")).to_be_visible()
        for name in ("one.mkv", "two.mkv"):
            self.demo.standin("export", "weigh-01", name, "--seconds", "3")
        run.get_by_role("button", name="All exports finished").click()
        expect(run).to_contain_text("run 2 of 2")
        [first, _] = self.demo.answer(f"/trials/{number}")["runs"]
        self.assertGreater(first["figure"], 0)
        self.assertEqual(len(first["thrown"]), 1)
        self.demo.post(f"/trials/{number}/halt", {"why": "shown"})


class Ended(Journey):
    """Whatever dies meanwhile."""

    seats = (SEAT,)

    def test_a_seat_that_loses_its_power_in_the_middle_goes_on_and_ends_as_it_was(self) -> None:
        before = self.demo.file(SEAT, FILE)
        self.demo.standin("pull-plug", SEAT, "reading_back")
        self.begin("memory.held_back corrow=6 GiB")
        expect(self.page.locator("[data-sentence]")).to_contain_text("On tall offline seats")
        self.assertEqual(self.demo.file(SEAT, FILE), before)

    def test_halted_while_a_run_is_made_the_seat_is_put_back(self) -> None:
        before = self.demo.file(SEAT, FILE)
        self.hold("measuring")
        self.begin("memory.preview_pool corrow=2 GiB")
        eventually((self.folder / "held").exists)
        self.page.get_by_role("button", name="Stop trial").click()
        dialog = self.page.get_by_role("dialog")
        dialog.get_by_label("Reason").fill("The client is here early.")
        self.check_accessible()
        dialog.get_by_role("button", name="Stop trial").click()
        expect(self.page.locator("[data-sentence]")).to_contain_text("Halted after")
        self.hold("")
        eventually(lambda: self.demo.file(SEAT, FILE) == before)
        expect(self.page.get_by_text("put back, byte for byte")).to_be_visible()

    def begin(self, wanted: str) -> None:
        self.demo.standin("idle", SEAT)
        self.go(f"/measure/new?kind=change&seat={SEAT}&set={wanted}")
        self.page.get_by_role("button", name="Start this trial").click()
        expect(self.page.get_by_role("heading", name="Seats")).to_be_visible()

    @property
    def folder(self) -> Path:
        return self.demo.run / "seats" / SEAT

    def hold(self, step: str) -> None:
        """The machine stands still at a step of its agent's."""
        with StandInHost(self.folder).changed() as machine:
            machine.holds_at = step
