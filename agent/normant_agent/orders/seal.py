"""What makes an order an order, and a dialect a dialect: the pinned key's signature.

Of an order also this seat's name, and a moment that is not past.
"""

import datetime as dt
import hashlib
from collections.abc import Iterable
from functools import lru_cache

import msgspec
from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

from normant_core.base.errors import DocumentError, NormantError
from normant_core.dialects.dialect import Dialect, parse_dialect, signed_dialect
from normant_core.orders.kinds import Order, Refusal, SignedOrder, canonical, parse_order

from ..errors import Refused


def open_order(signed: SignedOrder, *, key: bytes, seat: str) -> Order:
    """The order, if it is ours. Raises Refused; `key` is the 32 bytes pinned at enrolment (RFC 8032)."""
    if not is_signature_of(key, signed.signature, signed.order):
        raise Refused("the signature is not the house's")
    try:
        order = parse_order(signed.order)
    except DocumentError as fault:
        raise Refused(f"this is nothing that an agent does: {fault}") from fault
    if canonical(order) != signed.order:
        raise Refused("the order is not in its canonical form")
    if order.seat != seat:
        raise Refused(f"the order is for {order.seat}, not for {seat}")
    return order


class SignedDialect(msgspec.Struct, frozen=True):
    """A dialect as text, with the house's signature."""

    app: str
    text: str
    signature: bytes = b""


def open_dialects(offered: Iterable[SignedDialect], *, key: bytes) -> tuple[list[Dialect], dict[str, str]]:
    """Those that the pinned key signed, and that name nothing which nobody may touch; of all others, why not."""
    opened_all, unfit = list[Dialect](), dict[str, str]()
    for dialect in offered:
        opened = _opened(dialect, key)
        if isinstance(opened, Dialect):
            opened_all.append(opened)
        else:
            unfit[dialect.app[:64]] = opened
    return opened_all, unfit


@lru_cache(maxsize=128)
def _opened(offer: SignedDialect, key: bytes) -> Dialect | str:
    """The dialect, or why it is not used; the same one comes with every order, and is read once."""
    try:
        if not is_signature_of(key, offer.signature, signed_dialect(offer.app, offer.text)):
            raise Refused("its dialect is not signed by the house: it is not used")
        dialect = parse_dialect(offer.text, offer.app)
        if dialect.app != offer.app:
            raise Refused("its dialect speaks of another application: it is not used")
    except (Refused, NormantError) as why:
        return str(why)[:2000]
    return dialect


def is_signature_of(key: bytes, signature: bytes, content: bytes) -> bool:
    """Whether the holder of a key, 32 bytes, signed this (Ed25519, RFC 8032)."""
    try:
        Ed25519PublicKey.from_public_bytes(key).verify(signature, content)
    except (InvalidSignature, ValueError):
        return False
    return True


def refusal(signed: SignedOrder, why: str) -> Refusal:
    """What is told of an order that is not carried out; the name is what it claims, whoever wrote it."""
    try:
        name = msgspec.json.decode(signed.order, type=_Named).id
    except msgspec.DecodeError:
        name = ""
    return Refusal(name[:64], hashlib.sha256(signed.order).hexdigest(), why[:500])


class _Named(msgspec.Struct):
    id: str = ""


def expired(order: Order, now: dt.datetime) -> bool:
    """Whether the order's time is over on this seat's clock."""
    return now > order.expires
