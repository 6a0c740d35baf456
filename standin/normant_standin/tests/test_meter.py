import statistics
from dataclasses import replace
from unittest import TestCase

import msgspec
from hypothesis import given
from hypothesis import strategies as st

from normant_core.base.quantities import Value
from normant_core.measure.runs import Run
from normant_core.measure.verdict import verdict
from normant_core.orders.kinds import Job
from normant_core.orders.samples import mean_of
from normant_core.seat.facts import Cpu, Driver, Facts, Gpu, Memory, Volume
from normant_standin.meter import COLD, CROWDED, RATE, SCATTER, SECONDS, WARM, Work, run

GPU = Gpu(
    "gpu0",
    model="Ostrane R7",
    kind="discrete",
    enabled=True,
    interfaces=("opencl", "vulkan"),
    driver=Driver("12.1.0"),
    decode=("avc/8/420",),
)
FACTS = Facts(
    cpu=Cpu(cores=16),
    memory=Memory(total=64 * 2**30),
    gpus=(GPU,),
    volumes=(Volume("v0", "/", system=True), Volume("v1", "/fast", system=False, read_rate=520_000_000)),
)
BEST: dict[str, Value] = {
    "engine.effects": "hadrel",
    "power.profile": "performance",
    "memory.preview_pool": 16 * 2**30,
    "playback.scale": "1/2",
    "store.source_cache.path": "/fast/corrow/source_cache",
}
OTHERS = msgspec.structs.replace(FACTS, gpus=(msgspec.structs.replace(GPU, model="Hadrel H60"),))


def compared(job: Job, before: list[float], after: list[float]) -> str:
    """What a trial of these runs, block by block, would show."""
    runs = [
        Run("s", str(n), name, value) for name, made in (("a", before), ("b", after)) for n, value in enumerate(made)
    ]
    return verdict(job, runs).comparisons[0].outcome


class Meter(TestCase):
    def work(self, job: Job, other: dict[str, Value] | None = None, *, seed: str = "pan-01") -> Work:
        return Work(job, FACTS, {**BEST, **(other or {})}, f"{seed} {job} {other}")

    def runs(self, job: Job, count: int = 20, *, other: dict[str, Value] | None = None) -> list[float]:
        return [run(self.work(job, other, seed=str(n))).figure for n in range(count)]

    def assert_times(self, ratio: float, of: Work, against: Work) -> None:
        """The model says so to the digit, where both scatter alike."""
        figure, other = (run(replace(work, seed="same")).figure for work in (of, against))
        self.assertAlmostEqual(figure / other, ratio, delta=0.0005)

    def test_previews_that_leave_little_memory_slow_another_application(self) -> None:
        for size, ratio in ((16, 1.0), (44, CROWDED)):
            own = self.work("play", {"memory.preview_pool": size * 2**30})
            self.assert_times(ratio, replace(own, beside="verrano"), own)

    def test_runs_scatter_a_little_around_what_the_settings_give(self) -> None:
        wholes: dict[Job, float] = {"play": RATE, "render": SECONDS}
        for job, whole in wholes.items():
            with self.subTest(job):
                runs = self.runs(job, 200)
                self.assertAlmostEqual(statistics.fmean(runs) / whole, 1, delta=0.01)
                self.assertAlmostEqual(statistics.stdev(runs) / whole, SCATTER, delta=0.006)

    def test_the_same_run_comes_again(self) -> None:
        self.assertEqual(run(self.work("play")), run(self.work("play")))

    def test_a_trial_finds_what_a_worse_setting_costs(self) -> None:
        jobs: tuple[Job, ...] = ("play", "render")
        for job in jobs:
            for setting, value in (
                ("engine.effects", "cpu"),
                ("power.profile", "power-saver"),
                ("store.source_cache.path", "/home/edit/corrow/cache"),
            ):
                with self.subTest(setting, job=job):
                    worse = self.runs(job, other={setting: value})
                    self.assertEqual(compared(job, self.runs(job), worse), "worse")
                    self.assertEqual(compared(job, worse, self.runs(job)), "better")

    def test_previews_are_of_no_use_to_a_render(self) -> None:
        small: dict[str, Value] = {"memory.preview_pool": 256 * 2**20}
        self.assertEqual(compared("play", self.runs("play"), self.runs("play", other=small)), "worse")
        render = compared("render", self.runs("render"), self.runs("render", other=small))
        self.assertEqual(render, "no difference shown")

    def test_a_cold_cache_and_a_warm_machine_are_slower(self) -> None:
        fresh = self.work("play")
        self.assert_times(COLD, replace(fresh, cold=True), fresh)
        self.assert_times(1 - WARM, replace(fresh, runs=10_000), fresh)

    def test_the_middle_option_is_not_in_the_middle(self) -> None:
        figures = {
            pictures: run(replace(self.work("play", {"playback.clip_pictures": pictures}), seed="same")).figure
            for pictures in ("none", "one", "ends", "strip")
        }
        self.assertEqual(sorted(figures, key=figures.__getitem__), ["ends", "strip", "one", "none"])

    def test_one_makers_opencl_is_slower_than_what_the_house_avoids(self) -> None:
        opencl, vulkan = (self.work("play", {"engine.effects": name}) for name in ("opencl", "vulkan"))
        self.assert_times(1.2, vulkan, opencl)
        self.assert_times(0.9 / 0.85, replace(vulkan, facts=OTHERS), replace(opencl, facts=OTHERS))

    def test_memory_that_is_over_committed_pages(self) -> None:
        much = self.work("render", {"memory.preview_pool": 60 * 2**30})
        self.assert_times(1 / 0.7, much, self.work("render"))  # seconds
        self.assertGreater(mean_of(run(much).samples or self.fail(), "page_ins") or 0, 1000)
        self.assertEqual(mean_of(run(self.work("play")).samples or self.fail(), "page_ins"), 0)

    def test_a_gpu_encodes_four_times_as_fast(self) -> None:
        self.assert_times(
            1 / 4, replace(self.work("render"), device="gpu0"), replace(self.work("render"), device="cpu")
        )

    def test_what_no_gpu_lists_the_processor_decodes_and_is_busy(self) -> None:
        here = replace(self.work("decode"), device="gpu0", codec="avc/8/420")
        busy = {codec: run(replace(here, codec=codec)).samples or self.fail() for codec in ("avc/8/420", "hevc/10/422")}
        self.assertAlmostEqual(mean_of(busy["avc/8/420"], "gpu:gpu0") or 0, 0.62, delta=0.05)
        self.assertLess(mean_of(busy["hevc/10/422"], "gpu:gpu0") or 1, 0.1)
        self.assertGreater(mean_of(busy["hevc/10/422"], "processor") or 0, 0.9)
        self.assert_times(960 / (9 * 16**0.8), here, replace(here, codec="hevc/10/422"))

    def test_a_disk_moves_what_its_volume_does(self) -> None:
        figure = run(replace(self.work("disk"), volume="/fast")).figure
        self.assertAlmostEqual(figure / 520_000_000, 1, delta=0.1)


class Laws(TestCase):
    """What holds of every machine and every job."""

    works = st.builds(
        Work,
        st.sampled_from(("play", "render", "decode", "disk")),
        st.sampled_from((FACTS, OTHERS, Facts())),
        st.fixed_dictionaries(
            {
                "engine.effects": st.sampled_from(("hadrel", "cpu", "opencl", "vulkan", "none at all")),
                "power.profile": st.sampled_from(("performance", "balanced", "power-saver", "")),
                "memory.preview_pool": st.integers(0, 2**40),
                "memory.held_back": st.integers(0, 2**40),
                "playback.scale": st.sampled_from((1, "1/2", "")),
            }
        ),
        st.text(max_size=8),
        cold=st.booleans(),
        runs=st.integers(0, 10**6),
        codec=st.sampled_from(("avc/8/420", "hevc/10/422", "no/such/codec", "")),
        device=st.sampled_from(("gpu0", "gpu9", "cpu", "")),
        volume=st.sampled_from(("v0", "/fast", "v9")),
    )

    @given(works)
    def test_a_run_has_a_figure_and_samples_that_could_be_measured(self, work: Work) -> None:
        made = run(work)
        self.assertGreater(made.figure, 0)
        samples = made.samples or self.fail("nothing was sampled")
        for name, column in samples.columns.items():
            for value in column:
                assert value is not None
                self.assertGreaterEqual(value, 0, name)
                if name.startswith(("processor", "gpu:")):
                    self.assertLessEqual(value, 1, name)

    @given(works)
    def test_a_gpu_that_is_switched_off_does_nothing(self, work: Work) -> None:
        off = msgspec.structs.replace(FACTS, gpus=(msgspec.structs.replace(GPU, enabled=False),))
        samples = run(replace(work, facts=off)).samples or self.fail("nothing was sampled")
        self.assertFalse([name for name in samples.columns if name.startswith("gpu:")])

    @given(works, st.lists(st.integers(0, 20 * 2**30), min_size=2, max_size=2))
    def test_larger_previews_never_play_slower_while_memory_suffices(self, work: Work, sizes: list[int]) -> None:
        calm = {**work.readings, "memory.held_back": 0}
        small, large = (
            run(replace(work, job="play", facts=FACTS, readings={**calm, "memory.preview_pool": size})).figure
            for size in sorted(sizes)
        )
        self.assertLessEqual(small, large)

    @given(works)
    def test_a_render_that_a_gpu_encodes_takes_a_quarter_of_the_time(self, work: Work) -> None:
        by_gpu, by_cpu = (run(replace(work, job="render", device=device)).figure for device in ("gpu0", "cpu"))
        self.assertAlmostEqual(by_cpu / by_gpu, 4, places=6)
