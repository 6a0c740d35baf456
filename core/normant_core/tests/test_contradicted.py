import datetime as dt
import unittest

from normant_core.base.quantities import Value
from normant_core.house.columns import House
from normant_core.house.contradicted import contradicted
from normant_core.house.verdicts import Standing
from normant_core.judging.judge import Judge, View
from normant_core.seat.facts import Facts, Seat
from normant_core.seat.survey import Key
from normant_core.standard.parse import parse_standard

NOW = dt.datetime(2026, 3, 20, 9, tzinfo=dt.UTC)
POWER, SLEEP, SCALE = ("power.profile", None), ("power.sleep_after", None), ("playback.waveforms", "corrow")
STANDARD = """
format = "normant-standard/1"
name = "House"
layer = [{ name = "Whole facility", rule = [
  { setting = "power.profile", want = "performance" },
  { setting = "power.sleep_after", want = 0 },
  { setting = "playback.waveforms", want = false, severity = "advise" },
] }]
"""


class Contradicting(unittest.TestCase):
    def result(
        self, days: dict[tuple[str, Key], float], heard: tuple[str, ...] = ("a", "b", "c")
    ) -> dict[int, tuple[str, ...]]:
        """The seats by the place of the rule; `days` for how long each reading of each seat is off norm."""
        off: dict[Key, Value] = {POWER: "balanced", SLEEP: 600, SCALE: True}
        well: dict[Key, Value] = {POWER: "performance", SLEEP: 0, SCALE: False}
        views = [
            View(Seat(name), Facts(), {key: off[key] if (name, key) in days else value for key, value in well.items()})
            for name in ("a", "b", "c")
        ]
        standing = Standing(House(views), Judge(parse_standard(STANDARD)))
        opened = {place: NOW - dt.timedelta(days=many) for place, many in days.items()}
        return {rule.at[1]: rule.seats for rule in contradicted(standing, opened, heard, NOW)}

    def test_seats_that_have_been_off_one_norm_for_two_weeks_and_no_other(self) -> None:
        self.assertEqual(self.result({("a", POWER): 20, ("b", POWER): 15, ("c", POWER): 13}), {0: ("a", "b")})

    def test_a_seat_with_another_finding_that_matters_is_not_well(self) -> None:
        self.assertEqual(self.result({("a", POWER): 20, ("a", SLEEP): 1}), {})

    def test_what_is_only_advised_does_not_speak_against_it(self) -> None:
        self.assertEqual(self.result({("a", POWER): 20, ("a", SCALE): 1}), {0: ("a",)})

    def test_of_a_silent_seat_nobody_knows_how_it_does(self) -> None:
        self.assertEqual(self.result({("a", POWER): 20}, heard=("b", "c")), {})

    def test_the_sentence_names_the_seats_and_the_day(self) -> None:
        views = [View(Seat("a"), Facts(), {POWER: "balanced"})]
        standing = Standing(House(views), Judge(parse_standard(STANDARD)))
        rules = contradicted(standing, {("a", POWER): NOW - dt.timedelta(days=20)}, {"a"}, NOW)
        self.assertEqual(
            rules[0].sentence, "a does well against it: off this norm since 28 Feb at least, and nothing else is."
        )
