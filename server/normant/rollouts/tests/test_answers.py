"""What the person at a seat answers to a rollout, through the API, with the agent's door beside it."""

import datetime as dt
from typing import Any

from django.utils import timezone

from normant.accounts.permissions import Role
from normant.findings.models import Finding
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.rollouts.jobs import advance_rollout, sweep
from normant.rollouts.models import Leg, Rollout
from normant.tests.house import survey

from .test_waves import NAMES, POWER, Stage

HOUR = dt.timedelta(hours=1)


class Answers(Stage):
    """pan-03 is the editor's own."""

    def answer(self, rollout: Rollout, what: str, body: Any = None, *, seat: str = "pan-03", role: Any = None) -> Any:
        return self.post(f"rollouts/{rollout.pk}/seats/{seat}/{what}", body, role or Role.EDITOR)

    def plans_shown(self) -> Any:
        return self.house.client(Role.EDITOR).get("/api/v1/seats/pan-03/planned").json()

    def leg(self, seat: str = "pan-03") -> Leg:
        return Leg.objects.select_related("rollout").get(seat__name=seat)

    def test_the_editor_sees_what_is_planned_and_why_and_what_was_done(self) -> None:
        self.assertEqual(self.plans_shown()["sentence"], "No changes planned.")
        self.start(canaries=False)
        own = self.plans_shown()
        self.assertEqual(own["sentence"], "1 setting is going to be changed here.")
        planned = own["planned"][0]
        self.assertEqual((planned["by"], planned["message"]), ("supervisor", "Sent; waiting for the seat"))
        self.assertIn("Clocks that ramp up late", planned["reasons"][0]["because"])
        self.end("pan-03")
        own = self.plans_shown()
        self.assertEqual((own["planned"], own["done"][0]["changes"]), ([], ["Power profile: performance"]))
        self.assertEqual(self.house.client(Role.EDITOR).get("/api/v1/seats/pan-04/planned").status_code, 404)

    def test_put_off_the_order_is_withdrawn_and_comes_again_in_its_time(self) -> None:
        rollout = self.start(canaries=False)
        until = timezone.now() + HOUR
        self.assertEqual(self.answer(rollout, "put-off", {"until": until}).status_code, 200)
        self.assertFalse(Order.objects.waiting().filter(seat__name="pan-03").exists())
        sweep()
        self.assertIn("Postponed at the seat until", self.plans_shown()["planned"][0]["message"])
        self.assertNotIn("pan-03", self.begun())
        Leg.objects.filter(seat__name="pan-03").update(not_before=timezone.now())
        sweep()
        self.assertIn("pan-03", self.begun())
        self.assertEqual(Entry.objects.filter(actor="editor", action="put off").count(), 1)

    def test_a_canary_that_is_put_off_holds_nobody_up(self) -> None:
        rollout = self.start(in_wave=1)
        first = Leg.objects.get(rollout=rollout, begun_at__isnull=False).seat.name
        self.answer(rollout, "put-off", {"until": timezone.now() + HOUR}, seat=first, role=Role.SUPERVISOR)
        advance_rollout(rollout.pk)
        self.assertEqual(len(self.begun()), 1)
        self.assertNotEqual(self.begun(), [first])

    def test_it_is_put_off_within_limits_alone(self) -> None:
        rollout = self.start(canaries=False, put_off=1)
        for until, words in (
            (timezone.now() + dt.timedelta(minutes=1), "at least 5 minutes"),
            (timezone.now() + dt.timedelta(days=4), "at the latest"),
        ):
            answer = self.answer(rollout, "put-off", {"until": until})
            self.assertEqual(answer.status_code, 409)
            self.assertIn(words, answer.json()["detail"])
        self.answer(rollout, "put-off", {"until": timezone.now() + HOUR})
        self.assertFalse(self.plans_shown()["planned"][0]["may_put_off"])
        again = self.answer(rollout, "put-off", {"until": timezone.now() + HOUR})
        self.assertIn("postponed 1 times already", again.json()["detail"])
        strict = self.answer(rollout, "put-off", {"until": timezone.now() + HOUR}, seat="pan-04")
        self.assertEqual(strict.status_code, 404)

    def test_an_objection_waits_for_a_supervisor_who_goes_ahead(self) -> None:
        rollout = self.start(canaries=False)
        body = {"why": "the grade of reel 3 is on screen", "asks_waiver": True}
        self.assertEqual(self.answer(rollout, "object", body).status_code, 200)
        sweep()
        self.assertNotIn("pan-03", self.begun())
        items = self.house.client().get("/api/v1/round").json()["items"]
        item = next(item for item in items if item["kind"] == "objection")
        self.assertTrue(item["title"].startswith("pan-03 asks for a waiver"))
        by_seat = {leg["seat"]: leg for leg in self.shown(rollout)["legs"]}
        self.assertTrue(by_seat["pan-03"]["troubled"])
        self.assertIn("reel 3", by_seat["pan-03"]["message"])
        self.assertEqual(self.answer(rollout, "go-ahead").status_code, 403)
        self.assertEqual(self.answer(rollout, "go-ahead", role=Role.SUPERVISOR).status_code, 200)
        advance_rollout(rollout.pk)
        self.assertIn("pan-03", self.begun())
        self.assertEqual(self.answer(rollout, "go-ahead", role=Role.SUPERVISOR).status_code, 409)

    def test_or_leaves_the_seat_out_and_the_others_end_the_rollout(self) -> None:
        rollout = self.start(canaries=False)
        self.answer(rollout, "object", {"why": "not before the screening"})
        self.answer(rollout, "leave-out", role=Role.SUPERVISOR)
        self.assertEqual(self.leg().message, "skipped by supervisor: not before the screening")
        self.post(f"rollouts/{rollout.pk}/halt")
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/resume").status_code, 200)
        advance_rollout(rollout.pk)
        self.assertEqual((self.leg().state, len(self.begun())), ("halted", 3))
        for name in NAMES[1:]:
            self.end(name)
        rollout.refresh_from_db()
        self.assertEqual(rollout.state, "finished")

    def test_what_has_begun_cannot_be_answered_any_more(self) -> None:
        rollout = self.start(canaries=False)
        Leg.objects.filter(seat__name="pan-03").update(state="moving", step="applying")
        for what, body in (("put-off", {"until": timezone.now() + HOUR}), ("object", {"why": "no"})):
            answer = self.answer(rollout, what, body)
            self.assertEqual(answer.status_code, 409)
            self.assertIn("right now", answer.json()["detail"])
        self.assertEqual(self.answer(rollout, "object", {"why": "  "}).status_code, 422)
        self.assertTrue(Order.objects.waiting().filter(seat__name="pan-03").exists())

    def test_the_receipt_of_an_order_that_was_withdrawn_meanwhile_stops_the_leg(self) -> None:
        rollout = self.start(canaries=False)
        order = Order.objects.waiting().get(seat__name="pan-03")
        self.answer(rollout, "put-off", {"until": timezone.now() + HOUR})
        receipt = {"order": str(order.pk), "outcome": "done", "at": timezone.now().isoformat()}
        path = f"/api/v1/agent/orders/{order.pk}/receipt"
        self.house.agent(self.tokens["pan-03"]).post(path, receipt, content_type="application/json")
        self.assertEqual((self.leg().state, self.leg().message[:27]), ("stopped", "changed before the seat cou"))

    def test_what_is_done_in_part_is_put_off_for_the_rest_and_done_again_without_harm(self) -> None:
        settings = (POWER, "memory.held_back")
        ids = list(
            Finding.objects.open().filter(setting__in=settings, seat__name="pan-03").values_list("pk", flat=True)
        )
        seen = self.post("rollouts/plan", {"findings": ids}).json()["digest"]
        rollout = Rollout.objects.get(pk=self.post("rollouts", {"findings": ids, "seen": seen}).json()["id"])
        advance_rollout(rollout.pk)
        self.receipt(Order.objects.waiting().get(kind="set_power_profile"))
        Leg.objects.update(state="waiting", message="Corrow is open and its editor is busy")
        self.assertEqual(self.answer(rollout, "put-off", {"until": timezone.now() + HOUR}).status_code, 200)
        self.assertFalse(Order.objects.waiting().exists())
        Leg.objects.update(not_before=timezone.now())
        sweep()
        for order in Order.objects.waiting():
            self.receipt(order)
        right = {"power__profile": "performance", "memory__held_back": 6554 * 2**20}
        self.house.send(survey(**right), self.tokens["pan-03"])
        self.assertEqual(self.leg().state, "settled")
        self.post(f"rollouts/{rollout.pk}/put-back")
        advance_rollout(rollout.pk + 1)
        self.assertEqual(Order.objects.waiting().filter(kind="put_back").count(), 3)

    def receipt(self, order: Order) -> None:
        body = {"order": str(order.pk), "outcome": "done", "at": timezone.now().isoformat()}
        path = f"/api/v1/agent/orders/{order.pk}/receipt"
        self.house.agent(self.tokens["pan-03"]).post(path, body, content_type="application/json")
