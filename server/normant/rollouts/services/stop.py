"""Halting a rollout, and putting one back."""

from collections.abc import Collection

from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.errands.services.run_errands import drop_held
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.seats.models import Seat

from ..models import Leg, Rollout
from .advance import Turns, advance_soon, end, finish_if_over
from .news import tell_of_legs


@transaction.atomic
def halt(rollout: Rollout, actor: str, reason: str = "") -> None:
    """Legs that wait are withdrawn; those that are writing finish what they began. Raises Problem."""
    lock("leg", rollout.legs.filter(ended_at=None).values_list("seat__name", flat=True))
    row = Rollout.objects.select_for_update(no_key=True).get(pk=rollout.pk)
    if row.state not in (Rollout.State.RUNNING, Rollout.State.PROPOSED):
        raise Problem(409, "Nothing to halt", f"this rollout is {row.state}")
    legs = list(row.legs.filter(state=Leg.State.WAITING).select_related("seat", "rollout"))
    drop_held(row.pk)
    row.state, row.reason = Rollout.State.HALTED, reason
    row.save(update_fields=["state", "reason"])
    for leg in legs:
        Order.objects.waiting().filter(leg=leg).update(withdrawn_at=timezone.now())
        tell("orders", leg.seat.name)
        changed = Order.objects.that_changed().filter(leg=leg).exists()
        end(leg, Leg.State.HALTED, "halted; changes that were made remain" if changed else "halted before any change")
    finish_if_over(row)
    record(actor, "halt rollout", f"rollout {row.pk}", reason=reason)
    tell_of_legs(row)


@transaction.atomic
def resume(rollout: Rollout, user: User) -> None:
    """Go on after a halt, with the seats that it kept from beginning. Raises Problem."""
    legs = kept_from_beginning(rollout)
    lock("leg", legs.values_list("seat__name", flat=True))
    row = Rollout.objects.select_for_update(no_key=True).get(pk=rollout.pk)
    if row.state != Rollout.State.HALTED:
        raise Problem(409, "Nothing to resume", f"this rollout is {row.state}")
    if settings.NORMANT.second_person and row.kind == Rollout.Kind.CORRECT and row.approved_by_id is None:
        raise Problem(409, "Never approved", "it was withdrawn before it was approved: create a new plan")
    numbers = list(legs.values_list("pk", flat=True))
    if not numbers:
        raise Problem(409, "Nothing to resume", "no seats are waiting")
    _begin_anew(numbers)
    row.state, row.reason, row.ended_at, row.resumed_at = Rollout.State.RUNNING, "", None, timezone.now()
    row.save(update_fields=["state", "reason", "ended_at", "resumed_at"])
    record(user.username, "resume rollout", f"rollout {row.pk}", seats=len(numbers))
    advance_soon(row.pk)
    tell_of_legs(row)


@transaction.atomic
def retry(rollout: Rollout, user: User, seats: Collection[str]) -> None:
    """Once more on these seats, which stopped before anything was changed. Raises Problem."""
    own = Leg.objects.filter(rollout=rollout, seat__name__in=seats)
    lock("leg", own.values_list("seat__name", flat=True))
    row = Rollout.objects.select_for_update(no_key=True).get(pk=rollout.pk)
    legs = {leg.seat.name: leg for leg in own.select_related("seat")}
    if missing := {*seats} - legs.keys():
        raise Problem(422, "No such seat", f"{', '.join(sorted(missing))}: not in this rollout")
    written = written_by(row)
    if unfit := sorted(name for name, leg in legs.items() if not may_be_tried_again(leg, written)):
        message = "only seats that stopped before any change can be retried; create a new plan for the others"
        raise Problem(409, "Not tried again", f"{', '.join(unfit)}: {message}")
    if row.state == Rollout.State.HALTED:
        raise Problem(409, "Halted", "this rollout is halted: resume it first")
    _begin_anew([leg.pk for leg in legs.values()])
    Rollout.objects.filter(pk=row.pk).update(state=Rollout.State.RUNNING, ended_at=None)
    record(user.username, "try again", f"rollout {row.pk}", seats=sorted(legs))
    advance_soon(row.pk)
    tell_of_legs(row)


@transaction.atomic
def go_on(rollout: Rollout, user: User) -> None:
    """Let the next wave begin now, whatever wave or pause it waits for. Raises Problem: nothing would begin."""
    row = Rollout.objects.select_for_update(no_key=True).get(pk=rollout.pk)
    turns = Turns(row)
    held = [
        leg.wave for leg in row.legs.filter(state=Leg.State.WAITING, begun_at=None) if turns.waits_for_its_wave(leg)
    ]
    if row.state != Rollout.State.RUNNING or not held:
        raise Problem(409, "Nothing waits", "no seats of this rollout are waiting for their wave")
    if turns.waits_for_its_hour():
        raise Problem(409, "Not its hour", "this rollout has not started: start it first")
    row.open_wave = min(held)
    row.save(update_fields=["open_wave"])
    record(user.username, "go on with rollout", f"rollout {row.pk}", wave=row.open_wave)
    advance_soon(row.pk)
    tell_of_legs(row)


@transaction.atomic
def begin_now(rollout: Rollout, user: User, why: str) -> None:
    """Let it begin before its hour; who put a seat off keeps that. Raises Problem where it waits for none."""
    lock("leg", rollout.legs.values_list("seat__name", flat=True))
    row = Rollout.objects.select_for_update(no_key=True).get(pk=rollout.pk)
    if row.state != Rollout.State.RUNNING or not Turns(row).waits_for_its_hour():
        raise Problem(409, "It waits for no hour", "this rollout has already started")
    was = row.terms["begins"]
    row.terms = {**row.terms, "begins": None}
    row.save(update_fields=["terms"])
    row.legs.filter(begun_at=None, put_off=0).update(not_before=None)
    record(user.username, "begin rollout before its hour", f"rollout {row.pk}", hour=was, why=why)
    advance_soon(row.pk)
    tell_of_legs(row)


@transaction.atomic
def release(seat: Seat) -> None:
    """Nobody answers for this seat any more: its orders are withdrawn, and its legs end."""
    lock("leg", [seat.name])
    open_legs = Leg.objects.filter(seat=seat, ended_at=None)
    list(Rollout.objects.select_for_update(no_key=True).filter(pk__in=open_legs.values("rollout")).order_by("pk"))
    Order.objects.waiting().filter(seat=seat).update(withdrawn_at=timezone.now())
    for leg in open_legs.select_related("seat", "rollout").order_by("pk"):
        end(leg, Leg.State.STOPPED, "the seat was retired")


@transaction.atomic
def put_back(rollout: Rollout, user: User, seats: Collection[str] = ()) -> Rollout:
    """A rollout that restores what this one changed, on these seats or (none named) on all. Raises Problem.

    Of all, what has not begun is left out for good; where seats are named, the others go on, or can be resumed.
    """
    lock("put back", [str(rollout.pk)])
    if rollout.kind != Rollout.Kind.CORRECT:
        raise Problem(409, "Nothing to put back", "this rollout already puts settings back")
    own = rollout.legs.filter(seat__name__in=seats) if seats else rollout.legs.all()
    if missing := {*seats} - {*own.values_list("seat__name", flat=True)}:
        raise Problem(422, "No such seat", f"{', '.join(sorted(missing))}: not in this rollout")
    if own.filter(state=Leg.State.MOVING).exists():
        raise Problem(409, "Still moving", "a seat is being changed right now: wait until it has finished")
    if rollout.state == Rollout.State.RUNNING and not seats:
        halt(rollout, user.username)
    legs = list(own.filter(seat__in=seats_to_put_back(rollout)).select_related("seat"))
    if not legs:
        raise Problem(409, "Nothing to put back", "this rollout made no changes, or they have been put back")
    if not seats:
        rollout.legs.filter(state=Leg.State.HALTED).update(left_out=True)
    made = Rollout.objects.create(
        title=f"Put back: {rollout.title}", kind=Rollout.Kind.PUT_BACK, of=rollout, created_by=user
    )
    Leg.objects.bulk_create(Leg(rollout=made, seat=leg.seat, plan=_reversed(leg.plan)) for leg in legs)
    record(user.username, "put back", f"rollout {rollout.pk}", rollout=made.pk, seats=[leg.seat.name for leg in legs])
    advance_soon(made.pk)
    tell_of_legs(made)
    return made


def kept_from_beginning(rollout: Rollout) -> QuerySet[Leg]:
    """The legs that a halt kept from beginning, and with which the rollout can go on."""
    legs = rollout.legs.filter(state=Leg.State.HALTED, left_out=False, seat__retired_at=None)
    return legs.exclude(pk__in=written_by(rollout))


def written_by(rollout: Rollout) -> set[int]:
    """The legs that changed something on their seat."""
    return {*Order.objects.that_changed().filter(leg__rollout=rollout).values_list("leg", flat=True)}


def _begin_anew(legs: Collection[int]) -> None:
    """As if nothing had been ordered: what was, and came to nothing, counts no more."""
    now = timezone.now()
    Order.objects.filter(leg__in=legs, withdrawn_at=None).update(withdrawn_at=now)
    fields = {"state": Leg.State.WAITING, "step": "waiting", "message": "", "begun_at": None, "ended_at": None}
    Leg.objects.filter(pk__in=legs).update(**fields, moved_at=now)


def may_be_tried_again(leg: Leg, written: Collection[int]) -> bool:
    """Whether this leg stopped and left its seat, which is still there, as it was."""
    return leg.state == Leg.State.STOPPED and leg.pk not in written and leg.seat.retired_at is None


def seats_to_put_back(rollout: Rollout) -> set[int]:
    """Seats that this rollout changed, and that no putting back has restored or is about to restore."""
    changed = Order.objects.that_changed().filter(leg__rollout=rollout).values_list("seat", flat=True)
    under_way = Leg.objects.filter(
        rollout__of=rollout, state__in=(Leg.State.WAITING, Leg.State.MOVING, Leg.State.SETTLED)
    )
    return {*changed} - {*under_way.values_list("seat", flat=True)}


def _reversed(plan: dict[str, object]) -> dict[str, object]:
    """The plan, read backwards."""
    changes: list[dict[str, object]] = plan["changes"]  # type: ignore[assignment]
    turned = [
        {
            **change,
            "before": change["after"],
            "after": change["before"],
            "shown_before": change["shown_after"],
            "shown_after": change["shown_before"],
        }
        for change in reversed(changes)
    ]
    return {**plan, "changes": turned, "left": []}
