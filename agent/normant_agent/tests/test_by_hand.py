"""Runs by hand: a condition is held while somebody plays or exports, and goes back whatever happens."""

import os
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from unittest import TestCase, mock

from normant_agent.errors import Waiting
from normant_agent.jobs import watcher
from normant_agent.orders.measuring.held import Holding
from normant_agent.orders.measuring.meter import put_trial_back
from normant_core.base.errors import DocumentError
from normant_core.dialects.dialect import parse_dialect
from normant_core.orders.kinds import (
    EndHold,
    HoldCondition,
    Measure,
    Receipt,
    SetPowerProfile,
    SetPreference,
    SurveyNow,
)
from normant_core.tests.waiting import until

from .bench import AFTER, BEFORE, CHANGES, TEXT, Bench, Died, order

UNDER = (
    SetPreference("corrow", "preferences", CHANGES, close_when_idle_seconds=0),
    SetPowerProfile("balanced", "performance"),
)
FOLDER = "/home/corrow/out"


class Case(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        self.bench.idle = 5  # somebody is there: they make the run

    def run_order(self, action: Any, number: str) -> Receipt:
        return self.bench.runner().run(order(action, number))

    def hold(self, number: str = "h1", **more: Any) -> Receipt:
        return self.run_order(HoldCondition(more.pop("under", UNDER), **more), number)

    def end(self, held: str = "h1", number: str = "e1") -> Receipt:
        return self.run_order(EndHold(held), number)

    def start_again(self) -> None:
        """The agent's process ends, and another one begins."""
        self.bench.holding.forget()
        self.bench.holding = Holding()

    def assert_as_before(self) -> None:
        self.assertEqual((self.bench.path.read_bytes(), self.bench.profile), (BEFORE, "balanced"))
        self.assertEqual(self.bench.open, {"corrow"})
        self.assertIsNone(self.bench.journal.trial())


class ByHand(Case):
    def test_it_stays_set_until_it_is_ended_and_what_the_machine_did_is_told(self) -> None:
        self.assertEqual(self.hold().outcome, "done")
        self.assertEqual((self.bench.path.read_bytes(), self.bench.profile), (AFTER, "performance"))
        self.assertEqual(self.bench.open, {"corrow"})
        held = self.bench.holding.held
        assert held
        until(lambda: len(held.sampling.taken) > 1)
        receipt = self.end()
        self.assertEqual((receipt.outcome, receipt.measured, receipt.message), ("done", (), ""))
        self.assertGreater(len(receipt.samples[0].columns["processor"]), 1)
        self.assert_as_before()
        self.assertEqual(self.end(), receipt)

    def test_nothing_else_is_done_meanwhile(self) -> None:
        self.hold()
        for number, action in enumerate((SurveyNow(), Measure("play"), HoldCondition(), SetPowerProfile("a", "b"))):
            with self.subTest(action), self.assertRaisesRegex(Waiting, "a manual run is in progress"):
                self.run_order(action, f"o{number}")
        self.assertEqual(self.hold().outcome, "done")  # the same again is the same
        self.end()
        self.assertEqual(self.run_order(SurveyNow(), "o0").outcome, "done")

    def test_unsaved_work_and_renders_are_waited_for_before_and_after(self) -> None:
        self.bench.unsaved = True
        with self.assertRaisesRegex(Waiting, "unsaved"):
            self.hold()
        self.assert_as_before()
        self.bench.unsaved = False
        self.hold()
        self.bench.unsaved = True
        with self.assertRaisesRegex(Waiting, "unsaved"):
            self.end()
        self.bench.unsaved = False
        self.assertEqual(self.end().outcome, "done")
        self.assert_as_before()

    def test_a_condition_that_the_application_does_not_take_is_not_held(self) -> None:
        self.bench.clamp = (b"6554", b"8192")
        receipt = self.hold()
        self.assertEqual(receipt.outcome, "accepted_as")
        self.assertFalse(self.bench.holding.is_live)
        self.assert_as_before()

    def test_when_its_time_is_over_the_run_was_cut_off(self) -> None:
        self.hold()
        held = self.bench.holding.held
        assert held
        held.until = time.monotonic() - 1
        self.bench.idle = 5400
        receipt = self.end()
        self.assertEqual(receipt.outcome, "refused")
        self.assertIn("cut off", receipt.message)
        self.assert_as_before()

    def test_an_agent_that_is_started_again_puts_it_back_and_says_that_it_was_cut_off(self) -> None:
        self.hold()
        self.start_again()
        self.bench.idle = 5400
        put_trial_back(self.bench.work())
        self.assert_as_before()
        self.assertIn("cut off", self.end().message)
        self.assertEqual(self.hold("h2").outcome, "done")
        self.assertEqual(self.end("h2", "e2").outcome, "done")
        self.assert_as_before()

    def test_another_order_s_condition_is_not_ended(self) -> None:
        self.hold()
        self.assertEqual(self.end("h9", "e9").message, "another manual run is in progress on this seat")
        self.assertEqual(self.bench.path.read_bytes(), AFTER)
        self.assertEqual(self.end().outcome, "done")
        self.assert_as_before()

    def test_killed_at_any_moment_it_goes_back_without_the_house(self) -> None:
        tried = 0
        for ends in (False, True):
            self.bench = Bench()
            self._go(ends)
            moments = self.bench.moments
            for moment in range(1, moments + 1):
                with self.subTest(ends=ends, moment=moment):
                    self.bench = Bench()
                    self.bench.dies_at = moment
                    with self.assertRaises(Died):
                        self._go(ends)
                    self._come_back()
                    self.assertEqual((self.bench.path.read_bytes(), self.bench.profile), (BEFORE, "balanced"))
                    self.assertEqual(self.bench.open, {"corrow"})
            tried += moments
        self.assertGreater(tried, 60)

    def _go(self, ends: bool) -> None:
        self.hold()
        if ends:
            self.end()

    def _come_back(self) -> None:
        """The next process puts back, and dies at every moment of that as well."""
        self.start_again()
        for again in range(1, 100):
            self.bench.moments, self.bench.dies_at = 0, again
            try:
                put_trial_back(self.bench.work(), idle_seconds=0)
            except Died:
                continue
            break
        self.bench.dies_at = 0


class Statistics(Case):
    """An application that tells of each time it played."""

    STATS = """[[file.stats]]
path = "corrow/8/played.csv"
delivered = "shown"
dropped = "lost"
"""

    def setUp(self) -> None:
        super().setUp()
        text = TEXT.replace("[[file.binding]]", f"{self.STATS}\n[[file.binding]]", 1)
        self.bench.dialects = [parse_dialect(text)]
        self.path = self.bench.preference_root / "corrow/8/played.csv"
        self.path.write_text("at,shown,lost\n1,700,50\n")

    def add(self, text: str) -> None:
        with self.path.open("a") as file:
            file.write(text)

    def test_every_row_that_came_meanwhile_is_a_run(self) -> None:
        self.hold(under=UNDER[1:], app="corrow", rate=25)
        self.add("2,375,375\n3,750,0\n")
        self.assertEqual(self.end().measured, (12.5, 25))

    def test_rows_that_tell_nothing_are_passed_over(self) -> None:
        self.hold(under=UNDER[1:], app="corrow", rate=25)
        self.add("2,many,0\n3\n4,0,750\n5,-1,3\n6,750,0\n\x00\n")
        self.assertEqual(self.end().measured, (25,))

    def test_a_file_that_is_begun_anew_or_is_not_there(self) -> None:
        self.hold(under=UNDER[1:], app="corrow", rate=25)
        self.path.write_text("shown,lost\n600,150\n")
        self.assertEqual(self.end().measured, (20,))
        self.path.unlink()
        self.hold("h2", under=UNDER[1:], app="corrow", rate=25)
        self.assertEqual(self.end("h2", "e2").measured, ())

    def test_lines_of_json(self) -> None:
        text = TEXT.replace("[[file.binding]]", f'{self.STATS}format = "lines"\n[[file.binding]]', 1)
        self.bench.dialects = [parse_dialect(text)]
        self.hold(under=UNDER[1:], app="corrow", rate=25)
        self.add('{"shown": 375, "lost": 375}\n[1]\nno\n{"shown": 1}\n' + "[" * 9000 + "\n")
        self.assertEqual(self.end().measured, (12.5,))

    def test_an_application_that_tells_nothing_is_refused_before_anything_is_set(self) -> None:
        self.bench.dialects = [parse_dialect(TEXT)]
        receipt = self.hold(app="corrow", rate=25)
        self.assertEqual((receipt.outcome, self.bench.profile), ("refused", "balanced"))

    def test_statistics_lie_where_preferences_may(self) -> None:
        for path in ("../played.csv", "corrow/*/played.csv", "corrow/*.csv", ".ssh/known_hosts", "corrow/.bashrc"):
            with self.subTest(path), self.assertRaises(DocumentError):
                parse_dialect(
                    TEXT.replace("[[file.binding]]", f"{self.STATS}\n[[file.binding]]", 1).replace(
                        "corrow/8/played.csv", path
                    )
                )


class Exports(Case):
    def setUp(self) -> None:
        super().setUp()
        self.bench.dialects = [parse_dialect(TEXT.replace("store.source_cache.path", "store.exports.path"))]
        self.bench.path.write_bytes(BEFORE.replace(b"/home/c", FOLDER.encode()))
        self.folder = self.bench.real(FOLDER)
        self.folder.mkdir(parents=True)
        (self.folder / "before.mov").write_bytes(b"was there")
        for name, seconds in (("EVERY", 0.02), ("QUIET", 0.3), ("CALM", 1)):
            faster = mock.patch.object(watcher, name, seconds)
            faster.start()
            self.addCleanup(faster.stop)

    def write(self, name: str, seconds: float) -> Path:
        """An export whose bytes came within so many seconds, as its times say."""
        path = self.folder / name
        path.write_bytes(bytes(1000))
        named = self.folder.stat().st_mtime  # when the name was put into the folder
        os.utime(path, (named + seconds, named + seconds))
        return path

    def watch(self) -> watcher.ExportWatch:
        """What looks at the folder while the condition is held."""
        held = self.bench.holding.held
        assert held and isinstance(held.watch, watcher.ExportWatch)
        return held.watch

    def until_finished(self, count: int) -> None:
        until(lambda: len(self.watch().finished) >= count)
        self.assertEqual(len(self.watch().finished), count)

    def test_exports_are_timed_from_their_first_byte_to_their_last(self) -> None:
        self.hold(under=UNDER[1:], app="corrow")
        self.write("one.mov", 0.6)
        self.until_finished(1)
        self.write("two.mov", 0.2)
        (self.folder / "link.mov").symlink_to(self.bench.path)
        self.until_finished(2)
        receipt = self.end()
        self.assertEqual(len(receipt.measured), 2, receipt)
        first, second = receipt.measured
        self.assertAlmostEqual(first, 0.6, 1)
        self.assertAlmostEqual(second, 0.2, 1)  # a folder says to a few milliseconds when a name came
        self.assertIn("one.mov", receipt.message)
        self.assertIn("SHA-256", receipt.message)
        self.assertNotIn("before.mov", receipt.message)

    def test_an_export_that_never_finishes_is_none(self) -> None:
        self.hold(under=UNDER[1:], app="corrow")
        growing = self.folder / "grows.mov"

        def files(watch: watcher.ExportWatch) -> Iterator[tuple[Path, int, float]]:
            """What is there, with more bytes at each look."""
            with growing.open("ab") as file:
                file.write(b"more")
            return look(watch)

        look = watcher.ExportWatch._files
        with mock.patch.object(watcher.ExportWatch, "_files", files):
            until(lambda: growing in self.watch()._growing)
            receipt = self.end()
        self.assertEqual((receipt.outcome, receipt.measured), ("done", ()))

    def test_one_that_ended_as_somebody_said_that_all_are_finished_counts(self) -> None:
        self.hold(under=UNDER[1:], app="corrow")
        self.write("one.mov", 0.2)
        self.assertEqual(len(self.end().measured), 1)

    def test_one_that_is_written_over_or_moved_meanwhile(self) -> None:
        self.hold(under=UNDER[1:], app="corrow")
        self.write("before.mov", 0.2)
        self.write("gone.mov", 0.1).unlink()
        self.until_finished(1)
        self.assertEqual(len(self.end().measured), 1)

    def test_one_that_somebody_holds_open_is_not_finished(self) -> None:
        self.hold(under=UNDER[1:], app="corrow")
        with (self.folder / "open.mov").open("wb", buffering=0) as file:
            file.write(b"a few bytes")
            with mock.patch.object(watcher, "_is_open", wraps=watcher._is_open) as asked:
                until(lambda: asked.call_count > 1)  # quiet for long enough, twice
            self.assertEqual(self.watch().finished, [])
        self.until_finished(1)
        self.assertEqual(len(self.end().measured), 1)

    def test_an_application_that_names_no_exports_is_refused_before_anything_is_set(self) -> None:
        self.bench.dialects = [parse_dialect(TEXT)]
        receipt = self.hold(app="corrow")
        self.assertEqual((receipt.outcome, self.bench.profile), ("refused", "balanced"))
        self.assertIsNone(self.bench.journal.trial())
