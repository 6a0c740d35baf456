"""A house whose seat can be told to look through stores, and answers as an agent does."""

import json
from typing import Any

from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.deliveries.models import Delivery, EndedProduction
from normant.dialects.services.keep_dialect import keep_dialect
from normant.orders.models import Order
from normant.orders.services.sign import sign_waiting
from normant.tests.house import EXAMPLES, House, survey
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


RENDERS = {
    **CACHE,
    "kind": "renders",
    "folder": "/fast/corrow/renders",
    "productions": ["old_show"],
    "rests_on": [{"production": "Old Show", "project": "one"}],
}
DIALECT = f"""{(EXAMPLES / "corrow.dialect.toml").read_text("utf-8")}
[[file.binding]]
setting = "store.renders.path"
at = "/settings/folders/renders"
kind = "path"

[[store]]
kind = "renders"
setting = "store.renders.path"
belongs = '^(?P<production>[^/]+)/(?P<project>[^/]+)/'
"""


def seat_survey(seat: str = "pan-03", version: str = "0.8.0") -> dict[str, Any]:
    """A survey of a seat with Corrow's source cache and renders, as an agent of that version takes it."""
    whole = survey(seat=seat)
    store = {"purpose": "renders", "path": "/fast/corrow/renders", "app": "corrow", "size": 9000, "items": 9}
    share = {"production": "old_show", "size": 9000}
    store |= {"productions": [share], "projects": [{**share, "project": "one"}]}
    reading = {"setting": "store.renders.path", "app": "corrow", "value": store["path"]}
    agent = {**whole["agent"], "version": version}
    return {**whole, "agent": agent, "readings": [*whole["readings"], reading], "stores": [store]}


class Case(TestCase):
    """pan-03 with Corrow's source cache and renders."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        keep_dialect(DIALECT, "test")
        sign_waiting()
        cls.house.send(seat_survey())

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

    def sign(self, number: int, seen: str = "", role: Role = Role.SUPERVISOR) -> Any:
        body = json.dumps({"seen": seen or self.plan(number)["seen"]})
        return self.house.browser(role).post(f"/api/v1/clearings/{number}/sign", body, "application/json")

    def second(self, name: str) -> str:
        """Another seat with the same survey; its agent's token."""
        _, token = self.house.enrolled(name)
        self.house.send(seat_survey(name), token)
        return token

    def delivered(self, **more: Any) -> Delivery:
        """A signed delivery of project `one` of Old Show, which has ended."""
        user, now = self.house.people[Role.SUPERVISOR], timezone.now()
        EndedProduction.objects.get_or_create(
            name="Old Show", key="oldshow", defaults={"ended_at": now, "ended_by": user}
        )
        own = {"production": "Old Show", "project": "one", "project_app": "corrow", "file": "one.mkv", "size": 1}
        made: Delivery = Delivery.objects.create(
            **{**own, "digest": DIGEST, "finished_at": now, "proposed_by": "x", **more}, signed_by=user, signed_at=now
        )
        return made
