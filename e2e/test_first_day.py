"""What a newcomer finds in a demo that was just started."""

from typing import Any
from unittest import TestCase

from .houses import Demo, eventually


class FirstDay(TestCase):
    def setUp(self) -> None:
        self.demo = Demo(bare=False)
        self.addCleanup(self.demo.stop)
        self.demo.start()

    def rollouts(self) -> dict[str, Any]:
        """By the seat of its only leg."""
        made = [self.demo.answer(f"/rollouts/{each['id']}") for each in self.demo.answer("/rollouts")["items"]]
        return {rollout["legs"][0]["seat"]: rollout for rollout in made}

    def test_an_errand_waits_projects_are_scanned_and_one_rollout_of_two_has_finished(self) -> None:
        ended = eventually(lambda: (self.rollouts().get("weigh-02") or {}).get("state") == "finished", 90)
        self.assertTrue(ended)
        self.assertEqual(self.rollouts()["weigh-02"]["legs"][0]["state"], "settled")
        self.assertEqual(self.rollouts()["pan-03"]["legs"][0]["state"], "waiting")
        scanned = eventually(lambda: self.demo.answer("/projects")["items"], 90)
        self.assertEqual({project["seat"] for project in scanned}, {"pan-06"})
        self.assertEqual([stop["seat"] for stop in self.demo.answer("/errands")["stops"]], ["pan-08"])

        self.demo.stop()
        self.demo.start()
        eventually(lambda: all(seat["levels"] for seat in self.demo.answer("/seats")["items"]))
        self.assertEqual(len(self.demo.answer("/rollouts")["items"]), 2)
