import statistics
from unittest import TestCase

from normant_agent.hosts.host import Job
from normant_core.base.quantities import Value
from normant_core.measure.comparison import compare
from normant_core.seat.facts import Facts, Volume
from normant_standin.meter import RATE, SCATTER, SECONDS, run

FACTS = Facts(volumes=(Volume("v0", "/", system=True), Volume("v1", "/fast", system=False)))
BEST: dict[str, Value] = {
    "engine.effects": "hadrel",
    "power.profile": "performance",
    "memory.preview_pool": 16 * 2**30,
    "playback.scale": "1/2",
    "store.source_cache.path": "/fast/corrow/source_cache",
}


class Meter(TestCase):
    def runs(self, job: Job, count: int = 20, *, other: dict[str, Value] | None = None) -> list[float]:
        readings = {**BEST, **(other or {})}
        return [run(job, FACTS, readings, f"pan-01 {job} {other} {n}") for n in range(count)]

    def test_runs_scatter_a_little_around_what_the_settings_give(self) -> None:
        wholes: dict[Job, float] = {"play": RATE, "render": SECONDS}
        for job, whole in wholes.items():
            with self.subTest(job):
                runs = self.runs(job, 200)
                self.assertAlmostEqual(statistics.fmean(runs) / whole, 1, delta=0.01)
                self.assertAlmostEqual(statistics.stdev(runs) / whole, SCATTER, delta=0.006)

    def test_the_same_run_comes_again(self) -> None:
        self.assertEqual(self.runs("play"), self.runs("play"))

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
                    self.assertEqual(compare(job, self.runs(job), worse).outcome, "worse")
                    self.assertEqual(compare(job, worse, self.runs(job)).outcome, "better")

    def test_previews_are_of_no_use_to_a_render(self) -> None:
        small: dict[str, Value] = {"memory.preview_pool": 256 * 2**20}
        self.assertEqual(compare("play", self.runs("play"), self.runs("play", other=small)).outcome, "worse")
        render = compare("render", self.runs("render"), self.runs("render", other=small))
        self.assertEqual(render.outcome, "no difference shown")
