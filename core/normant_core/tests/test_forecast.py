"""When a store fills."""

import datetime as dt
from collections.abc import Sequence
from unittest import TestCase

import numpy as np
from scipy.stats import theilslopes

from normant_core.base.errors import DocumentError
from normant_core.care.forecast import Event, Size, forecast, read_sizes

BEGIN = dt.datetime(2026, 10, 20, 6, tzinfo=dt.UTC)
GB = 10**9
WORKED = (120, 126, 131, 139, 142, 150, 155)


def daily(gigabytes: Sequence[float], events: dict[int, Event] | None = None) -> list[Size]:
    """A size a day."""
    return [
        Size(BEGIN + dt.timedelta(days=n), int(size * GB), (events or {}).get(n, ""))
        for n, size in enumerate(gigabytes)
    ]


class Worked(TestCase):
    def test_the_worked_example(self) -> None:
        sizes = daily(WORKED)
        made = forecast(sizes, 400 * GB)
        assert made.per_day and made.full_on and made.between and made.between[0] and made.between[1]
        self.assertAlmostEqual(made.per_day / GB, 5.83, 2)
        self.assertEqual((made.full_on - sizes[-1].moment).days, 42)
        self.assertTrue(made.between[0] < made.full_on < made.between[1])

    def test_slope_and_interval_are_those_of_the_literature(self) -> None:
        """Sen's as another implementation has them."""
        draw = np.random.default_rng(5)
        for count in (5, 9, 14):
            sizes = 100 + 4 * np.arange(count) + draw.normal(0, 3, count)
            made = forecast(daily([*map(float, sizes)]), 10**13)
            slope, _, low, high = theilslopes([int(size * GB) for size in sizes], np.arange(count))
            assert made.per_day and made.low is not None and made.high is not None
            self.assertAlmostEqual(made.per_day, slope, delta=1)
            self.assertLessEqual(made.low, low + 1)
            self.assertGreaterEqual(made.high, high - 1)


class Cut(TestCase):
    def test_a_clearing_ends_a_stretch_and_costs_nothing(self) -> None:
        sizes = daily([100, 105, 110, 20, 25, 30, 35], {3: "cleared"})
        made = forecast(sizes, 135 * GB)
        assert made.per_day and made.full_on
        self.assertAlmostEqual(made.per_day, 5 * GB)
        self.assertEqual((made.full_on - sizes[-1].moment).days, 20)
        unmarked = forecast(daily([100, 105, 110, 20, 25, 30, 35]), 135 * GB)
        self.assertNotEqual(unmarked.per_day, made.per_day)

    def test_only_fourteen_days_count_and_their_order_does_not(self) -> None:
        sizes = daily([*range(400, 100, -15), *range(100, 130, 2)])
        made = forecast(reversed(sizes), 200 * GB)
        self.assertAlmostEqual(made.per_day or 0, 2 * GB)

    def test_nothing_is_said_of_what_does_not_grow_or_was_not_seen(self) -> None:
        for gigabytes in ([100, 100, 100, 100], [100, 90, 80, 70]):
            made = forecast(daily(gigabytes), 400 * GB)
            self.assertEqual((made.full_on, made.between), (None, None))
            self.assertIsNotNone(made.per_day)
        for sizes in ([], daily([5]), [Size(BEGIN, 1), Size(BEGIN, 9)]):
            self.assertEqual(forecast(sizes, 400 * GB).per_day, None)
        self.assertIsNone(forecast(daily([1, 1.000001, 1.000002]), 10**17).full_on)

    def test_what_is_full_is_full_now_and_two_sizes_bound_nothing(self) -> None:
        sizes = daily([390, 395, 401])
        self.assertEqual(forecast(sizes, 400 * GB).full_on, sizes[-1].moment)
        made = forecast(daily([100, 110]), 400 * GB)
        assert made.between
        self.assertEqual((made.full_on is None, made.between[1]), (False, None))


class Tables(TestCase):
    def test_every_fault_is_told_with_its_line(self) -> None:
        table = [
            ["moment", "bytes", "event"],
            ["2026-10-20T06:00", "1000", ""],
            ["yesterday", "1000", ""],
            ["2026-10-21T06:00:00+02:00", "-5", ""],
            ["2026-10-21T06:00:00+02:00", "", ""],
            ["2026-10-21", "9", "burnt"],
            ["0001-01-01", "9"],
        ]
        with self.assertRaises(DocumentError) as caught:
            read_sizes(table, "sizes.csv")
        words_of_it = str(caught.exception)
        for words in ("csv:3: ", "csv:4: ", "csv:5: the bytes are missing", "unknown event 'burnt'", "1970 to 2200"):
            self.assertIn(words, words_of_it)
        with self.assertRaisesRegex(DocumentError, "no column 'bytes'"):
            read_sizes([["moment"]])

    def test_the_event_may_be_left_out(self) -> None:
        (size,) = read_sizes([["bytes", "moment"], ["7", "2026-10-20"]])
        self.assertEqual((size.size, size.event, size.moment.tzinfo), (7, "", dt.UTC))
