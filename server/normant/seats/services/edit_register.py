"""Changing the register: by table, in bulk, by hand on the floor, and when a machine goes."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from typing import Any

from django.db import transaction
from django.utils import timezone

from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.seen import need_seen
from normant.ledger.services.record import record
from normant_core.base.errors import Fault
from normant_core.seat.register import Line

from ..floor import seen_floor
from ..models import Presence, Room, Seat
from .enrol import offer_enrolment, spend_codes

PLACE = ("role", "room", "production", "hardware_class", "tags")


def would_change(lines: Iterable[Line]) -> Iterator[dict[str, Any]]:
    """What each line of a table would do: `{"row", "seat", "new", "changes": [{"column", "before", "after"}]}`."""
    known = Seat.objects.in_bulk(field_name="name")
    for line in lines:
        seat = known.get(line.seat)
        before = {column: getattr(seat, column) if seat else _empty(column) for column in PLACE}
        changes = [
            {"column": column, "before": _cell(before[column]), "after": _cell(value)}
            for column, value in _columns_of(line).items()
            if value != before[column]
        ]
        yield {"row": line.row, "seat": line.seat, "new": seat is None, "changes": changes}


def retired_faults(lines: Iterable[Line]) -> list[Fault]:
    """Lines that speak of seats which are not on the floor any more."""
    gone = dict(Seat.objects.exclude(retired_at=None).values_list("name", "retired_at"))
    return [
        Fault(
            f"{line.seat} was retired on {gone[line.seat]:%d %b %Y}",
            path="seat",
            line=line.row,
            column=1,
            expected="a seat on the floor, or a new name",
        )
        for line in lines
        if line.seat in gone
    ]


@transaction.atomic
def take_lines(lines: Sequence[Line], actor: str) -> list[int]:
    """Bring the register to what a table says, all of it; the seats that changed."""
    lock("register")
    changed = list[int]()
    for line, step in zip(lines, list(would_change(lines)), strict=True):
        if step["new"] or step["changes"]:
            seat, _ = Seat.objects.update_or_create(name=line.seat, defaults=_columns_of(line))
            record(actor, "register seat", seat.name, **{c["column"]: c["after"] for c in step["changes"]})
            tell("seat", seat.name)
            changed.append(seat.pk)
    return changed


@transaction.atomic
def edit_seats(
    seats: Collection[Seat], changes: Mapping[str, str], tags: tuple[list[str], list[str]], actor: str
) -> None:
    """Set columns of several seats, and add and take away tags."""
    added, taken = tags
    for seat in Seat.objects.select_for_update().filter(pk__in=[seat.pk for seat in seats]).order_by("name"):
        seat.tags = list(dict.fromkeys([*(tag for tag in seat.tags if tag not in taken), *added]))
        for column, value in changes.items():
            setattr(seat, column, value)
        seat.save(update_fields=["tags", *changes])
        record(actor, "register seat", seat.name, **changes, tags=seat.tags)
        tell("seat", seat.name)


@transaction.atomic
def retire(seat: Seat, actor: str, *, reason: str) -> None:
    """Take a seat off the floor: its agent may not speak any more, its history stays."""
    Presence.objects.filter(seat=seat).delete()
    spend_codes(seat)
    seat.retired_at = timezone.now()
    seat.save(update_fields=["retired_at"])
    record(actor, "retire seat", seat.name, reason=reason)
    tell("seat", seat.name)


@transaction.atomic
def replace(seat: Seat, actor: str, *, reason: str) -> tuple[Seat, str]:
    """A new machine takes over the seat's place; the old one's history stays under a name of its own.

    The new seat, and a one-time code for its agent.
    """
    name = seat.name
    seat.name = _former(name)
    seat.save(update_fields=["name"])
    retire(seat, actor, reason=reason)
    place = {column: getattr(seat, column) for column in ("role", "room", "production", "tags", "position")}
    fresh = Seat.objects.create(name=name, **place)
    record(actor, "replace seat", name, former=seat.name, reason=reason)
    tell("seat", name)
    return fresh, offer_enrolment(fresh, actor)


@transaction.atomic
def arrange(rooms: Sequence[tuple[str, Sequence[str]]], actor: str, *, seen: str | None = None) -> list[int]:
    """Rooms in their order, and the seats in each, in place of the floor that was `seen` (None: whichever there is).

    The seats that moved to another room. Raises Problem."""
    lock("register")
    if seen is not None:
        need_seen(seen, seen_floor(), "the floor")
    known = {seat.name: seat for seat in Seat.objects.active().select_for_update()}
    names = [name for _, seats in rooms for name in seats]
    if unknown := [name for name in names if name not in known]:
        raise Problem(422, "Not arranged", f"there is no seat {unknown[0]}")
    if len(set(names)) < len(names) or len({room for room, _ in rooms}) < len(rooms):
        raise Problem(422, "Not arranged", "a seat or room is listed twice")
    Room.objects.all().delete()
    Room.objects.bulk_create(Room(name=room, position=place) for place, (room, _) in enumerate(rooms))
    moved = [known[name].pk for room, seats in rooms for name in seats if known[name].room != room]
    for room, seats in rooms:
        for place, name in enumerate(seats):
            known[name].room, known[name].position = room, place
    Seat.objects.bulk_update([known[name] for name in names], ["room", "position"])
    record(actor, "arrange floor", f"{len(rooms)} rooms", moved=[s.name for s in known.values() if s.pk in moved])
    tell("seat", "floor")
    return moved


def _columns_of(line: Line) -> dict[str, Any]:
    columns: dict[str, Any] = dict(line.columns)
    if line.tags is not None:
        columns["tags"] = line.tags
    return columns


def _empty(column: str) -> str | list[str]:
    return [] if column == "tags" else ""


def _cell(value: str | list[str]) -> str:
    return ", ".join(value) if isinstance(value, list) else value


def _former(name: str) -> str:
    taken = set(Seat.objects.filter(name__startswith=f"{name[:48]}.former-").values_list("name", flat=True))
    return next(former for number in range(1, 10_000) if (former := f"{name[:48]}.former-{number}") not in taken)
