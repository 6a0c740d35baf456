"""Halting a rollout, and putting one back."""

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.seats.models import Seat

from ..models import Leg, Order, Rollout
from .advance import advance_soon, end, finish_if_over


@transaction.atomic
def halt(rollout: Rollout, user: User) -> None:
    """Legs that wait are withdrawn; those that are writing finish what they began. Raises Problem."""
    lock("leg", rollout.legs.filter(ended_at=None).values_list("seat__name", flat=True))
    found = Rollout.objects.select_for_update(no_key=True).get(pk=rollout.pk)
    if found.state != "running":
        raise Problem(409, "Nothing to halt", f"this rollout is {found.state}")
    legs = list(found.legs.filter(state="waiting").select_related("seat", "rollout"))
    found.state = "halted"
    found.save(update_fields=["state"])
    for leg in legs:
        Order.objects.waiting().filter(leg=leg).update(withdrawn_at=timezone.now())
        tell("orders", leg.seat.name)
        changed = Order.objects.that_changed().filter(leg=leg).exists()
        end(leg, "halted", "halted; what was written stays" if changed else "halted before anything was changed")
    finish_if_over(found)
    record(user.username, "halt rollout", f"rollout {found.pk}")
    tell("rollout", str(found.pk))


@transaction.atomic
def release(seat: Seat) -> None:
    """Nobody answers for this seat any more: its orders are withdrawn, and its legs end."""
    lock("leg", [seat.name])
    Order.objects.waiting().filter(seat=seat).update(withdrawn_at=timezone.now())
    for leg in Leg.objects.filter(seat=seat, ended_at=None).select_related("seat", "rollout").order_by("pk"):
        end(leg, "stopped", "the seat was retired")


@transaction.atomic
def put_back(rollout: Rollout, user: User) -> Rollout:
    """A rollout that restores what this one changed; what has not begun is halted. Raises Problem."""
    lock("put back", [str(rollout.pk)])
    if rollout.kind != "correct":
        raise Problem(409, "Nothing to put back", "this rollout is itself a putting back")
    if rollout.legs.filter(state="moving").exists():
        raise Problem(409, "Still moving", "a seat is being written at this moment: wait until it has ended")
    if rollout.state == "running":
        halt(rollout, user)
    legs = list(rollout.legs.filter(seat__in=seats_to_put_back(rollout)).select_related("seat"))
    if not legs:
        raise Problem(409, "Nothing to put back", "this rollout changed nothing, or all of it was put back")
    made = Rollout.objects.create(title=f"Put back: {rollout.title}", kind="put_back", of=rollout, created_by=user)
    Leg.objects.bulk_create(Leg(rollout=made, seat=leg.seat, plan=_reversed(leg.plan)) for leg in legs)
    record(user.username, "put back", f"rollout {rollout.pk}", rollout=made.pk)
    advance_soon(made.pk)
    tell("rollout", str(made.pk))
    return made


def seats_to_put_back(rollout: Rollout) -> set[int]:
    """Seats that this rollout changed, and that no putting back has restored or is about to restore."""
    changed = Order.objects.that_changed().filter(leg__rollout=rollout).values_list("seat", flat=True)
    under_way = Leg.objects.filter(rollout__of=rollout, state__in=("waiting", "moving", "settled"))
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
