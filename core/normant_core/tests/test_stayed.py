import datetime as dt
from unittest import TestCase

from normant_core.rollout.lasting import Back, Corrected, Interval, lasting_corrections

KEY = ("playback.scale", "corrow")
THEN = dt.datetime(2026, 3, 1, 12, tzinfo=dt.UTC)
NOW = THEN + dt.timedelta(days=10)


def day(days: float) -> dt.datetime:
    return THEN + dt.timedelta(days=days)


def held(seat: str, until: float | None, by: str = "", *, at: float = 0) -> tuple[Corrected, Interval]:
    end = None if until is None else day(until)
    return Corrected(seat, KEY, "1/2", day(at)), Interval("1/2", day(at), end, by)


class Stays(TestCase):
    def result(self, *known: tuple[Corrected, Interval]) -> list[tuple[object, ...]]:
        intervals: dict[tuple[str, tuple[str, str | None]], list[Interval]] = {}
        for correction, interval in known:
            intervals.setdefault((correction.seat, correction.key), []).append(interval)
        lasting = lasting_corrections([correction for correction, _ in known], intervals, NOW)
        return [(s.corrected, s.after, s.back) for s in lasting]

    def test_what_stays_what_is_changed_back_and_what_is_too_young_to_tell(self) -> None:
        lasting = self.result(held("a", None), held("b", 3, "at the seat"), held("c", None, at=9.5))
        back = Back("b", 1, "at the seat", day(3))
        self.assertEqual(lasting, [(3, ((1, 2, 2), (7, 1, 2), (30, 0, 0)), (back,))])

    def test_what_a_later_rollout_set_counts_until_then(self) -> None:
        self.assertEqual(self.result(held("a", 3, "ours")), [(1, ((1, 1, 1), (7, 0, 0), (30, 0, 0)), ())])

    def test_the_most_stubborn_seat_comes_first_with_its_usual_way(self) -> None:
        lasting = self.result(
            held("a", 2, "at the seat"),
            held("b", 0.5, "at the seat"),
            held("b", 2.5, "version", at=2),
            held("b", 5, "version", at=4),
        )
        self.assertEqual(lasting[0][2], (Back("b", 3, "version", day(5)), Back("a", 1, "at the seat", day(2))))

    def test_what_no_survey_ever_said_is_not_counted(self) -> None:
        other = Interval("1/4", day(0), None)
        self.assertEqual(lasting_corrections([held("a", None)[0]], {("a", KEY): [other]}, NOW), [])

    def test_a_seat_whose_clock_is_a_little_off_counts(self) -> None:
        correction, _ = held("a", None)
        late = Interval("1/2", correction.at + dt.timedelta(minutes=4), None)
        self.assertEqual(lasting_corrections([correction], {("a", KEY): [late]}, NOW)[0].after[0], (1, 1, 1))
