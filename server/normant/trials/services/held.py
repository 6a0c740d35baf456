"""Conditions that seats hold for runs by hand, as the orders of a run tell it."""

import datetime as dt
from dataclasses import dataclass
from typing import Literal

from django.utils import timezone

from normant.common.events import tell
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant_core.orders.kinds import EndHold

from ..models import Run

MINUTES = 30  # that a condition is held
State = Literal["free", "setting", "set", "ending"]


@dataclass(frozen=True, slots=True)
class Standing:
    """Where the run that is due on a seat stands; `until` is when a condition that is set is put back at the latest."""

    state: State
    until: dt.datetime | None = None


def standing(run: Run) -> Standing:
    """By its last orders."""
    hold = run.orders.filter(kind="hold_condition", withdrawn_at=None).order_by("-created_at").first()
    if hold is None or not run.taken_by:
        return Standing("free")
    if hold.received_at is None:
        return Standing("setting")
    ends = run.orders.filter(kind="end_hold", withdrawn_at=None, created_at__gt=hold.created_at).first()
    until = hold.received_at + dt.timedelta(minutes=MINUTES)
    if ends:
        return Standing("ending" if ends.received_at is None else "free")
    return Standing("set", until) if timezone.now() < until else Standing("free")


def end_hold(run: Run) -> None:
    """Have the seat put back what it holds for a run. Who calls holds the seat's lock."""
    hold = run.orders.filter(kind="hold_condition", withdrawn_at=None).order_by("-created_at").first()
    if hold:
        end_order(run, hold)


def end_order(run: Run, hold: Order) -> None:
    """Have it put back what one order had it hold; asked for once."""
    if not run.orders.filter(kind="end_hold", created_at__gt=hold.created_at).exists():
        issue_order(run.of.seat, EndHold(str(hold.pk)), run=run)
        tell("trial", str(run.of.trial_id))
