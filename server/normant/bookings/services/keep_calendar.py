"""The calendars of rooms."""

from typing import Any
from urllib.parse import urlsplit

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.later import after_commit
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.seats.models import Seat
from normant_core.base.errors import DocumentError

from ..fetching import NotFetched, fetched
from ..models import Calendar
from ..rooms import unfolded_bookings


def keep_calendar(room: str, raw: bytes, name: str, user: User) -> None:
    """From now on this says when the room is booked. Raises Problem for a room without seats, else DocumentError."""
    _check_room(room)
    fields = {"name": name[:200], "kept_by": user.username, "address": "", "fault": "", **_columns(raw, name)}
    with transaction.atomic():
        Calendar.objects.update_or_create(room=room, defaults=fields)
        record(user.username, "keep calendar", room, file=name[:200])
        _go_on()


def follow_calendar(room: str, address: str, user: User) -> None:
    """From now on what is at this address says when the room is booked; it is fetched at once. Raises Problem."""
    _check_room(room)
    try:
        raw = fetched(address)
    except NotFetched as fault:
        raise Problem(422, "Not fetched", str(fault)) from fault
    host = host_of(address)  # the rest of such an address is a secret
    fields = {"name": host[:200], "kept_by": user.username, "address": address, "fault": "", **_columns(raw, host)}
    with transaction.atomic():
        Calendar.objects.update_or_create(room=room, defaults=fields)
        record(user.username, "follow calendar", room, host=host)
        _go_on()


def _check_room(room: str) -> None:
    if not Seat.objects.active().filter(room=room).exists():
        raise Problem(404, "No such room", f"no seats in room {room!r}")


def _columns(raw: bytes, name: str) -> dict[str, Any]:
    """Raises DocumentError."""
    return {"text": _text(raw), **unfolded_bookings(raw, name)._asdict()}


def fetch_again(room: str) -> None:
    """Fetch a calendar that is followed; what cannot be fetched, or read, leaves the last one, with the reason."""
    calendar = Calendar.objects.exclude(address="").filter(room=room).first()
    if calendar is None:
        return
    try:
        raw = fetched(calendar.address)
        columns, fault = _columns(raw, calendar.name) if _text(raw) != calendar.text else {}, ""
    except (NotFetched, DocumentError) as why:
        columns, fault = {}, str(why)[:300]
    with transaction.atomic():
        now = timezone.now()
        Calendar.objects.filter(pk=calendar.pk, address=calendar.address).update(**columns, fault=fault, kept_at=now)
        if fault and not calendar.fault:
            record("server", "calendar not fetched", room, host=host_of(calendar.address), why=fault)
        if columns:
            _go_on()


def host_of(address: str) -> str:
    """What may be told of an address that is a secret as a whole."""
    return urlsplit(address).hostname or ""


def _text(raw: bytes) -> str:
    return raw.decode("utf-8-sig", errors="replace")


@transaction.atomic
def forget_calendar(room: str, user: User) -> None:
    """The room counts as free. Raises Problem where it has no calendar."""
    gone, _ = Calendar.objects.filter(room=room).delete()
    if not gone:
        raise Problem(404, "No calendar", f"{room} has no calendar")
    record(user.username, "forget calendar", room)
    _go_on()


def _go_on() -> None:
    """What waited for a booking that is gone may begin."""
    after_commit("rollouts.sweep", once="sweep")
