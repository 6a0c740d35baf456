"""A plan that is tried on its seats, through the API and the agents' door."""

import json
from typing import Any

from django.utils import timezone

from normant.accounts.permissions import Role
from normant.orders.models import Order
from normant.rollouts.models import Leg, Rehearsal
from normant_core.orders.kinds import Rehearse, parse_order

from .test_waves import Stage


class Rehearsals(Stage):
    def tried(self) -> Any:
        return self.post("rehearsals", {"findings": self.findings()}).json()

    def answer(self, seat: str, outcome: str, message: str = "") -> None:
        order = Order.objects.waiting().get(seat__name=seat)
        result = {"setting": "power.profile", "outcome": outcome, "message": message}
        body = {"order": str(order.pk), "outcome": "done", "results": [result], "at": timezone.now().isoformat()}
        agent = self.house.agent(self.tokens[seat])
        agent.post(f"/api/v1/agent/orders/{order.pk}/receipt", json.dumps(body), "application/json")

    def test_every_seat_is_asked_what_would_happen_and_nothing_begins(self) -> None:
        answer = self.tried()
        self.assertEqual((answer["sentence"], answer["over"]), ("4 seats: 0 answered. No files were changed.", False))
        action = parse_order(bytes(Order.objects.get(seat__name="pan-03").body)).action
        self.assertIsInstance(action, Rehearse)
        self.assertFalse(Leg.objects.exists())

    def test_what_the_seats_say_is_told(self) -> None:
        number = self.tried()["id"]
        self.answer("pan-03", "would_do")
        self.answer("pan-04", "refused", "the power profile was changed meanwhile")
        answer = self.house.client(Role.VIEWER).get(f"/api/v1/rehearsals/{number}").json()
        self.assertEqual(
            answer["sentence"],
            "4 seats: 2 answered: 1 would be done, 1 would be refused. No files were changed.",
        )
        lines = {seat["seat"]: [line["words"] for line in seat["lines"]] for seat in answer["seats"]}
        self.assertEqual((lines["pan-03"], lines["pan-04"][0][:17]), (["would be done"], "the power profile"))

    def test_a_plan_without_orders_is_not_tried(self) -> None:
        self.assertEqual(self.post("rehearsals", {"findings": [10**6]}).json()["title"], "Findings closed")
        self.assertEqual(self.post("rehearsals", {"findings": self.findings()}, Role.VIEWER).status_code, 403)
        self.assertEqual(self.house.client().get("/api/v1/rehearsals/7").status_code, 404)
        self.assertFalse(Rehearsal.objects.exists())
