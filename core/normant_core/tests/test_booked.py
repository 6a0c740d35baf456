import datetime as dt
from unittest import TestCase
from zoneinfo import ZoneInfo

from normant_core.base.errors import DocumentError
from normant_core.rollout.bookings import LIMIT_BYTES, bookings

ZONE = ZoneInfo("Europe/Lisbon")
EVENT = "BEGIN:VEVENT\r\nUID:{0}\r\nDTSTAMP:20260101T000000Z\r\nSUMMARY:Grade\r\n{1}\r\nEND:VEVENT\r\n"


def calendar(*events: str) -> bytes:
    body = "".join(EVENT.format(number, event) for number, event in enumerate(events))
    return f"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//test//EN\r\n{body}END:VCALENDAR\r\n".encode()


def march(day: int, hour: int = 0, minute: int = 0) -> dt.datetime:
    return dt.datetime(2026, 3, day, hour, minute, tzinfo=ZONE)


def booked(*events: str, begin: dt.datetime | None = None, end: dt.datetime | None = None) -> list[tuple[str, str]]:
    spans = bookings(calendar(*events), "pan.ics", begin or march(2), end or march(9), ZONE)
    return [tuple(f"{moment.astimezone(ZONE):%a %H:%M}" for moment in span) for span in spans]  # type: ignore[misc]


class Booked(TestCase):
    def test_single_events_in_order_and_those_that_touch_as_one(self) -> None:
        later = "DTSTART:20260304T140000Z\r\nDTEND:20260304T150000Z"
        first = "DTSTART:20260303T090000Z\r\nDTEND:20260303T120000Z"
        touching = "DTSTART:20260303T120000Z\r\nDURATION:PT90M"
        self.assertEqual(booked(later, first, touching), [("Tue 09:00", "Tue 13:30"), ("Wed 14:00", "Wed 15:00")])

    def test_recurring_ones_with_what_was_left_out(self) -> None:
        weekly = (
            "DTSTART;TZID=Europe/Lisbon:20260105T100000\r\nDTEND;TZID=Europe/Lisbon:20260105T110000\r\n"
            "RRULE:FREQ=WEEKLY;BYDAY=MO,WE,FR\r\nEXDATE;TZID=Europe/Lisbon:20260304T100000"
        )
        self.assertEqual(booked(weekly), [("Mon 10:00", "Mon 11:00"), ("Fri 10:00", "Fri 11:00")])

    def test_an_hour_stays_that_hour_when_clocks_change(self) -> None:
        daily = "DTSTART;TZID=Europe/Lisbon:20260301T100000\r\nDURATION:PT1H\r\nRRULE:FREQ=DAILY"
        spans = booked(daily, begin=march(28), end=march(31))  # the clocks of Lisbon go ahead on the 29th
        self.assertEqual([begin for begin, _ in spans], ["Sat 10:00", "Sun 10:00", "Mon 10:00"])

    def test_whole_days_and_times_without_a_zone_are_the_houses(self) -> None:
        self.assertEqual(booked("DTSTART;VALUE=DATE:20260303"), [("Tue 00:00", "Wed 00:00")])
        self.assertEqual(booked("DTSTART:20260303T090000\r\nDURATION:PT1H"), [("Tue 09:00", "Tue 10:00")])

    def test_what_is_cancelled_or_transparent_leaves_the_room_free(self) -> None:
        event = "DTSTART:20260303T090000Z\r\nDURATION:PT1H\r\n"
        self.assertEqual(booked(f"{event}STATUS:CANCELLED", f"{event}TRANSP:TRANSPARENT"), [])

    def test_only_what_lies_between_the_moments_is_told(self) -> None:
        long = "DTSTART:20260220T090000Z\r\nDTEND:20260403T090000Z"
        self.assertEqual(booked(long, begin=march(3, 12), end=march(4, 12)), [("Tue 12:00", "Wed 12:00")])

    def test_what_is_no_calendar_is_refused_with_the_reason(self) -> None:
        often = "DTSTART:20260303T090000Z\r\nRRULE:FREQ=SECONDLY"
        for raw, words in (
            (b"", "not a calendar"),
            (b"<html>", "not a calendar"),
            (b"\xff\xfe\x00", "not a calendar"),
            (EVENT.format(1, "DTSTART:20260303T090000Z").encode(), "not a calendar"),
            (calendar("DURATION:PT1H"), "Grade: no start time"),
            (calendar(often), "Grade: it comes secondly"),
            (calendar("DTSTART:2026-03-03 at nine"), ""),
            (calendar("DTSTART:99991231T235959Z\r\nDURATION:P99999999W"), "time of an event is invalid"),
            (calendar("DTSTART;TZID=Europe:20260303T090000"), "unknown time zone"),
            (calendar(f"DTSTART;TZID=Europe/{'a' * 400}:20260303T090000"), "unknown time zone"),
            (b"x" * (LIMIT_BYTES + 1), "at most"),
        ):
            with self.subTest(raw[:40]), self.assertRaisesRegex(DocumentError, words):
                bookings(raw, "pan.ics", march(2), march(9), ZONE)
