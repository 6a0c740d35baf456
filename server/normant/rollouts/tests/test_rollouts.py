"""The state machine, moved by real orders, receipts and surveys through the agents' door."""

import json
from typing import Any

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey
from django.db import IntegrityError, transaction
from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.findings.models import Finding
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.orders.services.sign import public_key
from normant.rollouts.jobs import advance_rollout, sweep
from normant.rollouts.models import Leg, Rollout
from normant.tests.house import House, survey
from normant_core.orders.kinds import parse_order

SETTINGS = {"memory.held_back", "power.profile"}
PUT_RIGHT = {"memory__held_back": 6554 * 2**20, "power__profile": "performance"}


class Rollouts(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-10))

    def setUp(self) -> None:
        self.supervisor = self.house.client()

    def post(self, path: str, body: Any = None) -> Any:
        return self.supervisor.post(f"/api/v1/{path}", json.dumps(body or {}), "application/json")

    def start(self, *settings: str) -> Rollout:
        ids = [f.pk for f in Finding.objects.open() if f.setting in (settings or SETTINGS)]
        seen = self.post("rollouts/plan", {"findings": ids}).json()["digest"]
        rollout = Rollout.objects.get(pk=self.post("rollouts", {"findings": ids, "seen": seen}).json()["id"])
        advance_rollout(rollout.pk)
        return rollout

    def receipt(self, order: Order, outcome: str = "done", message: str = "") -> int:
        body = {"order": str(order.pk), "outcome": outcome, "message": message, "at": timezone.now().isoformat()}
        path = f"/api/v1/agent/orders/{order.pk}/receipt"
        return int(self.house.agent().post(path, json.dumps(body), "application/json").status_code)

    def leg(self) -> tuple[str, str, str]:
        leg = Leg.objects.latest("pk")
        return leg.state, leg.step, leg.message

    def test_the_same_plan_started_again_is_the_same_rollout(self) -> None:
        ids = [f.pk for f in Finding.objects.open() if f.setting in SETTINGS]
        body = {"findings": ids, "seen": self.post("rollouts/plan", {"findings": ids}).json()["digest"]}
        self.assertEqual(len({self.post("rollouts", body).json()["id"] for _ in range(3)}), 1)
        other = self.house.client(Role.ADMINISTRATOR).post("/api/v1/rollouts", body, "application/json")
        self.assertEqual((other.status_code, other.json()["title"]), (409, "Started already"))

    def test_the_rounder_size_of_a_plan_is_what_its_order_writes(self) -> None:
        ids = [f.pk for f in Finding.objects.open() if f.setting == "memory.held_back"]
        made = self.post("rollouts/plan", {"findings": ids}).json()
        change = made["seats"][0]["changes"][0]
        self.assertEqual((change["after"], change["shown_rounder"]), ("6554", "6.5 GiB"))
        body = {"findings": ids, "terms": {"rounder": True}}
        rounder = self.post("rollouts/plan", body).json()
        self.assertNotEqual(rounder["digest"], made["digest"])
        self.assertEqual(self.post("rollouts", {**body, "seen": made["digest"]}).status_code, 409)
        rollout = Rollout.objects.get(pk=self.post("rollouts", {**body, "seen": rounder["digest"]}).json()["id"])
        advance_rollout(rollout.pk)
        self.assertIn(b'"6656"', bytes(Order.objects.get().body))

    def test_a_retired_seat_holds_no_rollout_up(self) -> None:
        rollout = self.start()
        self.assertEqual(self.post("seats/pan-03/retire").status_code, 204)
        self.assertEqual(self.leg(), ("stopped", "waiting", "the seat was retired"))
        self.assertFalse(Order.objects.waiting().exists())
        rollout.refresh_from_db()
        self.assertEqual((rollout.state, rollout.ended_at is None), ("finished", False))

    def test_orders_are_signed_for_their_seat_and_expect_what_the_plan_saw(self) -> None:
        self.start()
        items = self.house.agent().get("/api/v1/agent/orders").json()["items"]
        self.assertEqual(len(items), 2)
        for order in Order.objects.all():
            Ed25519PublicKey.from_public_bytes(public_key()).verify(bytes(order.signature), bytes(order.body))
        orders = [parse_order(bytes(order.body)) for order in Order.objects.all()]
        self.assertEqual({order.seat for order in orders}, {"pan-03"})
        self.assertEqual([o.action.expected for o in orders if hasattr(o.action, "expected")], ["balanced"])

    def test_an_order_that_was_spoiled_on_its_way_ends_its_leg_and_is_in_the_ledger_once(self) -> None:
        self.start()
        order = Order.objects.first()
        assert order
        body = {"order": str(order.pk), "digest": "0" * 64, "why": "the signature is not the house's"}
        bodies = [
            body,
            body,
            {**body, "order": "", "digest": "1" * 64},
            {**body, "order": "no such", "digest": "2" * 64},
        ]
        for body_ in bodies:
            answer = self.house.agent().post("/api/v1/agent/refusals", json.dumps(body_), "application/json")
            self.assertEqual(answer.status_code, 204)
        entries = Entry.objects.filter(action="refuse order")
        self.assertEqual([entry.detail["digest"][0] for entry in entries], ["2", "1", "0"])
        order.refresh_from_db()
        self.assertEqual((order.receipt or {})["outcome"], "refused")
        for other in Order.objects.waiting():
            self.receipt(other)
        self.assertIn("a different order from the one that was signed: the signature", self.leg()[2])
        for number in range(60):
            made_up = json.dumps({**body, "order": "", "digest": f"{number:064}"})
            self.house.agent().post("/api/v1/agent/refusals", made_up, "application/json")
        self.assertEqual(Entry.objects.filter(action="refuse order").count(), 50)
        bad = {**body, "digest": "x"}
        answer = self.house.agent().post("/api/v1/agent/refusals", json.dumps(bad), "application/json")
        self.assertEqual(answer.status_code, 422)

    def test_a_leg_settles_by_the_survey_not_by_the_receipt(self) -> None:
        rollout = self.start()
        for order in Order.objects.all():
            self.receipt(order)
        self.assertEqual(self.leg(), ("moving", "reading_back", "written and verified; waiting for the next survey"))
        self.assertEqual(Finding.objects.open().filter(setting__in=SETTINGS).count(), 2)
        self.house.send(survey(**PUT_RIGHT))
        self.assertEqual(self.leg()[:2], ("settled", "settled"))
        self.assertEqual({f.closed_by for f in Finding.objects.closed()}, {"ours"})
        rollout.refresh_from_db()
        self.assertEqual(rollout.state, "finished")

    def test_a_survey_that_still_finds_it_stops_the_leg(self) -> None:
        self.start()
        for order in Order.objects.all():
            self.receipt(order)
        self.house.send(survey(power__profile="performance"))
        self.assertEqual(
            self.leg(), ("stopped", "reading_back", "the next survey still shows memory.held_back off norm")
        )

    def test_an_accepted_other_value_stops_the_leg_and_the_finding_stays(self) -> None:
        self.start()
        power, memory = Order.objects.order_by("place")
        self.receipt(power)
        self.receipt(memory, "accepted_as", "accepted as 5 GiB, asked for 3 GiB")
        self.assertEqual(self.leg()[0::2], ("stopped", "accepted as 5 GiB, asked for 3 GiB"))
        self.assertTrue(Finding.objects.open().filter(setting="memory.held_back").exists())

    def test_a_second_receipt_changes_nothing(self) -> None:
        self.start()
        order = Order.objects.first()
        assert order
        self.receipt(order)
        entries = Entry.objects.count()
        self.assertEqual(self.receipt(order, "failed", "late"), 204)
        order.refresh_from_db()
        self.assertEqual((order.receipt["outcome"], Entry.objects.count()), ("done", entries))

    def test_waiting_is_told_with_its_reason(self) -> None:
        self.start()
        order = Order.objects.first()
        assert order
        body = {"step": "waiting", "message": "Corrow is open and its editor is busy"}
        self.house.agent().post(f"/api/v1/agent/orders/{order.pk}/progress", json.dumps(body), "application/json")
        self.assertEqual(self.leg(), ("waiting", "waiting", "Corrow is open and its editor is busy"))

    def test_another_seats_order_is_not_there(self) -> None:
        self.start()
        _, other = self.house.enrolled("pan-04")
        order = Order.objects.first()
        assert order
        path = f"/api/v1/agent/orders/{order.pk}/receipt"
        body = json.dumps({"order": str(order.pk), "outcome": "done"})
        self.assertEqual(self.house.agent(other).post(path, body, "application/json").status_code, 404)

    def test_jobs_may_run_twice_and_a_lost_one_is_made_good(self) -> None:
        rollout = self.start()
        advance_rollout(rollout.pk)
        sweep(timestamp=0)
        self.assertEqual(Order.objects.count(), 2)

    def test_one_seat_has_one_rollout_at_a_time(self) -> None:
        self.start()
        second = self.start("power.profile")
        self.assertEqual((second.legs.get().begun_at, Order.objects.count()), (None, 2))
        with self.assertRaises(IntegrityError), transaction.atomic():
            second.legs.update(begun_at=timezone.now())

    def test_halting_withdraws_what_has_not_begun(self) -> None:
        rollout = self.start()
        self.post(f"rollouts/{rollout.pk}/halt")
        self.assertEqual(self.leg()[0], "halted")
        self.assertEqual(self.house.agent().get("/api/v1/agent/orders").json()["items"], [])
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/put-back").status_code, 409)

    def test_put_back_names_the_orders_in_reverse(self) -> None:
        rollout = self.start()
        for order in Order.objects.all():
            self.receipt(order)
        self.house.send(survey(**PUT_RIGHT))
        done = [str(o.pk) for o in Order.objects.order_by("place")]
        made = self.post(f"rollouts/{rollout.pk}/put-back").json()["id"]
        advance_rollout(made)
        undone = [parse_order(bytes(o.body)).action for o in Order.objects.filter(kind="put_back").order_by("place")]
        self.assertEqual([action.order for action in undone], done[::-1])  # type: ignore[union-attr]
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/put-back").json()["title"], "Nothing to put back")

    def test_what_was_written_before_a_halt_arrived_is_told_and_can_be_put_back(self) -> None:
        rollout = self.start()
        self.post(f"rollouts/{rollout.pk}/halt")
        order = Order.objects.order_by("place").first()
        assert order
        self.receipt(order)
        self.assertEqual(self.leg()[0], "stopped")
        self.assertIn("before the seat could be stopped", self.leg()[2])
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/put-back").status_code, 200)

    def test_putting_back_halts_what_has_not_begun(self) -> None:
        rollout = self.start()
        power, _ = Order.objects.order_by("place")
        self.receipt(power)
        Leg.objects.update(state="waiting", step="waiting")
        made = self.post(f"rollouts/{rollout.pk}/put-back").json()["id"]
        self.assertEqual(rollout.legs.get().state, "halted")
        advance_rollout(made)
        self.assertEqual(Order.objects.waiting().get().kind, "put_back")

    def test_a_plan_that_nobody_saw_is_not_started(self) -> None:
        ids = [f.pk for f in Finding.objects.open()]
        seen = self.post("rollouts/plan", {"findings": ids}).json()["digest"]
        self.house.send(survey(memory__held_back=2**30))
        answer = self.post("rollouts", {"findings": ids, "seen": seen})
        self.assertEqual((answer.status_code, answer.json()["title"]), (409, "The plan changed"))
        self.assertEqual(Rollout.objects.count(), 0)

    def test_closed_findings_cannot_be_planned(self) -> None:
        finding = Finding.objects.get(setting="power.profile")
        self.house.send(survey(power__profile="performance"))
        self.assertEqual(self.post("rollouts/plan", {"findings": [finding.pk]}).json()["closed"], [finding.pk])

    def test_the_round_groups_by_cause_and_tells_what_was_tried(self) -> None:
        self.start()
        for order in Order.objects.all():
            self.receipt(order, "accepted_as", "accepted as 5 GiB, asked for 3 GiB")
        answer_ = self.house.client(Role.VIEWER).get("/api/v1/round").json()
        self.assertIn("1 seat went off norm", answer_["sentence"])
        tried = {line["tried"] for item in answer_["items"] for line in item["findings"] if line["setting"] in SETTINGS}
        self.assertEqual(len(tried), 1)
        self.assertIn("accepted as 5 GiB", tried.pop())

    def test_lists_cost_the_same_however_long_they_are(self) -> None:
        viewer = self.house.client(Role.VIEWER)
        for path, queries in (("seats", 2), ("findings", 3), ("rollouts", 4), ("ledger", 3)):
            self.start()
            with self.subTest(path), self.assertNumQueries(queries):
                viewer.get(f"/api/v1/{path}")
