import datetime as dt
import unittest

from normant_core.plan.changes import PlannedChange
from normant_core.plan.plan import SeatPlan
from normant_core.rollout.schedule import PlannedSeat, Terms, schedule, takes
from normant_core.seat.facts import Application, Facts

NOW = dt.datetime(2026, 3, 2, 18, tzinfo=dt.UTC)
ROLES = {"comp": 6}


def change(setting: str, app: str | None = "corrow", close: str | None = None) -> PlannedChange:
    return PlannedChange(setting, setting, app, f"{app}.xml", "/x", 1, "1", "2", 2, "1", "2", close)


def part(seat: str, *settings: str, version: str = "8.1", hardware: str = "tall", heard: bool = True) -> PlannedSeat:
    facts = Facts(applications=(Application("corrow", version),))
    plan = SeatPlan(seat, tuple(change(setting) for setting in settings), ())
    return PlannedSeat(plan, facts, "Kiln", "comp", hardware, heard)


class Scheduling(unittest.TestCase):
    def waves(self, *parts: PlannedSeat, **terms: object) -> dict[str, int]:
        """The wave of each seat."""
        order = schedule(parts, Terms(**terms), ROLES, NOW)  # type: ignore[arg-type]
        return {seat: slot.wave for seat, slot in order.slots.items()}

    def test_one_seat_of_each_configuration_goes_ahead(self) -> None:
        seats = [part(name, "memory.held_back") for name in "abc"]
        seats += [part(name, "memory.held_back", version="8.2") for name in "df"]
        seats += [part(name, "memory.held_back", hardware="small") for name in "eg"]
        ahead, later = dict.fromkeys("ade", 0), dict.fromkeys("bcfg", 1)
        self.assertEqual(self.waves(*seats), ahead | later)
        self.assertEqual(set(self.waves(*seats, canaries=False).values()), {1})

    def test_a_configuration_of_one_seat_alone_goes_with_the_first_wave(self) -> None:
        seats = [part(name, "memory.held_back") for name in "abc"] + [part("d", "memory.held_back", version="8.2")]
        self.assertEqual(self.waves(*seats), {"a": 0, "b": 1, "c": 1, "d": 1})

    def test_where_every_seat_would_be_a_canary_nobody_is(self) -> None:
        self.assertEqual(self.waves(part("a", "memory.held_back"), part("b", "engine.workers")), {"a": 1, "b": 1})

    def test_a_seat_that_is_not_heard_is_no_canary_and_still_has_its_turn(self) -> None:
        seats = [part("a", "engine.workers", heard=False), part("b", "engine.workers"), part("c", "engine.workers")]
        self.assertEqual(self.waves(*seats), {"b": 0, "a": 1, "c": 1})

    def test_a_seat_is_taken_for_its_files_and_for_what_is_closed(self) -> None:
        changes = (change("a"), change("b"), change("c", "plinthe", close="plinthe"), change("d", None))
        self.assertEqual(takes(SeatPlan("a", changes, ())), dt.timedelta(minutes=3.5))

    def test_a_canary_that_is_measured_is_taken_for_longer_than_the_others(self) -> None:
        seats = [part(name, "memory.held_back") for name in "ab"]
        slots = schedule(seats, Terms(measure="play"), ROLES, NOW).slots
        lasts = {seat: slot.ends - slot.begins for seat, slot in slots.items()}
        self.assertEqual(lasts, {"a": dt.timedelta(minutes=10.5), "b": dt.timedelta(minutes=0.5)})

    def test_of_one_seat_nobody_speaks_of_canaries(self) -> None:
        self.assertEqual(schedule([part("a", "engine.workers")], Terms(), ROLES, NOW).sentence, "1 seat in 1 wave.")
        two = [part("a", "engine.workers"), part("b", "memory.held_back")]
        self.assertIn("No canaries", schedule(two, Terms(), ROLES, NOW).sentence)

    def test_the_sentence_tells_the_canaries_the_waves_and_who_has_no_turn(self) -> None:
        seats = [part(name, "engine.workers") for name in "abcde"]
        sentence = schedule(seats, Terms(in_wave=2), ROLES, NOW).sentence
        self.assertEqual(
            sentence,
            "1 canary covers the only combination that seats share; this is the minimum. Then 4 seats in 2 waves.",
        )
        soon = Terms(canaries=False, at_once=1, ends=NOW + dt.timedelta(minutes=1))
        self.assertEqual(
            schedule(seats, soon, ROLES, NOW).sentence,
            "2 seats in 1 wave. 3 seats cannot finish before the deadline.",
        )

    def test_seats_are_touched_only_in_the_hours_of_each_day(self) -> None:
        seats = [part(name, "engine.workers") for name in "abc"]
        order = schedule(seats, Terms(canaries=False, at_once=1, opens="20:00", closes="20:01"), ROLES, NOW)
        begins = [(slot.begins - NOW, slot.why) for slot in order.waves.slots]
        hours = dt.timedelta(hours=2)
        self.assertEqual(
            [after for after, _ in begins], [hours, hours + dt.timedelta(seconds=30), hours + dt.timedelta(days=1)]
        )
        self.assertEqual(begins[0][1], "outside the window")

    def test_a_window_that_closes_before_it_opens_lasts_over_night(self) -> None:
        terms = Terms(opens="20:00", closes="06:00")
        for hour, opens in ((18, NOW.replace(hour=20)), (23, NOW.replace(hour=20)), (3, NOW.replace(day=1, hour=20))):
            with self.subTest(hour):
                window = terms.window(NOW.replace(hour=hour))
                self.assertEqual(window, (opens, opens + dt.timedelta(hours=10)))
        self.assertIsNone(Terms().window(NOW))
