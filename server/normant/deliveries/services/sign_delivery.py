"""Signing a delivery: from then on renders and backups of its project may go."""

from collections.abc import Iterable, Mapping
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.seen import need_seen, seen_of
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.proposals.models import Proposal
from normant.proposals.services.propose import Wanted, propose
from normant_core.base.quantities import Dimension, show
from normant_core.care.clearing import kind_words

from ..models import Delivery
from ..released import ReleasedStore, released_by

MOST_LINES = 500  # stores that a second person reads one by one


def seen_of_delivery(delivery: Delivery, released: Iterable[ReleasedStore]) -> str:
    """What somebody signs: the file by its hash, its project, the inspection, and the stores that are released.

    Their bytes are no part of it: they grow with each day, and what goes is signed once more, as lists.
    """
    stores = [(store.seat, store.app, store.kind) for store in released]
    key = (delivery.production, delivery.project, delivery.project_app)
    return seen_of(delivery.pk, key, delivery.file, delivery.digest, str(delivery.inspection_id), stores)


def sign_or_propose(delivery: Delivery, user: User, seen: str) -> Proposal | None:
    """Sign it, or where the house asks for a second person, have it wait for one. Raises Problem."""
    if not settings.NORMANT.second_person:
        sign_delivery(delivery, user, seen)
        return None
    released = released_by(delivery)
    _check(delivery, seen, released)
    lines = [
        f"{delivery.project} of {delivery.production}, {delivery.project_app}: {delivery.file}",
        f"SHA-256 {delivery.digest}; {'inspected' if delivery.inspection_id else 'not inspected'}",
        *(_line(store) for store in released[:MOST_LINES]),
    ]
    body = {"delivery": delivery.pk, "seen": seen}
    return propose(user, Wanted("sign_delivery", f"delivery of {delivery.project}", lines, body))


def _line(store: ReleasedStore) -> str:
    return f"releases {show(store.size, Dimension.BYTES, unit='GB')} of {kind_words(store.kind)} on {store.seat}"


def sign_proposed(body: Mapping[str, Any], user: User) -> None:
    """A second person agreed."""
    delivery = Delivery.objects.filter(pk=body["delivery"]).first()
    if delivery is None:
        raise Problem(409, "No such delivery", "the delivery no longer exists")
    sign_delivery(delivery, user, body["seen"])


def _check(delivery: Delivery, seen: str, released: Iterable[ReleasedStore]) -> None:
    if not (delivery.production and delivery.project_app):
        raise Problem(422, "Not assigned", "assign the production and the application before you sign this delivery")
    need_seen(seen, seen_of_delivery(delivery, released), "this delivery")
    if delivery.state != "proposed":
        raise Problem(409, "Decided before", f"this delivery is {delivery.state}")


@transaction.atomic
def sign_delivery(delivery: Delivery, user: User, seen: str) -> None:
    """Its project is delivered. Raises Problem where it is not what was read, or was decided before."""
    lock("delivery")  # what it releases also depends on the other deliveries
    row = Delivery.objects.select_for_update(no_key=True).get(pk=delivery.pk)
    released = released_by(row)
    _check(row, seen, released)
    row.signed_by, row.signed_at = user, timezone.now()
    row.save(update_fields=["signed_by", "signed_at"])
    record(
        user.username,
        "sign delivery",
        row.project,
        production=row.production,
        app=row.project_app,
        file=row.file,
        sha256=row.digest,
        bytes=sum(store.size for store in released),
        seats=sorted({store.seat for store in released}),
    )
    tell("delivery", str(row.pk))


@transaction.atomic
def attach_inspection(delivery: Delivery, user: User, order: Order) -> None:
    """Lay an inspection of the same file beside it. Raises Problem where it is of another file, or has none."""
    row = Delivery.objects.select_for_update(no_key=True).get(pk=delivery.pk)
    inspected = (order.receipt or {}).get("inspected") or {}
    if row.state == "withdrawn":
        raise Problem(409, "Decided before", "this delivery is withdrawn")
    if order.seat_id != row.seat_id or inspected.get("file") != row.file or inspected.get("size") != row.size:
        raise Problem(422, "Not of this file", "select an inspection of this file on this seat")
    row.inspection = order
    row.save(update_fields=["inspection"])
    record(user.username, "attach inspection", row.project, file=row.file, order=str(order.pk))
    tell("delivery", str(row.pk))
