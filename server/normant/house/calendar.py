"""A calendar feed (iCalendar, RFC 5545): ends of waivers, and editions and rollouts that begin at a time.

Calendars can send no token: the address itself is the key. It is signed, and dies with the
person's password, or when all their sessions are ended.
"""

import datetime as dt
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from django.core.signing import BadSignature, Signer
from django.db.models import Count, Min
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Schema

from normant.accounts.auth import Needs, person
from normant.accounts.models import User, hashed
from normant.accounts.permissions import Permission
from normant.common.lists import plain
from normant.common.numbers import is_number
from normant.common.problems import Problem, respond
from normant.findings.models import Waiver
from normant.findings.services.waive import waiver_subject
from normant.rollouts.models import Rollout
from normant.standards.models import Draft
from normant_core.base.wording import counted

if TYPE_CHECKING:
    from icalendar import Event

router = Router(tags=["calendar"])
_signer = Signer(salt="normant.calendar")


class CalendarOut(Schema):
    """The address of a person's feed."""

    address: str


@router.get(
    "/calendar", response=CalendarOut, operation_id="calendar", auth=Needs(Permission.SEE_HOUSE, in_person=True)
)
def address(request: HttpRequest) -> Any:
    """Return your calendar feed. Anybody with its address can read it."""
    return plain({"address": f"/calendar/{_key(person(request))}.ics"})


def feed(request: HttpRequest, key: str) -> HttpResponse:
    """`/calendar/KEY.ics`."""
    if not _is_somebodys(key):
        return respond(Problem(404, "No such calendar", "this address is wrong, or was withdrawn"))
    from icalendar import Calendar  # noqa: PLC0415 (heavy, and needed here only)

    calendar = Calendar()
    calendar.add("prodid", "-//Normant//house//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", "Normant")
    for event in _events():
        calendar.add_component(event)
    return HttpResponse(calendar.to_ical(), content_type="text/calendar; charset=utf-8")


def _events() -> Iterator["Event"]:
    for waiver in Waiver.objects.holding(timezone.now()).filter(ends_at__isnull=False):
        assert waiver.ends_at
        yield _event(f"waiver-{waiver.pk}", waiver.ends_at, f"Waiver ends: {waiver_subject(waiver)}", waiver.reason)
    for draft in Draft.objects.filter(ended_at=None, publish_at__isnull=False):
        assert draft.publish_at
        yield _event(f"draft-{draft.pk}", draft.publish_at, "New edition of the standard", draft.note)
    yield from _rollouts()


def _rollouts() -> Iterator["Event"]:
    """Those that wait for their hour."""
    waiting = (
        Rollout.objects.filter(state=Rollout.State.RUNNING)
        .annotate(turn=Min("legs__not_before"))
        .filter(turn__gt=timezone.now())
    )
    for rollout in waiting.annotate(seats=Count("legs")):
        seats = counted(rollout.seats, "seat")
        yield _event(f"rollout-{rollout.pk}", rollout.turn, f"Rollout starts: {rollout.title}", seats)


def _event(name: str, at: dt.datetime, summary: str, description: str) -> "Event":
    from icalendar import Event  # noqa: PLC0415 (heavy, and needed here only)

    event = Event()
    event.add("uid", f"{name}@normant")
    event.add("dtstamp", timezone.now())
    event.add("dtstart", at.astimezone(dt.UTC))
    event.add("duration", dt.timedelta(minutes=15))
    event.add("summary", summary)
    event.add("description", description)
    return event


def _key(user: User) -> str:
    return _signer.sign(f"{user.pk}-{hashed(user.let_in)[:16]}")


def _is_somebodys(key: str) -> bool:
    try:
        pk, _, of = _signer.unsign(key).partition("-")
    except BadSignature:
        return False
    user = User.objects.filter(pk=pk, is_active=True).first() if is_number(pk) else None
    return user is not None and user.may(Permission.SEE_HOUSE) and hashed(user.let_in)[:16] == of
