"""What the person at a seat answers to a rollout, and what a supervisor decides on it."""

import datetime as dt

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant_core.rollout.delay import latest, why_not

from ..models import Leg, Rollout
from .advance import advance_soon, end
from .news import tell_of_leg, tell_of_legs


@transaction.atomic
def put_off(rollout: Rollout, seat: str, user: User, until: dt.datetime) -> None:
    """The seat's turn comes later. Raises Problem where it has begun, or beyond the limits of the rollout."""
    leg = _waiting(rollout, seat)
    reason = why_not(
        most=leg.rollout.core_terms.put_off,
        times=leg.put_off,
        until=until,
        now=timezone.now(),
        last=timezone.localtime(last_moment(leg)),
    )
    if reason:
        raise Problem(409, "Not put off", reason)
    leg.not_before, leg.put_off = until, leg.put_off + 1
    _hold(leg)
    record(user.username, "put off", f"rollout {rollout.pk}", seat=seat, until=until.isoformat())


@transaction.atomic
def object_to(rollout: Rollout, seat: str, user: User, why: str, *, asks_waiver: bool = False) -> None:
    """The seat waits until a supervisor decides. Raises Problem where its turn has begun."""
    leg = _waiting(rollout, seat)
    leg.objection, leg.asks_waiver = why, asks_waiver
    _hold(leg)
    done = "ask for a waiver" if asks_waiver else "object"
    record(user.username, done, f"rollout {rollout.pk}", seat=seat, why=why)


@transaction.atomic
def go_ahead(rollout: Rollout, seat: str, user: User) -> None:
    """All the same, and at once. Raises Problem where nothing holds the seat."""
    leg = _waiting(rollout, seat)
    if not leg.objection and not leg.put_off:
        raise Problem(409, "Nothing to decide", f"{seat} has no objection and has not been postponed")
    leg.objection, leg.asks_waiver, leg.not_before = "", False, None
    leg.save(update_fields=["objection", "asks_waiver", "not_before", "moved_at"])
    record(user.username, "go ahead", f"rollout {rollout.pk}", seat=seat)
    advance_soon(rollout.pk)
    tell_of_legs(rollout, [seat])


@transaction.atomic
def leave_out(rollout: Rollout, seat: str, user: User) -> None:
    """The rollout goes on without this seat. Raises Problem where its turn has begun."""
    leg = _waiting(rollout, seat)
    _withdraw(leg)
    why = f": {leg.objection}" if leg.objection else ""
    stays = "; changes that were made remain" if Order.objects.that_changed().filter(leg=leg).exists() else ""
    record(user.username, "leave out", f"rollout {rollout.pk}", seat=seat)
    leg.left_out = True
    end(leg, Leg.State.HALTED, f"skipped by {user.username}{why}{stays}")


def last_moment(leg: Leg) -> dt.datetime:
    """The last one to which the leg may be put off."""
    planned, terms = leg.rollout.created_at, leg.rollout.core_terms
    return latest(max(planned, terms.begins or planned), terms.ends)


def may_be_put_off(leg: Leg) -> bool:
    """Whether once more is within the limits."""
    return leg.state == Leg.State.WAITING and not leg.objection and leg.put_off < leg.rollout.core_terms.put_off


def _waiting(rollout: Rollout, seat: str) -> Leg:
    """The leg, locked, where it still waits."""
    lock("leg", [seat])
    Rollout.objects.select_for_update(no_key=True).get(pk=rollout.pk)
    leg = row_or_404(
        Leg.objects.select_related("rollout", "seat").filter(rollout=rollout, seat__name=seat),
        "seat",
        f"{seat} is not in rollout {rollout.pk}",
    )
    if leg.rollout.kind != Rollout.Kind.CORRECT:
        raise Problem(409, "Too late", "putting settings back cannot be postponed")
    if leg.state != Leg.State.WAITING:
        reason = "it is being changed right now" if leg.state == Leg.State.MOVING else f"it has {leg.state}"
        raise Problem(409, "Too late", f"{seat}: {reason}")
    return leg


def _hold(leg: Leg) -> None:
    """As if its turn had not come: what was ordered is withdrawn."""
    _withdraw(leg)
    leg.begun_at, leg.step, leg.message = None, "waiting", ""
    leg.save()
    advance_soon(leg.rollout_id)
    tell_of_leg(leg)


def _withdraw(leg: Leg) -> None:
    """What was not carried out yet; what was stays, and is found done when the turn comes again."""
    Order.objects.waiting().filter(leg=leg).update(withdrawn_at=timezone.now())
    tell("orders", leg.seat.name)
