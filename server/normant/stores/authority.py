"""By which authority listed files of a store are removed: the entry by which a person signed exactly that order."""

import hashlib

from normant.ledger.models import Entry
from normant.orders.models import Order
from normant_core.orders.kinds import ClearStore


def why_not_signed(order: Order, action: ClearStore) -> str:
    """Why nobody signed it; empty where somebody did."""
    digest = hashlib.sha256(bytes(order.body)).hexdigest()
    entries = Entry.objects.filter(action="clear store", subject=order.seat.name, at__gte=order.created_at)
    signed = (entry for entry in entries if entry.detail.get("order") == str(order.pk))
    if any(entry.detail.get("sha256") == digest for entry in signed):
        return ""
    return f"the ledger has no signature for deleting {len(action.items):,} files"
