"""What agents tell of plans of clearing. Who calls these holds the seat's lock."""

import msgspec
from django.db.models import QuerySet

from normant.common.events import tell
from normant.orders.models import Order
from normant_core.orders.clearing import PlannedStore
from normant_core.orders.kinds import Progress, Receipt

from ..models import SeatClearing, StoreClearing
from .advance_clearing import advance_clearing_soon, end_looking, end_seat, end_seat_if_over


def clearing_moved(order: Order, progress: Progress) -> None:
    """Where a seat stands with it."""
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
            _looked(row, receipt)
        case "clear_planned":
            _cleared(row, order, receipt)
        case "put_back":
            back = (receipt.message or receipt.outcome)[:500]
            _stores(row, order).update(put_back=back, is_back=receipt.outcome == "done")
    tell("clearing", str(row.clearing_id))


def _looked(row: SeatClearing, receipt: Receipt) -> None:
    if row.state != SeatClearing.State.LOOKING:
        return
    if receipt.outcome != "done":
        end_seat(row, SeatClearing.State.STOPPED, receipt.message or f"it did not look: {receipt.outcome}")
    else:
        made = [_store(row, place, planned) for place, planned in enumerate(receipt.planned)]
        StoreClearing.objects.bulk_create(made)
        row.state, row.message = SeatClearing.State.PLANNED, ""
        row.save(update_fields=["state", "message"])
    end_looking(row.clearing_id)


def _store(row: SeatClearing, place: int, planned: PlannedStore) -> StoreClearing:
    """A store of which nothing is listed promises nothing, whatever it says."""
    return StoreClearing(
        of=row,
        place=place,
        app=planned.app,
        kind=planned.kind,
        planned=msgspec.json.decode(msgspec.json.encode(planned)),
        going=planned.going if planned.digest else 0,
        going_size=planned.going_size if planned.digest else 0,
    )


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
