"""Productions all of whose projects are looked through each night."""

from django.db import transaction

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.seats.models import Seat

from ..models import NightlyLook

MOST = 100


@transaction.atomic
def begin_nightly(production: str, storage: str, user: User) -> NightlyLook:
    """From the next night on. Raises Problem where no seat is of that production, or it is looked at already."""
    lock("project")
    if not Seat.objects.active().filter(production=production).exists():
        raise Problem(422, "No such production", f"no seat is booked on {production}")
    if NightlyLook.objects.filter(production=production).exists():
        raise Problem(409, "Looked at already", f"the projects of {production} are already scanned every night")
    if NightlyLook.objects.count() >= MOST:
        raise Problem(409, "Too many", f"at most {MOST} productions can be scanned every night")
    look = NightlyLook.objects.create(production=production, storage=storage, made_by=user)
    record(user.username, "look each night", production, storage=storage)
    tell("project", "nightly")
    return look


@transaction.atomic
def end_nightly(look: NightlyLook, user: User) -> None:
    """No night more."""
    look.delete()
    record(user.username, "end nightly look", look.production)
    tell("project", "nightly")
