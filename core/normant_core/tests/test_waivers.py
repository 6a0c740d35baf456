import datetime as dt
import unittest

import msgspec

from normant_core.house.waivers import Waiver, scope_text, waived, waiver_of
from normant_core.judging.levels import levels

from .worked import PAN_03 as PAN
from .worked import STANDARD, judge_of, view

NOON = dt.datetime(2026, 3, 2, 12, tzinfo=dt.UTC)
DAY = dt.timedelta(days=1)
KEY = ("memory.held_back", "corrow")


def waiver(number: int = 1, *, setting: str = KEY[0], app: str | None = "corrow", **more: object) -> Waiver:
    fields = {"seats": frozenset({"pan-03"}), "groups": {}, "reason": "tried", "begins": NOON, "ends": NOON + DAY}
    return Waiver(number, setting, app, **{**fields, **more})  # type: ignore[arg-type]


class Scope(unittest.TestCase):
    def test_who_and_what_is_covered(self) -> None:
        for name, made, covers in (
            ("its seat", waiver(), True),
            ("another seat", waiver(seats=frozenset({"pan-04"})), False),
            ("another application", waiver(app="plinthe"), False),
            ("whichever application", waiver(app=None), True),
            ("another setting", waiver(setting="memory.preview_pool"), False),
            ("its group", waiver(seats=frozenset(), groups={"role": "offline", "room": "Pan House"}), True),
            ("one of two groups", waiver(seats=frozenset(), groups={"role": "offline", "room": "Kiln"}), False),
            ("the whole house", waiver(seats=frozenset()), True),
        ):
            with self.subTest(name):
                self.assertEqual(waiver_of([made], PAN, KEY) is made, covers)

    def test_of_several_the_one_that_holds_longest_counts(self) -> None:
        short, long, endless = waiver(1), waiver(2, ends=NOON + 9 * DAY), waiver(3, ends=None)
        self.assertIs(waiver_of([long, short], PAN, KEY), long)
        self.assertIs(waiver_of([endless, long, short], PAN, KEY), endless)

    def test_it_holds_from_its_beginning_until_its_end(self) -> None:
        held = [waiver().holds(NOON + moment) for moment in (-DAY, 0 * DAY, DAY / 2, DAY)]
        self.assertEqual(held, [False, True, True, False])

    def test_a_scope_in_words(self) -> None:
        self.assertEqual(scope_text({"b", "a", "c"}, {}), "a, b and c")
        self.assertEqual(scope_text((), {"role": "comp", "hardware_class": "X"}), "every seat of role comp and class X")
        self.assertEqual(scope_text((), {}), "every seat")


class Verdicts(unittest.TestCase):
    def test_a_covered_finding_is_waived_and_shows_on_the_level_with_its_reason(self) -> None:
        verdicts = judge_of(STANDARD).verdicts(view())
        covering = [waiver(app=None), waiver(setting="memory.preview_pool")]
        covered = waived(verdicts, PAN, covering)
        self.assertEqual([v.key for v in covered if v.status == "waived"], [KEY, ("memory.preview_pool", "corrow")])
        memory = next(level for level in levels(covered) if level.family == "memory")
        self.assertEqual((memory.status, memory.count), ("waived", 0))
        self.assertTrue(memory.words.endswith("waived: tried"))

    def test_what_a_locked_rule_wants_nobody_waives(self) -> None:
        verdicts = judge_of(STANDARD).verdicts(view())
        covered = waived(verdicts, PAN, [waiver(setting="delivery.full_raw", app=None)])
        self.assertEqual(msgspec.to_builtins(covered), msgspec.to_builtins(verdicts))
