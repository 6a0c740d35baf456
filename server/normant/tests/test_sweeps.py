"""Sweeps: one rollout, trial or clean-up that raises keeps no other from its turn, and people see it."""

from unittest.mock import patch

from django.db import OperationalError
from django.utils import timezone

from normant.clearings import jobs as clearing_jobs
from normant.clearings.models import Clearing
from normant.clearings.services.advance_clearing import advance_clearing
from normant.clearings.tests.stage import Case
from normant.orders.models import Order, SweepFault
from normant.orders.sweeps import each_by_itself
from normant.rollouts import jobs as rollout_jobs
from normant.trials import jobs as trial_jobs


class Sweeps(Case):
    def test_a_plan_that_raises_is_shown_and_the_next_one_goes_on(self) -> None:
        broken, good = self.planned(), self.planned()
        for number in (broken, good):
            self.sign(number)

        def advance(number: int) -> None:
            if number == broken:
                raise ValueError("a list of another form")
            advance_clearing(number)

        with patch.object(clearing_jobs, "advance_clearing", advance):
            clearing_jobs.sweep()
            self.assertTrue(Order.objects.filter(kind="clear_planned", clearing__clearing=good).exists())
            [item] = [i for i in self.get("round").json()["items"] if i["kind"] == "fault"]
            self.assertEqual((item["title"], item["clearing"]), (f"Clean-up plan {broken} cannot go on", broken))
            self.assertIn("ValueError: a list of another form", item["words"])
            clearing_jobs.sweep()
            self.assertEqual(SweepFault.objects.count(), 1)
        clearing_jobs.sweep()
        self.assertEqual(SweepFault.objects.count(), 0)

    def test_a_fault_goes_with_the_plan_that_a_person_drops(self) -> None:
        broken = self.planned()
        self.sign(broken)
        with patch.object(clearing_jobs, "advance_clearing", side_effect=ValueError("x")):
            clearing_jobs.sweep()
            self.assertEqual(SweepFault.objects.count(), 1)
            self.post(f"clearings/{broken}/halt", {"why": "it cannot go on"})
            self.post(f"clearings/{broken}/drop")
            clearing_jobs.sweep()
        self.assertEqual(SweepFault.objects.count(), 0)
        for owner, jobs in (("rollout", rollout_jobs), ("trial", trial_jobs)):
            SweepFault.objects.create(owner=owner, number=1, message="x")
            jobs.sweep()
        self.assertEqual(SweepFault.objects.count(), 0)

    def test_every_owner_is_isolated(self) -> None:
        for owner in ("rollout", "trial", "clearing"):
            seen = list[int]()

            def act(number: int, seen: list[int] = seen) -> None:
                seen.append(number)
                if number == 1:
                    raise KeyError("x")

            each_by_itself(owner, [1, 2], act)  # type: ignore[arg-type] # of these three
            self.assertEqual(seen, [1, 2])
        self.assertEqual(SweepFault.objects.count(), 3)
        self.assertEqual(len([i for i in self.get("round").json()["items"] if i["kind"] == "fault"]), 3)

    def test_a_database_that_is_away_is_nobodys_fault(self) -> None:
        def act(number: int) -> None:
            raise OperationalError("away")

        with self.assertRaises(OperationalError):
            each_by_itself("rollout", [1], act)
        self.assertFalse(SweepFault.objects.exists())

    def test_all_three_sweeps_go_through_it(self) -> None:
        Clearing.objects.create(
            title="x",
            wanted={},
            state="running",
            signed_at=timezone.now(),
            signed_by=next(iter(self.house.people.values())),
        )
        for jobs in (clearing_jobs, rollout_jobs, trial_jobs):
            with patch.object(jobs, "each_by_itself") as each:
                jobs.sweep()
                self.assertTrue(each.called, jobs)
