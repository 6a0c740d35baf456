"""When rooms are booked."""

import datetime as dt
from collections.abc import Iterable, Mapping
from functools import lru_cache
from typing import Any
from urllib.parse import urlsplit

import structlog
from django.utils import timezone

from normant.seats.models import Seat
from normant_core.booked import UNPLACED, read_calendar, spans
from normant_core.schedule import HORIZON
from normant_core.waves import Span

from .models import Calendar

log = structlog.get_logger()
SOON = dt.timedelta(minutes=2)  # a seat that would be in the middle of it when the booking begins does not begin
SHOWN = 3  # bookings of a room that are told one by one


def booked_rooms(rooms: Iterable[str], begin: dt.datetime) -> dict[str, tuple[Span, ...]]:
    """When these rooms are booked in the two weeks from a moment on; rooms without a calendar are free."""
    hour = begin.replace(minute=0, second=0, microsecond=0)
    kept = Calendar.objects.filter(room__in={*rooms})
    return {one.room: tuple(span for span in _spans(one.text, hour) if span[1] > begin) for one in kept}


def why_booked(room: str, booked: Mapping[str, tuple[Span, ...]], now: dt.datetime) -> str:
    """`Pan House is booked until 18:00`; empty where it is free now, and for the time that a seat takes."""
    found = next((span for span in booked.get(room, ()) if span[0] <= now + SOON and span[1] > now), None)
    return f"{room} is booked until {timezone.localtime(found[1]):%a %H:%M}" if found else ""


def calendars() -> list[dict[str, Any]]:
    """Every room with seats, with what its calendar says of the next two weeks."""
    now = timezone.now()
    rooms = Seat.objects.active().exclude(room="").order_by("room").values_list("room", flat=True).distinct()
    kept = {one.room: one for one in Calendar.objects.all()}
    booked = booked_rooms(kept, now)
    return [_told(room, kept.get(room), booked.get(room, ())) for room in rooms]


def _told(room: str, kept: Calendar | None, booked: tuple[Span, ...]) -> dict[str, Any]:
    hours = sum((end - begin for begin, end in booked), dt.timedelta()) / dt.timedelta(hours=1)
    return {
        "room": room,
        "file": kept.name if kept else None,
        "address": f"{urlsplit(kept.address).hostname}/…" if kept and kept.address else "",
        "fault": kept.fault if kept else "",
        "kept_by": kept.kept_by if kept else None,
        "kept_at": kept.kept_at if kept else None,
        "hours": round(hours, 1),
        "next": [{"begins": begin, "ends": end} for begin, end in booked[:SHOWN]],
    }


@lru_cache(maxsize=256)
def _spans(text: str, hour: dt.datetime) -> tuple[Span, ...]:
    """Unfolded once an hour: a rollout asks at each of its steps."""
    zone = timezone.get_current_timezone()
    try:
        return spans(read_calendar(text.encode()), hour, hour + HORIZON + dt.timedelta(hours=1), zone)
    except UNPLACED as fault:  # not among those that were tried when it was brought: no rollout stands still for it
        log.warning("a calendar cannot be unfolded; its room counts as free", reason=str(fault))
        return ()
