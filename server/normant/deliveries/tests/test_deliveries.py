"""Deliveries and the ends of productions through the API."""

import json
from typing import Any
from unittest.mock import patch

from django.test import TestCase

from normant.accounts.permissions import Role
from normant.deliveries.models import Delivery
from normant.deliveries.released import delivered_projects, ended_productions
from normant.deliveries.services import propose_delivery
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant.seats.models import Seat
from normant.tests.house import House
from normant_core.orders.kinds import InspectExport

EXPORT = {
    "project": "salt-one",
    "production": "Old Show",
    "file": "one/final.mkv",
    "seat": "pan-03",
    "digest": "cd" * 32,
    "size": 700,
    "finished_at": "2026-02-01T10:00:00Z",
}


class Deliveries(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()

    def post(self, path: str, body: Any = None, role: Role = Role.SUPERVISOR) -> Any:
        return self.house.client(role).post(f"/api/v1/{path}", json.dumps(body or {}), "application/json")

    def proposed(self, **more: Any) -> Any:
        return self.post("deliveries", {**EXPORT, **more}).json()

    def test_a_project_is_delivered_when_somebody_signs_and_no_longer_when_it_is_withdrawn(self) -> None:
        row = self.proposed()
        self.assertEqual((row["state"], delivered_projects()), ("proposed", ()))
        self.assertEqual(self.proposed()["id"], row["id"])
        signed = self.post(f"deliveries/{row['id']}/sign", {"seen": row["seen"]})
        self.assertEqual((signed.json()["state"], delivered_projects()), ("delivered", ("salt-one",)))
        self.assertEqual(
            self.post(f"deliveries/{row['id']}/sign", {"seen": row["seen"]}).json()["title"], "Decided before"
        )
        self.assertEqual(
            self.post(f"deliveries/{row['id']}/withdraw", {"reason": "wrong"}).json()["state"], "withdrawn"
        )
        self.assertEqual(delivered_projects(), ())
        self.assertEqual(self.post(f"deliveries/{row['id']}/withdraw", {"reason": "x"}).status_code, 409)
        self.assertNotEqual(self.proposed()["id"], row["id"])
        acts = list(Entry.objects.order_by("id").values_list("action", flat=True))[-4:]
        self.assertEqual(acts, ["propose delivery", "sign delivery", "withdraw delivery", "propose delivery"])

    def test_an_inspection_of_the_same_file_lies_beside_it(self) -> None:
        row = self.proposed()
        order = issue_order(Seat.objects.get(name="pan-03"), InspectExport("corrow", EXPORT["file"]))
        attach = f"deliveries/{row['id']}/inspection"
        self.assertEqual(self.post(attach, {"order": str(order.pk)}).json()["title"], "Not of this file")
        inspected = {"file": EXPORT["file"], "size": 700, "flaws": [{"kind": "black", "message": "x"}]}
        Order.objects.filter(pk=order.pk).update(receipt={"outcome": "done", "inspected": inspected})
        [listed] = self.house.client().get("/api/v1/deliveries").json()["items"]
        self.assertEqual((listed["inspected"], listed["inspection"]), (str(order.pk), None))
        beside = self.post(attach, {"order": str(order.pk)}).json()
        self.assertEqual((beside["inspection"], beside["flaws"]), (str(order.pk), 1))
        # What is signed is the file with its inspection: who read it without has to look again.
        answer = self.post(f"deliveries/{row['id']}/sign", {"seen": row["seen"]})
        self.assertEqual(answer.json()["title"], "Changed meanwhile")

    def test_agents_propose_what_a_person_signs(self) -> None:
        finished = {name: EXPORT[name] for name in ("project", "production", "file", "digest", "size", "finished_at")}
        agent = self.house.agent()
        for _ in range(2):
            answer = agent.post("/api/v1/agent/exports", json.dumps({"app": "tamsel", **finished}), "application/json")
            self.assertEqual(answer.status_code, 204, answer.content)
        [row] = self.house.client().get("/api/v1/deliveries").json()["items"]
        self.assertEqual((row["proposed_by"], row["seat"], row["state"]), ("agent pan-03", "pan-03", "proposed"))
        self.assertEqual(delivered_projects(), ())
        [item] = [i for i in self.house.client().get("/api/v1/round").json()["items"] if i["kind"] == "delivery"]
        self.assertEqual(item["title"], "1 finished export waits to be signed as delivered")
        for more in (
            {"size": 0},
            {"digest": "x"},
            {"project": ""},
            {"file": "x" * 401},
            {"file": "a\0", "digest": "ef" * 32},
            {"more": 1},
        ):
            body = json.dumps({"app": "tamsel", **finished, **more})
            answer = agent.post("/api/v1/agent/exports", body, "application/json")
            self.assertEqual(answer.status_code, 422, (more, answer.content))

    def test_a_seat_that_makes_them_up_fills_no_list(self) -> None:
        with patch.object(propose_delivery, "MOST_OF_SEAT", 1):
            self.proposed()
            answer = self.post("deliveries", {**EXPORT, "project": "another"})
        self.assertEqual((answer.status_code, answer.json()["title"]), (409, "Too many deliveries wait"))

    def test_a_production_ends_only_where_no_seat_is_booked_on_it(self) -> None:
        self.assertEqual(
            self.post("productions/close", {"name": "the salt-ledger"}).json()["title"], "Seats are booked on it"
        )
        rows = self.post("productions/close", {"name": "Old Show"}).json()["items"]
        self.assertEqual(
            [(row["name"], row["ended_at"] is None) for row in rows], [("The Salt Ledger", True), ("Old Show", False)]
        )
        self.assertEqual(self.post("productions/close", {"name": "old_show"}).json()["title"], "Ended before")
        self.assertEqual(self.post("productions/close", {"name": "--"}).json()["title"], "No production")
        self.assertEqual([row.production for row in ended_productions()], ["Old Show"])
        Seat.objects.filter(name="pan-03").update(production="OLD SHOW")
        self.assertEqual(ended_productions(), ())
        path = f"/api/v1/productions/{rows[1]['id']}"
        self.assertEqual(self.house.client().delete(path).status_code, 204)
        self.assertEqual(self.house.client().delete(path).status_code, 404)

    def test_who_may_and_what_is_refused(self) -> None:
        row = self.proposed()
        acts = [("deliveries", EXPORT), ("productions/close", {"name": "x"})]
        acts += [
            (f"deliveries/{row['id']}/sign", {"seen": row["seen"]}),
            (f"deliveries/{row['id']}/withdraw", {"reason": "x"}),
        ]
        for role in (Role.VIEWER, Role.EDITOR, Role.ASSISTANT):
            for path, body in acts:
                self.assertEqual(self.post(path, body, role).status_code, 403, (role, path))
        for more in (
            {"digest": "x"},
            {"size": 0},
            {"size": 1 << 63},
            {"project": ""},
            {"finished_at": "soon"},
            {"file": "x" * 401},
        ):
            self.assertEqual(self.post("deliveries", {**EXPORT, **more}).status_code, 422, more)
        self.assertEqual(self.post("deliveries", {**EXPORT, "seat": "pan-99"}).status_code, 404)
        self.assertEqual(self.post("deliveries", {**EXPORT, "project": "a\0b"}).status_code, 422)
        self.assertEqual(Delivery.objects.count(), 1)

    def test_they_are_listed_by_their_state(self) -> None:
        row = self.proposed()
        self.post(f"deliveries/{row['id']}/sign", {"seen": row["seen"]})
        self.proposed(project="salt-two")
        for state, projects in (("proposed", ["salt-two"]), ("delivered", ["salt-one"]), ("withdrawn", [])):
            items = self.house.client().get(f"/api/v1/deliveries?state={state}").json()["items"]
            self.assertEqual([item["project"] for item in items], projects)
