"""What a worker signs: nothing that somebody wrote into the database past every service."""

from typing import Any
from unittest.mock import patch
from uuid import uuid4

import msgspec
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.clearings.models import Clearing, SeatClearing
from normant.clearings.services.advance_clearing import advance_clearing
from normant.clearings.tests.stage import CACHE, DIGEST, Case
from normant.findings.models import Finding
from normant.ledger.models import Entry
from normant.ledger.services.record import record
from normant.orders import authority
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant.orders.services.sign import sign_waiting
from normant.rollouts.authority import PLANS_READ, why_no_leg
from normant.rollouts.models import Leg, Rollout
from normant.seats.models import Seat
from normant.standing_care.models import Turn
from normant.trials.models import Trial, TrialSeat
from normant.trials.services.advance_trial import advance_trial
from normant.trials.tests.stage import CHANGE
from normant_core.orders.kinds import (
    ORDER_KINDS,
    Change,
    ClearPlanned,
    ClearStore,
    HoldCondition,
    InstallDriver,
    Item,
    Measure,
    MoveStore,
    PutBack,
    SetPowerProfile,
    SetPreference,
    SurveyNow,
    parse_order,
)
from normant_core.plan.actions import actions_of
from normant_core.plan.plan import SeatPlan

POWER = SetPowerProfile("balanced", "saver")
POOL = Change("memory.preview_pool", "256", "512", 512 * 2**20)


class Authority(Case):
    def refused(self, action: Any, **of: Any) -> str:
        """Write an order as a conquered web process does, and let a worker look at it; why it is not signed."""
        order = issue_order(self.house.seat, action, **of)
        sign_waiting()
        order.refresh_from_db()
        self.assertIsNone(order.signature)
        self.assertTrue(Entry.objects.filter(action="refuse to sign", detail__order=str(order.pk)).exists())
        return order.refused

    def clear(self, number: int, **other: Any) -> ClearPlanned:
        plan = Order.objects.get(clearing__clearing=number, kind="plan_clearing")
        named = {"app": "corrow", "store": "source_cache", "folder": CACHE["folder"], "digest": DIGEST, **other}
        return ClearPlanned(str(plan.pk), **named)

    def run_without_entry(self, number: int, **fields: Any) -> SeatClearing:
        """A plan whose row says that it was signed."""
        now = timezone.now()
        Clearing.objects.filter(pk=number).update(state=Clearing.State.RUNNING, signed_at=now, **fields)
        return SeatClearing.objects.get(clearing=number)

    def test_a_list_that_nobody_signed_is_not_cleared(self) -> None:
        number = self.planned()
        row = SeatClearing.objects.get(clearing=number)
        self.assertEqual(self.refused(self.clear(number), clearing=row), "its clean-up is planned")
        row = self.run_without_entry(number, signed_by=self.house.people[Role.SUPERVISOR])
        self.assertIn("no signature of this list", self.refused(self.clear(number), clearing=row))
        self.assertEqual(self.refused(self.clear(number)), "it does not belong to a clean-up of this seat")
        advance_clearing(number)  # a worker that is led to believe it issues no order that counts either
        self.assertFalse(Order.objects.filter(kind="clear_planned", signature__isnull=False).exists())

    def test_another_list_than_the_signed_one_is_not_cleared(self) -> None:
        number = self.planned()
        self.sign(number)
        row = SeatClearing.objects.get(clearing=number)
        for other in ({"digest": "cd" * 32}, {"folder": "/fast/corrow"}, {"at_once": True}, {"store": "renders"}):
            self.assertEqual(
                self.refused(self.clear(number, **other), clearing=row), "its clean-up has a different list"
            )
        advance_clearing(number)
        self.assertTrue(self.order("clear_planned").signature)

    def test_a_clean_up_that_runs_by_itself_needs_a_person_who_agreed_before(self) -> None:
        number = self.planned()
        row = self.run_without_entry(number)
        lists = {"pan-03 corrow source_cache": DIGEST}
        record("server", "sign clearing", f"clearing {number}", lists=lists)
        self.assertIn("it is not an automatic clean-up", self.refused(self.clear(number), clearing=row))
        now = timezone.now()
        Turn.objects.create(name="x", meaning="m", sentence="", opens=now, closes=now, clearing_id=number)
        self.assertIn("no approval of this sentence", self.refused(self.clear(number), clearing=row))

    def test_settings_change_by_a_leg_of_a_rollout_that_somebody_started(self) -> None:
        action = SetPreference("corrow", "preferences", (POOL,))
        self.assertEqual(self.refused(action), "it belongs to no rollout on this seat")
        user = self.house.people[Role.SUPERVISOR]
        rollout = Rollout.objects.create(title="x", created_by=user, terms={}, state=Rollout.State.RUNNING)
        plan = {"seat": "pan-03", "changes": [], "left": []}
        leg = Leg.objects.create(rollout=rollout, seat=self.house.seat, plan=plan)
        self.assertIn("somebody started this rollout", self.refused(action, leg=leg))
        record(user.username, "start rollout", f"rollout {rollout.pk}")  # as versions before 0.8.0 wrote it
        self.assertEqual(self.refused(action, leg=leg), "its rollout plans something else")
        measured = Measure("play", 1, (action,))
        self.assertIn("its rollout plans something else", self.refused(measured, leg=leg))

    def rollout(self) -> tuple[Rollout, Any]:
        """One that a person started, and what its only leg does first."""
        findings = list(Finding.objects.open().filter(seat__name="pan-03").values_list("pk", flat=True))
        seen = self.post("rollouts/plan", {"findings": findings}).json()["digest"]
        started = self.post("rollouts", {"findings": findings, "seen": seen}).json()
        rollout = Rollout.objects.get(pk=started["id"])
        plan = msgspec.convert(rollout.legs.get().plan, SeatPlan)
        return rollout, actions_of(plan)[0][0]

    def test_a_plan_that_was_rewritten_after_the_start_changes_nothing(self) -> None:
        rollout, action = self.rollout()
        leg = rollout.legs.get()
        self.assertEqual(why_no_leg(issue_order(self.house.seat, action, leg=leg), action), "")
        leg.plan = {"seat": "pan-03", "changes": [], "left": []}
        leg.save()
        self.assertEqual(self.refused(action, leg=leg), "its plan was changed after somebody started this rollout")
        PLANS_READ.clear()  # a worker that starts now
        self.assertIn("started this rollout with these plans", self.refused(action, leg=leg))

    def test_a_seat_that_was_added_after_the_start_changes_nothing(self) -> None:
        rollout, action = self.rollout()
        PLANS_READ.clear()
        self.second("pan-04")
        seat = Seat.objects.get(name="pan-04")
        leg = Leg.objects.create(rollout=rollout, seat=seat, plan=rollout.legs.get().plan)
        order = issue_order(seat, action, leg=leg)
        self.assertIn("started this rollout with these plans", why_no_leg(order, action))

    def test_a_run_sets_a_value_as_its_file_can_hold_it(self) -> None:
        conditions = [
            {"sets": []},
            {"sets": [{"setting": "memory.preview_pool", "app": "corrow", "value": "12.8 GiB"}]},
        ]
        trial = Trial.objects.get(pk=self.post("trials", {**CHANGE, "conditions": conditions}).json()["id"])
        advance_trial(trial.pk)
        for _ in range(2):  # one of the first two runs sets nothing
            order = Order.objects.filter(run__of__trial=trial).latest("created_at")
            under = parse_order(bytes(order.body)).action.under
            if under:
                break
            self.hand_in(order, measured=[40.0, 40.0])
            advance_trial(trial.pk)
        self.assertEqual(under[0].changes[0].value % 2**20, 0)
        self.assertTrue(order.signature, order.refused)

    def test_a_run_sets_what_its_trial_asks(self) -> None:
        trial = Trial.objects.get(pk=self.post("trials", CHANGE).json()["id"])
        advance_trial(trial.pk)
        order = Order.objects.get(run__of__trial=trial)
        self.assertTrue(order.signature)
        other = SetPreference("corrow", "preferences", (POOL,))
        for action in (Measure("play", 2, (other,)), HoldCondition((other,)), Measure("play", 2, (POWER,))):
            self.assertIn("its trial sets something else for this run", self.refused(action, run=order.run))
        question = {**trial.question, "conditions": [{"name": "a"}, {"name": "b"}]}
        Trial.objects.filter(pk=trial.pk).update(question=question)
        self.assertIn("somebody started this trial", self.refused(Measure("play", 2, ()), run=order.run))
        Trial.objects.filter(pk=trial.pk).update(question=trial.question)
        TrialSeat.objects.filter(trial=trial).update(state="done", ended_at=timezone.now())
        self.assertIn("its trial is not at work on this seat", self.refused(Measure("play", 2, ()), run=order.run))

    def test_orders_of_every_other_kind_need_something_that_stands_behind_them(self) -> None:
        cases = (
            (Measure("play", 1, ()), "it belongs to no rollout on this seat"),
            (HoldCondition((), "corrow", 25.0, 5), "it belongs to no trial on this seat"),
            (
                ClearStore("corrow", "store.source_cache.path", "/x/corrow", (Item("a", 1, timezone.now()),)),
                "no signature",
            ),
            (MoveStore("corrow", "preferences", POOL, "v1"), "it belongs to no rollout"),
            (InstallDriver("gpu0", "1", "2", "ab" * 32, 1), "it belongs to no rollout"),
            (SetPowerProfile("balanced", "performance"), "it belongs to no rollout"),
            (PutBack("x" * 8), "no such order"),
            (PutBack(str(uuid4())), "no such order"),
        )
        for action, words in cases:
            with self.subTest(type(action).__name__):
                self.assertIn(words, self.refused(action))

    def test_every_kind_reads_only_or_has_an_authority(self) -> None:
        for kind in ORDER_KINDS:
            self.assertTrue((kind in authority.READ_ONLY) != (kind in authority._CHECKS), kind)

    def test_a_kind_without_an_authority_is_signed_by_nobody(self) -> None:
        with patch.object(authority, "READ_ONLY", frozenset()):
            self.assertIn("no authority is named for it", self.refused(SurveyNow()))

    def test_an_order_is_of_the_kind_that_its_row_tells(self) -> None:
        order = issue_order(self.house.seat, SurveyNow())
        Order.objects.filter(pk=order.pk).update(kind="put_back", signature=None)
        sign_waiting()
        order.refresh_from_db()
        self.assertIn("it is written as put_back, and asks for survey_now", order.refused)
