import datetime as dt
from typing import Any

from django.db import IntegrityError, transaction
from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.findings.models import Finding
from normant.seats.floor import presence_word, silent_presences
from normant.seats.models import Presence, Reading, Seat, Survey
from normant.seats.services.prune import prune
from normant.tests.house import House, survey


class Retention(TestCase):
    def test_what_is_old_goes_and_what_holds_stays(self) -> None:
        house, year = House(), dt.timedelta(days=365)
        house.send(survey(minutes=-10))
        house.send(survey(minutes=-5, memory__held_back=2**33))
        Survey.objects.update(taken_at=timezone.now() - year)
        Reading.objects.exclude(until=None).update(since=timezone.now() - 2 * year, until=timezone.now() - year)
        standing = Reading.objects.current().count()
        self.assertEqual(prune(surveys=dt.timedelta(days=180), readings=dt.timedelta(days=180)), (1, 1))
        self.assertEqual((Survey.objects.count(), Reading.objects.count()), (1, standing))
        self.assertEqual(prune(surveys=dt.timedelta(days=180), readings=dt.timedelta(days=180)), (0, 0))


class Plan(TestCase):
    """The floor in two questions: the plan of all seats, and the levels of those in sight."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()
        Seat.objects.create(name="loft-01", role="assist", room="Loft", position=1)
        Seat.objects.create(name="loft-02", role="assist", room="Loft")
        Seat.objects.create(name="gone-01", room="Loft", retired_at=timezone.now())

    def test_the_plan_tells_where_seats_stand_and_which_are_off_norm(self) -> None:
        rooms = self.house.client().get("/api/v1/floor").json()["items"]
        self.assertEqual([room["name"] for room in rooms], ["Loft", "Pan House"])  # the larger one first
        self.assertEqual([seat["name"] for seat in rooms[0]["seats"]], ["loft-02", "loft-01"])
        self.assertEqual((rooms[1]["seats"][0]["off_norm"], rooms[1]["seats"][0]["presence"]), (7, "here"))
        self.assertEqual(rooms[0]["seats"][0]["presence"], "never")

    def test_an_editor_sees_their_own_seat_on_the_plan(self) -> None:
        rooms = self.house.client(Role.EDITOR).get("/api/v1/floor").json()["items"]
        self.assertEqual([seat["name"] for room in rooms for seat in room["seats"]], ["pan-03"])

    def test_levels_come_for_the_seats_that_were_asked_for(self) -> None:
        seats = self.house.client().get("/api/v1/seats?name=pan-03&name=loft-01&name=unknown").json()["items"]
        self.assertEqual([(seat["name"], len(seat["levels"])) for seat in seats], [("loft-01", 0), ("pan-03", 5)])
        many = "&".join(f"name=x{n}" for n in range(501))
        self.assertEqual(self.house.client().get(f"/api/v1/seats?{many}").status_code, 422)

    def test_findings_come_for_several_seats(self) -> None:
        client = self.house.client()
        self.assertEqual(client.get("/api/v1/findings?seat=pan-03&seat=loft-01").json()["total"], 7)
        self.assertEqual(client.get("/api/v1/findings?seat=loft-01").json()["total"], 0)


class Causes(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-10))

    def cause(self, setting: str, app: str = "") -> str:
        return Reading.objects.current().get(setting=setting, app=app).cause

    def test_the_first_survey_is_first_seen(self) -> None:
        self.assertEqual(self.cause("power.profile"), "first seen")

    def test_a_value_that_moves_with_its_application_is_told_so(self) -> None:
        moved = survey(minutes=-5, memory__held_back=2**33)
        moved["facts"] = {**moved["facts"], "applications": [{"id": "corrow", "version": "8.3.2"}]}
        self.house.send(moved)
        self.assertEqual(self.cause("memory.held_back", "corrow"), "version")
        self.assertEqual(self.cause("app.version", "corrow"), "version")

    def test_a_finding_that_facts_opened_says_so(self) -> None:
        smaller = survey(minutes=-5, memory__held_back=7 * 2**30)
        self.house.send(smaller)
        grown = survey(minutes=-4, memory__held_back=7 * 2**30)
        grown["facts"] = {**grown["facts"], "memory": {"total": 2**38}}
        self.house.send(grown)
        self.assertEqual(Finding.objects.open().get(setting="memory.held_back").opened_by, "facts")

    def test_a_reading_that_moved_to_another_line_is_no_change(self) -> None:
        before = Reading.objects.count()
        moved = survey(minutes=-5)
        moved["readings"][1]["native"] = {**moved["readings"][1]["native"], "line": 99}
        self.house.send(moved)
        self.assertEqual(Reading.objects.count(), before)
        held = Reading.objects.current().get(setting="memory.held_back", app="corrow")
        self.assertEqual((held.native["line"], held.cause), (99, "first seen"))

    def test_a_reading_that_is_gone_ends(self) -> None:
        less = survey(minutes=-5)
        less["readings"] = [r for r in less["readings"] if r["setting"] != "power.profile"]
        self.house.send(less)
        self.assertIsNotNone(Reading.objects.get(setting="power.profile").until)

    def test_a_hundred_unchanged_surveys_add_no_rows(self) -> None:
        before = Reading.objects.count()
        for minute in range(100):
            self.house.send(survey(minutes=-9 + minute / 20))
        self.assertEqual(Reading.objects.count(), before)

    def test_the_database_keeps_intervals_apart(self) -> None:
        held = Reading.objects.current().get(setting="power.profile")
        fields: dict[str, Any] = {"seat": held.seat, "setting": held.setting, "value": "x", "cause": "ours"}
        for since, until in ((held.since, None), (held.since - dt.timedelta(1), held.since + dt.timedelta(1))):
            with self.assertRaises(IntegrityError), transaction.atomic():
                Reading.objects.create(**fields, since=since, until=until)


class Floor(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def test_a_seat_is_silent_after_three_heartbeats(self) -> None:
        now = timezone.now()
        words = [
            presence_word(at) for at in (None, now, now - dt.timedelta(seconds=179), now - dt.timedelta(seconds=181))
        ]
        self.assertEqual(words, ["never", "here", "here", "silent"])
        Presence.objects.update(seen_at=now - dt.timedelta(hours=1))
        self.assertEqual([presence.seat.name for presence in silent_presences()], ["pan-03"])
        answer = self.house.client(Role.VIEWER).get("/api/v1/round").json()
        self.assertIn("pan-03 is not responding", [item["title"] for item in answer["items"]])

    def test_the_record_has_every_reading_with_where_its_norm_comes_from(self) -> None:
        record = self.house.client(Role.VIEWER).get("/api/v1/seats/pan-03").json()
        rows = {(r["setting"], r["app"]): r for family in record["families"] for r in family["rows"]}
        held = rows["memory.held_back", "corrow"]
        row = (held["reading"], held["norm"], held["origin"], held["cause"], held["native"]["raw"])
        self.assertEqual(row, ("1.5 GiB", "at least 6.4 GiB", "Whole facility", "first seen", "1536"))
        self.assertIn({"part": "memory.total", "result": "64 GiB"}, held["steps"])
        self.assertEqual(rows["app.version", "corrow"]["status"], "no-norm")
        self.assertEqual([family["family"] for family in record["families"]][:3], ["engine", "memory", "stores"])

    def test_findings_are_filtered(self) -> None:
        viewer = self.house.client(Role.VIEWER)
        for query, count in (
            ("status=open", 7),
            ("status=closed", 0),
            ("seat=pan-03&setting=power.profile", 1),
            ("seat=pan-99", 0),
            ("limit=2", 2),
        ):
            with self.subTest(query):
                self.assertEqual(len(viewer.get(f"/api/v1/findings?{query}").json()["items"]), count)
        self.assertEqual(viewer.get("/api/v1/findings?limit=2").json()["total"], 7)
        self.assertEqual(viewer.get("/api/v1/findings?status=ajar").status_code, 422)

    def test_enrolling_a_new_seat_registers_it(self) -> None:
        client = self.house.client()
        body = {"seat": "rake-01", "role": "comp", "room": "Rake Room"}
        answer = client.post("/api/v1/enrolments", body, "application/json").json()
        self.assertEqual((answer["seat"], answer["valid_hours"]), ("rake-01", 24))
        names = [seat["name"] for seat in client.get("/api/v1/seats").json()["items"]]
        self.assertEqual(names, ["pan-03", "rake-01"])
        bad = client.post("/api/v1/enrolments", {"seat": "../x"}, "application/json")
        self.assertEqual((bad.status_code, bad.json()["faults"][0]["path"]), (422, "seat"))

    def test_refuses_to_enrol_a_seat_with_an_unknown_role(self) -> None:
        body = {"seat": "rake-09", "role": "cook", "room": "Rake Room"}
        answer = self.house.client().post("/api/v1/enrolments", body, "application/json")
        self.assertEqual((answer.status_code, answer.json()["title"]), (422, "No such role"))
        self.assertIn("expected one of offline, assist", answer.json()["detail"])
        self.assertFalse(Seat.objects.filter(name="rake-09").exists())
