import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from normant.accounts.permissions import Role
from normant.dialects.services.keep_dialect import keep_dialect
from normant.findings.services.publish import publish
from normant.ledger.models import Entry
from normant.tests.house import EXAMPLES, STANDARD, House, survey

from ..models import Template

PROJECT = """
[[file]]
name = "template"
path = "corrow/8/templates/house.json"
format = "json"

[[file.binding]]
setting = "project.engine"
at = "/engine"
values = { software = "cpu", hadrel = "hadrel" }
"""
RULE = """
[[layer]]
name = "Projects"

[[layer.rule]]
setting = "project.engine"
never = ["cpu"]
because = "The engine of a project travels with it."
"""


class Templates(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        keep_dialect((EXAMPLES / "corrow.dialect.toml").read_text("utf-8") + PROJECT, "test")
        publish(STANDARD + RULE, base=1, note="", user=None)
        own = {"setting": "project.engine", "app": "corrow", "value": "hadrel"}
        own |= {"native": {"file": "corrow/8/templates/house.json", "at": "/engine", "raw": "hadrel"}}
        body = survey()
        cls.house.send({**body, "readings": [*body["readings"], own]})

    def keep(self, body: bytes, role: Role = Role.SUPERVISOR, file: str = "house.json", **more: Any) -> Any:
        about = {"name": "House", "app": "corrow", **more}
        return self.house.client(role).post("/api/v1/templates", {**about, "file": SimpleUploadedFile(file, body)})

    def held(self) -> Any:
        return self.house.client().get("/api/v1/templates").json()["items"]

    def test_a_template_is_read_and_judged_as_a_seats_setting_is(self) -> None:
        template = self.keep(b'{"engine": "software"}').json()
        line = template["lines"][0]
        self.assertEqual((line["title"], line["reading"], line["native"]["raw"]), ("Project engine", "cpu", "software"))
        stand = line["stands"][0]
        self.assertEqual((stand["verdict"]["status"], stand["seats"]), ("off-norm", ["pan-03"]))
        self.assertIn("travels with it", stand["verdict"]["because"])
        self.assertEqual(
            template["apart"], [{"title": "Project engine", "shown": "hadrel", "seats": ["pan-03"], "findings": []}]
        )
        self.assertEqual(self.held(), [template])

    def test_another_of_that_name_takes_its_place_and_the_older_one_is_kept(self) -> None:
        first = self.keep(b'{"engine": "software"}').json()["id"]
        second = self.keep(b'{"engine": "hadrel"}').json()
        self.assertEqual([template["id"] for template in self.held()], [second["id"]])
        self.assertEqual(second["lines"][0]["stands"][0]["verdict"]["status"], "in-norm")
        client = self.house.client()
        self.assertEqual(client.get(f"/api/v1/templates/{first}/file").content, b'{"engine": "software"}')
        client.delete(f"/api/v1/templates/{second['id']}")
        self.assertEqual((self.held(), Template.objects.count()), ([], 2))
        self.assertEqual(Entry.objects.first().action, "drop template")  # type: ignore[union-attr]

    def test_it_is_judged_where_its_productions_are(self) -> None:
        for production, seats in (("The Salt Ledger", 1), ("Nine Lamps", 0)):
            template = self.keep(b'{"engine": "hadrel"}', productions=[production]).json()
            self.assertEqual((template["seats"], len(template["lines"][0]["stands"])), (seats, seats))

    def test_a_dialect_that_reads_it_no_more_is_told_beside_it(self) -> None:
        self.keep(b'{"engine": "hadrel"}')
        keep_dialect((EXAMPLES / "corrow.dialect.toml").read_text("utf-8"), "test")
        self.assertIn("of no file that it is a template", self.held()[0]["fault"])

    def test_what_cannot_be_kept_is_refused_and_nothing_changes(self) -> None:
        self.keep(b'{"engine": "hadrel"}')
        before = self.held()
        for title, body, more in (
            ("Not read", b'{"engine": ', {}),
            ("Not read", b'{"engine": "quick"}', {}),
            ("Not read", b"{}", {"app": "nothing"}),
            ("No name", b'{"engine": "hadrel"}', {"name": "  "}),
            ("Too large", b" " * (2 * 1024 * 1024 + 1), {}),
            ("No file name", b'{"engine": "hadrel"}', {"file": "*.json"}),
        ):
            with self.subTest(title, body=body[:20]):
                answer = self.keep(body, **more)
                self.assertEqual((answer.json()["title"], answer.status_code in (413, 422)), (title, True))
        self.assertEqual(self.held(), before)
        self.assertEqual(self.keep(b'{"engine": "hadrel"}', Role.ASSISTANT).status_code, 403)
        self.assertEqual(json.loads(self.house.client().get("/api/v1/templates/0/file").content)["status"], 404)
