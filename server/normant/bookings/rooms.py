"""When rooms are booked.

A calendar is unfolded once for the time to come, apart (`unfolding`), and its bookings are kept: a rollout asks at each
of its steps.
"""

import datetime as dt
import logging
from collections.abc import Iterable, Iterator, Mapping
from typing import Any, NamedTuple
from urllib.parse import urlsplit

from django.conf import settings
from django.utils import timezone

from normant.common.local_time import local_words
from normant.seats.models import Seat
from normant_core.base.errors import DocumentError
from normant_core.rollout.schedule import HORIZON
from normant_core.rollout.waves import Span

from .models import Calendar
from .unfolding import unfolded

log = logging.getLogger(__name__)
SOON = dt.timedelta(minutes=2)  # a seat that would be in the middle of it when the booking begins does not begin
AHEAD = dt.timedelta(days=60)  # unfolded beyond what is asked for, so that it need not be again each day
SHOWN = 3  # bookings of a room that are told one by one


def booked_rooms(rooms: Iterable[str], begin: dt.datetime) -> dict[str, tuple[Span, ...]]:
    """When these rooms are booked in the two weeks from a moment on; rooms without a calendar are free."""
    until = begin + HORIZON
    rows = Calendar.objects.filter(room__in={*rooms}).defer("text")
    return {calendar.room: tuple(_between(_spans(calendar, until), begin, until)) for calendar in rows}


def _between(spans: Iterable[Span], begin: dt.datetime, until: dt.datetime) -> Iterator[Span]:
    return ((first, min(last, until)) for first, last in spans if last > begin and first < until)


def why_booked(room: str, booked: Mapping[str, tuple[Span, ...]], now: dt.datetime) -> str:
    """`Pan House is booked until 18:00`; empty where it is free now, and for the time that a seat takes."""
    booking = next((span for span in booked.get(room, ()) if span[0] <= now + SOON and span[1] > now), None)
    return f"{room} is booked until {local_words(booking[1], now)}" if booking else ""


def calendars() -> list[dict[str, Any]]:
    """Every room with seats, with what its calendar says of the next two weeks."""
    now = timezone.now()
    rooms = Seat.objects.active().exclude(room="").order_by("room").values_list("room", flat=True).distinct()
    by_room = {calendar.room: calendar for calendar in Calendar.objects.defer("text")}
    booked = booked_rooms(by_room, now)
    return [_calendar_object(room, by_room.get(room), booked.get(room, ())) for room in rooms]


def _calendar_object(room: str, calendar: Calendar | None, booked: tuple[Span, ...]) -> dict[str, Any]:
    hours = sum((end - begin for begin, end in booked), dt.timedelta()) / dt.timedelta(hours=1)
    return {
        "room": room,
        "file": calendar.name if calendar else None,
        "address": f"{urlsplit(calendar.address).hostname}/…" if calendar and calendar.address else "",
        "fault": calendar.fault if calendar else "",
        "kept_by": calendar.kept_by if calendar else None,
        "kept_at": calendar.kept_at if calendar else None,
        "hours": round(hours, 1),
        "next": [{"begins": begin, "ends": end} for begin, end in booked[:SHOWN]],
    }


def _spans(calendar: Calendar, until: dt.datetime) -> tuple[Span, ...]:
    if not calendar.unfolded_until or calendar.unfolded_until < until or calendar.unfolded_zone != settings.TIME_ZONE:
        _unfold_again(calendar, until)
    return tuple(
        (dt.datetime.fromisoformat(first), dt.datetime.fromisoformat(last)) for first, last in calendar.bookings
    )


def _unfold_again(calendar: Calendar, until: dt.datetime) -> None:
    text = calendar.text
    try:
        bookings = unfolded_bookings(text.encode(), calendar.name, until)
    except DocumentError as fault:  # no rollout stands still for it, and what is known of it counts on
        log.warning(
            "a calendar cannot be read; its room counts as free",
            extra={"room": calendar.room, "reason": str(fault)},
        )
        bookings = Unfolded(calendar.bookings, until + AHEAD, settings.TIME_ZONE)
        calendar.fault = f"later bookings are unknown and the room counts as free: {fault}"[:300]
    for name, value in bookings._asdict().items():
        setattr(calendar, name, value)
    Calendar.objects.filter(pk=calendar.pk, text=text).update(**bookings._asdict(), fault=calendar.fault)


class Unfolded(NamedTuple):
    """The columns of a calendar that say when its room is booked, and until when and in which zone that was asked."""

    bookings: list[tuple[str, str]]
    unfolded_until: dt.datetime
    unfolded_zone: str


def unfolded_bookings(raw: bytes, source: str, until: dt.datetime | None = None) -> Unfolded:
    """From yesterday until long after that moment, or after the next two weeks. Raises DocumentError."""
    now = timezone.now()
    last = (until or now + HORIZON) + AHEAD
    spans = unfolded(raw, source, now - dt.timedelta(days=1), last, settings.TIME_ZONE)
    return Unfolded([(first.isoformat(), end.isoformat()) for first, end in spans], last, settings.TIME_ZONE)
