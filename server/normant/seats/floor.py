"""Seats as the floor draws them."""

import datetime as dt
from collections.abc import Iterator
from typing import Any

from django.conf import settings
from django.utils import timezone

from .models import Presence
from .querysets import SeatQuerySet

_COLUMNS = ("name", "role", "room", "production", "hardware_class", "levels", "off_norm")


def seats_on_floor(seats: SeatQuerySet) -> Iterator[dict[str, Any]]:
    """One object for each seat, from one query; `presence` is silent, here or never."""
    moments = ("presence__seen_at", "presence__taken_at", "presence__idle_seconds")
    for row in seats.values(*_COLUMNS, *moments):
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
    found = Presence.objects.filter(seen_at__lt=since).order_by("seen_at")
    return [(name, seen) for name, seen in found.values_list("seat__name", "seen_at") if seen]
