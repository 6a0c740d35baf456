"""What agents tell of plans of clearing. Who calls these holds the seat's lock."""

from collections import Counter
from uuid import UUID

import msgspec
from django.db import transaction
from django.db.models import QuerySet

from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.seats.models import Seat
from normant.seats.views_of import latest_survey
from normant_core.orders.clearing import MOST_LISTED, Deleted
from normant_core.orders.kinds import PlanClearing, Progress, Receipt, parse_order

from ..models import SeatClearing, StoreClearing
from ..planned import planned_row
from .advance_clearing import advance_clearing_soon, end_looking, end_seat, end_seat_if_over
from .keep_list import list_ended


def clearing_moved(order: Order, progress: Progress) -> None:
    """The progress of a clean-up on one seat."""
    row = SeatClearing.objects.get(orders=order)
    message = progress.message[:500]
    if row.ended_at is None and row.message != message:
        row.message = message
        row.save(update_fields=["message"])
        tell("clearing", str(row.clearing_id))


def clearing_ended(order: Order, receipt: Receipt) -> None:
    """A seat has looked, or cleared, or put back; what comes too late is kept all the same, for it is what was done."""
    row = SeatClearing.objects.select_related("seat").get(orders=order)
    match order.kind:
        case "plan_clearing":
            _looked(row, order, receipt)
        case "clear_planned":
            _cleared(row, order, receipt)
        case "send_list":
            list_ended(order, receipt)
        case "put_back":
            back = (receipt.message or receipt.outcome)[:500]
            _stores(row, order).update(put_back=back, is_back=receipt.outcome == "done")
    tell("clearing", str(row.clearing_id))


@transaction.atomic
def receive_deleted(seat: Seat, order: UUID, deleted: Deleted) -> None:
    """A seat has deleted what it held for a day, or put it back; a later word takes the place of an earlier one.

    Raises Problem where this seat cleared nothing by that order.
    """
    lock("leg", [seat.name])
    row = Order.objects.filter(pk=order, seat=seat, kind="clear_planned", clearing__isnull=False).first()
    stores = StoreClearing.objects.filter(of=row.clearing_id, place=row.place, cleared__isnull=False) if row else None
    store = stores.select_related("of").first() if stores is not None else None
    if row is None or store is None:
        raise Problem(404, "No such order", f"this order is not a clean-up of {seat.name}")
    reported = msgspec.json.decode(msgspec.json.encode(deleted))
    if store.deleted == reported:
        return
    store.deleted = reported
    store.save(update_fields=["deleted"])
    figures = {name: getattr(deleted, name) for name in ("items", "size", "returned", "staying", "lost")}
    record(f"agent {seat.name}", "delete held files", seat.name, order=str(order), **figures)
    tell("clearing", str(store.of.clearing_id))


def _looked(row: SeatClearing, order: Order, receipt: Receipt) -> None:
    if row.state != SeatClearing.State.LOOKING:
        return
    if receipt.outcome != "done":
        end_seat(row, SeatClearing.State.STOPPED, receipt.message or f"scan failed: {receipt.outcome}")
    elif not _is_as_asked(order, receipt):
        end_seat(row, SeatClearing.State.STOPPED, "it answered for the wrong stores")
    else:
        survey = latest_survey(row.seat)
        volumes = (survey.facts.volumes or ()) if survey else ()
        capacities = {volume.id: volume.capacity for volume in volumes if volume.capacity is not None}
        made = [planned_row(row, place, planned, capacities) for place, planned in enumerate(receipt.planned)]
        StoreClearing.objects.bulk_create(made)
        row.state, row.message = SeatClearing.State.PLANNED, ""
        row.save(update_fields=["state", "message"])
    end_looking(row.clearing_id)


def _is_as_asked(order: Order, receipt: Receipt) -> bool:
    """Whether each store that was asked for is answered for, once, and no other one."""
    action = parse_order(bytes(order.body)).action
    assert isinstance(action, PlanClearing), "the order's kind says so"
    asked = Counter((aim.app, aim.kind) for aim in action.stores)
    answered = Counter((planned.app, planned.kind) for planned in receipt.planned)
    return asked == answered and all(planned.going <= MOST_LISTED for planned in receipt.planned)


def _stores(row: SeatClearing, order: Order) -> QuerySet[StoreClearing]:
    return StoreClearing.objects.filter(of=row, place=order.place)


def _cleared(row: SeatClearing, order: Order, receipt: Receipt) -> None:
    """The first that cleared a store counts: one that comes after it, because the plan was resumed meanwhile, found
    nothing any more. Of an order that was withdrawn too late, what went is told as what it is.
    """
    stores = _stores(row, order).filter(cleared__isnull=True)
    if receipt.cleared is not None:
        stores.update(cleared=msgspec.json.decode(msgspec.json.encode(receipt.cleared)), failed="")
    elif not order.withdrawn_at:
        stores.update(failed=(receipt.message or receipt.outcome)[:500])
    if row.ended_at is None:
        end_seat_if_over(row)
    advance_clearing_soon(row.clearing_id)
