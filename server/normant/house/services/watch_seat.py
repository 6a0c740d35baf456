"""Asking a seat for an application's preference files, as they are now."""

import datetime as dt
from collections.abc import Mapping
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.problems import Problem
from normant.dialects.models import Dialect
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.orders.services.issue import issue_send_files
from normant.proposals.models import Proposal
from normant.proposals.services.propose import Wanted, propose
from normant.seats.models import Seat

APPROVED_FOR = dt.timedelta(minutes=30)  # a lesson looks at a seat several times


@transaction.atomic
def watch_or_propose(seat: Seat, app: str, user: User) -> Order | Proposal:
    """Ask it, or have that wait for a second person, whose word holds for half an hour. Raises Problem."""
    if not Dialect.objects.filter(app=app).exists():
        raise Problem(404, "No such dialect", f"there is no dialect of {app}: add one first")
    if not settings.NORMANT.second_person or _approved(seat, app, user):
        return _watch(seat, app, user)
    lines = [f"{seat.name} sends the preference files of {app}, with what looks like a secret hidden"]
    return propose(user, Wanted("watch_seat", seat.name, lines, {"seat": seat.name, "app": app}))


def watch_proposed(body: Mapping[str, Any], user: User) -> None:
    """A second person agreed: it is asked for once, and again where a lesson goes on."""
    seat = Seat.objects.active().filter(name=body["seat"]).first()
    if seat is None:
        raise Problem(409, "No such seat", f"there is no seat {body['seat']} any more")
    _watch(seat, body["app"], user)


def _watch(seat: Seat, app: str, user: User) -> Order:
    order = issue_send_files(seat, app)
    record(user.username, "watch seat", seat.name, app=app, order=str(order.pk))
    return order


def _approved(seat: Seat, app: str, user: User) -> bool:
    lately = Proposal.objects.filter(decided_at__gt=timezone.now() - APPROVED_FOR, approved=True, made_by=user)
    return lately.filter(kind="watch_seat", body={"seat": seat.name, "app": app}).exists()
