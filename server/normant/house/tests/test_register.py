import csv
import io
import json
from typing import Any
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from openpyxl import Workbook, load_workbook

from normant.accounts.permissions import Role
from normant.dialects.services.keep_dialect import keep_dialect
from normant.findings.models import Finding
from normant.house import seat_table
from normant.seats.models import Reading, Seat
from normant.tests.house import EXAMPLES, House, survey


def workbook(rows: list[list[Any]]) -> bytes:
    book, out = Workbook(), io.BytesIO()
    for row in rows:
        book.active.append(row)
    book.save(out)
    return out.getvalue()


class Register(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-5))

    def _import(self, raw: bytes, *, apply: bool = False, status: int = 200) -> Any:
        table = SimpleUploadedFile("register.csv", raw)
        answer = self.house.client().post(f"/api/v1/register/import?apply={apply}", {"table": table})
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def _send(self, method: str, path: str, status: int = 204, **body: Any) -> Any:
        answer = self.house.client().generic(
            method, f"/api/v1{path}", json.dumps(body), content_type="application/json"
        )
        self.assertEqual(answer.status_code, status, answer.content)
        return json.loads(answer.content or b"null")

    def test_a_table_is_shown_before_it_is_taken(self) -> None:
        raw = b"\xef\xbb\xbfseat;role;tags\r\npan-03;comp;UHD, loud\r\nrake-09;comp;\r\n"
        answer = self._import(raw)
        self.assertEqual((answer["faults"], answer["applied"]), ([], False))
        self.assertEqual(
            answer["rows"][0]["changes"],
            [
                {"column": "role", "before": "offline", "after": "comp"},
                {"column": "tags", "before": "", "after": "UHD, loud"},
            ],
        )
        self.assertEqual([row["new"] for row in answer["rows"]], [False, True])
        self.assertEqual(Seat.objects.count(), 1)
        self.assertTrue(self._import(raw, apply=True)["applied"])
        self.assertEqual(
            list(Seat.objects.values_list("name", "role", "room", "tags")),
            [("pan-03", "comp", "Pan House", ["UHD", "loud"]), ("rake-09", "comp", "", [])],
        )

    def test_a_workbook_is_a_table_too(self) -> None:
        answer = self._import(workbook([["seat", "room"], ["pan-03", 12.0], [None, None]]), apply=True)
        self.assertEqual([row["changes"][0]["after"] for row in answer["rows"]], ["12"])

    def test_one_fault_and_nothing_is_taken(self) -> None:
        answer = self._import(b"seat,role\npan-03,comp\npan-04,cook\n", apply=True)
        self.assertEqual([(f["line"], f["column"], f["path"]) for f in answer["faults"]], [(3, 2, "role")])
        self.assertFalse(answer["applied"])
        self.assertEqual(Seat.objects.get().role, "offline")

    def test_a_table_does_not_edit_a_retired_seat(self) -> None:
        self._send("POST", "/seats/pan-03/retire", reason="sold")
        answer = self._import(b"seat,role\npan-04,comp\npan-03,comp\n", apply=True)
        self.assertEqual([(f["line"], f["path"]) for f in answer["faults"]], [(3, "seat")])
        self.assertIn("pan-03 was retired on", answer["faults"][0]["message"])
        self.assertEqual((answer["applied"], Seat.objects.get().role), (False, "offline"))

    def test_what_is_no_table_is_refused_with_its_reason(self) -> None:
        for raw in (b"PK\x03\x04 broken", b'seat,"role\n', b"\0\1"):
            self.assertEqual(self._import(raw, status=422)["title"], "No table")

    def test_several_seats_are_edited_at_once_and_judged_anew(self) -> None:
        self.house.enrolled("pan-04")
        self._send("PATCH", "/register", seats=["pan-03", "pan-04"], role="comp", add_tags=["UHD"])
        self.assertEqual(list(Seat.objects.values_list("role", "tags")), [("comp", ["UHD"])] * 2)
        answer = self._send("PATCH", "/register", status=422, seats=["pan-03"], role="cook")
        self.assertIn("one of offline", answer["detail"])

    def test_a_retired_seat_leaves_the_floor_and_its_history_stays(self) -> None:
        self._send("POST", "/seats/pan-03/retire", reason="sold")
        client = self.house.client()
        self.assertEqual(client.get("/api/v1/seats").json()["total"], 0)
        self.assertEqual(client.get("/api/v1/seats?retired=true").json()["items"][0]["name"], "pan-03")
        self.assertEqual(client.get("/api/v1/findings?status=open").json()["total"], 0)
        self.assertEqual(self.house.send().status_code, 401)
        self.assertTrue(Reading.objects.filter(seat__name="pan-03").exists())
        self._send("POST", "/seats/pan-03/retire", status=409)

    def test_a_new_machine_takes_over_the_place_and_no_history(self) -> None:
        answer = self._send("POST", "/seats/pan-03/replace", status=200, reason="new machine")
        fresh, former = Seat.objects.get(name="pan-03"), Seat.objects.get(name="pan-03.former-1")
        self.assertEqual((fresh.room, fresh.retired_at, answer["seat"]), ("Pan House", None, "pan-03"))
        self.assertEqual(Reading.objects.filter(seat=fresh).count(), 0)
        self.assertTrue(former.retired_at and Finding.objects.filter(seat=former).exists())

    def test_the_floor_stands_as_it_was_arranged(self) -> None:
        for name in ("pan-01", "pan-02"):
            self.house.enrolled(name)
        rooms = [{"room": "Kiln", "seats": ["pan-02"]}, {"room": "Pan House", "seats": ["pan-03", "pan-01"]}]
        read = self.house.client().get("/api/v1/floor").json()["seen"]
        self._send("PUT", "/floor", rooms=rooms, seen=read)
        answer = self._send("PUT", "/floor", status=409, rooms=rooms[:1], seen=read)
        self.assertEqual(answer["title"], "Changed meanwhile")
        seats = self.house.client().get("/api/v1/seats").json()["items"]
        self.assertEqual(
            [(s["room"], s["name"]) for s in seats],
            [("Kiln", "pan-02"), ("Pan House", "pan-03"), ("Pan House", "pan-01")],
        )
        twice = [{"room": "Kiln", "seats": ["pan-02", "pan-02"]}]
        self._send("PUT", "/floor", status=422, rooms=twice, seen=answer["seen"])

    def test_classes_are_proposed_by_likeness(self) -> None:
        rows = self.house.client().get("/api/v1/register/classes").json()["items"]
        self.assertEqual(rows, [{"seat": "pan-03", "now": "", "proposed": "64 GiB, Hadrel H60"}])


class Tables(TestCase):
    EVIL = '=HYPERLINK("x")'

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-5))
        Seat.objects.filter(name="pan-03").update(room=cls.EVIL, production="+1\x07,\n-2", tags=["a", "b"])

    def _get(self, query: str, status: int = 200) -> Any:
        answer = self.house.client().get(f"/api/v1/{query}")
        self.assertEqual(answer.status_code, status)
        return answer

    def test_csv_shows_the_list_and_runs_nothing(self) -> None:
        answer = self._get("seats?as=csv")
        rows = list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"), newline="")))
        self.assertEqual((rows[0]["name"], rows[0]["room"], rows[0]["tags"]), ("pan-03", "'" + self.EVIL, "a, b"))
        self.assertIn("normant-seats-", answer["Content-Disposition"])

    def test_a_workbook_holds_text_where_a_formula_would_run(self) -> None:
        sheet = load_workbook(io.BytesIO(self._get("seats?as=xlsx").content)).active
        head = [cell.value for cell in sheet[1]]
        room, show = sheet[2][head.index("room")], sheet[2][head.index("production")]
        self.assertEqual((room.value, room.data_type, show.value), (self.EVIL, "s", "+1\ufffd,\n-2"))

    def test_json_and_what_is_no_list(self) -> None:
        self.assertEqual(json.loads(self._get("seats?as=json").content)["total"], 1)
        self.assertEqual(self._get("standard?as=csv", 422).json()["title"], "No list")
        self.assertEqual(self._get("seats?as=pdf", 422).json()["title"], "No such table")

    def test_a_table_shows_no_more_than_the_list(self) -> None:
        Seat.objects.create(name="pan-04")
        answer = self.house.client(Role.EDITOR).get("/api/v1/seats?as=csv")
        self.assertEqual(answer.content.count(b"pan-"), 1)

    def test_the_table_of_seats_has_a_column_for_each_fact_and_setting(self) -> None:
        keep_dialect((EXAMPLES / "corrow.dialect.toml").read_text("utf-8"), "test")
        Seat.objects.create(name="pan-04")
        rows = list(csv.DictReader(io.StringIO(self._get("seat-table?as=csv").content.decode("utf-8-sig"), newline="")))
        self.assertEqual([row["seat"] for row in rows], ["pan-03", "pan-04"])
        self.assertEqual((rows[0]["Corrow preview pool"], rows[1]["Corrow preview pool"]), ("256 MiB", ""))
        self.assertEqual((rows[0]["memory total"], rows[0]["gpu gpu0 model"]), ("64 GiB", "Hadrel H60"))
        self.assertEqual((rows[0]["room"], len(rows[0])), ("'" + self.EVIL, len(rows[1])))
        self.assertNotIn("Plinthe memory reserve", rows[0])  # no dialect: a seat may invent applications

    def test_the_table_of_seats_has_a_limit_of_columns_and_shows_only_visible_seats(self) -> None:
        Seat.objects.create(name="pan-04")
        seen = self.house.client(Role.EDITOR).get("/api/v1/seat-table").json()
        self.assertEqual(([row["seat"] for row in seen["items"]], seen["total"]), (["pan-03"], 1))
        self.assertEqual(self.client.get("/api/v1/seat-table").status_code, 401)
        with patch.object(seat_table, "MAX_COLUMNS", 8):
            (row, _) = self._get("seat-table").json()["items"]
        self.assertLessEqual(len(row), len(seat_table.OWN) + 8)
        self._get("seat-table?limit=501", 422)
        (row,) = self._get("seat-table?offset=1&limit=1").json()["items"]
        self.assertEqual(row["seat"], "pan-04")
