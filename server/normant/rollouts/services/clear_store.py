"""Clearing a store of a seat: its unused files are listed, looked at by a person, and removed by a signed order."""

import hashlib
from collections.abc import Collection

import msgspec
from django.db import transaction

from normant.accounts.models import User
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.seats.models import Seat
from normant_core.orders import ClearStore, Listed, ListStore, parse_order
from normant_core.stores import is_clearable

from ..models import Order
from .issue import issue_clearing


@transaction.atomic
def list_store(seat: Seat, user: User, wanted: ListStore) -> Order:
    """Ask the seat for what nobody used. Raises Problem for a store that its application would not make again."""
    if not is_clearable(wanted.setting):
        raise Problem(422, "Not cleared", f"{wanted.setting} names no store that its application makes again")
    order = issue_clearing(seat, wanted)
    record(user.username, "list store", seat.name, app=wanted.app, setting=wanted.setting, order=str(order.pk))
    return order


@transaction.atomic
def clear_store(seat: Seat, user: User, listing: Order, keep: Collection[str]) -> Order:
    """Have removed what was listed, but what is to be kept; a list is signed once. Raises Problem: nothing ordered."""
    lock("leg", [seat.name])
    listing.refresh_from_db()
    if "signed" in (listing.receipt or {}):
        raise Problem(409, "Signed already", "this list was signed before: look at the store again for what is left")
    asked, found = parse_order(bytes(listing.body)).action, listed(listing)
    if not isinstance(asked, ListStore) or found is None:
        raise Problem(409, "Nothing was listed", "look at the store first, and wait until the seat has answered")
    if unknown := sorted(set(keep) - {item.path for item in found.items}):
        raise Problem(422, "Not on the list", f"{unknown[0]} was not listed: look at the store again")
    items = tuple(item for item in found.items if item.path not in keep)
    if not items:
        raise Problem(422, "Nothing to remove", "every file of the list is kept")
    order = issue_clearing(seat, ClearStore(asked.app, asked.setting, found.folder, items))
    listing.receipt = {**(listing.receipt or {}), "signed": str(order.pk)}
    listing.save(update_fields=["receipt"])
    told = {"folder": found.folder, "files": len(items), "bytes": sum(item.size for item in items)}
    digest = hashlib.sha256(bytes(order.body)).hexdigest()
    record(user.username, "clear store", seat.name, **told, order=str(order.pk), sha256=digest)
    return order


def listed(order: Order) -> Listed | None:
    """What a seat listed; None where it has not, yet or at all."""
    told = (order.receipt or {}).get("listed")
    return msgspec.convert(told, Listed) if told else None
