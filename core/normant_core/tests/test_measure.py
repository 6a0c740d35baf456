import math
from collections import Counter
from dataclasses import replace
from fractions import Fraction
from itertools import combinations
from typing import Any
from unittest import TestCase

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy import stats

from normant_core.base.errors import DocumentError
from normant_core.measure import looks
from normant_core.measure.design import DesignError, blocks, drawn, factorial, restarts
from normant_core.measure.estimates import Estimate, estimate, holm, of_seat, pooled, scatter
from normant_core.measure.ladder import Rung, is_good, next_rung
from normant_core.measure.machine.memory import CutError, Wanted, cut, most_workers, read_frame
from normant_core.measure.machine.routes import RemedyAsked, RouteAsked, codecs_of, remedy, route, space_of_proxies
from normant_core.measure.runs import Run, read_runs
from normant_core.measure.screening import Screened, read_screening, screen
from normant_core.measure.verdict import verdict
from normant_core.orders.kinds import Job
from normant_core.seat.facts import Application, Driver, Facts, Gpu, Volume

A, B = (38.1, 37.6, 38.4, 37.9, 38.8, 37.2), (41.9, 41.0, 42.6, 41.2, 43.1, 40.7)
RENDERS = {"cpu": (418, 411, 424, 415), "gpu0": (352, 349, 360, 355), "gpu1": (96, 98, 95, 97)}
SCREENED = (27.8, 24.9, 36.1, 32.0, 24.7, 27.6, 32.3, 36.7, 32.2, 36.0, 25.0, 27.9, 36.2, 32.0, 27.8, 25.0)
SPEEDS = st.lists(st.floats(0.5, 500), min_size=2, max_size=9)


def runs_of(**values: Any) -> list[Run]:
    """Runs of one seat, block by block."""
    count = len(next(iter(values.values())))
    return [Run("pan-03", str(n), name, figures[n]) for n in range(count) for name, figures in values.items()]


class Worked(TestCase):
    """The examples of the design, to three decimals."""

    def shown(self, *numbers: float) -> tuple[str, ...]:
        return tuple(f"{number:.3f}" for number in numbers)

    def test_two_conditions_on_one_seat_are_paired_by_block(self) -> None:
        (compared,) = verdict("play", runs_of(A=A, B=B)).comparisons
        self.assertEqual(self.shown(compared.ratio, compared.low, compared.high), ("1.099", "1.088", "1.109"))
        self.assertEqual((compared.of, compared.against, compared.outcome), ("B", "A", "better"))
        self.assertEqual((compared.seats, compared.blocks), (1, 6))

    def test_several_seats_by_random_effects(self) -> None:
        errors = (0.012, 0.020, 0.015, 0.025)
        seats = [Estimate(math.log(r), e, 5) for r, e in zip((1.09, 1.12, 1.02, 1.15), errors, strict=True)]
        self.assertAlmostEqual(scatter([seat.log for seat in seats], [e**2 for e in errors]), 24.73, 2)
        whole = pooled(seats)
        self.assertEqual(self.shown(whole.ratio, *whole.interval()), ("1.091", "1.006", "1.184"))

    def test_devices_all_against_all(self) -> None:
        result = verdict("render", runs_of(**RENDERS))
        ratios = {(c.against, c.of): f"{c.ratio:.3f}" for c in result.comparisons}
        self.assertEqual(ratios, {("cpu", "gpu0"): "1.178", ("cpu", "gpu1"): "4.321", ("gpu0", "gpu1"): "3.668"})
        self.assertEqual({c.outcome for c in result.comparisons}, {"better"})
        only = verdict("render", runs_of(**RENDERS), "gpu1").comparisons
        self.assertEqual(
            [(c.of, c.against, c.outcome) for c in only], [("cpu", "gpu1", "worse"), ("gpu0", "gpu1", "worse")]
        )

    def test_a_screening_of_seven_and_its_fold_over(self) -> None:
        layout = factorial("ABCDEFG")
        made = [Screened(run.block, run.levels, value) for run, value in zip(layout, SCREENED, strict=True)]
        result = screen("play", made)
        known = {
            effect.factor: self.shown(effect.ratio or 0, effect.low or 0, effect.high or 0) for effect in result.effects
        }
        self.assertEqual(known["B"], ("1.298", "1.286", "1.309"))
        self.assertEqual(known["E"], ("1.122", "1.112", "1.132"))
        rest = [effect for effect in result.effects if effect.factor not in "BE"]
        self.assertTrue(all((effect.low or 9) < 1 < (effect.high or 0) for effect in rest))
        self.assertIn("B matters: 30 % faster (29 to 31 %) at its high level.", result.sentence)
        self.assertIn("No difference shown: A, C, D, F and G.", result.sentence)


class Verdicts(TestCase):
    def test_a_sure_but_small_difference_is_none(self) -> None:
        for factor, outcome in ((1.02, "no difference shown"), (1.05, "better"), (1 / 1.05, "worse")):
            with self.subTest(factor):
                result = verdict("play", runs_of(a=(24, 24.01, 24.02), b=[v * factor for v in (24, 24.02, 24.01)]))
                self.assertEqual(result.comparisons[0].outcome, outcome)

    def test_one_block_says_nothing(self) -> None:
        result = verdict("play", runs_of(a=(24,), b=(30,)))
        self.assertEqual((result.comparisons[0].outcome, result.comparisons[0].blocks), ("too few runs", 0))
        self.assertIn("at least 2 blocks", result.sentence)

    def test_a_seat_of_one_block_is_left_out(self) -> None:
        seats = [Run(seat, run.block, run.condition, run.value) for seat in "xy" for run in runs_of(a=A, b=B)]
        alone = [Run("z", "1", "a", 1), Run("z", "1", "b", 9)]
        self.assertEqual(verdict("play", [*seats, *alone]), verdict("play", seats))

    def test_many_pairs_have_to_be_surer(self) -> None:
        pair = {"a": (100, 101, 99, 100), "b": (104, 103, 104.5, 108)}
        self.assertEqual(verdict("play", runs_of(**pair)).comparisons[0].outcome, "better")
        more = {f"c{n}": pair["a"] for n in range(4)}
        wide = verdict("play", runs_of(**pair, **more))
        self.assertEqual(wide.comparisons[0].outcome, "no difference shown")
        self.assertTrue(wide.sentence.startswith("No difference shown among a, b, c0"), wide.sentence)

    @given(SPEEDS, st.data())
    def test_it_is_students_interval_as_others_compute_it(self, first: list[float], data: st.DataObject) -> None:
        second = data.draw(st.lists(st.floats(0.5, 500), min_size=len(first), max_size=len(first)))
        apart = np.log(second) - np.log(first)
        assume(apart.std() > 1e-3)
        single = of_seat(list(apart))
        test = stats.ttest_1samp(apart, 0)
        bounds = test.confidence_interval(0.95)
        self.assertTrue(np.allclose(np.log(single.interval()), (bounds.low, bounds.high), rtol=1e-6))
        self.assertTrue(math.isclose(single.chance, test.pvalue, rel_tol=1e-6))

    @given(SPEEDS, st.data(), st.sampled_from(["play", "render"]))
    def test_the_other_way_round_it_is_as_much_slower(self, first: list[float], data: st.DataObject, job: Job) -> None:
        second = data.draw(st.lists(st.floats(0.5, 500), min_size=len(first), max_size=len(first)))
        there = verdict(job, runs_of(a=first, b=second), "a").comparisons[0]
        back = verdict(job, runs_of(a=first, b=second), "b").comparisons[0]
        self.assertTrue(
            math.isclose(there.ratio * back.ratio, 1) and math.isclose(there.low * back.high, 1, rel_tol=1e-6)
        )

    @given(st.lists(st.floats(0, 1), min_size=1, max_size=9))
    def test_holm_lies_between_each_for_itself_and_the_plain_correction(self, chances: list[float]) -> None:
        for own, adjusted in zip(chances, holm(chances), strict=True):
            self.assertLessEqual(own, adjusted)
            self.assertLessEqual(adjusted, min(1.0, own * len(chances)))

    def test_seats_that_always_measure_alike_are_not_infinitely_sure(self) -> None:
        whole = estimate({"a": [0.1, 0.1], "b": [0.2, 0.2], "c": [0.12, 0.12]})
        assert whole
        self.assertAlmostEqual(whole.log, 0.14)
        self.assertGreater(whole.error, 0.02)
        self.assertEqual(Estimate(0, 0, 1).chance, 1)


class Tables(TestCase):
    def faults(self, text: str) -> list[str]:
        with self.assertRaises(DocumentError) as caught:
            read_runs([line.split(",") for line in text.split("\n")], "runs.csv")
        return [fault.sentence("runs.csv") for fault in caught.exception.faults]

    def test_columns_stand_in_any_order_and_empty_lines_count(self) -> None:
        table = [["value", "seat", "condition", "block"], [], ["2", "a", "x", "1"], ["3", "a", "y", "1"]]
        self.assertEqual([run.value for run in read_runs(table)], [2, 3])

    def test_every_fault_is_told_by_its_line(self) -> None:
        head = "seat,block,condition,value"
        cases = {
            "": "runs.csv:1: there is no column 'seat'",
            "seat,block,condition,value,more": "runs.csv:1:5: unknown column 'more'",
            "seat,seat,block,condition,value": "runs.csv:1:2: the column 'seat' stands twice",
            head: "runs.csv:1: the table holds no run",
            f"{head}\na,1,x,0": "runs.csv:2:4: 0 is no figure of a run",
            f"{head}\na,1,x,-3": "runs.csv:2:4: -3 is no figure of a run",
            f"{head}\na,1,x,inf": "runs.csv:2:4: inf is no figure of a run",
            f"{head}\na,1,x,nan": "runs.csv:2:4: nan is no figure of a run",
            f"{head}\na,1,x,": "runs.csv:2:4: the value is missing",
            f"{head}\na,1,x,fast": "runs.csv:2:4: 'fast' is no number",
            f"{head}\n,1,x,3": "runs.csv:2:1: the seat is missing",
            f"{head}\na,1,x": "runs.csv:2: the row has 3 cells",
            f"{head}\na,1,x,3\na,1,y,3\na,2,x,3": "runs.csv:4: block 2 of a lacks y",
            f"{head}\na,1,x,3\na,1,x,3": "runs.csv:3: block 1 of a has x twice",
        }
        for text, sentence in cases.items():
            with self.subTest(text):
                self.assertTrue(self.faults(text)[0].startswith(sentence), self.faults(text))

    def test_a_screening_tells_what_is_wrong_with_it(self) -> None:
        cases = {
            "value\n3": "there is no factor",
            "a,b,value\n1,1,3": "1 runs cannot tell 2 factors apart",
            "a,value\n1,3\n0,4": "'0' is no level of a",
            "a,value\n1,3\n-1,x": "'x' is no number",
            "a,value\n1,3\n-1": "the row has 1 cells",
            "a,\n1,3": "there is no column 'value'",
        }
        for text, sentence in cases.items():
            with self.subTest(text), self.assertRaisesRegex(DocumentError, sentence):
                read_screening([line.split(",") for line in text.split("\n")])

    def test_factors_that_cannot_be_told_apart_are_named(self) -> None:
        made = [
            Screened("", {"a": a, "b": b, "c": -a}, v)
            for a, b, v in ((1, 1, 9), (-1, 1, 6), (1, -1, 8.8), (-1, -1, 6.1))
        ]
        known = {effect.factor: effect for effect in screen("play", made).effects}
        self.assertEqual((known["a"].outcome, known["a"].aliased, known["c"].aliased), ("aliased", ("c",), ("a",)))
        self.assertEqual(known["b"].outcome, "no difference shown")
        blocked = [Screened(str(run.levels["a"]), run.levels, run.value) for run in made]
        self.assertEqual({e.factor for e in screen("play", blocked).effects if e.aliased}, {"a", "c"})

    def test_a_design_that_leaves_nothing_over_says_too_few(self) -> None:
        layout = factorial("ABCDEFG", fold=False)
        result = screen("play", [Screened("", run.levels, 5 + n) for n, run in enumerate(layout)])
        self.assertEqual({effect.outcome for effect in result.effects}, {"too few runs"})


class Layouts(TestCase):
    @given(st.integers(2, 8), st.integers(1, 12), st.integers(), st.booleans())
    def test_a_block_has_every_condition_once(self, count: int, many: int, seed: int, restarting: bool) -> None:
        names = [f"c{n}" for n in range(count)]
        made = blocks(names, many, seed=seed, restarting=restarting)
        self.assertEqual([sorted(order) for order in made], [names] * many)
        self.assertEqual(made, blocks(names, many, seed=seed, restarting=restarting))
        if restarting:
            self.assertEqual(restarts(made), many * (count - 1) + 1)

    def test_orders_differ_by_seed_and_by_block(self) -> None:
        orders = Counter(tuple(drawn("abc", f"{seed}")) for seed in range(600))
        self.assertEqual(len(orders), 6)
        self.assertGreater(min(orders.values()), 60)

    def test_main_effects_are_free_of_each_other_and_of_what_two_do_together(self) -> None:
        for count in range(2, 16):
            names = [f"f{n}" for n in range(count)]
            made = [run.levels for run in factorial(names, seed=5)]
            columns = np.array([[run[name] for name in names] for run in made])
            self.assertTrue((columns.T @ columns == len(made) * np.eye(count)).all(), count)
            for one_of, (first, second) in ((k, pair) for k in range(count) for pair in combinations(range(count), 2)):
                self.assertEqual(
                    (columns[:, one_of] * columns[:, first] * columns[:, second]).sum()
                    * (one_of not in (first, second)),
                    0,
                )
        self.assertEqual(len(factorial([f"f{n}" for n in range(7)])), 16)

    def test_what_cannot_be_laid_out_is_told(self) -> None:
        for wrong, sentence in (
            (lambda: blocks(["a"], 3), "1 conditions: expected 2 to 8"),
            (lambda: blocks(["a", "a"], 3), "duplicate condition a"),
            (lambda: blocks(["a", "b"], 0), "0 blocks"),
            (lambda: factorial(["a", ""]), "a factor needs a name"),
            (lambda: factorial([str(n) for n in range(16)]), "16 factors"),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(DesignError, sentence):
                wrong()


class Looks(TestCase):
    def test_what_is_spent_comes_to_alpha(self) -> None:
        """Sums of normal steps cross one of the bounds as often as alpha says."""
        draw = np.random.default_rng(4).standard_normal((200_000, looks.LOOKS[-1])).cumsum(axis=1)
        crossed = np.zeros(len(draw), dtype=bool)
        for look, chance in zip(looks.LOOKS, looks.chances(), strict=True):
            crossed |= 2 * stats.norm.sf(np.abs(draw[:, look - 1]) / math.sqrt(look)) <= chance
        self.assertAlmostEqual(crossed.mean(), looks.SPENT, delta=0.002)

    def test_early_looks_are_dear(self) -> None:
        made = looks.chances()
        self.assertEqual(list(made), sorted(made))
        self.assertLess(made[0], 1e-4)
        self.assertEqual(looks.chances((7,)), (looks.chances((5,))))

    def test_the_blocks_that_are_expected_follow_the_scatter(self) -> None:
        self.assertEqual(looks.expected_blocks(0.01, 1.1), 4)
        self.assertLess(looks.expected_blocks(0.05, 1.2), looks.expected_blocks(0.05, 1.1))
        self.assertEqual(looks.expected_blocks(0.3, 1.03), looks.LOOKS[-1])


class Ladders(TestCase):
    @given(st.integers(1, 24), st.data())
    def test_without_noise_it_finds_what_trying_all_finds(self, count: int, data: st.DataObject) -> None:
        steps = data.draw(st.lists(st.sampled_from([0.0, 0.01, 0.05, 0.4]), min_size=count, max_size=count))
        speeds = np.cumsum(steps)
        harmful_from = data.draw(st.integers(0, count))
        rung, blocks_run, harmful = Rung(0, 0, None), dict[int, list[float]](), dict[int, bool]()
        while (rung := next_rung(count, blocks_run, harmful)).tried is not None:
            assert rung.best is not None
            if rung.tried == rung.best:
                harmful[rung.tried] = rung.tried >= harmful_from
            else:
                blocks_run.setdefault(rung.tried, []).append(float(speeds[rung.tried] - speeds[rung.best]))
        best = harmful_from - 1
        good = [n for n in range(harmful_from) if speeds[n] >= speeds[best] - math.log(1.03)]
        self.assertEqual(rung.smallest, good[0] if good else None)

    @settings(max_examples=50)
    @given(st.floats(-1, 1))
    def test_a_value_is_decided_upon_in_the_end(self, apart: float) -> None:
        self.assertIsNone(is_good([apart]))
        self.assertIsNotNone(is_good([apart, -apart] * 4))


GIB = 2**30


class MemoryPlans(TestCase):
    def wanted(self, **changes: Any) -> Wanted:
        """The worked machine of 96 GiB."""
        share = {"pool_least": int(0.2 * 96 * GIB), "pool_most": int(0.4 * 96 * GIB)}
        frame = read_frame("3840x2160", 16)
        plain = Wanted(
            96 * GIB, int(9.6 * GIB), 8 * GIB, int(3.5 * GIB), 14, 2, **share, frame=frame, rate=Fraction(25)
        )
        return replace(plain, **changes)

    def test_frames_as_they_are_worked(self) -> None:
        self.assertEqual((read_frame("1920x1080", 8).size, read_frame("3840X2160", 16).size), (8_294_400, 66_355_200))

    def test_workers_that_cost_the_preview_nothing(self) -> None:
        made = cut(self.wanted())
        self.assertEqual((made.workers, made.frames, made.next_costs, made.over), (11, 621, 32, 0))
        self.assertEqual(
            made.sentence,
            "11 workers and a preview pool of 38.4 GiB: 621 frames, 24.8 s. 1 more worker costs 32 frames.",
        )
        self.assertEqual(cut(self.wanted(workers=12)).frames, 621 - 32)

    def test_as_many_workers_as_cores_and_memory_hold(self) -> None:
        small = {"total": 12 * GIB, "held_back": 3 * GIB, "foreground": 2 * GIB, "per_worker": int(1.25 * GIB)}
        self.assertEqual(most_workers(self.wanted(**small, cores=6, reserved=1)), 5)
        large = {"total": 64 * GIB, "held_back": 6 * GIB, "foreground": 8 * GIB}
        self.assertEqual(most_workers(self.wanted(**large, cores=20, reserved=2)), 14)
        self.assertEqual(most_workers(self.wanted(foreground=96 * GIB)), 0)

    def test_more_than_there_is_is_said(self) -> None:
        made = cut(self.wanted(workers=30))
        self.assertGreater(made.over, 40 * GIB)
        self.assertIn("more than there is", made.sentence)
        self.assertIn("No core is free", cut(self.wanted(workers=12, cores=14)).sentence)

    @given(st.integers(1, 128), st.integers(0, 20), st.integers(0, 20), st.integers(1, 6), st.integers(1, 40))
    def test_no_other_cut_previews_more(self, total: int, held: int, front: int, each: int, cores: int) -> None:
        wanted = self.wanted(
            total=total * GIB, held_back=held * GIB, foreground=front * GIB, per_worker=each * GIB, cores=cores,
            pool_least=0, pool_most=int(0.4 * total * GIB),
        )  # fmt: skip
        made, free = cut(wanted), (total - held - front) * GIB
        if made.over:
            self.assertEqual((made.workers, free < 0), (0, True))
            return
        self.assertLessEqual(made.workers * each * GIB + made.pool, max(0, free))
        fitting = [n for n in range(most_workers(wanted) + 1) if n * each * GIB + min(wanted.pool_most, free) <= free]
        self.assertEqual(made.workers, max(fitting, default=0))

    def test_frames_that_are_none(self) -> None:
        for size, bits in (("0x1", 8), ("3840", 8), ("x", 8), ("1x999999", 8), ("1920x1080", 10), ("²x3", 8)):
            with self.subTest(size), self.assertRaises(CutError):
                read_frame(size, bits)


class Routes(TestCase):
    facts = Facts(
        gpus=(
            Gpu("gpu0", enabled=True, driver=Driver("31.4.2"), decode=("avc/8/420",)),
            Gpu("gpu1", enabled=False, driver=Driver("8.0"), decode=("hevc/10/422",)),
            Gpu("gpu2", enabled=True, decode=("hevc/10/422",)),
            Gpu("gpu3", enabled=True, driver=Driver("8.0")),
        ),
        applications=(Application("glaize", "5.1", edition="basic"),),
    )

    def test_every_device_that_was_passed_over_says_why(self) -> None:
        made = route(self.facts, RouteAsked("hevc/10/422", needed=25), {("hevc/10/422", "cpu"): 18.0})
        self.assertEqual(
            made.sentence,
            "hevc/10/422 decoded by cpu: gpu0 does not list it, gpu1 is off in firmware, gpu2 has no driver,"
            " gpu3 does not report its codecs",
        )
        self.assertEqual((made.rate, made.plays), (18.0, False))

    def test_the_first_that_lists_it_decodes(self) -> None:
        made = route(self.facts, RouteAsked("avc/8/420", needed=25), {("avc/8/420", "gpu0"): 240.0})
        self.assertEqual((made.device, made.plays, len(made.candidates)), ("gpu0", True, 1))
        self.assertIsNone(route(self.facts, RouteAsked("avc/8/420", needed=25)).plays)

    def test_what_the_application_is_set_to_counts(self) -> None:
        self.assertEqual(route(self.facts, RouteAsked("avc/8/420", configured="cpu")).device, "cpu")
        missing = route(self.facts, RouteAsked("avc/8/420", configured="gpu9"))
        self.assertEqual(missing.candidates[0].why, "is not in this seat")
        limited = route(self.facts, RouteAsked("avc/8/420", "glaize", limited=("basic",)))
        self.assertEqual((limited.device, limited.candidates[0].why), ("cpu", "is not used by the basic edition"))

    def test_codecs_and_space(self) -> None:
        self.assertEqual(codecs_of([self.facts]), ["avc/8/420", "hevc/10/422"])
        self.assertEqual(space_of_proxies(3 * 3600 + 12 * 60, 36e6), 51_840_000_000)

    def test_the_cheapest_remedy_first_and_proxies_where_there_is_room_for_them(self) -> None:
        def machine(*gpus: Gpu, free: int = 10**12) -> Facts:
            volumes = (
                Volume("v0", "/", kind="nvme", free=10**12, system=True, attached=True, read_rate=9 * 10**9),
                Volume("v1", "/fast", kind="ssd", free=free, system=False, removable=False, attached=True),
                Volume("v2", "/net", kind="network", free=10**15, system=False, removable=False, attached=True),
            )
            return Facts(gpus=gpus, volumes=volumes)

        lists, driver = ("hevc/10/422",), Driver("1.0")
        asked = RouteAsked("hevc/10/422", needed=25)
        cases = (
            (machine(Gpu("gpu0", enabled=False, decode=lists, driver=driver)), asked, "switch gpu0 on in the firmware"),
            (machine(Gpu("gpu0", enabled=True, decode=lists)), asked, "install a driver for gpu0"),
            (
                machine(Gpu("gpu0", enabled=True, decode=lists, driver=driver)),
                replace(asked, configured="cpu"),
                "let gpu0 decode",
            ),
            (machine(Gpu("gpu0", enabled=True, decode=(), driver=driver)), asked, "proxies on v1, 51.8 GB of them"),
            (machine(free=10**9), asked, "proxies, 51.8 GB of them: no volume of its own has room"),
        )
        for facts, wanted, words in cases:
            with self.subTest(words):
                made = route(facts, wanted, {("hevc/10/422", "cpu"): 18.0})
                self.assertFalse(made.plays)
                self.assertIn(words, remedy(facts, made, RemedyAsked(25, 11520, 36e6)))
