"""By which authority a seat clears a list: a plan that runs, and the entry by which a person signed that list."""

from collections.abc import Callable

from normant.accounts.models import User
from normant.ledger.models import Entry
from normant.orders.authority import earlier_order
from normant.orders.models import Order
from normant_core.orders.kinds import ClearPlanned

from .models import Clearing, StoreClearing

SIGNED = "sign clearing"
Agreement = Callable[[Clearing], str]  # why a plan may not run by itself, empty where people agreed to it
_AGREEMENTS = list[Agreement]()


def register_agreement(check: Agreement) -> None:
    """Say how a plan that no person signed was agreed to. Where nobody says so, none is cleared."""
    _AGREEMENTS.append(check)


def why_not_cleared(order: Order, action: ClearPlanned) -> str:
    """Why no plan has a seat do this; empty where one does."""
    stores = StoreClearing.objects.select_related("of__clearing", "of__seat")
    store = stores.filter(of=order.clearing_id, place=order.place, of__seat=order.seat_id).first()
    if store is None:
        return "it does not belong to a clean-up of this seat"
    clearing, planned = store.of.clearing, store.core_planned
    if clearing.state != Clearing.State.RUNNING:
        return f"its clean-up is {clearing.state}"
    listed = (planned.app, planned.kind, planned.folder, planned.digest, planned.at_once)
    if listed != (action.app, action.store, action.folder, action.digest, action.at_once):
        return "its clean-up has a different list"
    plan = earlier_order(order, action.plan)
    if plan is None or (plan.clearing_id, plan.kind) != (order.clearing_id, "plan_clearing"):
        return "its list was made for another clean-up"
    if not _is_signed(clearing, store, action.digest):
        return "the ledger has no signature of this list"
    if clearing.signed_by_id is None:
        whys = [agreement(clearing) for agreement in _AGREEMENTS]
        return "" if "" in whys else next(iter(whys), "not approved")
    return ""


def _is_signed(clearing: Clearing, store: StoreClearing, digest: str) -> bool:
    """By whom the plan says that it was signed: a person, or the server for automatic clean-up."""
    signer = clearing.signed_by.username if clearing.signed_by else "server"
    name = list_name(store.of.seat.name, store.app, store.kind)
    entries = Entry.objects.filter(subject=f"clearing {clearing.pk}", action=SIGNED, actor=signer)
    return any(entry.detail.get("lists", {}).get(name) == digest for entry in entries)


def list_name(seat: str, app: str, kind: str) -> str:
    """How the ledger names the list of a store."""
    return f"{seat} {app} {kind}".strip()


def is_signed_by_a_person(clearing: Clearing) -> bool:
    """Whether the ledger has an entry by which a person signed a plan."""
    entries = Entry.objects.filter(subject=f"clearing {clearing.pk}", action=SIGNED)
    return User.objects.filter(username__in=entries.values("actor")).exists()
