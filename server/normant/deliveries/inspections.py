"""Inspections of files that wait to be signed as deliveries."""

from collections.abc import Iterable
from uuid import UUID

from normant.orders.models import Order

from .models import Delivery

MOST = 1000  # inspections that are looked at, the newest


def inspections_of(deliveries: Iterable[Delivery]) -> dict[int, UUID]:
    """By delivery, the newest inspection of the very file, where one has ended."""
    waiting = [row for row in deliveries if row.state == "proposed" and row.seat_id]
    orders = Order.objects.filter(
        kind="inspect_export", seat__in=[row.seat_id for row in waiting], receipt__inspected__isnull=False
    )
    newest = dict[tuple[int, str, int], UUID]()
    for order in orders.order_by("-created_at")[:MOST]:
        inspected = (order.receipt or {})["inspected"]
        newest.setdefault((order.seat_id, inspected.get("file", ""), inspected.get("size", 0)), order.pk)
    keys = ((row.pk, (row.seat_id or 0, row.file, row.size)) for row in waiting)
    return {number: newest[key] for number, key in keys if key in newest}
