"""Halting a trial: nothing more is run, and what is set at this moment the agents put back by themselves."""

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.seats.models import Seat

from ..models import Trial, TrialSeat
from .advance_trial import advance_trial_soon, end_seat


@transaction.atomic
def halt_trial(trial: Trial, user: User, why: str) -> None:
    """No run more, on any of its seats; what was measured stays. Raises Problem where it is over."""
    going = TrialSeat.objects.filter(trial=trial, ended_at=None)
    lock("leg", going.values_list("seat__name", flat=True))
    row = Trial.objects.select_for_update(no_key=True).get(pk=trial.pk)
    if row.state != Trial.State.RUNNING:
        raise Problem(409, "Nothing to halt", f"this trial is {row.state}")
    row.state, row.reason, row.ended_at = Trial.State.HALTED, why, timezone.now()
    row.save(update_fields=["state", "reason", "ended_at"])
    for seat in going.select_related("seat"):
        end_seat(seat, TrialSeat.State.HALTED, "halted")
    record(user.username, "halt trial", f"trial {row.pk}", why=why)
    tell("trial", str(row.pk))


@transaction.atomic
def leave_seat(seat: Seat) -> None:
    """Nobody answers for this seat any more: its part of every trial ends."""
    lock("leg", [seat.name])
    for row in TrialSeat.objects.filter(seat=seat, ended_at=None).select_related("seat"):
        end_seat(row, TrialSeat.State.STOPPED, "the seat was retired")
        advance_trial_soon(row.trial_id)
