import unittest
from collections import Counter
from itertools import combinations

from hypothesis import given
from hypothesis import strategies as st

from normant_core.rollout.canaries import Canaries, canaries

WORKED = {"a": {1, 2, 3}, "b": {3, 4}, "c": {4, 5}, "d": {1, 5}, "e": {2}}
plans = st.dictionaries(st.text("abcdefgh", min_size=1, max_size=2), st.frozensets(st.integers(0, 9)), max_size=9)


def fewest(tries: dict[str, frozenset[int]]) -> int:
    """By trying every choice."""
    every = frozenset().union(*tries.values())
    sizes = range(len(tries) + 1)
    return next(n for n in sizes for some in combinations(tries.values(), n) if frozenset().union(*some) == every)


class TheWorkedExample(unittest.TestCase):
    def test_greedy_takes_a_then_c_and_two_is_optimal(self) -> None:
        self.assertEqual(canaries(WORKED, {}), Canaries(("a", "c"), 5, 2))
        self.assertEqual(
            canaries(WORKED, {}).sentence,
            "2 canaries cover all 5 combinations that seats share; this is the minimum.",
        )

    def test_of_seats_that_add_as_much_the_one_with_the_lightest_bookings_is_chosen(self) -> None:
        same = {"x": {1, 2}, "y": {1, 2}, "z": {1, 2}}
        self.assertEqual(canaries(same, {"x": 3, "y": 0.5, "z": 2}).seats, ("y",))
        overlapping = {"x": {1, 2}, "y": {1, 3}, "z": {2, 3}}
        self.assertEqual(canaries(overlapping, {"x": 9, "y": 1, "z": 2}).seats, ("y", "z"))

    def test_what_one_seat_has_alone_needs_no_canary(self) -> None:
        chosen = canaries({"a": {1, 2}, "b": {2, 3}, "c": {4}}, {"b": 1})
        self.assertEqual(chosen, Canaries(("a",), 1, 1, 3))
        self.assertIn("3 combinations are on single seats and need none.", chosen.sentence)
        nobody = canaries({"a": {1}, "b": {2}}, {})
        self.assertEqual((nobody.seats, nobody.alone), ((), 2))
        self.assertIn("no two seats share", nobody.sentence)

    def test_a_silent_seat_that_shares_it_makes_it_worth_trying(self) -> None:
        self.assertEqual(canaries({"a": {1}}, {}, [{1}]).seats, ("a",))

    def test_nothing_to_try_needs_nobody(self) -> None:
        self.assertEqual(canaries({"a": ()}, {}), Canaries((), 0, 0))


class Laws(unittest.TestCase):
    @given(plans, st.dictionaries(st.text("abcdefgh", min_size=1, max_size=2), st.floats(0, 9)))
    def test_all_is_tried_nobody_is_needless_and_the_bound_is_none_too_high(
        self, tries: dict[str, frozenset[int]], busy: dict[str, float]
    ) -> None:
        chosen = canaries(tries, busy)
        having = Counter(what for some in tries.values() for what in some)
        tries = {seat: frozenset(what for what in some if having[what] > 1) for seat, some in tries.items()}
        every = frozenset().union(*tries.values())
        self.assertEqual((chosen.tried, chosen.alone), (len(every), len(having) - len(every)))
        self.assertEqual(frozenset().union(*(tries[seat] for seat in chosen.seats)), every)
        for needless in chosen.seats:
            others = frozenset().union(*(tries[seat] for seat in chosen.seats if seat != needless))
            self.assertNotEqual(others, every)
        self.assertLessEqual(chosen.bound, fewest(tries))
        self.assertLessEqual(fewest(tries), len(chosen.seats))

    @given(plans)
    def test_the_order_of_the_seats_does_not_matter(self, tries: dict[str, frozenset[int]]) -> None:
        turned = dict(reversed(tries.items()))
        self.assertEqual(canaries(tries, {}), canaries(turned, {}))
