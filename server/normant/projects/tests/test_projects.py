"""Projects through the API and the agents' door."""

import datetime as dt
import json
from functools import partial
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
from normant.projects.jobs import sweep
from normant.projects.models import BroughtFile, NightlyLook, Project
from normant.projects.services import bring_project, look_at_projects
from normant.projects.services.bring_project import read_brought
from normant.seats.models import Seat
from normant.tests.house import EXAMPLES, survey
from normant_core.orders.projects import SeenProject
from normant_timelines.project_aside import read_project_aside

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
WAITING = "pan-03 is scanning its projects; waiting for the seat."
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
        self.assertIn("restore the file", project["list"][0]["do"])
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

    def scan(self) -> str:
        return f"projects/scans/{Order.objects.filter(kind='check_projects').latest('created_at').pk}"

    def test_a_scan_says_how_far_it_is_and_how_many_projects_it_found(self) -> None:
        self.post("projects/look", LOOK)
        waiting = {"finished": False, "failed": False, "sentence": WAITING}
        self.assertEqual(self.get(self.scan()).json(), waiting)
        first = self.scan()
        self.hand_in(self.order("check_projects"), projects=[SEEN])
        finished = {"finished": True, "failed": False, "sentence": "pan-03: 1 project scanned."}
        self.assertEqual(self.get(first).json(), finished)
        self.post("projects/look", LOOK)
        self.hand_in(self.order("check_projects"), projects=[])
        self.assertEqual(self.get(self.scan()).json()["sentence"], "pan-03: 0 projects scanned.")

    def test_a_scan_that_fails_or_is_replaced_says_why(self) -> None:
        self.post("projects/look", LOOK)
        first = self.scan()
        self.post("projects/look", LOOK)
        self.assertEqual(
            self.get(first).json()["sentence"],
            "pan-03 did not scan its projects: a newer scan replaced this one.",
        )
        self.hand_in(self.order("check_projects"), outcome="failed", message="the folder is gone")
        answer = self.get(self.scan()).json()
        failed = {"finished": True, "failed": True, "sentence": "pan-03 did not scan its projects: the folder is gone."}
        self.assertEqual(answer, failed)

    def test_an_order_of_another_kind_is_no_scan(self) -> None:
        self.begun()
        self.assertEqual(self.get(f"projects/scans/{self.order('plan_clearing').pk}").status_code, 404)
        self.assertEqual(self.get("projects/scans/no-number").status_code, 422)
        self.post("projects/look", LOOK)
        for role in Role:
            status = 403 if role is Role.EDITOR else 200
            self.assertEqual(self.get(self.scan(), role).status_code, status, role)
        self.assertEqual(self.client.get(f"/api/v1/{self.scan()}").status_code, 401)

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
        self.assertIn("/brine/a.mov: there is no such file; restore the file", errand.work["steps"][0])
        self.assertEqual(len(errand.work["steps"]), 1)
        number = self.looked(troubles=SEEN["troubles"][1:])  # type: ignore[index]
        self.assertEqual(self.post(f"projects/{number}/errand").status_code, 409)

    def read(self, number: int) -> Any:
        """A project once a worker has read it."""
        read_brought(number)
        return self.get(f"projects/{number}").json()

    def test_one_is_brought_and_a_worker_reads_it_without_looking_for_its_media(self) -> None:
        made = self.bring().json()
        self.assertEqual(
            (made["seat"], made["brought_by"], made["reading"], made["items"]), (None, "supervisor", True, 0)
        )
        made = self.read(made["id"])
        self.assertEqual((made["reading"], made["items"], made["missing"], made["duplicates"]), (False, 3, 0, 1))
        self.assertEqual(self.bring().json()["id"], made["id"])
        self.assertEqual(self.get("projects").json()["items"][0]["reading"], True)
        sweep()
        self.assertEqual((self.get("projects").json()["items"][0]["reading"], BroughtFile.objects.count()), (False, 0))
        for path, body in (("send", {"sent": True}), ("errand", {})):
            self.assertEqual(self.post(f"projects/{made['id']}/{path}", body).status_code, 409)
        self.assertEqual(self.house.client().delete(f"/api/v1/projects/{made['id']}").status_code, 204)

    def test_one_that_is_brought_anew_while_it_is_read_is_read_again(self) -> None:
        number = self.bring().json()["id"]
        seen = bring_project._seen

        def brought_meanwhile(file: BroughtFile) -> SeenProject:
            self.bring(body=BROUGHT.replace(b"b.mov", b"c.mov"))
            return seen(file)

        with patch.object(bring_project, "_seen", brought_meanwhile):
            read_brought(number)
        self.assertEqual(self.get(f"projects/{number}").json()["reading"], True)
        self.assertEqual(self.read(number)["reading"], False)
        read_brought(number)  # a job that comes twice

    def test_what_takes_too_long_or_too_much_says_so(self) -> None:
        number = self.bring().json()["id"]
        with patch.object(bring_project, "read_project_aside", partial(read_project_aside, seconds=0.01)):
            self.assertIn("could not be read within", self.read(number)["fault"])

    def test_no_more_wait_than_a_worker_reads(self) -> None:
        with patch.object(bring_project, "MOST_WAITING", 2):
            answers = [self.bring(f"{name}.corrow").status_code for name in "abca"]
        self.assertEqual(answers, [200, 200, 409, 200])

    def test_what_cannot_be_read_says_why(self) -> None:
        bomb = b'<!DOCTYPE p [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><project>&b;</project>'
        for name, body, words in (
            ("lamps.corrow", BROUGHT[:-10], "damaged XML"),
            ("lamps.corrow", bomb, "no project that can be read"),
            ("lamps.corrow", b"<a>" * 5000, "within one another"),
            ("lamps.corrow", b"<project/>", "no media item"),
            ("lamps.corrow", b"\x00\xff", "damaged XML"),
        ):
            with self.subTest(words, body=body[:20]):
                read = self.read(self.bring(name, body).json()["id"])
                self.assertIn(words, read["fault"])
        Project.objects.all().delete()
        answer = self.bring("lamps.txt", BROUGHT)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("it names *.corrow", answer.json()["detail"])
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
