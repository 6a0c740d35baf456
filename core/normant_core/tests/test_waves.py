import datetime as dt
import unittest
from collections import Counter
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from normant_core.rollout.waves import Limits, Slot, Span, Turn, Waves, waves

EVENING = dt.datetime(2026, 3, 2, 18, tzinfo=dt.UTC)
NIGHT = dt.timedelta(hours=12)


def at(minutes: int) -> dt.datetime:
    return EVENING + dt.timedelta(minutes=minutes)


def span(begin: int, end: int) -> Span:
    return at(begin), at(end)


def turn(
    seat: str, *booked: Span, takes: int = 10, room: str = "Kiln", role: str = "comp", canary: bool = False
) -> Turn:
    return Turn(seat, room, role, dt.timedelta(minutes=takes), booked, canary)


def limits(**more: object) -> Limits:
    return Limits(EVENING, EVENING + NIGHT, **more)  # type: ignore[arg-type]


def slots_of(order: Waves) -> list[tuple[str, int, int, str]]:
    """(seat, wave, minute at which it begins, why it is not sooner)."""
    return [(s.seat, s.wave, int((s.begins - EVENING).total_seconds() // 60), s.why) for s in order.slots]


class Turns(unittest.TestCase):
    def test_without_limits_everybody_begins_at_once(self) -> None:
        self.assertEqual(slots_of(waves([turn("b"), turn("a")], limits())), [("a", 1, 0, ""), ("b", 1, 0, "")])

    def test_canaries_go_ahead_and_the_others_wait_a_pause_longer(self) -> None:
        order = waves([turn("a"), turn("b", canary=True)], limits(pause=dt.timedelta(minutes=30)))
        self.assertEqual(slots_of(order), [("b", 0, 0, ""), ("a", 1, 40, "after the canaries")])

    def test_waves_are_no_larger_than_allowed(self) -> None:
        order = waves([turn(name) for name in "abcde"], limits(in_wave=2, pause=dt.timedelta(minutes=5)))
        self.assertEqual(
            [(seat, wave) for seat, wave, *_ in slots_of(order)], [("a", 1), ("b", 1), ("c", 2), ("d", 2), ("e", 3)]
        )
        self.assertEqual(slots_of(order)[-1], ("e", 3, 30, "after wave 2"))

    def test_a_booking_is_waited_for_and_the_seat_with_least_free_time_chooses_first(self) -> None:
        order = waves([turn("a"), turn("b", span(0, 60), span(65, 700))], limits(at_once=1))
        self.assertEqual(slots_of(order), [("a", 1, 0, ""), ("b", 1, 700, "room booked")])

    def test_a_room_and_a_role_have_limits_of_their_own(self) -> None:
        seats = [turn("a"), turn("b"), turn("c", room="Rake Room")]
        self.assertEqual([row[2] for row in slots_of(waves(seats, limits(at_once=1)))], [0, 0, 10])
        order = waves(seats, limits(left_working=2, roles={"comp": 3}))
        self.assertEqual(slots_of(order)[-1], ("c", 1, 20, "2 of role comp must stay free to work"))

    def test_windows_are_kept_to_the_end_of_the_turn(self) -> None:
        order = waves([turn("a", takes=50)], limits(windows=(span(0, 30), span(100, 200))))
        self.assertEqual(slots_of(order), [("a", 1, 100, "outside the window")])

    def test_what_cannot_be_done_before_the_deadline_says_why(self) -> None:
        late = Limits(EVENING, at(60), roles={"comp": 1}, left_working=1)
        self.assertEqual(waves([turn("a")], late).without, (("a", "1 of role comp must stay free to work"),))
        booked = waves([turn("a", span(0, 55)), turn("b")], Limits(EVENING, at(60)))
        self.assertEqual((booked.without, booked.done), ((("a", "room booked"),), at(10)))
        self.assertEqual(
            waves([turn("a", takes=90)], Limits(EVENING, at(60))).without[0][1], "the deadline is too close"
        )

    def test_nobody_is_scheduled_when_there_is_nobody(self) -> None:
        self.assertEqual(waves([], limits()), Waves((), (), None))


spans = st.tuples(st.integers(0, 300), st.integers(1, 90)).map(lambda p: span(p[0], p[0] + p[1]))
turns = st.builds(
    lambda booked, takes, room, role, canary: (tuple(booked), takes, room, role, canary),
    st.lists(spans, max_size=3),
    st.integers(1, 40),
    st.sampled_from(["Kiln", "Sluice"]),
    st.sampled_from(["comp", "ingest"]),
    st.booleans(),
)


class Laws(unittest.TestCase):
    @given(
        st.lists(turns, max_size=8),
        st.integers(0, 2),
        st.integers(0, 2),
        st.integers(0, 3),
        st.lists(spans, max_size=3),
    )
    def test_every_limit_holds_at_every_minute_and_nobody_is_forgotten(
        self,
        drawn: list[Any],
        at_once: int,
        left: int,
        in_wave: int,
        windows: list[Span],
    ) -> None:
        all_ = [
            Turn(f"s{n}", room, role, dt.timedelta(minutes=t), b, c) for n, (b, t, room, role, c) in enumerate(drawn)
        ]
        by_seat = {turn_.seat: turn_ for turn_ in all_}
        roles = Counter(turn_.role for turn_ in all_)
        limit = Limits(EVENING, at(400), tuple(windows), at_once, left, in_wave, dt.timedelta(minutes=7), roles)
        order = waves(all_, limit)
        self.assertEqual(sorted([s.seat for s in order.slots] + [seat for seat, _ in order.without]), sorted(by_seat))
        for slot in order.slots:
            self.assertTrue(EVENING <= slot.begins < slot.ends <= at(400))
            self.assertFalse([b for b in by_seat[slot.seat].booked if b[0] < slot.ends and b[1] > slot.begins])
        for minute in range(400):
            working = [s for s in order.slots if s.begins <= at(minute) < s.ends]
            self.at_a_moment(at(minute), working, by_seat, limit)
        self.in_order(order.slots, limit.pause)

    def at_a_moment(self, moment: dt.datetime, working: list[Slot], by_seat: dict[str, Turn], limit: Limits) -> None:
        rooms, roles = (Counter(getattr(by_seat[s.seat], of) for s in working) for of in ("room", "role"))
        if limit.at_once:
            self.assertLessEqual(max(rooms.values(), default=0), limit.at_once)
        for role, count in roles.items():
            self.assertLessEqual(count, limit.roles[role] - limit.left_working)
        if working and limit.windows:
            self.assertTrue(any(begin <= moment < end for begin, end in limit.windows))

    def in_order(self, slots: tuple[Slot, ...], pause: dt.timedelta) -> None:
        for slot in slots:
            before = [other.ends for other in slots if other.wave < slot.wave]
            self.assertTrue(not before or slot.begins >= max(before) + pause)
