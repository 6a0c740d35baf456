"""What agents tell of their orders."""

import contextlib

import msgspec
from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from normant.clearings.services.receive_clearing import clearing_ended, clearing_moved
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.models import Entry
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.projects.services.look_at_projects import projects_seen
from normant.seats.models import Presence, Seat
from normant.trials.services.receive_run import run_ended, run_moved
from normant_core.orders.kinds import Progress, Receipt, Refusal

from ..models import STEPS, Leg, Rollout
from .advance import end, settle
from .news import tell_of_leg

# What only an order of that kind brings: of any other nobody asked for it.
BROUGHT = {
    "files": "send_files",
    "listed": "list_store",
    "inspected": "inspect_export",
    "planned": "plan_clearing",
    "cleared": "clear_planned",
    "projects": "check_projects",
}
LOOKS = ("plan_clearing", "send_list", "check_projects")  # they leave the seat as it was
_NOTHING = Receipt("", "done")
REFUSED = "refuse order"
LOOKED_BACK = 200  # entries of the ledger in which a refusal is looked for, so that one that is told again is not kept
MOST_REFUSED = 50  # of one seat among these: nobody fills the ledger with what they made up


@transaction.atomic
def receive_progress(seat: Seat, order: str, progress: Progress) -> None:
    """Where an order stands; news of an order that has its receipt says nothing any more."""
    lock("leg", [seat.name])
    row = _order(seat, order)
    if row.run_id and not row.receipt and not row.withdrawn_at:
        run_moved(row, progress)
    if row.clearing_id and not row.receipt and not row.withdrawn_at:
        clearing_moved(row, progress)
    if row.kind == "inspect_export" and not row.receipt and row.message != progress.message[:500]:
        row.message = progress.message[:500]
        row.save(update_fields=["message"])
        tell("seat", seat.name)
    leg = row.leg
    if row.receipt or leg is None or leg.ended_at:
        return
    waits = progress.step == "waiting"
    leg.state = Leg.State.WAITING if waits else Leg.State.MOVING
    # A second order of the same leg does not move the bead backwards.
    leg.step = "waiting" if waits else max(leg.step, progress.step, key=STEPS.index)
    leg.message = progress.message
    leg.save(update_fields=["state", "step", "message", "moved_at"])
    tell_of_leg(leg)


@transaction.atomic
def receive_receipt(seat: Seat, receipt: Receipt) -> None:
    """Keep the first receipt of an order; a second one changes nothing."""
    lock("leg", [seat.name])
    row = _order(seat, receipt.order)
    if row.receipt:
        return
    if row.leg:
        Rollout.objects.select_for_update(no_key=True).get(pk=row.leg.rollout_id)
    if receipt.at is None:
        receipt = msgspec.structs.replace(receipt, at=timezone.now())  # a seat that does not tell means now
    unasked = {name: getattr(_NOTHING, name) for name, kind in BROUGHT.items() if row.kind != kind}
    receipt = msgspec.structs.replace(receipt, **unasked)
    whole = receipt
    receipt = msgspec.structs.replace(receipt, samples=(), planned=(), projects=())  # each is kept where it is read
    row.receipt, row.received_at = msgspec.json.decode(msgspec.json.encode(receipt)), timezone.now()
    row.save(update_fields=["receipt", "received_at"])
    if row.kind not in LOOKS:  # the next survey is looked at even where it says what the last one said
        Presence.objects.filter(seat=seat).update(survey_digest=None)
    if row.leg and row.withdrawn_at and row.kind != "measure":
        _too_late(row.leg, receipt)
    elif row.leg and not row.leg.ended_at and not row.withdrawn_at:
        row.leg.state, row.leg.step, row.leg.message = Leg.State.MOVING, "reading_back", ""
        row.leg.save(update_fields=["state", "step", "message", "moved_at"])
        tell_of_leg(row.leg)
    _hand_on(row, whole)
    results = [f"{r.setting}: {r.message or r.outcome}" for r in receipt.results]
    detail = {"outcome": receipt.outcome, "message": receipt.message, "results": results}
    record(f"agent {seat.name}", row.kind, seat.name, order=str(row.pk), **detail)
    if row.kind not in LOOKS:
        settle(seat, None)


def _hand_on(row: Order, receipt: Receipt) -> None:
    """To whatever asked for the order: what it keeps of it is its own."""
    if row.run_id:
        run_ended(row, receipt)
    if row.clearing_id:
        clearing_ended(row, receipt)
    if row.kind == "check_projects":
        projects_seen(row, receipt)
    if row.kind in ("list_store", "clear_store", "inspect_export"):
        tell("seat", row.seat.name)
    if row.rehearsal_id:
        tell("rollout", f"rehearsal {row.rehearsal_id}")


@transaction.atomic
def receive_refusal(seat: Seat, refusal: Refusal) -> None:
    """Write down that the seat was given something that is no order; one of ours that was spoiled on its way ends."""
    lock("leg", [seat.name])
    refused = {"order": refusal.order, "digest": refusal.digest, "why": refusal.why}
    last = Entry.objects.order_by("-id")[:LOOKED_BACK]
    before = [entry.detail for entry in last if entry.action == REFUSED and entry.subject == seat.name]
    if refused in before or len(before) >= MOST_REFUSED:
        return
    with contextlib.suppress(Problem):
        row = _order(seat, refusal.order)
        if not row.receipt and not row.withdrawn_at:
            why = f"the seat received a different order from the one that was signed: {refusal.why}"
            receive_receipt(seat, Receipt(str(row.pk), "refused", message=why, at=timezone.now()))
    record(f"agent {seat.name}", REFUSED, seat.name, **refused)


def _too_late(leg: Leg, receipt: Receipt) -> None:
    """The halt came while the seat was writing: say so, so that it can be put back."""
    message = "changed before the seat could be stopped; put it back or leave it"
    if receipt.outcome in ("done", "accepted_as") and leg.ended_at is None:  # it was resumed meanwhile
        leg.orders.waiting().update(withdrawn_at=timezone.now())
        tell("orders", leg.seat.name)
        end(leg, Leg.State.STOPPED, message)
    elif receipt.outcome in ("done", "accepted_as"):
        leg.state, leg.step = Leg.State.STOPPED, "reading_back"
        leg.message = message
        leg.save(update_fields=["state", "step", "message", "moved_at"])
        tell_of_leg(leg)


def _order(seat: Seat, order: str) -> Order:
    # The seat's lock stands for its orders: nobody writes one without it.
    try:
        order_row: Order = Order.objects.select_related("leg__rollout", "leg__seat").get(pk=order, seat=seat)
    except (Order.DoesNotExist, ValidationError) as fault:
        raise Problem(404, "No such order", f"{seat.name} has no order {order}") from fault
    return order_row
