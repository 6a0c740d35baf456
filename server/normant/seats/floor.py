"""Seats as the floor draws them."""

import datetime as dt
from collections.abc import Iterator
from typing import Any

from django.conf import settings
from django.db.models import Count, F, OuterRef, Subquery, Window
from django.db.models.functions import Coalesce
from django.utils import timezone

from .models import Presence, Room
from .querysets import SeatQuerySet

LAST = 1_000_000  # the place of rooms that nobody arranged
_COLUMNS = ("name", "role", "room", "production", "hardware_class", "tags", "retired_at", "levels", "off_norm")


def seats_on_floor(seats: SeatQuerySet) -> Iterator[dict[str, Any]]:
    """One object for each seat, from one query; `presence` is silent, here or never."""
    moments = ("presence__seen_at", "presence__taken_at", "presence__idle_seconds")
    place = Room.objects.filter(name=OuterRef("room")).values("position")[:1]
    largest = Window(Count("pk"), partition_by=[F("room")])
    placed = seats.annotate(place=Coalesce(Subquery(place), LAST), size=largest)
    for row in placed.order_by("place", "-size", "room", "position", "name").values(*_COLUMNS, *moments):
        seen = row.pop("presence__seen_at")
        yield {
            **{column: row[column] for column in _COLUMNS},
            "seen_at": seen,
            "taken_at": row["presence__taken_at"],
            "idle_seconds": row["presence__idle_seconds"],
            "presence": presence_word(seen),
        }


def presence_word(seen_at: dt.datetime | None) -> str:
    """A seat is silent when three heartbeats went by without a word."""
    if seen_at is None:
        return "never"
    silent = timezone.now() - seen_at > 3 * dt.timedelta(seconds=settings.NORMANT_HEARTBEAT)
    return "silent" if silent else "here"


def silent_seats() -> list[tuple[str, dt.datetime]]:
    """Seats that were here and are not now, with when they last were."""
    since = timezone.now() - 3 * dt.timedelta(seconds=settings.NORMANT_HEARTBEAT)
    found = Presence.objects.filter(seen_at__lt=since, seat__retired_at=None).order_by("seen_at")
    return [(name, seen) for name, seen in found.values_list("seat__name", "seen_at") if seen]
