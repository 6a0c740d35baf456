"""Rooms that are booked: in the plan, and when a seat's turn comes."""

import datetime as dt
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.bookings.jobs import fetch_calendars
from normant.ledger.models import Entry
from normant.rollouts.jobs import advance_rollout
from normant.rollouts.tests.test_waves import NAMES, Stage
from normant.seats.models import Seat
from normant.tests.options import with_options
from normant.tests.receiver import receiver

from ..models import Calendar

HOUR = dt.timedelta(hours=1)


def calendar(begins: dt.datetime, ends: dt.datetime, more: str = "") -> bytes:
    body = f"DTSTART:{begins.astimezone(dt.UTC):%Y%m%dT%H%M%SZ}\r\nDTEND:{ends.astimezone(dt.UTC):%Y%m%dT%H%M%SZ}\r\n"
    event = f"BEGIN:VEVENT\r\nUID:1\r\nDTSTAMP:20260101T000000Z\r\n{body}{more}END:VEVENT\r\n"
    return f"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//t//EN\r\n{event}END:VCALENDAR\r\n".encode()


class Rooms(Stage):
    """pan-03 and pan-04 stand in Pan House, the others in the Loft."""

    def setUp(self) -> None:
        Seat.objects.filter(name__in=NAMES[2:]).update(room="Loft")
        self.now = timezone.now()

    def bring(self, raw: bytes, room: str = "Pan House", role: Role = Role.SUPERVISOR) -> Any:
        file = SimpleUploadedFile("pan.ics", raw, content_type="text/calendar")
        return self.house.client(role).post("/api/v1/rooms/calendar", {"room": room, "calendar": file})

    def test_seats_of_a_booked_room_have_their_turn_behind_it_and_the_plan_says_so(self) -> None:
        until = self.now + 3 * HOUR
        self.assertEqual(self.bring(calendar(self.now - HOUR, until)).status_code, 200)
        turns = {t["seat"]: t for w in self.plan(canaries=False).json()["order"]["waves"] for t in w["turns"]}
        self.assertLess(dt.datetime.fromisoformat(turns["pan-05"]["begins"]), self.now + HOUR)
        self.assertGreaterEqual(dt.datetime.fromisoformat(turns["pan-03"]["begins"]), until.replace(microsecond=0))
        self.assertIn("booked", turns["pan-03"]["why"])

    def test_a_turn_does_not_begin_while_the_room_is_booked_or_about_to_be(self) -> None:
        self.bring(calendar(self.now + dt.timedelta(minutes=1), self.now + HOUR))
        rollout = self.start(canaries=False)
        self.assertEqual(sorted(self.begun()), ["pan-05", "pan-06"])
        waits = {leg["seat"]: leg["message"] for leg in self.shown(rollout)["legs"]}
        self.assertTrue(waits["pan-03"].startswith("Pan House is booked until"), waits)
        client = self.house.client()
        self.assertEqual(client.delete("/api/v1/rooms/calendar?room=Pan%20House").status_code, 200)
        advance_rollout(rollout.pk)
        self.assertEqual(len(self.begun()), 4)
        self.assertEqual(client.delete("/api/v1/rooms/calendar?room=Pan%20House").status_code, 404)
        self.assertEqual(Entry.objects.filter(action__endswith="calendar").count(), 2)

    def test_putting_back_waits_for_no_booking(self) -> None:
        rollout = self.start(canaries=False)
        for name in NAMES:
            self.end(name)
        self.bring(calendar(self.now - HOUR, self.now + HOUR))
        back = self.post(f"rollouts/{rollout.pk}/put-back").json()["id"]
        advance_rollout(back)
        self.assertEqual(len(self.begun()), 4)

    def test_rooms_are_told_with_their_bookings(self) -> None:
        self.bring(calendar(self.now + HOUR, self.now + 3 * HOUR, "RRULE:FREQ=DAILY;COUNT=5\r\n"))
        rooms = {room["room"]: room for room in self.house.client(Role.VIEWER).get("/api/v1/rooms").json()["items"]}
        self.assertEqual((rooms["Pan House"]["hours"], len(rooms["Pan House"]["next"])), (10.0, 3))
        self.bring(calendar(self.now + HOUR, self.now + 4 * HOUR, "RRULE:FREQ=WEEKLY\r\n"), "Loft")
        rooms = {room["room"]: room for room in self.house.client(Role.VIEWER).get("/api/v1/rooms").json()["items"]}
        self.assertEqual(rooms["Loft"]["hours"], 6.0)  # of the two weeks that are told, not of all that is kept
        self.assertEqual((rooms["Pan House"]["file"], rooms["Loft"]["file"]), ("pan.ics", "pan.ics"))

    def test_what_is_no_calendar_is_refused_and_the_last_one_stays(self) -> None:
        self.bring(calendar(self.now, self.now + HOUR))
        for raw, room, status in (
            (b"<html>", "Pan House", 422),
            (b"\xff\xfe", "Pan House", 422),
            (calendar(self.now, self.now + HOUR, "RRULE:FREQ=SECONDLY\r\n"), "Pan House", 422),
            (calendar(self.now, self.now + HOUR), "Nowhere", 404),
        ):
            with self.subTest(raw[:20]):
                self.assertEqual(self.bring(raw, room).status_code, status)
        self.assertEqual(self.bring(calendar(self.now, self.now + HOUR), role=Role.VIEWER).status_code, 403)
        rooms = self.house.client().get("/api/v1/rooms").json()["items"]
        self.assertEqual([room["file"] for room in rooms], [None, "pan.ics"])


class Followed(Stage):
    """A calendar at an address, served by a real server; pan-03 and pan-04 stand in Pan House."""

    def setUp(self) -> None:
        Seat.objects.filter(name__in=NAMES[2:]).update(room="Loft")
        self.now = timezone.now()

    def follow(self, address: str) -> Any:
        return self.post("rooms/calendar/follow", {"room": "Pan House", "address": address})

    def calendar_row(self) -> Calendar:
        return Calendar.objects.get(room="Pan House")

    @with_options(calendar_hosts=("127.0.0.1",))
    def test_it_is_fetched_at_once_and_again_and_what_was_fetched_counts_on(self) -> None:
        booked = calendar(self.now - HOUR, self.now + 3 * HOUR)
        with receiver(200, booked) as (address, _):
            self.assertEqual(self.follow(address).status_code, 200)
        self.assertEqual(self.begun_in_pan_house(), [])
        fetch_calendars(timestamp=0)  # the server is gone by now
        self.assertIn("no answer", self.calendar_row().fault)
        self.assertEqual(self.begun_in_pan_house(), [])
        with receiver(200, calendar(self.now + 9 * HOUR, self.now + 10 * HOUR)) as (address, _):
            Calendar.objects.update(address=address)
            fetch_calendars(timestamp=0)
        self.assertEqual((self.calendar_row().fault, len(self.begun_in_pan_house())), ("", 2))

    def begun_in_pan_house(self) -> list[str]:
        rollout = self.start(canaries=False)
        begun = [name for name in self.begun() if name in NAMES[:2]]
        self.post(f"rollouts/{rollout.pk}/halt")
        return begun

    def test_addresses_that_are_none_or_near_are_refused_and_nothing_is_kept(self) -> None:
        for address, words in (
            ("file:///etc/hosts", "no address"),
            ("http://127.0.0.1:1/x", "name it in NORMANT_CALENDAR_HOSTS"),
            ("http://[::1]/x", "name it in NORMANT_CALENDAR_HOSTS"),
        ):
            with self.subTest(address):
                self.assertIn(words, self.follow(address).json()["detail"])
        self.assertFalse(Calendar.objects.exists())

    @with_options(calendar_hosts=("127.0.0.1",))
    def test_what_is_no_calendar_is_not_kept(self) -> None:
        for status, body, words in (
            (404, b"", "answered 404"),
            (302, b"", "answered 302"),
            (200, b"<html>", "calendar"),
        ):
            with self.subTest(words), receiver(status, body) as (address, _):
                self.assertIn(words, self.follow(address).json()["detail"])
        self.assertFalse(Calendar.objects.exists())
