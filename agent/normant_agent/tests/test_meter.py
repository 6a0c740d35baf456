"""Measuring, and what waits for the mains."""

import hashlib
from unittest import TestCase
from unittest.mock import patch

from msgspec.structs import replace

from normant_agent.errors import Waiting
from normant_agent.orders.measuring.meter import put_trial_back
from normant_core.orders.kinds import (
    Beside,
    Change,
    InstallDriver,
    Measure,
    MoveStore,
    PutBack,
    Receipt,
    SetPowerProfile,
    SetPreference,
    Settable,
)

from .bench import AFTER, BEFORE, CHANGES, Bench, Died, order


class Meter(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        self.bench.meter = [19.0, 24.0, 23.5, 24.5, 9.0]

    def test_every_run_is_told_and_nothing_is_changed(self) -> None:
        receipt = self.bench.runner().run(order(Measure("play", 4), "m1"))
        self.assertEqual((receipt.outcome, receipt.measured), ("done", (19.0, 24.0, 23.5, 24.5)))
        self.assertEqual(self.bench.open, {"corrow"})
        self.assertEqual(self.bench.runner().run(order(Measure("play", 4), "m1")), receipt)
        self.assertEqual(self.bench.meter, [9.0])
        self.assertIn("made no changes", self.bench.runner().run(order(PutBack("m1"), "b1")).message)

    def test_another_applications_job_is_run_after_each(self) -> None:
        action = Measure("play", 2, beside=Beside("render", "verrano"))
        receipt = self.bench.runner().run(order(action, "m1"))
        self.assertEqual((receipt.measured, receipt.beside), ((19.0, 23.5), (24.0, 24.5)))
        asked = [made[0] for made in self.bench.measured]
        self.assertEqual([(run.job, run.beside) for run in asked], [("play", ""), ("render", "verrano")] * 2)

    def test_it_waits_while_somebody_is_at_work(self) -> None:
        self.bench.idle = 20
        with self.assertRaisesRegex(Waiting, "waiting until the machine has been idle"):
            self.bench.runner().run(order(Measure("play"), "m1"))
        self.assertEqual(len(self.bench.meter), 5)

    def test_a_seat_without_a_meter_says_so(self) -> None:
        self.bench.meter = []
        receipt = self.bench.runner().run(order(Measure("render"), "m1"))
        self.assertEqual((receipt.outcome, receipt.message), ("failed", "this seat has no meter"))


UNDER = (
    SetPreference("corrow", "preferences", CHANGES),
    SetPowerProfile("balanced", "performance"),
)


class UnderConditions(TestCase):
    """What is set for runs is put back to the byte, whatever dies meanwhile."""

    def setUp(self) -> None:
        self.bench = Bench()
        self.bench.meter = [19.0, 24.0]

    def run_order(self, action: Measure, number: str = "m1") -> Receipt:
        return self.bench.runner().run(order(action, number))

    def assert_as_before(self) -> None:
        self.assertEqual(self.bench.path.read_bytes(), BEFORE)
        self.assertEqual(self.bench.system["power.profile", ""], "balanced")
        self.assertEqual(self.bench.open, {"corrow"})
        self.assertIsNone(self.bench.journal.trial())

    def test_runs_are_made_with_everything_set_and_all_of_it_goes_back(self) -> None:
        receipt = self.run_order(Measure("play", 2, UNDER))
        self.assertEqual((receipt.outcome, receipt.measured, receipt.message), ("done", (19.0, 24.0), ""))
        self.assertEqual(receipt.samples[0].columns["processor"], (0.5, 0.6))
        self.assertEqual([(made[1], made[2]) for made in self.bench.measured], [(AFTER, "performance")] * 2)
        self.assert_as_before()
        self.assertEqual([entry.order for entry in self.bench.journal.unsent()], ["m1"])

    def test_a_job_that_fails_leaves_nothing_set(self) -> None:
        self.bench.meter = [19.0]
        receipt = self.run_order(Measure("play", 2, UNDER))
        self.assertEqual((receipt.outcome, receipt.message), ("failed", "this seat has no meter"))
        self.assert_as_before()

    def test_whoever_comes_back_has_their_settings_back(self) -> None:
        def come(bench: Bench) -> None:
            bench.unsaved = len(bench.measured) == 0

        self.bench.while_measuring = come
        with self.assertRaisesRegex(Waiting, "unsaved"):
            self.run_order(Measure("play", 2, UNDER))
        self.assertIsNotNone(self.bench.journal.trial())  # the application cannot be closed over unsaved work
        self.bench.unsaved, self.bench.while_measuring = False, lambda _: None
        put_trial_back(self.bench.work())
        self.assert_as_before()

    def test_a_condition_that_the_application_does_not_take_is_not_measured(self) -> None:
        self.bench.clamp = (b"6554", b"8192")
        receipt = self.run_order(Measure("play", 2, UNDER))
        self.assertEqual((receipt.outcome, self.bench.measured), ("accepted_as", []))
        self.assertIn("cannot be set here: accepted as 8 GiB", receipt.message)
        self.assert_as_before()

    def test_what_somebody_changed_meanwhile_is_told_and_stays(self) -> None:
        self.bench.while_measuring = lambda bench: bench.system.update({("power.profile", ""): "power-saver"})
        receipt = self.run_order(Measure("play", 1, UNDER))
        self.assertIn("was changed since, to power-saver; it stays", receipt.message)
        self.assertEqual(self.bench.path.read_bytes(), BEFORE)
        self.assertIsNone(self.bench.journal.trial())

    def test_killed_at_any_moment_it_is_put_back_by_the_next_start_without_the_house(self) -> None:
        tried = 0
        for under, runs, is_open in (
            (UNDER, 2, True),
            (UNDER[:1], 1, True),
            (UNDER[:1], 1, False),
            (UNDER[1:], 1, True),
        ):
            moments = self._moments_of(under, runs, is_open)
            for moment in range(1, moments + 1):
                with self.subTest(under=len(under), runs=runs, is_open=is_open, moment=moment):
                    self._die_at(moment, under, runs, is_open)
            tried += moments
        self.assertGreater(tried, 100)

    def _die_at(self, moment: int, under: tuple[Settable, ...], runs: int, is_open: bool) -> None:
        """The process ends there, and again while it puts back, at every moment of that; then it is as before."""
        action = Measure("play", runs, under)
        self._anew(is_open)
        self.bench.dies_at = moment
        with self.assertRaises(Died):
            self.run_order(action)
        for again in range(1, 100):
            self.bench.moments, self.bench.dies_at = 0, again
            try:
                put_trial_back(self.bench.work())
            except Died:
                continue
            break
        self.bench.dies_at = 0
        self.assertEqual(self.bench.path.read_bytes(), BEFORE)
        self.assertEqual(self.bench.system["power.profile", ""], "balanced")
        self.assertEqual(self.bench.open, {"corrow"} if is_open else set())
        self.bench.meter = [19.0, 24.0]
        self.assertEqual(self.run_order(action).outcome, "done")
        self.assertEqual(self.bench.path.read_bytes(), BEFORE)

    def _anew(self, is_open: bool) -> None:
        self.bench = Bench()
        self.bench.meter = [19.0, 24.0]
        if not is_open:
            self.bench.open.clear()

    def _moments_of(self, under: tuple[Settable, ...], runs: int, is_open: bool) -> int:
        self._anew(is_open)
        self.run_order(Measure("play", runs, under))
        return self.bench.moments

    def test_a_copy_of_an_earlier_try_is_never_put_back(self) -> None:
        """The process ended between the end of a try and the last of its copies; meanwhile somebody set the same."""
        self.bench.journal.keep("m1-0", b"an earlier file")
        self.bench.path.write_bytes(AFTER)
        changes = tuple(replace(change, expected=change.native) for change in CHANGES)
        self.run_order(Measure("play", 1, (SetPreference("corrow", "preferences", changes),)))
        self.assertEqual(self.bench.path.read_bytes(), AFTER)

    def test_orders_nobody_may_give_are_refused_inside_too(self) -> None:
        rogue = SetPreference("corrow", "preferences", (Change("delivery.ignore_errors", "0", "1", True),))
        receipt = self.run_order(Measure("play", 1, (rogue,)))
        self.assertEqual((receipt.outcome, self.bench.measured), ("refused", []))


class Clips(TestCase):
    def test_a_clip_is_fetched_once_verified_and_makes_room_for_itself(self) -> None:
        bench = Bench()
        digests = [hashlib.sha256(name).hexdigest() for name in (b"mill", b"lamp", b"quay")]
        bench.held = dict(zip(digests, (b"mill", b"lamp", b"quay"), strict=True))
        bench.meter = [240.0] * 6
        with patch("normant_agent.orders.measuring.meter.QUOTA", 9):
            for number, digest in enumerate([*digests, digests[2]]):
                order_ = order(Measure("decode", 1, clip=digest, clip_size=4, device="cpu"), f"c{number}")
                self.assertEqual(bench.runner().run(order_).outcome, "done")
        self.assertEqual(bench.fetched, digests)
        names = {path.name for path in bench.journal.fetched("clips").iterdir()}
        self.assertEqual(names, {*digests[1:]})
        bench.held[digests[0]] = b"something else"
        receipt = bench.runner().run(order(Measure("decode", 1, clip=digests[0], clip_size=4), "c9"))
        self.assertEqual(receipt.outcome, "failed")
        self.assertIn("nothing was done with it", receipt.message)


class OnBattery(TestCase):
    def test_what_must_end_or_takes_long_waits_for_the_mains(self) -> None:
        bench = Bench()
        bench.on_battery = True
        change = Change("store.source_cache.path", "/home/c", "/fast/corrow/source_cache", "/fast/corrow/source_cache")
        for number, action in enumerate(
            (InstallDriver("gpu0", "32.0.1", "31.4", "0" * 64, 3), MoveStore("corrow", "preferences", change, "v1"))
        ):
            with self.subTest(action), self.assertRaisesRegex(Waiting, "on battery power"):
                bench.runner().run(order(action, f"o{number}"))
        self.assertEqual((bench.installed, bench.open), ([], {"corrow"}))
