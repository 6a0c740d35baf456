"""When a room is booked: its calendar (iCalendar, RFC 5545) as spans of time, recurring events included."""

import datetime as dt
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from ..base.errors import DocumentError, Fault
from .waves import Span, merged

if TYPE_CHECKING:
    import icalendar

LIMIT_BYTES = 1024 * 1024
_TOO_OFTEN = {"SECONDLY", "MINUTELY", "HOURLY"}  # nobody books a room so; unfolding it would take for ever


def bookings(raw: bytes, source: str, begin: dt.datetime, end: dt.datetime, zone: dt.tzinfo) -> tuple[Span, ...]:
    """When the room is booked between two moments, in order, none touching the next.

    Events that are cancelled or transparent leave the room free; those of whole days last from midnight to midnight in
    `zone`, as do those without a zone of their own. How long it takes is up to who wrote the calendar: a few bytes can
    take hours. Raises DocumentError with what is wrong and in which event.
    """
    calendar = _read(raw, source)
    try:
        return _spans(calendar, begin, end, zone)
    except (ValueError, TypeError, AttributeError, KeyError, OverflowError) as fault:
        raise DocumentError(source, [Fault(f"the time of an event is invalid: {fault}")]) from fault


def _read(raw: bytes, source: str) -> "icalendar.Calendar":
    if len(raw) > LIMIT_BYTES:
        raise DocumentError(source, [Fault(f"a calendar has at most {LIMIT_BYTES:,} bytes")])
    import icalendar  # noqa: PLC0415 (heavy, and needed where a calendar is read only)

    try:
        calendar = icalendar.Calendar.from_ical(raw)
    except (ValueError, IndexError, KeyError, UnicodeDecodeError) as fault:
        expected = "iCalendar, which begins with BEGIN:VCALENDAR"
        raise DocumentError(source, [Fault(f"not a calendar: {fault}", expected=expected)]) from fault
    except OSError as fault:  # zones are looked up as files; its words would tell where
        unknown = Fault("unknown time zone", expected="as Europe/Lisbon")
        raise DocumentError(source, [unknown]) from fault
    if not isinstance(calendar, icalendar.Calendar):
        raise DocumentError(source, [Fault("not a calendar", expected="one that begins with BEGIN:VCALENDAR")])
    if faults := [Fault(message) for message in _faults(calendar)]:
        raise DocumentError(source, faults)
    return calendar


def _spans(calendar: "icalendar.Calendar", begin: dt.datetime, end: dt.datetime, zone: dt.tzinfo) -> tuple[Span, ...]:
    spans = list[Span]()
    import recurring_ical_events  # type: ignore[import-untyped] # noqa: PLC0415 (heavy, as above)

    for event in recurring_ical_events.of(calendar).between(begin.astimezone(zone), end.astimezone(zone)):
        if str(event.get("STATUS", "")).upper() == "CANCELLED" or str(event.get("TRANSP", "")).upper() == "TRANSPARENT":
            continue
        first, last = _from_until(event, zone)
        if first < last:
            spans.append((max(first, begin), min(last, end)))
    return tuple(merged(spans))


def _from_until(event: Any, zone: dt.tzinfo) -> Span:
    start, until = event["DTSTART"].dt, event["DTEND"].dt
    if not isinstance(start, dt.datetime) and until <= start:
        until = start + dt.timedelta(days=1)  # a day without an end is that day
    return _moment(start, zone), _moment(until, zone)


def _moment(moment: dt.date, zone: dt.tzinfo) -> dt.datetime:
    if not isinstance(moment, dt.datetime):
        return dt.datetime(moment.year, moment.month, moment.day, tzinfo=zone)
    return moment if moment.tzinfo else moment.replace(tzinfo=zone)


def _faults(calendar: "icalendar.Calendar") -> Iterator[str]:
    for event in calendar.walk("VEVENT"):
        name = str(event.get("SUMMARY", "an event without a name"))[:80]
        if "DTSTART" not in event:
            yield f"{name}: no start time"
        if often := _TOO_OFTEN & _frequencies(event):
            yield f"{name}: it comes {min(often).lower()}, which is not supported for bookings"


def _frequencies(event: "icalendar.cal.Component") -> set[str]:
    """How often an event comes again, by each of its rules."""
    rules = event.get("RRULE") or []
    listed = rules if isinstance(rules, list) else [rules]
    return {str(part).upper() for rule in listed for part in rule.get("FREQ", ())}
