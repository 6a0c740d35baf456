import csv
import io
from typing import Any

from django.test import TestCase
from openpyxl import load_workbook

from normant.tests.house import House, survey

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
        volumes = [{**v, "mount": "/" + EVIL, "capacity": 2**62, "free": 0} for v in facts["volumes"]]
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
