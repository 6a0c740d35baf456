import math
from unittest import TestCase

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy import stats

from normant_core.measure.comparison import compare

RUNS = st.lists(st.floats(0.5, 500), min_size=3, max_size=9)


class Worked(TestCase):
    """The examples of the computations; a first run is thrown away."""

    def test_renders_that_became_faster(self) -> None:
        result = compare("render", (600, 412, 405, 420), (90, 148, 151, 146))
        self.assertEqual(result.outcome, "better")
        self.assertEqual(result.sentence, "renders 2.78 times faster, 2.67 to 2.89")

    def test_rates_that_show_no_difference(self) -> None:
        result = compare("play", (1, 23.1, 24.0, 22.4, 23.7, 24.0), (1, 23.6, 23.9, 24.0, 23.2, 23.8))
        self.assertEqual(result.sentence, "plays 1.011 times as fast (0.975 to 1.049): no difference shown")

    def test_the_other_way_round_it_is_as_much_slower(self) -> None:
        result = compare("render", (90, 148, 151, 146), (600, 412, 405, 420))
        self.assertEqual((result.outcome, result.sentence), ("worse", "renders 2.78 times slower, 2.67 to 2.89"))

    def test_a_difference_that_is_sure_but_small_is_none(self) -> None:
        for factor, outcome in ((1.02, "no difference shown"), (1.05, "better"), (1 / 1.05, "worse")):
            with self.subTest(factor):
                runs = [24.0, 24.01, 24.0, 23.99]
                self.assertEqual(compare("play", runs, [run * factor for run in runs]).outcome, outcome)

    def test_runs_that_are_all_alike_have_an_interval_of_nothing(self) -> None:
        result = compare("play", (9, 20, 20), (9, 25, 25))
        self.assertEqual((result.low, result.high, result.outcome), (1.25, 1.25, "better"))

    def test_with_too_few_it_says_how_many_more(self) -> None:
        for runs, missing in (((), "2 more"), ((20,), "2 more"), ((20, 20), "1 more")):
            with self.subTest(runs):
                result = compare("play", runs, (20, 20, 20))
                self.assertEqual((result.outcome, result.ratio), ("too few runs", 1))
                self.assertIn(missing, result.sentence)


class Laws(TestCase):
    @given(RUNS, RUNS)
    def test_it_is_welchs_interval_as_others_compute_it(self, before: list[float], after: list[float]) -> None:
        first, second = np.log(before[1:]), np.log(after[1:])
        assume(min(first.std(), second.std()) > 1e-3)  # with less the other one warns of lost digits
        result = compare("play", before, after)
        bounds = stats.ttest_ind(second, first, equal_var=False).confidence_interval(0.95)
        for here, there in ((result.low, bounds.low), (result.high, bounds.high)):
            self.assertTrue(math.isclose(math.log(here), there, rel_tol=1e-6, abs_tol=1e-9), (here, math.exp(there)))

    @given(RUNS, RUNS)
    def test_before_and_after_turn_the_answer_over(self, before: list[float], after: list[float]) -> None:
        there, back = compare("play", before, after), compare("play", after, before)
        self.assertTrue(math.isclose(there.ratio * back.ratio, 1))
        self.assertEqual({there.outcome, back.outcome} & {"better", "worse"} in ({"better", "worse"}, set()), True)
