"""Looking into an export of a seat: through the API and the agents' door."""

import json
from typing import Any

from django.test import TestCase

from normant.accounts.permissions import Role
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.tests.house import House, survey
from normant_core.orders.exports import LIMIT_FLAWS
from normant_core.orders.kinds import InspectExport, parse_order

DELIVERABLE = {
    "container": "mov", "codec": "prores", "width": 96, "height": 64, "rate": "25/1", "bits": 10, "chroma": "422",
}  # fmt: skip
FLAW = {"kind": "frozen", "message": "8 frames are frozen", "at": "00:00:00:06", "frames": 8}
INSPECTED = {"file": "reel.mov", "size": 9000, "deliverable": DELIVERABLE, "decoded": 19, "flaws": [FLAW]}
DOOR = "/api/v1/seats/pan-03/exports"


class Exports(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        exports = {"setting": "store.exports.path", "app": "corrow", "value": "/fast/corrow/exports"}
        seen = survey()
        cls.house.send({**seen, "readings": [*seen["readings"], exports]})

    def ask(self, role: Role = Role.SUPERVISOR, **more: Any) -> Any:
        body = json.dumps({"app": "corrow", **more})
        return self.house.client(role).post(f"{DOOR}/inspect", body, "application/json")

    def asked(self, **more: Any) -> str:
        order: str = self.ask(**more).json()["order"]
        return order

    def shown(self) -> list[dict[str, Any]]:
        items: list[dict[str, Any]] = self.house.client().get(DOOR).json()["inspections"]
        return items

    def tell(self, number: str, what: str, **fields: Any) -> Any:
        return self.house.agent().post(f"/api/v1/agent/orders/{number}/{what}", json.dumps(fields), "application/json")

    def hand_in(self, order: str, **fields: Any) -> Any:
        return self.tell(order, "receipt", order=order, outcome="done", at="2026-03-03T08:00:00Z", **fields)

    def test_what_a_seat_found_is_shown_and_the_first_answer_counts(self) -> None:
        order = self.asked(file=" reel.mov ")
        self.tell(order, "progress", step="waiting", message="somebody is at work")
        [waits] = self.shown()
        self.assertEqual((waits["told"], waits["file"], waits["message"]), (False, "reel.mov", "somebody is at work"))
        self.hand_in(order, inspected=INSPECTED)
        self.hand_in(order, inspected={**INSPECTED, "decoded": 3})
        [inspection] = self.shown()
        self.assertEqual((inspection["inspected"]["decoded"], inspection["inspected"]["flaws"]), (19, [FLAW]))
        self.assertTrue(Entry.objects.filter(action="inspect export", subject="pan-03").exists())

    def test_what_it_has_to_be_travels_signed_with_the_order(self) -> None:
        order = self.asked(specification='format = "normant-deliverable/1"\nwidth = 1920\nchannels = 2\n')
        action = parse_order(bytes(Order.objects.get(pk=order).body)).action
        assert isinstance(action, InspectExport)
        assert action.specification
        self.assertEqual((action.specification.width, action.specification.channels), (1920, (2,)))
        for text in ("width = 1", "format = 'normant-deliverable/1'\nwidht = 1", "\x00", "[" * 9000, "rate = 1e9"):
            with self.subTest(text[:20]):
                answer = self.ask(specification=text)
                self.assertEqual((answer.status_code, answer.json()["title"]), (422, "No specification"))

    def test_asked_again_the_one_that_waits_is_asked_no_more(self) -> None:
        first, second = self.asked(), self.asked()
        self.assertEqual([row["order"] for row in self.shown()], [second])
        self.assertIsNotNone(Order.objects.get(pk=first).withdrawn_at)
        self.hand_in(first, inspected=INSPECTED)
        self.assertFalse(self.shown()[0]["told"])

    def test_an_order_of_another_kind_brings_none(self) -> None:
        body = json.dumps({"app": "corrow", "setting": "store.source_cache.path"})
        listing = self.house.client().post("/api/v1/seats/pan-03/stores/look", body, "application/json").json()["order"]
        self.hand_in(listing, inspected=INSPECTED)
        self.assertIsNone((Order.objects.get(pk=listing).receipt or {}).get("inspected"))

    def test_what_no_agent_would_tell_is_refused(self) -> None:
        order = self.asked()
        for spoiled in (
            {**INSPECTED, "flaws": [FLAW] * (LIMIT_FLAWS + 1)},
            {**INSPECTED, "file": "x" * 500},
            {**INSPECTED, "deliverable": {**DELIVERABLE, "width": 1e30}},
            {**INSPECTED, "decoded": -1},
            {"file": "a"},
        ):
            self.assertEqual(self.hand_in(order, inspected=spoiled).status_code, 422)
        self.assertFalse(self.shown()[0]["told"])

    def test_who_may(self) -> None:
        self.assertEqual(self.ask(Role.VIEWER).status_code, 403)
        self.assertEqual(self.house.client(Role.VIEWER).get(DOOR).status_code, 200)
        self.assertEqual(self.ask(app="plinthe").json()["title"], "No exports")
        for wrong in ({"app": ""}, {"app": "x" * 65}, {"file": "x" * 401}, {"specification": "x" * 10_001}):
            self.assertEqual(self.ask(**wrong).status_code, 422)
