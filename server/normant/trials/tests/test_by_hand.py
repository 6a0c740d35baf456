"""Runs by hand: through the API as whoever is at the seat has it, and the agents' door."""

import datetime as dt
from typing import Any

from django.utils import timezone

from normant.accounts.permissions import Role
from normant.orders.models import Order
from normant.trials.models import Run, Trial, TrialSeat
from normant.trials.services.advance_trial import advance_trial
from normant.trials.services.held import MINUTES
from normant_core.orders.kinds import EndHold, HoldCondition, SetPreference, parse_order

from .stage import TrialStage

STRETCH = {"what": "Salt mill, 0:10 to 0:40", "frames": 750, "rate": 25}
SECONDS = 31.0


class ByHand(TrialStage):
    def begin(self, **fields: Any) -> Trial:
        return self.start(**{"by_hand": STRETCH, **fields})

    def sheet(self, trial: Trial, role: Role = Role.ASSISTANT, seat: str = "pan-03") -> Any:
        return self.house.client(role).get(f"/api/v1/trials/{trial.pk}/sheet/{seat}").json()

    def act(self, trial: Trial, what: str, role: Role = Role.ASSISTANT, **fields: Any) -> Any:
        run = fields.pop("run", None) or self.sheet(trial)["run"]["id"]
        return self.post(f"trials/{trial.pk}/sheet/pan-03/{what}", {"run": run, **fields}, role)

    def order(self, kind: type) -> Order:
        """The only one that waits."""
        order = self.waiting()
        assert order
        self.assertIsInstance(parse_order(bytes(order.body)).action, kind)
        return order

    def make(self, trial: Trial, *seconds: float, dropped: int = 0) -> None:
        """The run that is due, from its beginning to its end."""
        self.assertEqual(self.act(trial, "take").status_code, 200)
        self.hand_in(self.order(HoldCondition))
        for take, spent in enumerate(seconds):
            answer = self.act(trial, "note", take=take, seconds=spent, dropped=dropped)
            self.assertEqual(answer.status_code, 200, answer.content)
        self.hand_in(self.order(EndHold), samples=[{"every": 0.5, "columns": {"processor": [0.5]}}])
        advance_trial(trial.pk)

    def refused(self, answer: Any, title: str) -> None:  # type: ignore[override]
        self.assertEqual(answer.json()["title"], title, answer.content)
        self.assertEqual(answer.status_code // 100, 4)

    def test_nothing_is_ordered_until_somebody_is_there(self) -> None:
        trial = self.begin()
        self.assertIsNone(self.waiting())
        sheet = self.sheet(trial)
        self.assertEqual((sheet["run"]["state"], sheet["by_hand"]["what"]), ("free", STRETCH["what"]))
        self.assertEqual((sheet["run"]["block"], sheet["run"]["place"], sheet["run"]["in_block"]), (1, 1, 2))
        self.assertEqual((sheet["message"], self.state().message), ("", "waiting for a person at the seat to do a run"))

    def test_a_run_is_set_made_twice_noted_and_put_back(self) -> None:
        trial = self.begin()
        self.act(trial, "take")
        self.assertEqual(self.sheet(trial)["run"]["state"], "setting")
        order = self.order(HoldCondition)
        action = parse_order(bytes(order.body)).action
        assert isinstance(action, HoldCondition)
        for change in action.under:
            assert isinstance(change, SetPreference)
            self.assertEqual(change.close_when_idle_seconds, 0)
        self.hand_in(order)
        self.assertEqual(self.sheet(trial)["run"]["state"], "set")
        self.act(trial, "note", take=0, seconds=40, dropped=0)
        self.act(trial, "note", take=1, seconds=SECONDS, dropped=130)
        self.assertEqual(self.sheet(trial)["run"]["state"], "ending")
        end = self.order(EndHold)
        ends = parse_order(bytes(end.body)).action
        assert isinstance(ends, EndHold)
        self.assertEqual(ends.order, str(order.pk))
        self.hand_in(end, samples=[{"every": 0.5, "columns": {"processor": [0.5]}}])
        run = Run.objects.get(of__trial=trial, block=1, place=0)
        self.assertEqual((run.thrown, run.figure), ([750 / 40], 620 / SECONDS))
        self.assertEqual(run.samples and run.samples["columns"], {"processor": [0.5]})

    def test_runs_by_hand_come_to_a_verdict(self) -> None:
        trial = self.begin()
        for _ in range(200):
            trial.refresh_from_db()
            if trial.ended_at:
                break
            faster = "8 GiB" in self.sheet(trial)["run"]["condition"]
            count = Run.objects.filter(of__trial=trial).count()
            self.make(trial, 40, (30.0 if faster else 33.0) + 0.1 * (count % 3))
        self.assertEqual(trial.state, "ended")
        self.assertIn("8 GiB plays", self.get(f"trials/{trial.pk}")["sentence"])

    def test_two_people_cannot_make_the_same_run(self) -> None:
        trial = self.begin()
        run = self.sheet(trial)["run"]["id"]
        self.act(trial, "take")
        self.refused(self.act(trial, "take", Role.SUPERVISOR), "Taken")
        self.assertEqual(self.act(trial, "take").status_code, 200)  # asked twice by the same person
        self.assertEqual(Order.objects.filter(run=run).count(), 1)
        self.hand_in(self.order(HoldCondition))
        self.refused(self.act(trial, "note", Role.SUPERVISOR, take=0, seconds=31), "Taken")
        self.refused(self.act(trial, "leave", Role.SUPERVISOR), "Taken")
        self.act(trial, "note", take=0, seconds=31)
        self.refused(self.act(trial, "note", take=0, seconds=31), "Noted already")
        self.act(trial, "note", take=1, seconds=31)
        self.refused(self.act(trial, "note", take=2, seconds=31), "Not set")
        self.hand_in(self.order(EndHold))
        self.refused(self.act(trial, "take", run=run), "Not due")

    def test_what_cannot_be_is_not_noted(self) -> None:
        trial = self.begin()
        self.refused(self.act(trial, "note", take=0, seconds=31), "Taken")
        self.act(trial, "take")
        self.refused(self.act(trial, "note", take=0, seconds=31), "Not set")
        self.hand_in(self.order(HoldCondition))
        for seconds, dropped in ((12, 0), (31, 750), (3599, 750)):
            self.refused(self.act(trial, "note", take=0, seconds=seconds, dropped=dropped), "No run")
        for body in ({"seconds": 0}, {"seconds": -1}, {"seconds": 1e9}, {"seconds": 31, "dropped": -1}, {"take": -1}):
            self.assertEqual(self.act(trial, "note", **{"take": 0, "seconds": 31, **body}).status_code, 422)
        self.assertEqual(self.sheet(trial)["run"]["takes"], [])

    def test_whoever_leaves_it_has_it_put_back_for_somebody_else(self) -> None:
        trial = self.begin()
        self.act(trial, "take")
        self.hand_in(self.order(HoldCondition))
        self.act(trial, "note", take=0, seconds=31)
        self.act(trial, "leave")
        self.hand_in(self.order(EndHold))
        sheet = self.sheet(trial)
        self.assertEqual((sheet["run"]["state"], sheet["run"]["takes"]), ("free", []))
        self.assertEqual(self.act(trial, "take", Role.SUPERVISOR).status_code, 200)

    def test_what_somebody_left_behind_is_not_taken_for_the_run_of_whoever_came_next(self) -> None:
        trial = self.begin(job="render", by_hand={"what": "house-uhd-25", "app": "corrow"})
        self.act(trial, "take")
        self.hand_in(self.order(HoldCondition))
        self.act(trial, "leave")
        end = self.order(EndHold)
        self.assertEqual(self.act(trial, "take", Role.SUPERVISOR).status_code, 200)
        self.hand_in(end, measured=[90, 91])
        run = self.sheet(trial, Role.SUPERVISOR)["run"]
        self.assertEqual((run["state"], run["taken_by"], run["mine"]), ("setting", "supervisor", True))
        self.hand_in(self.order(HoldCondition))
        self.act(trial, "end", Role.SUPERVISOR)
        self.hand_in(self.order(EndHold), measured=[70, 71])
        self.assertEqual(Run.objects.get(of__trial=trial, block=1, place=0).figure, 71)

    def test_a_condition_that_was_left_and_refused_says_nothing_of_whoever_came_next(self) -> None:
        trial = self.begin()
        self.act(trial, "take")
        first = self.order(HoldCondition)
        self.act(trial, "leave")
        self.act(trial, "take", Role.SUPERVISOR)
        self.hand_in(first, outcome="failed", message="unsaved work")
        self.assertEqual(self.sheet(trial, Role.SUPERVISOR)["run"]["taken_by"], "supervisor")
        self.assertEqual(self.state().state, "at work")

    def test_left_while_it_is_being_set_it_is_put_back_as_soon_as_it_is(self) -> None:
        trial = self.begin()
        self.act(trial, "take")
        order = self.order(HoldCondition)
        self.act(trial, "leave")
        self.assertIsNone(self.waiting())
        self.hand_in(order)
        self.order(EndHold)

    def test_a_run_that_was_cut_off_is_made_again(self) -> None:
        trial = self.begin()
        self.act(trial, "take")
        self.hand_in(self.order(HoldCondition))
        self.act(trial, "note", take=0, seconds=31)
        self.act(trial, "end")
        self.hand_in(self.order(EndHold), outcome="refused", message="the run was cut off")
        sheet = self.sheet(trial)
        self.assertEqual((sheet["run"]["state"], sheet["message"]), ("free", "the run was cut off"))

    def test_when_its_time_is_over_somebody_else_may_make_it(self) -> None:
        trial = self.begin()
        self.act(trial, "take")
        order = self.order(HoldCondition)
        self.hand_in(order)
        Order.objects.filter(pk=order.pk).update(received_at=timezone.now() - dt.timedelta(minutes=MINUTES + 1))
        self.assertEqual(self.sheet(trial)["run"]["state"], "free")
        self.refused(self.act(trial, "note", take=0, seconds=31), "Not set")
        self.assertEqual(self.act(trial, "take", Role.SUPERVISOR).status_code, 200)

    def test_one_take_does_not_count(self) -> None:
        trial = self.begin(job="render", by_hand={"what": "house-uhd-25", "app": "corrow"})
        self.act(trial, "take")
        self.hand_in(self.order(HoldCondition))
        self.act(trial, "end")
        self.hand_in(self.order(EndHold), measured=[96.2])
        self.assertEqual(self.sheet(trial)["message"], "1 run of 2 done (the first does not count)")

    def test_exports_that_the_agent_saw_count(self) -> None:
        trial = self.begin(job="render", by_hand={"what": "house-uhd-25", "app": "corrow"})
        self.act(trial, "take")
        hold = parse_order(bytes(self.order(HoldCondition).body)).action
        assert isinstance(hold, HoldCondition)
        self.assertEqual(hold.app, "corrow")
        self.hand_in(self.order(HoldCondition))
        self.act(trial, "end")
        self.hand_in(self.order(EndHold), measured=[120.5, 96.2], message="reel.mov, 146,295 bytes")
        run = Run.objects.get(of__trial=trial, block=1, place=0)
        self.assertEqual((run.thrown, run.figure), ([120.5], 96.2))

    def test_halted_it_is_put_back(self) -> None:
        trial = self.begin()
        self.act(trial, "take")
        self.hand_in(self.order(HoldCondition))
        self.post(f"trials/{trial.pk}/halt", {"why": "enough"})
        end = self.order(EndHold)
        self.hand_in(end)
        self.assertIn("put back", TrialSeat.objects.get(trial=trial).message)
        self.refused(self.act(trial, "take", run=end.run_id), "Over")

    def test_halted_while_it_is_being_set(self) -> None:
        trial = self.begin()
        self.act(trial, "take")
        order = self.order(HoldCondition)
        self.post(f"trials/{trial.pk}/halt", {"why": "enough"})
        self.hand_in(order)
        self.order(EndHold)

    def test_a_condition_that_the_seat_does_not_take_ends_the_trial_there(self) -> None:
        trial = self.begin()
        self.act(trial, "take")
        self.hand_in(self.order(HoldCondition), outcome="accepted_as", message="cannot be set here")
        self.assertEqual((self.state().state, self.state().message), ("stopped", "cannot be set here"))

    def test_what_cannot_be_made_by_hand_is_not_asked(self) -> None:
        for fields in ({"job": "disk", "volume": "v1"}, {"by_hand": {"what": "x"}}, {"by_hand": {"what": " "}}):
            answer = self.post("trials", {**CHANGED, **fields})
            self.assertEqual(answer.status_code, 422, answer.content)

    def test_who_may(self) -> None:
        trial = self.begin()
        for role, status in ((Role.VIEWER, 403), (Role.EDITOR, 403), (Role.ASSISTANT, 200)):
            self.assertEqual(self.house.client(role).get(f"/api/v1/trials/{trial.pk}/sheet/pan-03").status_code, status)
        self.assertEqual(self.house.client().get(f"/api/v1/trials/{trial.pk}/sheet/pan-04").status_code, 404)
        by_agents = self.start(seats=["pan-05"])
        answer = self.house.client().get(f"/api/v1/trials/{by_agents.pk}/sheet/pan-05")
        self.assertEqual(answer.json()["title"], "Not by hand")


CHANGED = {
    "kind": "change",
    "job": "play",
    "conditions": [{"sets": []}, {"sets": [{"setting": "memory.preview_pool", "app": "corrow", "value": "8 GiB"}]}],
    "seats": ["pan-03"],
    "by_hand": STRETCH,
}
