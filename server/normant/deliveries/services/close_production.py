"""Saying that a production has ended, and that it goes on after all."""

from collections.abc import Mapping
from typing import Any

from django.conf import settings
from django.db import IntegrityError, transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.later import after_commit
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.findings.services.waive import end_production
from normant.ledger.services.record import record
from normant.proposals.models import Proposal
from normant.proposals.services.propose import Wanted, propose
from normant.seats.models import Seat
from normant_core.care.deliveries import name_key

from ..models import EndedProduction


def close_or_propose(name: str, user: User) -> Proposal | None:
    """Close it, or where the house asks for a second person, have it wait for one. Raises Problem."""
    if not settings.NORMANT.second_person:
        close_production(name, user)
        return None
    _check(name)
    lines = [f"{name} has ended: clean-ups delete its files from now on"]
    return propose(user, Wanted("close_production", f"production {name}", lines, {"name": name}))


def close_proposed(body: Mapping[str, Any], user: User) -> None:
    """A second person agreed."""
    close_production(body["name"], user)


def _check(name: str) -> None:
    if not name_key(name):
        raise Problem(422, "No production", f"{name!r} needs a letter or a digit")
    booked = [s for s in Seat.objects.active().exclude(production="") if name_key(s.production) == name_key(name)]
    if booked:
        names = ", ".join(seat.name for seat in booked[:5])
        raise Problem(
            409, "Seats are booked on it", f"{name} is live on {names}: assign these seats to another production first"
        )
    if EndedProduction.objects.filter(key=name_key(name)).exists():
        raise Problem(409, "Ended before", f"{name}, or one with a similar name, has already ended")


@transaction.atomic
def close_production(name: str, user: User) -> EndedProduction:
    """From now on its items age. Raises Problem where seats are booked on it, or it ended before."""
    lock("production", [name_key(name)])
    _check(name)
    try:
        with transaction.atomic():
            row = EndedProduction.objects.create(name=name, key=name_key(name), ended_at=timezone.now(), ended_by=user)
    except IntegrityError as fault:
        raise Problem(409, "Ended before", f"{name}, or one with a similar name, has already ended") from fault
    record(user.username, "close production", name)
    end_production(name, user)  # waivers that waited for it
    tell("delivery", name)
    return row


@transaction.atomic
def reopen_production(row: EndedProduction, user: User) -> None:
    """It is live again: nothing of it goes."""
    count, _ = EndedProduction.objects.filter(pk=row.pk).delete()
    if count:
        record(user.username, "reopen production", row.name)
        after_commit("clearings.sweep", once="clearings sweep")  # plans that rest on its end
        tell("delivery", row.name)
