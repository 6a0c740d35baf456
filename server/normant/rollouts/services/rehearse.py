"""Trying a plan on its seats, without changing anything."""

from collections.abc import Sequence

from django.db import transaction

from normant.accounts.models import User
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.findings.models import Finding
from normant.ledger.services.record import record
from normant.plans.services.plan import digest, plan
from normant.seats.models import Seat

from ..models import Rehearsal
from .issue_leg import issue_rehearsal


@transaction.atomic
def rehearse(user: User, findings: Sequence[Finding], *, rounder: bool = False) -> Rehearsal:
    """Ask every seat of the plan what would happen there. Raises Problem where no order can settle anything."""
    plans = [made for made in plan(findings, rounder=rounder) if made.changes]
    if not plans:
        raise Problem(422, "Nothing to do", "none of these findings can be corrected remotely")
    seats = Seat.objects.in_bulk([made.seat for made in plans], field_name="name")
    lock("leg", seats)
    made = Rehearsal.objects.create(digest=digest(plans), made_by=user)
    for seat_plan in plans:
        issue_rehearsal(made, seats[seat_plan.seat], seat_plan)
    record(user.username, "rehearse", f"rehearsal {made.pk}", seats=sorted(seats))
    return made
