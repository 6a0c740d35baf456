"""The house's key: orders and dialects are signed with it, by workers alone; every agent pins its public half.

A web process writes orders without a signature, which no agent is shown. A worker looks at each once more, signs it and
tells the seat: whoever conquers the web host gets orders signed that a worker takes, and never the key.
"""

import logging

from django.conf import settings
from django.db import DataError, transaction

from normant.common.events import tell
from normant.common.keys import private_key, public_half
from normant.common.later import after_commit
from normant.common.problems import Problem
from normant.dialects.models import Dialect
from normant.ledger.models import HouseKey
from normant.ledger.services.record import record
from normant_core.base.errors import DocumentError
from normant_core.dialects.dialect import parse_dialect, signed_dialect
from normant_core.orders.kinds import canonical, forbidden, parse_order

from ..authority import why_unauthorised
from ..models import Order

ORDERS = "orders"
log = logging.getLogger(__name__)


def signature(body: bytes) -> bytes:
    """The house's signature of these bytes (Ed25519, RFC 8032); a worker's to give."""
    if not settings.NORMANT_SIGNS:
        raise PermissionError("only workers sign")
    return private_key(settings.NORMANT.order_key).sign(body)


def public_key() -> bytes:
    """The 32 bytes that agents pin. Raises Problem where no worker has told them yet."""
    known = HouseKey.objects.filter(name=ORDERS).first()
    if known is None and settings.NORMANT_SIGNS:
        known = publish_key()
    if known is None:
        raise Problem(503, "No key yet", "no worker has run yet: start one, it makes the key that agents pin")
    return bytes(known.public)


def publish_key() -> HouseKey:
    """A worker's, as it starts: the public half is told to web processes, and to the ledger where it is another."""
    public = public_half(settings.NORMANT.order_key)
    known = HouseKey.objects.filter(name=ORDERS).first()
    if known and bytes(known.public) == public:
        return known
    with transaction.atomic():
        made, _ = HouseKey.objects.update_or_create(name=ORDERS, defaults={"public": public})
        record("server", "house key", ORDERS, key=public.hex())
    return made


def sign_soon() -> None:
    """Have a worker sign what waits for it, once this transaction is committed."""
    after_commit("orders.sign", once="sign")


def sign_waiting() -> None:
    """A worker's: every order and dialect that waits for a signature, each looked at once more."""
    for number in Order.objects.unsigned().order_by("created_at", "place").values_list("pk", flat=True):
        try:
            _sign_order(number)
        except (DataError, ValueError, TypeError, KeyError):  # what one row holds keeps no other from its turn
            log.exception("an order cannot be looked at", extra={"order": str(number)})
    for number in Dialect.objects.filter(signature=None).values_list("pk", flat=True):
        _sign_dialect(number)


def sign_at_once(order: Order) -> None:
    """A worker's: sign what it has just written itself, where the same authority stands behind it."""
    if settings.NORMANT_SIGNS and not _unfit(order):
        order.signature = signature(bytes(order.body))
        order.save(update_fields=["signature"])


@transaction.atomic
def _sign_order(number: object) -> None:
    order = (
        Order.objects.unsigned().select_for_update(skip_locked=True).select_related("seat").filter(pk=number).first()
    )
    if order is None:
        return
    if why := _unfit(order):
        order.refused = why[:300]
        order.save(update_fields=["refused"])
        record("server", "refuse to sign", order.seat.name, order=str(order.pk), why=why)
        return
    order.signature = signature(bytes(order.body))
    order.save(update_fields=["signature"])
    tell("orders", order.seat.name)


def _unfit(order: Order) -> str:
    """Why a worker does not sign it; whoever wrote it may have written it past every service."""
    try:
        parsed = parse_order(bytes(order.body))
    except DocumentError as fault:
        return f"it is nothing that an agent does: {fault}"
    if canonical(parsed) != bytes(order.body) or parsed.id != str(order.pk) or parsed.seat != order.seat.name:
        return "it is not what it says that it is"
    return forbidden(parsed.action) or why_unauthorised(order, parsed.action)


@transaction.atomic
def _sign_dialect(number: int) -> None:
    dialect = Dialect.objects.select_for_update().filter(pk=number, signature=None).first()
    if dialect is None:
        return
    try:
        parse_dialect(dialect.text)
    except DocumentError as fault:
        if not dialect.refused:
            record("server", "refuse to sign", f"dialect {dialect.app}", why=str(fault)[:600])
            Dialect.objects.filter(pk=number).update(refused=str(fault)[:300])
        return
    Dialect.objects.filter(pk=number).update(signature=signature(signed_dialect(dialect.app, dialect.text)), refused="")
    tell("dialect", dialect.app)
