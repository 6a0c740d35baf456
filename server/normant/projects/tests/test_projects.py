"""Projects through the API and the agents' door."""

import datetime as dt
import json
from typing import Any
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.clearings.tests.stage import Case
from normant.dialects.services.keep_dialect import keep_dialect
from normant.errands.models import Errand
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.projects.models import NightlyLook, Project
from normant.projects.services import bring_project, look_at_projects
from normant.seats.models import Seat
from normant.tests.house import EXAMPLES, survey

TOLD = """
[[project]]
files = "*.corrow"
format = "xml"
item = "/project/media/item"
id = "@id"
path = "@at"
uses = ["/project/cut/clip/@media"]
"""
SEEN = {
    "file": "nine_lamps/lamps.corrow",
    "version": "8.3",
    "items": 20,
    "used": 9,
    "missing": 1,
    "duplicates": 2,
    "size": 9000,
    "unused": 4000,
    "troubles": [
        {"trouble": "missing", "items": 1, "paths": ["/brine/a.mov"], "size": 0, "why": "there is no such file"},
        {"trouble": "unused", "items": 1, "paths": ["/brine/b.mov"], "size": 4000, "why": "no timeline uses it"},
    ],
    "more": 5,
}
LOOK = {"seat": "pan-03", "app": "corrow"}
BROUGHT = (
    b'<project><media><item id="1" at="a.mov"/><item id="2" at="a.mov"/><item id="3" at="b.mov"/></media></project>'
)


class Projects(Case):
    def setUp(self) -> None:
        keep_dialect((EXAMPLES / "corrow.dialect.toml").read_text("utf-8") + TOLD, "test")
        body = survey()
        like = next(reading for reading in body["readings"] if reading.get("app") == "corrow")
        folder = {**like, "setting": "store.projects.path", "value": "/brine/projects"}
        answer = self.house.send({**body, "readings": [*body["readings"], folder]})
        self.assertLess(answer.status_code, 300, answer.content)

    def looked(self, **fields: Any) -> int:
        self.assertEqual(self.post("projects/look", LOOK).status_code, 200)
        self.hand_in(self.order("check_projects"), projects=[{**SEEN, **fields}])
        return Project.objects.latest("pk").pk

    def bring(self, name: str = "lamps.corrow", body: bytes = BROUGHT, role: Role = Role.SUPERVISOR) -> Any:
        form = {"app": "corrow", "project": SimpleUploadedFile(name, body)}
        return self.house.client(role).post("/api/v1/projects", form)

    def test_a_seat_reads_them_and_what_it_saw_last_stands(self) -> None:
        number = self.looked()
        self.assertEqual(self.action("check_projects").storage, "")
        project = self.get(f"projects/{number}").json()
        self.assertEqual((project["seat"], project["missing"], project["troubles"]), ("pan-03", 1, 7))
        self.assertEqual(project["production"], "The Salt Ledger")
        self.assertIn("bring the file back", project["list"][0]["do"])
        self.assertEqual(self.looked(missing=0), number)
        [row] = self.get("projects").json()["items"]
        self.assertEqual(row["missing"], 0)
        self.assertEqual(Order.objects.filter(kind="check_projects").latest("created_at").receipt.get("projects"), None)

    def test_what_nobody_asked_for_is_not_kept(self) -> None:
        self.begun()
        self.hand_in(self.order("plan_clearing"), projects=[SEEN])
        self.assertFalse(Project.objects.exists())

    def test_a_seat_without_projects_is_not_asked(self) -> None:
        self.second("pan-04")
        for given, words in (({"seat": "pan-04"}, "no application corrow of pan-04"), ({"app": "glaize"}, "glaize")):
            answer = self.post("projects/look", {**LOOK, **given})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["detail"])
        self.assertEqual(self.post("projects/look", {**LOOK, "seat": "none"}).status_code, 404)

    def test_it_is_sent_to_its_seat_and_taken_back(self) -> None:
        number = self.looked()
        own = "seats/pan-03/projects"
        self.assertEqual(self.get(own, Role.EDITOR).json()["items"], [])
        self.assertEqual(self.post(f"projects/{number}/send", {"sent": True}).status_code, 204)
        [shown] = self.get(own, Role.EDITOR).json()["items"]
        self.assertEqual((shown["file"], len(shown["list"])), ("nine_lamps/lamps.corrow", 2))
        self.post(f"projects/{number}/send", {"sent": False})
        self.assertEqual(self.get(own, Role.EDITOR).json()["items"], [])

    def test_hands_are_asked_for_where_something_is_to_be_carried(self) -> None:
        number = self.looked()
        errand = Errand.objects.get(pk=self.post(f"projects/{number}/errand").json()["id"])
        self.assertIn("/brine/a.mov: there is no such file; bring the file back", errand.work["steps"][0])
        self.assertEqual(len(errand.work["steps"]), 1)
        number = self.looked(troubles=SEEN["troubles"][1:])  # type: ignore[index]
        self.assertEqual(self.post(f"projects/{number}/errand").status_code, 409)

    def test_one_is_brought_and_its_media_are_not_looked_for(self) -> None:
        made = self.bring().json()
        self.assertEqual((made["seat"], made["brought_by"], made["items"]), (None, "supervisor", 3))
        self.assertEqual((made["missing"], made["duplicates"]), (0, 1))
        self.assertEqual(self.bring().json()["id"], made["id"])
        for path, body in (("send", {"sent": True}), ("errand", {})):
            self.assertEqual(self.post(f"projects/{made['id']}/{path}", body).status_code, 409)
        self.assertEqual(self.house.client().delete(f"/api/v1/projects/{made['id']}").status_code, 204)

    def test_what_cannot_be_read_says_why_and_leaves_nothing(self) -> None:
        bomb = b'<!DOCTYPE p [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><project>&b;</project>'
        for name, body, words in (
            ("lamps.corrow", BROUGHT[:-10], "damaged XML"),
            ("lamps.corrow", bomb, "no project that can be read"),
            ("lamps.corrow", b"<a>" * 5000, "within one another"),
            ("lamps.corrow", b"<project/>", "no media item"),
            ("lamps.corrow", b"\x00\xff", "damaged XML"),
            ("lamps.txt", BROUGHT, "it names *.corrow"),
        ):
            with self.subTest(words, body=body[:20]):
                answer = self.bring(name, body)
                self.assertEqual(answer.status_code, 422, answer.content)
                self.assertIn(words, answer.json()["detail"])
        with patch.object(bring_project, "LARGEST", 10):
            self.assertEqual(self.bring().status_code, 413)
        with patch.object(bring_project, "MOST", 0):
            self.assertEqual(self.bring().status_code, 409)
        self.assertFalse(Project.objects.exists())

    def test_all_of_a_production_are_looked_at_once_a_night(self) -> None:
        wanted = {"production": "The Salt Ledger", "storage": "/brine/media"}
        made = self.post("projects/nightly", wanted).json()
        self.assertEqual(self.post("projects/nightly", wanted).status_code, 409)
        self.assertEqual(self.post("projects/nightly", {"production": "None"}).status_code, 422)
        noon = timezone.localtime().replace(hour=12)
        for moment, orders in ((noon, 0), (noon.replace(hour=2), 1), (noon.replace(hour=3), 1)):
            with patch.object(timezone, "localtime", return_value=moment):
                look_at_projects.look_each_night()
            self.assertEqual(Order.objects.filter(kind="check_projects").count(), orders, moment)
        self.assertEqual(self.action("check_projects").storage, "/brine/media")
        [shown] = self.get("projects/nightly").json()["items"]
        self.assertEqual(shown["asked_on"], noon.date().isoformat())
        self.assertEqual(self.house.client().delete(f"/api/v1/projects/nightly/{made['id']}").status_code, 204)
        with patch.object(timezone, "localtime", return_value=noon.replace(hour=2) + dt.timedelta(days=1)):
            look_at_projects.look_each_night()
        self.assertEqual(Order.objects.filter(kind="check_projects").count(), 1)
        acts = set(Entry.objects.values_list("action", flat=True))
        self.assertLessEqual({"look each night", "look at projects", "end nightly look"}, acts)

    def test_who_may(self) -> None:
        number = self.looked()
        NightlyLook.objects.create(production="x", made_by=self.house.people[Role.SUPERVISOR])
        posts: list[tuple[str, Any]] = [
            ("projects/look", LOOK),
            ("projects/nightly", {"production": "x"}),
            (f"projects/{number}/send", {"sent": True}),
            (f"projects/{number}/errand", {}),
        ]
        for role in Role:
            may = role in (Role.SUPERVISOR, Role.ADMINISTRATOR)
            for path, body in posts:
                with self.subTest(role=role, path=path):
                    self.assertEqual(self.post(path, body, role).status_code == 403, not may)
            self.assertEqual(self.bring(role=role).status_code == 403, not may)
            sees = self.get("projects", role).status_code
            self.assertEqual(sees, 403 if role is Role.EDITOR else 200)
        self.second("pan-04")
        self.assertEqual(self.get("seats/pan-04/projects", Role.EDITOR).status_code, 404)
        for path, body in posts:
            answer = self.client.post(f"/api/v1/{path}", json.dumps(body), "application/json")
            self.assertEqual(answer.status_code, 401)

    def test_what_a_hostile_seat_tells_is_refused_or_kept_as_it_is(self) -> None:
        for fields in (
            {"file": "a\u0000.corrow"},
            {"troubles": [{**SEEN["troubles"][0], "paths": ["\u0000"]}]},  # type: ignore[index]
            {"items": 1 << 63},
            {"size": -1},
            {"troubles": [SEEN["troubles"][0]] * 500},  # type: ignore[index]
            {"why": "x"},
        ):
            with self.subTest(str(fields)[:40]):
                self.post("projects/look", LOOK)
                order = self.order("check_projects")
                body = {"order": str(order.pk), "outcome": "done", "projects": [{**SEEN, **fields}]}
                path = f"/api/v1/agent/orders/{order.pk}/receipt"
                answer = self.house.agent().post(path, json.dumps(body), "application/json")
                self.assertLess(answer.status_code, 500, answer.content)
        self.assertFalse(Project.objects.exists())
        for name in ("a\u0000.corrow", "x" * 500 + ".corrow", "../../etc/a.corrow"):
            with self.subTest(name[:20]):
                self.assertLess(self.bring(name).status_code, 500)

    def test_of_very_many_those_seen_last_are_kept(self) -> None:
        seat = Seat.objects.get(name="pan-03")
        with patch.object(look_at_projects, "MOST_OF_A_SEAT", 2):
            for number in range(4):
                self.looked(file=f"{number}.corrow")
        self.assertEqual(
            set(Project.objects.filter(seat=seat).values_list("file", flat=True)), {"2.corrow", "3.corrow"}
        )
