import datetime as dt
import hashlib
import io
import json
import zipfile
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.bookings.models import Calendar
from normant.dialects.models import Dialect, DialectVersion
from normant.findings.models import Finding, Waiver
from normant.ledger.models import Entry
from normant.rollouts.models import Rollout
from normant.seats.models import Reading, Seat
from normant.seats.services.edit_register import arrange
from normant.standards.models import Edition
from normant.templates.models import Template
from normant.tests.house import House, survey
from normant_core.base.chain import read_ledger, verified

from .packing import zip_of


class Archive(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-10))
        cls.house.send(survey(minutes=-5, memory__held_back=2**33))
        cls.house.enrolled("pan-04")
        Seat.objects.filter(name="pan-04").update(tags=["UHD", "loud"], production="=1+1")
        arrange([("Kiln", ["pan-04"]), ("Pan House", ["pan-03"])], "test")
        then = timezone.now() - dt.timedelta(days=3)
        fields = {"setting": "power.profile", "reason": "a trial", "groups": {"room": "Kiln"}, "made_at": then}
        Waiver.objects.create(**fields, ends_at=timezone.now() - dt.timedelta(days=1))
        for body in (b"old", b"new"):
            Template.objects.filter(name="House").update(held_until=timezone.now())
            digest = hashlib.sha256(body).hexdigest()
            Template.objects.create(
                name="House", app="corrow", file="house.xml", body=body, digest=digest, kept_by="sal"
            )

        free = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//t//EN\r\nEND:VCALENDAR\r\n"
        Calendar.objects.create(room="Kiln", name="kiln.ics", text=free, kept_by="sal")

    def _pack(self) -> bytes:
        answer = self.house.client(Role.ADMINISTRATOR).get("/api/v1/house/archive")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/zip"))
        return answer.content

    def _take(self, raw: bytes, status: int = 200) -> Any:
        file = SimpleUploadedFile("house.zip", raw)
        answer = self.house.client(Role.ADMINISTRATOR).post("/api/v1/house/archive", {"archive": file})
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def _empty(self) -> None:
        for model in (Rollout, Finding, Waiver, Seat, Edition, Dialect, DialectVersion, Template, Calendar):
            model.objects.all().delete()

    def _state(self) -> list[Any]:
        seats = Seat.objects.order_by("name").values_list("name", "role", "room", "production", "tags", "position")
        readings = Reading.objects.order_by("seat__name", "setting", "app", "since")
        editions, dialects = (
            Edition.objects.values_list("number", "text", "published_at"),
            Dialect.objects.values_list("app", "text", "number"),
        )
        waivers = Waiver.objects.values_list("setting", "groups", "reason", "made_at", "ends_at", "ended_at")
        templates = Template.objects.order_by("id").values_list("name", "app", "file", "body", "kept_at", "held_until")
        return [
            list(rows)
            for rows in (
                [(*template[:3], bytes(template[3]), *template[4:]) for template in templates],
                waivers,
                Calendar.objects.values_list("room", "name", "text", "kept_by"),
                seats,
                readings.values_list("seat__name", "setting", "app", "value", "native", "since", "until", "cause"),
                editions,
                dialects,
            )
        ]

    def test_a_house_goes_out_and_comes_in_as_it_was(self) -> None:
        raw, before = self._pack(), self._state()
        with zipfile.ZipFile(io.BytesIO(raw)) as packed:
            entries = list(read_ledger(packed.read("ledger.ndjson").splitlines()))
        self.assertEqual(list(verified(entries)), [])
        self._empty()
        self.assertEqual(self._take(raw)["seats"], 2)
        self.assertEqual(self._state(), before)
        record = self.house.client().get("/api/v1/seats/pan-03").json()
        self.assertEqual(record["facts"]["memory"]["total"], 2**36)
        self.assertEqual(Entry.objects.first().action, "take in house")  # type: ignore[union-attr]

    def test_a_house_with_seats_takes_none(self) -> None:
        self.assertEqual(self._take(self._pack(), 409)["title"], "Not empty")

    def test_a_published_standard_is_not_thrown_away_either(self) -> None:
        raw = self._pack()
        Seat.objects.all().delete()
        self.assertEqual(self._take(raw, 409)["title"], "Not empty")
        self.assertTrue(Edition.objects.exists())

    def test_a_fault_in_one_part_takes_in_nothing(self) -> None:
        with zipfile.ZipFile(io.BytesIO(self._pack())) as packed:
            parts = {name: packed.read(name) for name in packed.namelist()}
        self._empty()
        reading = {**json.loads(parts["readings.ndjson"].splitlines()[0]), "value": "lots", "setting": "engine.workers"}
        broken = {
            "register.csv": b"seat\npan 3\n",
            "readings.ndjson": json.dumps(reading).encode(),
            "editions.ndjson": b"[1]\n",
            "surveys/pan-03.json": b"{}",
            f"templates/{hashlib.sha256(b'old').hexdigest()}": b"other",
            "floor.json": b'{"rooms": [], "places": {"nobody": 1}}',
        }
        for name, part in broken.items():
            with self.subTest(name):
                answer = self._take(zip_of({**parts, name: part}), 422)
                self.assertIn(name, answer["detail"])
                self.assertEqual((Seat.objects.count(), Edition.objects.count()), (0, 0))
        twice = parts["readings.ndjson"] + parts["readings.ndjson"].splitlines(keepends=True)[-1]
        self.assertIn("readings.ndjson", self._take(zip_of({**parts, "readings.ndjson": twice}), 422)["detail"])
        self.assertEqual(Seat.objects.count(), 0)
        self.assertEqual(self._take(b"no zip", 422)["title"], "No archive")

    def test_what_is_packed_or_shaped_otherwise_is_told(self) -> None:
        raw = self._pack()
        with zipfile.ZipFile(io.BytesIO(raw)) as packed:
            parts = {name: packed.read(name) for name in packed.namelist()}
        self._empty()
        encrypted, unknown = bytearray(zip_of(parts)), bytearray(zip_of(parts))
        for spoiled, offset, value in ((encrypted, 8, 1), (unknown, 10, 99)):
            spoiled[spoiled.rindex(b"PK\x01\x02") + offset] = value
        for upload in (bytes(encrypted), bytes(unknown), raw[: len(raw) // 2], raw[:-30], b"PK\x03\x04" * 50):
            with self.subTest(upload[:20]):
                self.assertEqual(self._take(upload, 422)["title"], "No archive")
        for name in ("floor.json", *(name for name in parts if name.endswith(".ndjson"))):
            for shape in (b"[]", b"7", b'"x"', b"null", b"{}", b'{"number": [], "text": {}, "name": 1}', b"[" * 5000):
                with self.subTest(f"{name}: {shape[:20]!r}"):
                    file = SimpleUploadedFile("house.zip", zip_of({**parts, name: shape}))
                    client = self.house.client(Role.ADMINISTRATOR)
                    answer = client.post("/api/v1/house/archive", {"archive": file})
                    self.assertIn(answer.status_code, (200, 422), answer.content)
                    self._empty()

    def test_a_template_whose_name_leads_elsewhere_is_not_taken_in(self) -> None:
        with zipfile.ZipFile(io.BytesIO(self._pack())) as packed:
            parts = {name: packed.read(name) for name in packed.namelist()}
        self._empty()
        lines = [json.loads(line) for line in parts["templates.ndjson"].splitlines()]
        for file in ("../house.xml", "/etc/house.xml", "a\\b", "..", "*"):
            with self.subTest(file):
                rewritten = b"\n".join(json.dumps({**line, "file": file}).encode() for line in lines)
                self.assertIn(
                    "templates.ndjson", self._take(zip_of({**parts, "templates.ndjson": rewritten}), 422)["detail"]
                )

    def test_nobody_but_the_administrator_moves_a_house(self) -> None:
        self.assertEqual(self.house.client().get("/api/v1/house/archive").status_code, 403)
