"""Deliveries and the ends of productions through the API."""

import json
from typing import Any
from unittest.mock import patch

from django.test import TestCase

from normant.accounts.permissions import Role
from normant.deliveries.models import Delivery, ProjectOnSeat
from normant.deliveries.released import delivered_projects, ended_productions
from normant.deliveries.services import propose_delivery
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant.proposals.models import Proposal
from normant.seats.models import Seat
from normant.stores.services.keep_figures import keep_figures
from normant.tests.house import House, survey
from normant.tests.options import with_options
from normant_core.care.deliveries import DeliveredProject
from normant_core.orders.kinds import InspectExport

EXPORT = {
    "project": "salt-one",
    "production": "Old Show",
    "app": "corrow",
    "file": "one/final.mkv",
    "seat": "pan-03",
    "digest": "cd" * 32,
    "size": 700,
    "finished_at": "2026-02-01T10:00:00Z",
}
SALT_ONE = DeliveredProject("Old Show", "salt-one", "corrow", name_is_unique=True)


class Case(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()

    def post(self, path: str, body: Any = None, role: Role = Role.SUPERVISOR) -> Any:
        return self.house.client(role).post(f"/api/v1/{path}", json.dumps(body or {}), "application/json")

    def proposed(self, **more: Any) -> Any:
        return self.post("deliveries", {**EXPORT, **more}).json()

    def release(self, number: int) -> Any:
        return self.house.client().get(f"/api/v1/deliveries/{number}/release").json()

    def sign(self, number: int, seen: str = "", role: Role = Role.SUPERVISOR) -> Any:
        body = json.dumps({"seen": seen or self.release(number)["seen"]})
        return self.house.browser(role).post(f"/api/v1/deliveries/{number}/sign", body, "application/json")

    def close(self, name: str) -> Any:
        body = json.dumps({"name": name})
        return self.house.browser().post("/api/v1/productions/close", body, "application/json")

    def has(self, *shares: tuple[str, str, int], seat: str = "pan-03", kind: str = "renders") -> None:
        """Say what a seat's newest survey told of its renders."""
        ProjectOnSeat.objects.bulk_create(
            ProjectOnSeat(
                seat=Seat.objects.get(name=seat), app="corrow", kind=kind, production=name, project=project, size=size
            )
            for name, project, size in shares
        )


class Deliveries(Case):
    def test_a_project_is_delivered_when_somebody_signs_and_no_longer_when_it_is_withdrawn(self) -> None:
        row = self.proposed()
        self.assertEqual((row["state"], delivered_projects()), ("proposed", ()))
        self.assertEqual(self.proposed()["id"], row["id"])
        signed = self.sign(row["id"])
        self.assertEqual((signed.json()["state"], delivered_projects()), ("delivered", (SALT_ONE,)))
        self.assertEqual(self.sign(row["id"]).json()["title"], "Decided before")
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
        seen = self.release(row["id"])["seen"]
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
        self.assertEqual(self.sign(row["id"], seen).json()["title"], "Changed meanwhile")
        self.assertEqual(self.release(row["id"])["warnings"], ["The inspection found 1 flaw."])

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
        self.assertEqual(item["title"], "1 finished export waits for a delivery signature")
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
        self.assertEqual(self.close("the salt-ledger").json()["title"], "Seats are booked on it")
        rows = self.close("Old Show").json()["items"]
        self.assertEqual(
            [(row["name"], row["ended_at"] is None) for row in rows], [("The Salt Ledger", True), ("Old Show", False)]
        )
        self.assertEqual(self.close("old_show").json()["title"], "Ended before")
        self.assertEqual(self.close("--").json()["title"], "No production")
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
            (f"deliveries/{row['id']}/sign", {"seen": "x"}),
            (f"deliveries/{row['id']}/assign", {"production": "x", "app": "corrow"}),
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
            {"production": ""},
            {"app": ""},
            {"finished_at": "soon"},
            {"file": "x" * 401},
        ):
            self.assertEqual(self.post("deliveries", {**EXPORT, **more}).status_code, 422, more)
        self.assertEqual(self.post("deliveries", {**EXPORT, "seat": "pan-99"}).status_code, 404)
        self.assertEqual(self.post("deliveries", {**EXPORT, "project": "a\0b"}).status_code, 422)
        self.assertEqual(Delivery.objects.count(), 1)

    def test_they_are_listed_by_their_state(self) -> None:
        self.sign(self.proposed()["id"])
        self.proposed(project="salt-two")
        for state, projects in (("proposed", ["salt-two"]), ("delivered", ["salt-one"]), ("withdrawn", [])):
            items = self.house.client().get(f"/api/v1/deliveries?state={state}").json()["items"]
            self.assertEqual([item["project"] for item in items], projects)


class Releases(Case):
    """What a signature under a delivery releases."""

    def test_names_the_bytes_stores_and_seats_of_that_production_and_application(self) -> None:
        self.house.enrolled("pan-04")
        self.has(("old_show", "salt-one", 3000), ("", "salt-one", 500), ("old_show", "salt-two", 9))
        self.has(("Old Show", "salt-one", 70), kind="backups")
        self.has(("OLD SHOW", "salt-one", 1000), seat="pan-04")
        release = self.release(self.proposed()["id"])
        stores = [(store["seat"], store["kind"], store["size"]) for store in release["stores"]]
        self.assertEqual(stores, [("pan-03", "renders", 3500), ("pan-04", "renders", 1000), ("pan-03", "backups", 70)])
        self.assertEqual((release["size"], release["seats"], release["may_sign"]), (4570, 2, True))
        self.assertIn("of renders and backups on 2 seats", release["sentence"])
        self.assertEqual(release["warnings"], ["This file has not been inspected."])

    def test_leaves_out_files_without_a_production_where_two_have_a_project_of_that_name(self) -> None:
        self.has(("old_show", "salt-one", 3000), ("", "salt-one", 500), ("Harbour", "salt-one", 800))
        row = self.proposed()
        release = self.release(row["id"])
        self.assertEqual(release["size"], 3000)
        self.assertIn("Another production has a project salt-one as well", release["warnings"][-1])
        self.sign(row["id"])
        self.assertEqual([d.name_is_unique for d in delivered_projects()], [False])

    def test_is_signed_as_it_was_read(self) -> None:
        row = self.proposed()
        seen = self.release(row["id"])["seen"]
        self.has(("old_show", "salt-one", 3000))
        self.assertEqual(self.sign(row["id"], seen).json()["title"], "Changed meanwhile")
        self.assertEqual(delivered_projects(), ())
        ProjectOnSeat.objects.update(size=4000)  # it grew overnight: what goes is signed once more, as lists
        self.assertEqual(self.sign(row["id"]).status_code, 200)

    def test_comes_from_the_newest_survey_of_each_seat(self) -> None:
        share = {"production": "old_show", "project": "salt-one", "size": 3000}
        store = {"purpose": "renders", "path": "/fast/corrow/renders", "app": "corrow", "size": 3000, "items": 2}
        cache = {"purpose": "source_cache", "path": "/x/corrow/c", "app": "corrow", "size": 3000, "projects": [share]}
        self.house.send({**survey(), "stores": [{**store, "projects": [share, share]}, cache]})
        keep_figures()
        row = self.proposed()
        self.assertEqual(self.release(row["id"])["size"], 6000)
        Seat.objects.update(retired_at="2026-02-01T10:00:00Z")
        self.assertEqual(self.release(row["id"])["size"], 0)

    def test_is_nothing_until_a_production_and_an_application_are_assigned(self) -> None:
        old = Delivery.objects.create(
            project="salt-one", file="x", digest="ab" * 32, size=1, finished_at="2026-02-01T10:00:00Z",
            proposed_by="x", signed_by=self.house.people[Role.SUPERVISOR], signed_at="2026-02-01T10:00:00Z",
        )  # fmt: skip
        self.assertEqual(delivered_projects(), ())
        release = self.release(old.pk)
        self.assertEqual((release["may_sign"], len(release["warnings"])), (False, 3))
        assign = f"deliveries/{old.pk}/assign"
        self.assertEqual(self.post(assign, {"production": "--", "app": "corrow"}).status_code, 422)
        assigned = self.post(assign, {"production": "Old Show", "app": "corrow"}).json()
        self.assertEqual((assigned["state"], delivered_projects()), ("proposed", ()))
        self.assertEqual(self.sign(old.pk).status_code, 200)
        self.assertEqual(delivered_projects(), (SALT_ONE,))
        self.assertEqual(self.post(assign, {"production": "Harbour", "app": "corrow"}).status_code, 409)

    def test_the_same_file_is_assigned_to_a_project_once(self) -> None:
        self.proposed()
        other = self.proposed(production="Harbour")
        answer = self.post(f"deliveries/{other['id']}/assign", {"production": "Old Show", "app": "corrow"})
        self.assertEqual(answer.json()["title"], "There already")


class Signatures(Case):
    """Who signs."""

    def test_a_token_never_signs(self) -> None:
        row = self.proposed()
        for path, body in (
            (f"deliveries/{row['id']}/sign", {"seen": self.release(row["id"])["seen"]}),
            ("productions/close", {"name": "Old Show"}),
            ("proposals/1/approve", {"seen": "x"}),
            ("clearings/1/sign", {"seen": "x"}),
        ):
            answer = self.post(path, body)
            self.assertEqual((answer.status_code, answer.json()["title"]), (403, "In person"), path)

    def test_a_second_person_signs_where_the_house_asks_for_one(self) -> None:
        self.has(("old_show", "salt-one", 3_000_000_000))
        row = self.proposed()
        with with_options(second_person=True):
            answers = [self.sign(row["id"]), self.close("Old Show"), self.sign(row["id"])]
            self.assertEqual([answer.status_code for answer in answers], [202, 202, 202])
            self.assertEqual((delivered_projects(), ended_productions()), ((), ()))
            first, second = Proposal.objects.order_by("pk")
            self.assertIn("releases 3 GB of renders on pan-03", first.lines)
            for proposal in (first, second):
                path, body = f"/api/v1/proposals/{proposal.pk}/approve", json.dumps({"seen": proposal.seen})
                own = self.house.browser().post(path, body, "application/json")
                self.assertEqual(own.json()["title"], "A second person")
                other = self.house.browser(Role.ADMINISTRATOR).post(path, body, "application/json")
                self.assertEqual(other.status_code, 200, other.content)
        self.assertEqual(delivered_projects(), (SALT_ONE,))
        self.assertEqual([row.production for row in ended_productions()], ["Old Show"])

    def test_no_one_approves_what_changed_since_it_was_proposed(self) -> None:
        row = self.proposed()
        with with_options(second_person=True):
            self.sign(row["id"])
            self.has(("old_show", "salt-one", 1))
            proposal = Proposal.objects.get()
            body = json.dumps({"seen": proposal.seen})
            answer = self.house.browser(Role.ADMINISTRATOR).post(
                f"/api/v1/proposals/{proposal.pk}/approve", body, "application/json"
            )
        self.assertEqual((answer.json()["title"], delivered_projects()), ("Changed meanwhile", ()))
