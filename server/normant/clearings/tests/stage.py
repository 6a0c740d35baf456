"""A house whose seat can be told to look through stores, and answers as an agent does."""

import json
from typing import Any

from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.orders.models import Order
from normant.tests.house import House, survey
from normant_core.orders.kinds import parse_order

DIGEST = "ab" * 32
CACHE = {
    "app": "corrow",
    "kind": "source_cache",
    "folder": "/home/edit/corrow/cache",
    "volume": "v0",
    "items": 9,
    "size": 9000,
    "going": 3,
    "going_size": 3000,
    "oldest": "2026-01-05T00:00:00Z",
    "reasons": [{"why": "used within 60 days", "items": 6, "size": 6000}],
    "digest": DIGEST,
}


class Case(TestCase):
    """pan-03 with Corrow's source cache."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def post(self, path: str, body: Any = None, role: Role = Role.SUPERVISOR) -> Any:
        return self.house.client(role).post(f"/api/v1/{path}", json.dumps(body or {}), "application/json")

    def get(self, path: str, role: Role = Role.SUPERVISOR) -> Any:
        return self.house.client(role).get(f"/api/v1/{path}")

    def begun(self, **more: Any) -> int:
        answer = self.post("clearings", {"kinds": ["source_cache"], **more})
        self.assertEqual(answer.status_code, 200, answer.content)
        return int(answer.json()["id"])

    def order(self, kind: str, seat: str = "pan-03") -> Order:
        return Order.objects.filter(kind=kind, seat__name=seat).latest("created_at")

    def action(self, kind: str, seat: str = "pan-03") -> Any:
        return parse_order(bytes(self.order(kind, seat).body)).action

    def hand_in(self, order: Order, token: str = "", **fields: Any) -> Any:
        body = {"order": str(order.pk), "outcome": "done", "at": timezone.now().isoformat(), **fields}
        path = f"/api/v1/agent/orders/{order.pk}/receipt"
        answer = self.house.agent(token).post(path, json.dumps(body), "application/json")
        self.assertEqual(answer.status_code, 204, answer.content)
        return answer

    def planned(self, *stores: dict[str, Any], **more: Any) -> int:
        number = self.begun(**more)
        self.hand_in(self.order("plan_clearing"), planned=list(stores or (CACHE,)))
        return number

    def plan(self, number: int) -> Any:
        return self.get(f"clearings/{number}").json()

    def sign(self, number: int, seen: str = "") -> Any:
        return self.post(f"clearings/{number}/sign", {"seen": seen or self.plan(number)["seen"]})

    def second(self, name: str) -> str:
        """Another seat with the same survey; its agent's token."""
        _, token = self.house.enrolled(name)
        self.house.send(survey(seat=name), token)
        return token
