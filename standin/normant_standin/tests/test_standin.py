import tempfile
import threading
from pathlib import Path
from unittest import TestCase

import httpx
from typer.testing import CliRunner

from normant_agent.care.place import item_place
from normant_agent.preferences.visit import take_survey
from normant_core.dialects.dialect import parse_dialect
from normant_core.judging.judge import Judge, View
from normant_core.seat.facts import Seat
from normant_core.standard.parse import parse_standard
from normant_standin import scenario
from normant_standin.cli import app
from normant_standin.host import StandInHost
from normant_standin.seat import Cable

DEMO = Path(__file__).resolve().parents[3] / "demo" / "brinehouse"
DIALECTS = [parse_dialect(path.read_text("utf-8")) for path in sorted((DEMO / "dialects").glob("*.toml"))]


class Built(TestCase):
    """Every machine of the scenario, in a folder of its own."""

    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)
        known = scenario.load(DEMO)
        for seat in known.seats:
            scenario.build(known, seat, self.folder / seat.name, templates=DEMO / "preferences")
        self.seats = {seat.name: StandInHost(self.folder / seat.name) for seat in known.seats}

    def turn(self, *words: str) -> int:
        done = CliRunner().invoke(app, [*words, "--folder", str(self.folder)])
        return done.exit_code

    def reading(self, seat: str, setting: str) -> object:
        survey = take_survey(self.seats[seat], seat, DIALECTS)
        return next(r.value for r in survey.readings if r.setting == setting)


class Scenario(Built):
    def test_every_seat_can_be_read_whole(self) -> None:
        for name, host in self.seats.items():
            with self.subTest(name):
                self.assertEqual(take_survey(host, name, DIALECTS).errors, ())

    def test_pan_03_is_the_worked_seat(self) -> None:
        standard = parse_standard((DEMO / "house.standard.toml").read_text("utf-8"))
        self.assertEqual(standard.warnings, ())
        survey = take_survey(self.seats["pan-03"], "pan-03", DIALECTS)
        verdicts = Judge(standard).verdicts(View.of(survey, Seat("pan-03", "offline", "Pan House", "The Salt Ledger")))
        rows = {(v.setting, v.app, v.distance and round(v.distance, 2), v.fix) for v in verdicts}
        expected = {
            ("engine.effects", "corrow", None, "hadrel"),
            ("memory.held_back", "corrow", -2.09, 6871947674),
            ("memory.preview_pool", "corrow", -5.68, 13743895348),
            ("store.source_cache.path", "corrow", None, "v1"),
            ("playback.scale", "corrow", 1.0, "1/2"),
            ("power.profile", None, None, "performance"),
            ("delivery.full_raw", "plinthe", None, True),
        }
        self.assertEqual(rows, expected)

    def test_building_again_changes_nothing(self) -> None:
        self.turn("change", "pan-01", "power.profile", "balanced")
        known = scenario.load(DEMO)
        scenario.build(known, known.seats[0], self.folder / "pan-01", templates=DEMO / "preferences")
        self.assertEqual(self.reading("pan-01", "power.profile"), "balanced")


class Stores(Built):
    def test_the_files_of_a_store_are_what_it_says_and_what_goes_is_free(self) -> None:
        host = self.seats["pan-03"]
        [store] = take_survey(host, "pan-03", DIALECTS).stores
        files = sorted(path for path in host.real(store.path).rglob("*") if path.is_file())
        self.assertAlmostEqual(sum(map(host.size, files)) / (store.size or 0), 1, places=2)
        gone = host.size(files[0])
        with item_place(files[0].parent, files[0].name) as place:
            assert place
            host.remove(place)
        survey = take_survey(host, "pan-03", DIALECTS)
        self.assertEqual(survey.stores[0].size, (store.size or 0) - gone)
        self.assertEqual(survey.stores[0].unused, (store.unused or 0) - gone)
        free = {volume.id: volume.free for volume in survey.facts.volumes or ()}
        self.assertEqual(free["v0"], 41_000_000_000 + gone)


class Turning(Built):
    def test_a_preference_is_changed_as_by_hand(self) -> None:
        self.assertEqual(self.turn("change", "pan-01", "memory.held_back", "2 GiB"), 0)
        self.assertEqual(self.reading("pan-01", "memory.held_back"), 2 * 2**30)

    def test_what_no_application_holds_or_understands_is_refused(self) -> None:
        for words in (
            ("pan-99", "memory.held_back", "1 GiB"),
            ("pan-01", "audio.input", "x"),
            ("pan-01", "memory.held_back", "lots"),
            ("pan-01", "power.profile", "ludicrous"),
        ):
            with self.subTest(words):
                self.assertEqual(self.turn("change", *words), 2)

    def test_an_application_clamps_what_it_reads_when_it_opens(self) -> None:
        self.turn("change", "rake-02", "memory.held_back", "3 GiB")
        self.assertEqual(self.reading("rake-02", "memory.held_back"), 3 * 2**30)
        self.turn("open", "rake-02", "plinthe")
        self.assertEqual(self.reading("rake-02", "memory.held_back"), 5 * 2**30)

    def test_nothing_passes_a_cable_that_is_out(self) -> None:
        self.turn("offline", "pan-01")
        with httpx.Client(transport=Cable(self.folder / "pan-01")) as client, self.assertRaises(httpx.ConnectError):
            client.get("http://127.0.0.1:9")

    def test_two_who_change_a_machine_at_once_lose_nothing(self) -> None:
        host = self.seats["pan-01"]

        def open_many(app: str) -> None:
            for number in range(10):
                host.reopen(f"{app}-{number}")

        threads = [threading.Thread(target=open_many, args=(name,)) for name in ("a", "b")]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sum(host.is_running(f"{app}-{n}") for app in "ab" for n in range(10)), 20)
