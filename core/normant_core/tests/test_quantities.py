from fractions import Fraction
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from normant_core.base.errors import QuantityError
from normant_core.base.quantities import Dimension, Value, Version, VersionRange, exact, parse_quantity, show

D = Dimension
GIB = 2**30
PARSED = [
    ("6.4 GiB", D.BYTES, Fraction(64 * GIB, 10)),
    ("512MiB", D.BYTES, 2**29),
    ("120 GB", D.BYTES, 120 * 10**9),
    ("1/4", D.NUMBER, Fraction(1, 4)),
    ("35 %", D.SHARE, Fraction(35, 100)),
    ("23.976", D.RATE, Fraction(24000, 1001)),
    ("29.97", D.RATE, Fraction(30000, 1001)),
    ("45 d", D.SECONDS, 45 * 86400),
    ("7 min", D.SECONDS, 420),
]
REFUSED = [
    ("4 G B", D.BYTES, 2),
    ("1/0", D.NUMBER, 2),
    ("-3 GB", D.BYTES, 0),
    ("NaN", D.BYTES, 0),
    ("120 gigs", D.BYTES, 4),
    ("4 GiB more", D.BYTES, 6),
    ("4 min", D.BYTES, 2),
]
SHOWN: list[tuple[Value, D, str, str]] = [
    (6871947674, D.BYTES, "", "6.4 GiB"),
    (41 * 10**9, D.BYTES, "GB", "41 GB"),
    (Fraction(24000, 1001), D.RATE, "", "23.976"),
    (Fraction(1, 2), D.NUMBER, "", "1/2"),
    (None, D.BYTES, "", "nothing"),
]


class Quantities(TestCase):
    def test_written_quantities_have_their_exact_value(self) -> None:
        for text, dimension, value in PARSED:
            with self.subTest(text):
                self.assertEqual(parse_quantity(text, dimension), value)

    def test_a_fault_is_told_at_its_character(self) -> None:
        for text, dimension, position in REFUSED:
            with self.subTest(text), self.assertRaises(QuantityError) as caught:
                parse_quantity(text, dimension)
            self.assertEqual(caught.exception.position, position)
            self.assertTrue(caught.exception.expected)

    def test_a_bare_number_takes_the_unit_of_the_setting(self) -> None:
        self.assertEqual(parse_quantity("2", D.BYTES, unit="GiB"), 2 * GIB)

    def test_people_read_quantities_in_their_usual_units(self) -> None:
        for value, dimension, unit, text in SHOWN:
            with self.subTest(text):
                self.assertEqual(show(value, dimension, unit=unit), text)

    @given(st.integers(0, 2**60), st.sampled_from([D.BYTES, D.SECONDS]))
    def test_exact_text_reads_back_to_the_same_whole_number(self, value: int, dimension: Dimension) -> None:
        self.assertEqual(parse_quantity(exact(value, dimension), dimension), value)

    @given(st.fractions(0, 1000))
    def test_exact_text_reads_back_to_the_same_fraction(self, value: Fraction) -> None:
        self.assertEqual(parse_quantity(exact(value, D.NUMBER), D.NUMBER), value)


class Versions(TestCase):
    def test_versions_order_by_number_then_pre_release(self) -> None:
        texts = ["8", "8.3.1", "8.10", "9.0.0-beta2", "9.0.0-rc1", "9", "31.4.2"]
        self.assertEqual(sorted(texts, key=Version.parse), texts)

    def test_every_part_of_a_range_must_hold(self) -> None:
        within = VersionRange.parse(">=8,<9")
        held = [within.holds(v) for v in ("7.9", "8.0", "8.99.1", "9.0-rc1", "9", "odd")]
        self.assertEqual(held, [False, True, True, True, False, False])
