import csv
import io
from typing import Any

from django.test import TestCase
from openpyxl import load_workbook

from normant.orders.services.issue import issue_send_files, issue_survey_now
from normant.tests.house import House, survey
from normant_core.base.quantities import LARGEST_TOLD

EVIL = '=HYPERLINK("http://x")\u202e<script>alert(1)</script>\ud83d\ude00'.encode("utf-16", "surrogatepass").decode(
    "utf-16"
)


class Hostile(TestCase):
    """A survey that is right in shape and means harm: nothing that shows it breaks, and nothing runs."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-10))
        cls.answer = cls.house.send(cls._evil())

    @staticmethod
    def _evil() -> dict[str, Any]:
        evil = survey(minutes=-5, store__source_cache__path=EVIL + "x" * 4000, memory__held_back=2**62)
        readings = [
            {**r, "native": {"file": EVIL, "at": "/" + "a/" * 200, "raw": EVIL * 20, "line": 2**31}}
            for r in evil["readings"]
        ]
        facts = {**evil["facts"], "system": {"platform": EVIL, "version": "\u0660.x-\u0661"}}
        volumes = [{**v, "mount": "/" + EVIL, "capacity": LARGEST_TOLD, "free": 0} for v in facts["volumes"]]
        return {**evil, "readings": readings, "facts": {**facts, "volumes": volumes}}

    def test_it_is_taken_in(self) -> None:
        self.assertEqual((self.answer.status_code, self.answer.json()["changed"]), (200, True), self.answer.content)

    def test_every_view_of_it_answers(self) -> None:
        client = self.house.client()
        for path in (
            "seats",
            "seats/pan-03",
            "seats/pan-03/changes",
            "seats/pan-03/compare?other=pan-03",
            "findings",
            "readings",
            "round",
            "ledger",
            "register/classes",
        ):
            with self.subTest(path):
                self.assertEqual(client.get(f"/api/v1/{path}").status_code, 200)

    def test_no_table_of_it_runs_anything(self) -> None:
        client = self.house.client()
        for path in ("seats", "findings", "readings", "seats/pan-03/changes"):
            with self.subTest(path):
                raw = client.get(f"/api/v1/{path}?as=csv").content.decode("utf-8-sig")
                cells = [cell for row in csv.reader(io.StringIO(raw, newline="")) for cell in row]
                self.assertEqual([cell for cell in cells if cell[:1] in ("=", "@") or cell[:2] in ("+1", "-1")], [])
                sheet = load_workbook(io.BytesIO(client.get(f"/api/v1/{path}?as=xlsx").content)).active
                self.assertNotIn("f", {cell.data_type for row in sheet.iter_rows() for cell in row})

    def test_what_no_database_keeps_is_refused_with_its_reason(self) -> None:
        client, agent = self.house.client(), self.house.agent()
        for path in ("seats?name=%00", "seats/%00", "findings?seat=%00", "readings?setting=%00"):
            with self.subTest(path):
                answer = client.get(f"/api/v1/{path}")
                self.assertEqual((answer.status_code, answer.json()["title"]), (422, "Not kept"))
        answer = client.post("/api/v1/dialects/corrow/watch", {"seat": "\0"}, content_type="application/json")
        self.assertEqual(answer.status_code, 422)
        order = str(issue_send_files(self.house.seat, "corrow").pk)
        receipt = {"order": order, "outcome": "done", "files": {"a\0": "aGk="}}
        answer = agent.post(f"/api/v1/agent/orders/{order}/receipt", receipt, content_type="application/json")
        self.assertEqual((answer.status_code, answer.json()["title"]), (422, "Not kept"))

    def test_a_survey_with_nul_is_refused_at_its_place(self) -> None:
        bad = survey()
        bad["readings"][0]["native"] = {**bad["readings"][0]["native"], "raw": "a\0"}
        answer = self.house.send(bad)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("NUL", answer.json()["faults"][0]["message"])

    def test_files_that_nobody_asked_for_are_not_kept(self) -> None:
        order = issue_survey_now(self.house.seat)
        receipt = {"order": str(order.pk), "outcome": "done", "files": {"a": "aGk="}}
        path = f"/api/v1/agent/orders/{order.pk}/receipt"
        self.assertEqual(self.house.agent().post(path, receipt, content_type="application/json").status_code, 204)
        order.refresh_from_db()
        self.assertNotIn("files", order.receipt or {})
