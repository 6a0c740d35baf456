"""Lists of what would go of a store, item by item: asked of the seat when somebody wants to read one."""

import datetime as dt
import zlib
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant.seats.models import Seat
from normant_core.orders.kinds import SendList

from ..models import ListPart, StoreClearing

MOST_PARTS = 300  # of one list, each of a mebibyte at most
KEPT = dt.timedelta(days=1)
ANSWERS = dt.timedelta(minutes=10)  # within which a seat that is asked hands it in


@transaction.atomic
def ask_for_list(store: StoreClearing) -> Order:
    """Have the seat hand in a list; where it was asked before, or the list is here, that order. Raises Problem."""
    seat = store.of.seat
    lock("leg", [seat.name])
    if not store.going:
        raise Problem(409, "Nothing is listed", "nothing of this store would go")
    earlier = Order.objects.filter(clearing=store.of, kind="send_list", place=store.place)
    fresh = earlier.waiting().filter(created_at__gt=timezone.now() - ANSWERS)
    here = earlier.filter(receipt__outcome="done") if store.parts.exists() else earlier.none()
    asked: Order | None = fresh.first() or here.order_by("created_at").last()
    if asked:
        return asked
    plan = store.of.orders.filter(kind="plan_clearing").latest("created_at")
    store.parts.all().delete()
    action = SendList(str(plan.pk), store.core_planned.digest)
    return issue_order(seat, action, clearing=store.of, place=store.place)


@transaction.atomic
def keep_part(seat: Seat, order: UUID, number: int, body: bytes) -> None:
    """Keep a part of a list that was asked for; the same once more takes its place. Raises Problem."""
    lock("leg", [seat.name])
    row = Order.objects.waiting().filter(pk=order, seat=seat, kind="send_list").first()
    if row is None:
        raise Problem(404, "No such order", f"{seat.name} was not asked for a list by this order")
    if number >= MOST_PARTS:
        raise Problem(413, "Too long a list", f"a list has at most {MOST_PARTS} parts")
    store = StoreClearing.objects.get(of=row.clearing_id, place=row.place)
    ListPart.objects.update_or_create(
        store=store, number=number, defaults={"body": zlib.compress(body, 6), "kept_at": timezone.now()}
    )
    tell("clearing", str(store.of.clearing_id))


def forget_lists() -> int:
    """Lists that were handed in a day ago go; how many parts."""
    count, _ = ListPart.objects.filter(kept_at__lt=timezone.now() - KEPT).delete()
    return count
