"""Clearing a store of a seat: its unused files are listed, looked at by a person, and removed by a signed order."""

import hashlib
from collections.abc import Collection, Mapping
from typing import Any

import msgspec
from django.db import transaction

from normant.accounts.models import User
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant.orders.models import Order
from normant.orders.services.issue import issue_clearing
from normant.orders.services.sign import sign_at_once
from normant.proposals.models import Proposal
from normant.proposals.services.propose import Wanted, propose
from normant.seats.models import Seat
from normant_core.orders.kinds import ClearStore, Listed, ListStore, parse_order
from normant_core.seat.stores import is_clearable


@transaction.atomic
def list_store(seat: Seat, user: User, wanted: ListStore) -> Order:
    """Ask the seat for what nobody used. Raises Problem for a store that its application would not make again."""
    if not is_clearable(wanted.setting):
        raise Problem(422, "Not cleared", f"{wanted.setting} is not a store that its application recreates")
    order = issue_clearing(seat, wanted)
    record(user.username, "list store", seat.name, app=wanted.app, setting=wanted.setting, order=str(order.pk))
    return order


@transaction.atomic
def clear_store(seat: Seat, user: User, listing: Order, keep: Collection[str]) -> Order:
    """Have removed what was listed, but what is to be kept; a list is signed once. Raises Problem: nothing ordered."""
    lock("leg", [seat.name])
    action = _clearing(listing, keep)
    order = issue_clearing(seat, action)
    listing.receipt = {**(listing.receipt or {}), "signed": str(order.pk)}
    listing.save(update_fields=["receipt"])
    detail = {"folder": action.folder, "files": len(action.items), "bytes": sum(item.size for item in action.items)}
    digest = hashlib.sha256(bytes(order.body)).hexdigest()
    record(user.username, "clear store", seat.name, **detail, order=str(order.pk), sha256=digest)
    sign_at_once(order)
    return order


@transaction.atomic
def propose_clearing(seat: Seat, user: User, listing: Order, keep: Collection[str]) -> Proposal:
    """Have it wait for a second person, with the list that is to be signed. Raises Problem."""
    action = _clearing(listing, keep)
    size = sum(item.size for item in action.items)
    head = f"Remove {len(action.items):,} files, {size:,} bytes, of {action.folder} on {seat.name}"
    lines = [head, *(f"{item.path} ({item.size:,} bytes, used {item.used_at:%-d %b %Y})" for item in action.items)]
    body = {"seat": seat.name, "order": str(listing.pk), "keep": sorted(keep)}
    return propose(user, Wanted("clear_store", seat.name, lines, body))


def clear_proposed(body: Mapping[str, Any], user: User) -> None:
    """A second person agreed."""
    listing = Order.objects.select_related("seat").filter(pk=body["order"], seat__name=body["seat"]).first()
    if listing is None:
        raise Problem(409, "Nothing was listed", "the list no longer exists: list the files again")
    clear_store(listing.seat, user, listing, body["keep"])


def _clearing(listing: Order, keep: Collection[str]) -> ClearStore:
    """What is to be signed. Raises Problem."""
    listing.refresh_from_db()
    if "signed" in (listing.receipt or {}):
        raise Problem(409, "Signed already", "this list has already been signed: list the files again")
    asked, listing_found = parse_order(bytes(listing.body)).action, listed(listing)
    if not isinstance(asked, ListStore) or listing_found is None:
        raise Problem(409, "Nothing was listed", "list the files first, and wait for the seat")
    if unknown := sorted(set(keep) - {item.path for item in listing_found.items}):
        raise Problem(422, "Not on the list", f"{unknown[0]} is not in the list: list the files again")
    items = tuple(item for item in listing_found.items if item.path not in keep)
    if not items:
        raise Problem(422, "Nothing to remove", "every file of the list is kept")
    return ClearStore(asked.app, asked.setting, listing_found.folder, items)


def listed(order: Order) -> Listed | None:
    """What a seat listed; None where it has not, yet or at all."""
    raw = (order.receipt or {}).get("listed")
    return msgspec.convert(raw, Listed) if raw else None
