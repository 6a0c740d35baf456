"""The calendars of rooms."""

from django.db import transaction

from normant.accounts.models import User
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.seats.models import Seat
from normant_core.booked import read_calendar

from ..models import Calendar, Rollout
from .advance import advance_soon


@transaction.atomic
def keep_calendar(room: str, raw: bytes, name: str, user: User) -> Calendar:
    """From now on this says when the room is booked. Raises Problem for a room without seats, else DocumentError."""
    if not Seat.objects.active().filter(room=room).exists():
        raise Problem(404, "No such room", f"no seat stands in a room {room!r}")
    read_calendar(raw, name)
    told = {"name": name[:200], "text": raw.decode("utf-8-sig", errors="replace"), "kept_by": user.username}
    kept, _ = Calendar.objects.update_or_create(room=room, defaults=told)
    record(user.username, "keep calendar", room, file=name[:200])
    _go_on()
    return kept


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
    for rollout in Rollout.objects.filter(state="running").values_list("pk", flat=True):
        advance_soon(rollout)
