import datetime as dt
import unittest

from hypothesis import given
from hypothesis import strategies as st

from normant_core.words.overnight import Episode, flapping, happened

EVENING = dt.datetime(2026, 3, 2, 18, tzinfo=dt.UTC)
MORNING = EVENING + dt.timedelta(hours=14)
HELD, POOL = ("memory.held_back", "corrow"), ("memory.preview_pool", "pockle")


def hours(number: float) -> dt.datetime:
    return EVENING + dt.timedelta(hours=number)


def episode(
    seat: str, opened: float, closed: float | None = None, key: tuple[str, str | None] = HELD, by: str = "theirs"
) -> Episode:
    return Episode(
        seat, key, hours(opened), by, None if closed is None else hours(closed), "ours" if closed is not None else ""
    )


class Overnight(unittest.TestCase):
    def titles(self, *episodes: Episode) -> list[str]:
        return [step.title for step in happened(episodes, EVENING, MORNING)]

    def test_steps_of_one_cause_are_one_line(self) -> None:
        episodes = [episode("pan-02", 3), episode("pan-01", 4), episode("pan-03", 5, by="facts")]
        self.assertEqual(
            self.titles(*episodes),
            [
                "Corrow memory reserve went off norm on pan-01, pan-02, changed at the seat",
                "Corrow memory reserve went off norm on pan-03, hardware or a version changed",
            ],
        )

    def test_what_came_back_and_what_only_passed(self) -> None:
        self.assertEqual(self.titles(episode("a", -9, 2)), ["Corrow memory reserve came back on a, by a rollout"])
        passed = "Corrow memory reserve went off norm and came back on a, changed at the seat"
        self.assertEqual(self.titles(episode("a", 1, 2)), [passed])

    def test_what_stands_at_the_end_as_at_the_beginning_is_not_told(self) -> None:
        self.assertEqual(self.titles(episode("a", -9), episode("b", -9, -3), episode("c", 99)), [])
        self.assertEqual(self.titles(episode("a", -9, 2), episode("a", 3)), [])

    @given(st.lists(st.tuples(st.sampled_from("abc"), st.integers(-20, 20), st.integers(1, 9)), max_size=12))
    def test_who_left_and_who_came_back_is_the_difference_of_the_two_moments(
        self, spans: list[tuple[str, int, int]]
    ) -> None:
        free: dict[str, int] = {}
        made = []
        for seat, start, length in sorted(spans, key=lambda t: t[1]):
            if start > free.get(seat, -99):
                made.append(episode(seat, start, start + length))
                free[seat] = start + length
        at = [{e.seat for e in made if e.opened <= m and e.closed and e.closed > m} for m in (EVENING, MORNING)]
        steps = happened(made, EVENING, MORNING)
        self.assertEqual({s for h in steps if h.how == "left" for s in h.seats}, at[1] - at[0])
        self.assertEqual({s for h in steps if h.how == "back" for s in h.seats}, at[0] - at[1])


class ComingAndGoing(unittest.TestCase):
    def nights(self, count: int) -> list[Episode]:
        """From about eight in the evening until about eight in the morning."""
        return [episode("pan-07", 2.2 - 24 * n, 14.3 - 24 * n, POOL) for n in range(count)]

    def test_a_rhythm_is_told_once(self) -> None:
        flaps = flapping(self.nights(13), MORNING)
        self.assertEqual([(f.seat, f.times, f.leaves, f.returns) for f in flaps], [("pan-07", 13, "20:12", "08:18")])
        self.assertIn(
            "it left the norm 13 times in 14 days, around 20:12, and came back around 08:18", flaps[0].sentence
        )

    def test_three_times_are_an_accident_and_so_are_four_on_one_day(self) -> None:
        self.assertEqual(flapping(self.nights(3), MORNING), [])
        once = [episode("pan-07", n / 10, n / 10 + 0.05, POOL) for n in range(4)]
        self.assertEqual(flapping(once, MORNING), [])

    def test_a_time_around_midnight_is_not_noon(self) -> None:
        episodes = [episode("a", (5.9 if n % 2 else 6.1) - 24 * n, 7 - 24 * n) for n in range(6)]
        self.assertIn(flapping(episodes, MORNING)[0].leaves, ("23:54", "00:06"))
