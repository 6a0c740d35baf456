"""What a trial asks, in words, and which seats can answer it by themselves."""

from typing import get_args
from unittest import TestCase

from normant_core.measure.question import it_does, jobs_alone, to_do
from normant_core.orders.kinds import Job


class Words(TestCase):
    def test_what_a_job_does_is_said_for_one_and_for_many(self) -> None:
        self.assertEqual({to_do(job) for job in get_args(Job)}, {"play", "render", "decode", "move data"})
        self.assertEqual(it_does("disk"), "moves data")
        self.assertEqual({it_does(job) for job in get_args(Job)}, {"plays", "renders", "decodes", "moves data"})

    def test_only_a_stand_in_plays_and_renders_by_itself(self) -> None:
        self.assertEqual(jobs_alone("stand-in"), get_args(Job))
        for host in ("linux", "macos", "windows"):
            self.assertEqual(jobs_alone(host), ("decode", "disk"))
