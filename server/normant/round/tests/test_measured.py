"""What trials bring to the round."""

from typing import Any

from normant.tests.house import survey
from normant.trials.tests.stage import TrialStage

IDLE = {"every": 0.5, "columns": {"processor": [0.95, 0.97], "gpu:gpu0": [0.02, 0.03]}, "rest": {"gpu:gpu0": 0.02}}
BUSY = {"every": 0.5, "columns": {"processor": [0.35, 0.37], "gpu:gpu0": [0.72, 0.63]}, "rest": {"gpu:gpu0": 0.02}}


class Measured(TrialStage):
    def items(self, kind: str) -> list[Any]:
        return [item for item in self.get("round")["items"] if item["kind"] == kind]

    def run_as_it_is(self, samples: Any) -> None:
        """The next run for which nothing is set; whatever comes before it is made as well."""
        while order := self.waiting():
            under = self.action(order).under
            self.measure(order, 40, samples=[samples, samples])
            if not under:
                return

    def test_a_gpu_that_did_not_work_though_it_should_have_is_said_until_it_does(self) -> None:
        self.house.send(survey(engine__effects="hadrel"))
        trial = self.start()
        self.run_as_it_is(IDLE)
        [item] = self.items("idle_gpu")
        self.assertEqual(
            (item["title"], item["trial"]), ("gpu0 of pan-03 was not used although it should have been", trial.pk)
        )
        self.assertIn("while the processor was at 96%", item["words"])
        self.assertIn("Likely causes", item["words"])
        self.run_as_it_is(BUSY)
        self.assertEqual(self.items("idle_gpu"), [])

    def test_a_trial_that_ended_since_the_evening_is_told_and_asks_for_nothing(self) -> None:
        before = self.get("round")
        trial = self.start()
        self.carry_out(trial, GiB8=0.2)
        [item] = self.items("trial")
        self.assertEqual(item["trial"], trial.pk)
        self.assertIn("8 GiB plays", item["words"])
        self.assertEqual(self.get("round")["sentence"], before["sentence"])
