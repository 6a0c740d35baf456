"""Signing a delivery: from then on renders and backups of its project may go."""

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.problems import Problem
from normant.common.seen import need_seen, seen_of
from normant.ledger.services.record import record
from normant.orders.models import Order

from ..models import Delivery


def seen_of_delivery(delivery: Delivery) -> str:
    """What somebody signs: the file by its hash, of which project, and the inspection beside it."""
    return seen_of(delivery.pk, delivery.project, delivery.file, delivery.digest, str(delivery.inspection_id))


@transaction.atomic
def sign_delivery(delivery: Delivery, user: User, seen: str) -> None:
    """Its project is delivered. Raises Problem where it is not what was read, or was decided before."""
    row = Delivery.objects.select_for_update(no_key=True).get(pk=delivery.pk)
    need_seen(seen, seen_of_delivery(row), "this delivery")
    if row.state != "proposed":
        raise Problem(409, "Decided before", f"this delivery is {row.state}")
    row.signed_by, row.signed_at = user, timezone.now()
    row.save(update_fields=["signed_by", "signed_at"])
    record(user.username, "sign delivery", row.project, file=row.file, sha256=row.digest)
    tell("delivery", str(row.pk))


@transaction.atomic
def attach_inspection(delivery: Delivery, user: User, order: Order) -> None:
    """Lay an inspection of the same file beside it. Raises Problem where it is of another file, or has none."""
    row = Delivery.objects.select_for_update(no_key=True).get(pk=delivery.pk)
    inspected = (order.receipt or {}).get("inspected") or {}
    if row.state == "withdrawn":
        raise Problem(409, "Decided before", "this delivery is withdrawn")
    if order.seat_id != row.seat_id or inspected.get("file") != row.file or inspected.get("size") != row.size:
        raise Problem(422, "Not of this file", "choose an inspection of this file, as this seat has it")
    row.inspection = order
    row.save(update_fields=["inspection"])
    record(user.username, "attach inspection", row.project, file=row.file, order=str(order.pk))
    tell("delivery", str(row.pk))
