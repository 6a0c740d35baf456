"""By which authority an order is signed: each kind that changes a seat names what a worker looks for first.

Whoever conquers the web host can write any row, also an order past every service. So a worker signs an order only where
something else stands behind it: a plan or a rollout that runs, of exactly this action, and the entry of the ledger by
which a person signed or started it. Kinds that no app has named an authority for are never signed.
"""

import json
from collections.abc import Callable, Collection, Iterable
from typing import Any
from uuid import UUID

from normant.accounts.models import User
from normant.ledger.models import Entry
from normant_core.orders.kinds import PutBack

from .models import Order

Check = Callable[[Order, Any], str]  # of an order and its action: why it is not signed, empty where it is
READ_ONLY = frozenset(
    (
        "rehearse",
        "survey_now",
        "list_store",
        "plan_clearing",
        "send_list",
        "inspect_export",
        "check_projects",
        "send_files",
        "ask_close",
        "ask_restart",
    )
)  # they change nothing on a seat
_CHECKS: dict[str, list[Check]] = {}
_FOUND = set[tuple[str, str, str]]()  # of the ledger, whose entries are never changed


def register(kinds: Iterable[str], check: Check) -> None:
    """Name an authority for orders of these kinds: one of the checks of its kind has to find it."""
    for kind in kinds:
        _CHECKS.setdefault(kind, []).append(check)


def why_unauthorised(order: Order, action: Any) -> str:
    """Why no authority stands behind an order; empty where one does."""
    kind = str(type(action).__struct_config__.tag)
    if kind != order.kind:
        return f"it is written as {order.kind}, and asks for {kind}"
    if kind in READ_ONLY:
        return ""
    whys = [check(order, action) for check in _CHECKS.get(kind, ())]
    if not whys:
        return f"nobody may order {kind}: no authority is named for it"
    return "" if "" in whys else "; ".join(whys)


def is_signed_by_person(subject: str, actions: Collection[str], **detail: Any) -> bool:
    """Whether the ledger has a person's entry of one of these acts on that subject, with that detail.

    Earlier versions left details out: an entry without one counts, an entry with another one does not. What was found
    once stays found.
    """
    detail_key = json.dumps(detail, sort_keys=True)
    wanted = {(subject, action, detail_key) for action in actions}
    if wanted & _FOUND:
        return True
    entries = Entry.objects.filter(subject=subject, action__in=list(actions)).values_list("action", "actor", "detail")
    matching = [
        (action, actor)
        for action, actor, entered in entries
        if all(entered.get(name, value) == value for name, value in detail.items())
    ]
    people = set(User.objects.filter(username__in={actor for _, actor in matching}).values_list("username", flat=True))
    signed = {(subject, action, detail_key) for action, actor in matching if actor in people}
    _FOUND.update(signed)
    return bool(signed)


def _why_nothing_to_put_back(order: Order, action: PutBack) -> str:
    earlier = earlier_order(order, action.order)
    return "" if earlier and earlier.signature else "this seat was given no such order that could be put back"


def earlier_order(order: Order, number: str) -> Order | None:
    """An order of the same seat by its number, as an action names it; None where there is none."""
    try:
        return Order.objects.filter(pk=UUID(number), seat=order.seat_id).first()
    except ValueError:
        return None


register(["put_back"], _why_nothing_to_put_back)
