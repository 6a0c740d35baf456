"""Measuring, and what waits for the mains."""

from unittest import TestCase

from normant_agent.errors import Waiting
from normant_core.orders.kinds import Change, InstallDriver, Measure, MoveStore, PutBack

from .bench import Bench, order


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
        self.assertIn("changed nothing", self.bench.runner().run(order(PutBack("m1"), "b1")).message)

    def test_it_waits_while_somebody_is_at_work(self) -> None:
        self.bench.idle = 20
        with self.assertRaisesRegex(Waiting, "somebody is at work"):
            self.bench.runner().run(order(Measure("play"), "m1"))
        self.assertEqual(len(self.bench.meter), 5)

    def test_a_seat_without_a_meter_says_so(self) -> None:
        self.bench.meter = []
        receipt = self.bench.runner().run(order(Measure("render"), "m1"))
        self.assertEqual((receipt.outcome, receipt.message), ("failed", "this seat has no meter"))


class OnBattery(TestCase):
    def test_what_must_end_or_takes_long_waits_for_the_mains(self) -> None:
        bench = Bench()
        bench.on_battery = True
        change = Change("store.source_cache.path", "/home/c", "/fast/corrow/source_cache", "/fast/corrow/source_cache")
        for number, action in enumerate(
            (InstallDriver("gpu0", "32.0.1", "31.4", "0" * 64, 3), MoveStore("corrow", "preferences", change, "v1"))
        ):
            with self.subTest(action), self.assertRaisesRegex(Waiting, "until it is plugged in"):
                bench.runner().run(order(action, f"o{number}"))
        self.assertEqual((bench.installed, bench.open), ([], {"corrow"}))
