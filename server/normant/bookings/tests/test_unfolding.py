"""Calendars that would take hours are refused in seconds, and what was unfolded is kept."""

import datetime as dt
import socket
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Event, Thread
from unittest.mock import patch

from django.test import SimpleTestCase, override_settings
from django.utils import timezone

from normant.accounts.models import User
from normant.common import reach
from normant.rollouts.tests.test_waves import Stage
from normant.tests.options import with_options
from normant_core.base.errors import DocumentError

from .. import unfolding
from ..fetching import NotFetched, fetched
from ..models import Calendar
from ..rooms import AHEAD, booked_rooms
from ..services.keep_calendar import keep_calendar
from .test_rooms import HOUR, calendar

DAY = dt.timedelta(days=1)
NOW = dt.datetime(2026, 11, 27, tzinfo=dt.UTC)
CLOCK = "BYHOUR={0};BYMINUTE={1};BYSECOND={1}".format(
    *(",".join(str(number) for number in range(most)) for most in (24, 60))
)


def in_zone(rule: str, hours: int = 2) -> bytes:
    """One event at nine, in a zone of its own that is so many hours ahead and whose clocks change by that rule."""
    change = f"DTSTART:19700101T000000\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+{hours:02}00\r\nRRULE:{rule}\r\n"
    parts = "".join(f"BEGIN:{part}\r\n{change}END:{part}\r\n" for part in ("STANDARD", "DAYLIGHT"))
    event = "BEGIN:VEVENT\r\nUID:1\r\nDTSTART;TZID=Mine:20261128T090000\r\nDURATION:PT1H\r\nEND:VEVENT\r\n"
    zone = f"BEGIN:VTIMEZONE\r\nTZID:Mine\r\n{parts}END:VTIMEZONE\r\n"
    return f"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//t//EN\r\n{zone}{event}END:VCALENDAR\r\n".encode()


class Unfolding(SimpleTestCase):
    def test_each_calendar_has_its_own_zones(self) -> None:
        """A zone of the same name in another calendar is another zone."""
        for hours in (2, 5):
            spans = unfolding.unfolded(in_zone("FREQ=YEARLY", hours), "pan.ics", NOW, NOW + 2 * DAY, "UTC")
            self.assertEqual([first.astimezone(dt.UTC).hour for first, _ in spans], [9 - hours])

    def test_what_would_take_hours_is_refused(self) -> None:
        daily = calendar(NOW - 300 * DAY, NOW - 300 * DAY + HOUR, f"RRULE:FREQ=DAILY;{CLOCK}\r\n")
        with patch.object(unfolding, "CPU_SECONDS", 1):
            for raw in (daily, in_zone("FREQ=SECONDLY")):
                with self.subTest(len(raw)), self.assertRaisesRegex(DocumentError, "takes more than 1 s"):
                    unfolding.unfolded(raw, "pan.ics", NOW, NOW + DAY, "UTC")

    def test_what_would_take_all_memory_is_refused(self) -> None:
        raw = calendar(NOW, NOW + HOUR, "".join(f"COMMENT:{number}\r\n" for number in range(40_000)))
        with (
            patch.object(unfolding, "MEMORY_BYTES", 10 * 1024 * 1024),
            self.assertRaisesRegex(DocumentError, "the calendar cannot be read: "),
        ):
            unfolding.unfolded(raw, "pan.ics", NOW, NOW + DAY, "UTC")

    def test_a_room_is_not_booked_each_minute(self) -> None:
        often = f"RRULE:FREQ=DAILY;COUNT=12000;{CLOCK.rpartition(';')[0]}\r\n"
        raw = calendar(NOW, NOW + dt.timedelta(seconds=30), often)
        with self.assertRaisesRegex(DocumentError, "books the room 12,000 times"):
            unfolding.unfolded(raw, "pan.ics", NOW, NOW + 60 * DAY, "UTC")


class Kept(Stage):
    def setUp(self) -> None:
        self.now = timezone.now()
        weekly = calendar(self.now + HOUR, self.now + 2 * HOUR, "RRULE:FREQ=WEEKLY\r\n")
        keep_calendar("Pan House", weekly, "pan.ics", User.objects.get(username="supervisor"))

    def row(self) -> Calendar:
        return Calendar.objects.get(room="Pan House")

    def test_nobody_unfolds_it_again_before_its_time(self) -> None:
        with patch.object(unfolding.subprocess, "run", side_effect=AssertionError):
            self.assertEqual(len(booked_rooms(["Pan House"], self.now + AHEAD / 2)["Pan House"]), 2)

    def test_a_later_moment_or_another_zone_unfolds_it_again(self) -> None:
        later = self.now + 5 * AHEAD
        self.assertEqual(len(booked_rooms(["Pan House"], later)["Pan House"]), 2)
        self.assertGreater(self.row().unfolded_until, later + AHEAD)
        with override_settings(TIME_ZONE="Asia/Tokyo"):
            booked_rooms(["Pan House"], self.now)
        self.assertEqual(self.row().unfolded_zone, "Asia/Tokyo")

    def test_one_that_nobody_unfolded_yet_is_when_it_is_asked_for(self) -> None:
        """As those are that an earlier version kept, or that an archive brought."""
        Calendar.objects.update(bookings=[], unfolded_until=None)
        self.assertEqual(len(booked_rooms(["Pan House"], self.now)["Pan House"]), 2)

    def test_one_that_cannot_be_unfolded_stops_nothing_and_says_so(self) -> None:
        Calendar.objects.update(bookings=[], unfolded_until=None, text="BEGIN:VCALENDAR")
        for _ in range(2):
            self.assertEqual(booked_rooms(["Pan House"], self.now), {"Pan House": ()})
        self.assertIn("the room counts as free", self.row().fault)

    def test_what_is_known_counts_on_where_more_cannot_be(self) -> None:
        Calendar.objects.update(text="BEGIN:VCALENDAR")
        booked_rooms(["Pan House"], self.now + 2 * AHEAD)
        self.assertEqual(len(booked_rooms(["Pan House"], self.now)["Pan House"]), 2)


@contextmanager
def dripping() -> Iterator[str]:
    """The address of a host that sends a byte of its answer now and then, and never all of it."""
    enough = Event()

    def drip() -> None:
        there, _ = server.accept()
        with there:
            there.sendall(b"HTTP/1.1 200 OK\r\nContent-Length: 1000\r\n\r\n")
            while not enough.wait(0.1):
                there.sendall(b"x")

    with socket.create_server(("127.0.0.1", 0)) as server:
        thread = Thread(target=drip)
        thread.start()
        yield f"http://127.0.0.1:{server.getsockname()[1]}/pan.ics"
        enough.set()
        thread.join()


class Dripping(SimpleTestCase):
    @with_options(calendar_hosts=("127.0.0.1",))
    def test_a_host_that_answers_a_byte_at_a_time_holds_nobody_up(self) -> None:
        with patch.object(reach, "SECONDS", 1), dripping() as address, self.assertRaisesRegex(NotFetched, "within 1 s"):
            fetched(address)
