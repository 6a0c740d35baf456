"""A trial as it goes on, on seats whose truth is known."""

import math
from collections.abc import Callable
from fractions import Fraction
from typing import Any
from unittest import TestCase

import numpy as np
from msgspec.structs import replace

from normant_core.base.quantities import Value
from normant_core.measure.design import DesignError
from normant_core.measure.looks import LOOKS
from normant_core.measure.machine.proof import Ran, proofs
from normant_core.measure.machine.readiness import readiness
from normant_core.measure.question import (
    AS_IT_IS,
    ByHand,
    Condition,
    Question,
    SetValue,
    TrialKind,
    check_question,
    sets_of,
)
from normant_core.measure.trial import TrialRun, TrialState, next_block, stand
from normant_core.orders.kinds import Beside, Job
from normant_core.orders.samples import LIMIT_SAMPLES, Samples, gathered, mean_of
from normant_core.seat.facts import Driver, Facts, Gpu

GIB = 2**30
Readings = dict[tuple[str, str | None], Value]
Truth = Callable[[str, str], float]


def pool(size: int) -> Condition:
    """So many GiB of preview pool."""
    return Condition(f"{size} GiB", (SetValue("memory.preview_pool", "corrow", size * GIB),))


CHANGE = Question("change", "play", (Condition(AS_IT_IS), pool(8)), seed=7)


def carried_out(
    question: Question, seats: list[str], truth: Truth, *, scatter: float = 0.02
) -> tuple[TrialState, list[TrialRun]]:
    """Every block that it asks for, until it asks for none; the truth is a logarithm by seat and condition."""
    draw, runs = np.random.default_rng(5), list[TrialRun]()
    turned = -1 if question.job == "render" else 1
    while turns := [(seat, block) for seat in seats if (block := next_block(question, runs, seat, seats))]:
        for seat, block in turns:
            number = 1 + max((run.block for run in runs if run.seat == seat), default=0)
            for condition in block:
                figure = 40 * math.exp(turned * (truth(seat, condition) + draw.normal(0, scatter)))
                runs.append(TrialRun(seat, number, condition, figure, harmful=condition == "64 GiB"))
    return stand(question, runs, seats), runs


class Changes(TestCase):
    def test_a_difference_is_shown_at_an_early_look_and_said(self) -> None:
        jobs: tuple[Job, ...] = ("play", "render")
        for job in jobs:
            with self.subTest(job):
                question = Question("change", job, CHANGE.conditions, seed=7)
                standing, runs = carried_out(question, ["pan-01"], lambda _, name: 0.36 * (name == "8 GiB"))
                self.assertTrue(standing.over)
                self.assertLessEqual(len(runs) / 2, LOOKS[1])
                (shown,) = standing.comparisons
                self.assertEqual((shown.of, shown.outcome), ("8 GiB", "better"))
                self.assertAlmostEqual(shown.ratio, math.exp(0.36), delta=0.05)
                self.assertIn("faster than the current setting", standing.sentence)

    def test_what_differs_by_nothing_ends_with_that_or_with_what_it_would_take(self) -> None:
        standing, runs = carried_out(CHANGE, ["pan-01"], lambda *_: 0, scatter=0.005)
        self.assertIn("no difference shown", standing.sentence)
        self.assertIn("any difference is below 3%", standing.sentence)
        self.assertLess(len(runs) / 2, LOOKS[-1])
        standing, runs = carried_out(CHANGE, ["pan-01"], lambda *_: 0, scatter=0.10)
        self.assertEqual(len(runs) / 2, LOOKS[-1])
        self.assertIn("blocks or more are needed to show 3%", standing.sentence)

    def test_seats_meet_at_every_look_and_each_has_an_order_of_its_own(self) -> None:
        ahead = [TrialRun("pan-01", n, c, 40) for n in range(1, LOOKS[0] + 1) for c in (AS_IT_IS, "8 GiB")]
        self.assertEqual(next_block(CHANGE, ahead, "pan-01", ["pan-01", "pan-02"]), ())
        self.assertEqual({*next_block(CHANGE, ahead, "pan-02", ["pan-01", "pan-02"])}, {AS_IT_IS, "8 GiB"})
        self.assertTrue(next_block(CHANGE, ahead[2:], "pan-03", ["pan-03"]))
        orders = {next_block(CHANGE, [], f"pan-{n:02}", [f"pan-{n:02}"]) for n in range(12)}
        self.assertEqual(len(orders), 2)

    def test_several_seats_are_replicates(self) -> None:
        seats = [f"pan-{n:02}" for n in range(1, 5)]
        standing, _ = carried_out(CHANGE, seats, lambda seat, name: (0.3 + 0.01 * int(seat[-1])) * (name == "8 GiB"))
        self.assertTrue(standing.over)
        self.assertEqual(standing.comparisons[0].seats, 4)
        self.assertEqual(standing.comparisons[0].outcome, "better")

    def test_asked_again_with_the_same_runs_it_answers_the_same(self) -> None:
        _, runs = carried_out(CHANGE, ["pan-01"], lambda *_: 0, scatter=0.03)
        for count in range(0, len(runs), 2):
            self.assertEqual(
                next_block(CHANGE, runs[:count], "pan-01", ["pan-01"]),
                next_block(CHANGE, runs[:count], "pan-01", ["pan-01"]),
            )


class Choices(TestCase):
    def test_all_against_all_and_the_middle_one_may_win(self) -> None:
        names = ("none", "one", "ends", "strip")
        conditions = tuple(Condition(n, (SetValue("playback.clip_pictures", "corrow", n),)) for n in names)
        truth = {"none": 0.1, "one": 0.1, "ends": -0.1, "strip": 0.4}
        standing, _ = carried_out(Question("choice", "play", conditions), ["pan-01"], lambda _, n: truth[n])
        self.assertEqual(len(standing.comparisons), 6)
        best = [c for c in standing.comparisons if "strip" in (c.of, c.against)]
        self.assertTrue(all((c.outcome == "better") == (c.of == "strip") for c in best))


class Ladders(TestCase):
    STEPS = tuple(pool(size) for size in (1, 2, 4, 8, 16, 32, 64))

    def test_the_smallest_that_is_as_good_as_any_and_harms_nothing(self) -> None:
        question = Question("ladder", "play", self.STEPS)
        standing, runs = carried_out(question, ["pan-01"], lambda _, n: 0.1 * min(3, math.log2(int(n.split()[0]))))
        self.assertEqual((standing.smallest, standing.over), ("8 GiB", True))
        self.assertIn("8 GiB is the smallest", standing.sentence)
        self.assertLess(len(runs), 7 * 8)

    def test_what_slows_another_application_does_harm(self) -> None:
        question = Question("ladder", "play", self.STEPS, beside=Beside("render", "verrano"))
        runs, draw = list[TrialRun](), np.random.default_rng(3)
        while block := next_block(question, runs, "pan-01", ["pan-01"]):
            number = 1 + max((run.block for run in runs), default=0)
            for name in block:
                size = int(name.split()[0])
                seconds = 150 * (1.1 if size > 8 else 1.0) * draw.lognormal(0, 0.01)
                figure = 40 + 2 * math.log2(size)
                runs.append(TrialRun("pan-01", number, name, figure, beside=seconds))
        standing = stand(question, runs, ["pan-01"])
        self.assertEqual(standing.smallest, "8 GiB")
        self.assertIn("; from 16 GiB on it slows Verrano exports.", standing.sentence)
        blind = stand(replace(question, beside=None), runs, ["pan-01"])
        self.assertEqual(blind.smallest, "64 GiB" if blind.over else "")

    def test_where_even_the_first_harms_that_is_said(self) -> None:
        question = Question("ladder", "play", self.STEPS)
        runs = [TrialRun("pan-01", n, name, 40, harmful=True) for n, name in enumerate(question.names, 1)]
        standing = stand(question, runs, ["pan-01"])
        self.assertTrue(standing.over)
        self.assertIn("has a side effect", standing.sentence)


class Screenings(TestCase):
    FACTORS = tuple(Condition(f"f{n}", (SetValue(f"s{n}", None, n),)) for n in range(7))

    def test_seven_settings_take_sixteen_runs_and_name_what_matters(self) -> None:
        question = Question("screening", "play", self.FACTORS, seed=5)
        standing, runs = carried_out(question, ["pan-03"], lambda _, c: 0.26 * (c[1] == "+") + 0.11 * (c[4] == "+"))
        self.assertEqual(len(runs), 16)
        self.assertEqual({e.factor for e in standing.effects if e.outcome == "better"}, {"f1", "f4"})
        self.assertRegex(
            standing.sentence,
            r"^f1 plays 3\d % faster .*; f4 plays 1?\d % faster .*; no difference shown for 5 other settings",
        )

    def test_a_run_sets_the_factors_that_are_high(self) -> None:
        question = Question("screening", "play", self.FACTORS[:3])
        self.assertEqual([wanted.setting for wanted in sets_of(question, "+-+")], ["s0", "s2"])
        self.assertEqual(sets_of(CHANGE, AS_IT_IS), ())


class Questions(TestCase):
    def test_what_no_runs_can_answer_is_refused(self) -> None:
        cases: list[tuple[TrialKind, tuple[Condition, ...], str]] = [
            ("change", (pool(1),), "2 to 2 conditions"),
            ("choice", tuple(pool(n) for n in range(1, 11)), "2 to 8 conditions"),
            ("ladder", (pool(1), pool(2)), "3 to 64"),
            ("change", (pool(1), pool(1)), "duplicate"),
            ("change", (pool(1), Condition("other", pool(1).sets)), "are the same"),
            ("screening", (pool(1), Condition(AS_IT_IS)), "no value to be tried"),
        ]
        for kind, conditions, words in cases:
            with self.subTest(words), self.assertRaisesRegex(DesignError, words):
                check_question(Question(kind, "play", conditions))
        check_question(CHANGE)

    def test_only_ladders_watch_another_applications_job(self) -> None:
        ladder = Question("ladder", "play", Ladders.STEPS, beside=Beside("decode"))
        check_question(ladder)
        cases: list[tuple[dict[str, Any], str]] = [
            ({"kind": "choice"}, "by no other trial"),
            ({"by_hand": ByHand("the reel", 750, 25)}, "by no other trial"),
            ({"beside": Beside("render")}, "say which application"),
            ({"beside": Beside("render", "corrow")}, "corrow is what is set"),
        ]
        for otherwise, words in cases:
            with self.subTest(words), self.assertRaisesRegex(DesignError, words):
                check_question(replace(ladder, **otherwise))


class Sampled(TestCase):
    def test_long_runs_are_thinned_and_gaps_stay_gaps(self) -> None:
        taken = [{"processor": 0.5, **({"clock": 3900.0} if n % 5 else {})} for n in range(LIMIT_SAMPLES * 2 + 7)]
        samples = gathered(taken, 0.5, {"processor": 0.04, "gpu:gpu0": 0.1})
        self.assertEqual(samples.every, 1.5)
        self.assertEqual({len(column) for column in samples.columns.values()}, {403})
        self.assertEqual(samples.rest, {"processor": 0.04})
        self.assertEqual((mean_of(samples, "processor"), mean_of(samples, "gpu:gpu0")), (0.5, None))
        self.assertEqual(gathered([{"a": 1.0}, {}], 0.5, {}).columns, {"a": (1.0, None)})


class Proven(TestCase):
    """Whether a GPU that is set to work did."""

    GPU = Gpu("gpu0", enabled=True, interfaces=("hadrel",), driver=Driver("31.4"), decode=("avc/8/420",))

    def ran(self, gpu_busy: float | None, processor: float, gpu: Gpu = GPU, **more: Any) -> Ran:
        columns: dict[str, tuple[float | None, ...]] = {
            "processor": (processor,),
            **({} if gpu_busy is None else {"gpu:gpu0": (gpu_busy,)}),
        }
        readings = {
            ("engine.effects", "corrow"): "hadrel",
            ("project.engine", "corrow"): "hadrel",
            **more.pop("readings", {}),
        }
        return Ran(Samples(0.5, columns, {"gpu:gpu0": 0.03}), Facts(gpus=(gpu,)), readings, **more)

    def test_one_that_rose_is_seen_and_one_that_the_system_does_not_tell_is_said(self) -> None:
        for busy, seen in ((0.62, "seen"), (0.13, "seen"), (0.12, "not seen"), (None, "not told by this system")):
            with self.subTest(busy):
                (proof,) = proofs(self.ran(busy, 0.4))
                self.assertEqual((proof.seen, proof.causes), (seen, ()))

    def test_a_busy_processor_names_the_likely_causes_in_their_order(self) -> None:
        off = replace(self.GPU, enabled=False, interfaces=(), driver=Driver())
        ran = self.ran(0.04, 0.94, off, codec="hevc/10/422", readings={("project.engine", "corrow"): "cpu"})
        (proof,) = proofs(ran)
        self.assertEqual(
            proof.causes,
            (
                "the project's own engine is cpu",
                "no driver",
                "not used by this edition of the application",
                "it cannot decode hevc/10/422",
                "switched off in firmware",
                "it does not support hadrel",
            ),
        )
        self.assertIn("not seen, busy for 4% of the run, while the processor was at 94%", proof.sentence)

    def test_what_is_set_to_the_processor_promises_nothing_and_a_named_decoder_does(self) -> None:
        self.assertEqual(proofs(self.ran(0.04, 0.94, readings={("engine.effects", "corrow"): "cpu"})), [])
        ran = self.ran(0.5, 0.3, readings={("engine.decode", "corrow"): "gpu0"})
        self.assertEqual(
            [(proof.use, proof.device) for proof in proofs(ran)], [("effects by hadrel", "gpu0"), ("decoding", "gpu0")]
        )


class Ready(TestCase):
    """Whether what was lowered for preview reaches what is exported."""

    def test_what_was_lowered_needs_its_guard(self) -> None:
        low: Readings = {("playback.raw_scale", "plinthe"): Fraction(1, 4), ("playback.proxies", "corrow"): "prefer"}
        both: Readings = {**low, ("delivery.full_raw", "plinthe"): True, ("delivery.originals", "corrow"): True}
        cases: list[tuple[Readings, bool | None, str]] = [
            ({}, True, "Yes"),
            ({("playback.raw_scale", "plinthe"): 1.0, ("playback.proxies", "corrow"): "off"}, True, "Yes"),
            (low, None, "Unknown: 2 settings not read"),
            (both, True, "Yes"),
            ({**both, ("delivery.full_raw", "plinthe"): False}, False, "No: 1 setting affects"),
            ({("delivery.ignore_errors", "corrow"): True}, False, "No: 1 setting affects"),
        ]
        for readings, ready, words in cases:
            with self.subTest(words, readings=len(readings)):
                answer = readiness(readings)
                self.assertEqual(answer.ready, ready)
                self.assertIn(words, answer.sentence)

    def test_a_guard_is_said_with_its_application_and_holds_for_that_alone(self) -> None:
        readings: Readings = {("playback.raw_scale", "plinthe"): Fraction(1, 4), ("delivery.full_raw", "corrow"): True}
        (guard,) = readiness(readings).guards
        self.assertEqual(
            guard.sentence, "Plinthe: Raw decoding scale is 1/4, and Full raw decoding at delivery is unknown."
        )
