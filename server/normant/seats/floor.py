"""Seats as the floor draws them."""

import datetime as dt
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from django.conf import settings
from django.db.models import Case, Count, F, OuterRef, QuerySet, Subquery, Value, When, Window
from django.db.models.functions import Coalesce
from django.utils import timezone

from normant.common.seen import seen_of

from .models import Presence, Room, Seat
from .querysets import SeatQuerySet

CLOCKS_DIFFER = dt.timedelta(minutes=2)
LAST = 1_000_000  # the place of rooms that nobody arranged
_PLAN = ("name", "role", "production", "off_norm", "presence")
_COLUMNS = ("name", "role", "room", "production", "hardware_class", "tags", "retired_at", "levels", "off_norm")


def seats_on_floor(seats: SeatQuerySet) -> Iterator[dict[str, Any]]:
    """One object for each seat, from one query; `presence` is silent, here or never."""
    moments = ("presence__seen_at", "presence__taken_at", "presence__idle_seconds")
    for row in _placed(seats).values_list(*_COLUMNS, *moments):
        yield _object(row[: len(_COLUMNS)], *row[len(_COLUMNS) :])


def rooms_on_floor(seats: SeatQuerySet) -> list[dict[str, Any]]:
    """The plan: every room with its seats in their places, and of each seat what finds and counts it."""
    presence = Case(  # as presence_word says: ten thousand moments are sooner compared than read
        When(presence__seen_at__lt=silent_since(), then=Value("silent")),
        When(presence__seen_at=None, then=Value("never")),
        default=Value("here"),
    )
    rooms: dict[str, list[dict[str, Any]]] = {}
    placed = seats.annotate(heard=presence).order_by("position", "name")
    for room, *row in placed.values_list("room", *_PLAN[:-1], "heard"):
        rooms.setdefault(room, []).append(dict(zip(_PLAN, row, strict=True)))
    places = dict(Room.objects.values_list("name", "position"))
    names = sorted(rooms, key=lambda name: (places.get(name, LAST), -len(rooms[name]), name))
    return [{"name": name, "seats": rooms[name]} for name in names]


def seen_floor(rooms: Iterable[Mapping[str, Any]] | None = None) -> str:
    """What somebody who read the plan has seen of who stands where."""
    read = rooms_on_floor(Seat.objects.active()) if rooms is None else rooms
    return seen_of([[room["name"], [seat["name"] for seat in room["seats"]]] for room in read])


def places_of() -> list[str]:
    """The names of all seats as they stand on the floor, room by room."""
    return [seat["name"] for room in rooms_on_floor(Seat.objects.active()) for seat in room["seats"]]


def _placed(seats: SeatQuerySet) -> SeatQuerySet:
    """In the order of the floor: rooms as they were arranged, then the largest."""
    place = Room.objects.filter(name=OuterRef("room")).values("position")[:1]
    largest = Window(Count("pk"), partition_by=[F("room")])
    placed: SeatQuerySet = seats.annotate(place=Coalesce(Subquery(place), LAST), size=largest)
    return placed.order_by("place", "-size", "room", "position", "name")


def seat_on_floor(seat: Seat) -> dict[str, Any]:
    """The same of one seat that was read with its presence."""
    presence = getattr(seat, "presence", None) or Presence()
    columns = [getattr(seat, column) for column in _COLUMNS]
    return _object(columns, presence.seen_at, presence.taken_at, presence.idle_seconds)


def _object(
    columns: Iterable[Any], seen_at: dt.datetime | None, taken_at: dt.datetime | None, idle_seconds: int | None
) -> dict[str, Any]:
    return {
        **dict(zip(_COLUMNS, columns, strict=True)),
        "seen_at": seen_at,
        "taken_at": taken_at,
        "idle_seconds": idle_seconds,
        "presence": presence_word(seen_at),
    }


def clock_behind(seat: Seat) -> int | None:
    """By how many seconds the clock of a seat with an agent is behind; None where it is right, or not known.

    An agent hands in what it kept first and what it just read last, so the newest survey came when it was taken.
    """
    presence: Presence | None = getattr(seat, "presence", None)
    if not presence or not presence.token_digest or not presence.seen_at or not presence.taken_at:
        return None
    behind = presence.seen_at - presence.taken_at
    return int(behind.total_seconds()) if behind > CLOCKS_DIFFER else None


def presence_word(seen_at: dt.datetime | None, silent: dt.datetime | None = None) -> str:
    """Whether a seat is here, `silent` (not heard since then) or was never heard."""
    return "never" if seen_at is None else "silent" if seen_at < (silent or silent_since()) else "here"


def silent_since() -> dt.datetime:
    """The moment after which a seat must have been heard: three heartbeats ago."""
    return timezone.now() - 3 * dt.timedelta(seconds=settings.NORMANT.heartbeat_seconds)


def is_heard(seat: Seat) -> bool:
    """Whether a seat that was read with its presence is here now."""
    presence: Presence | None = getattr(seat, "presence", None)
    return presence_word(presence.seen_at if presence else None) == "here"


def silent_presences() -> QuerySet[Presence]:
    """Of seats that were here and are not now, the one that was here longest ago first."""
    return Presence.objects.filter(seen_at__lt=silent_since(), seat__retired_at=None).order_by("seen_at")
