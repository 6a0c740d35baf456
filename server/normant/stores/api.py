"""The stores of a seat: what of them nobody used, and clearing that."""

from typing import Annotated, Any
from uuid import UUID

import msgspec
from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.answers import answer_of
from normant.common.lists import answer, plain
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf
from normant.orders.models import Order
from normant.orders.schemas import OrderedOut
from normant.proposals.api import ProposedOut
from normant.seats.models import Seat
from normant.seats.views_of import latest_survey
from normant.seats.visible import seat_or_404
from normant_core.catalogue.settings import catalogue
from normant_core.orders.kinds import LIMIT_ITEMS, Item, Listed, ListStore
from normant_core.seat.stores import is_clearable, is_own
from normant_core.seat.survey import Reading, Store

from .services.clear_store import clear_store, list_store, listed, propose_clearing

router = Router(tags=["rollouts"])
Name = Annotated[str, Field(min_length=1, max_length=64)]
KINDS = ("list_store", "clear_store")


class ClearableOut(Schema):
    """A store that can be cleaned up: its application recreates the files, and its folder is the application's own.
    Sizes in bytes by the last survey, null if it has none."""

    app: str
    setting: str
    title: str
    folder: str
    size: int | None
    unused: int | None


class LookIn(Schema):
    """A store, by the setting that names its folder, and for how long nobody used what is to be listed."""

    app: Name
    setting: Name
    unused_days: Annotated[int, Field(ge=1, le=3650)] = 30


class ClearIn(Schema):
    """The order that listed the files, and those of them that stay."""

    order: UUID
    keep: list[Annotated[str, Field(max_length=400)]] = Field([], max_length=LIMIT_ITEMS)


@answer_of(Item)
class ItemOut(Schema):
    """One file; `size` in bytes."""


@answer_of(Listed)
class ListedOut(Schema):
    """A store: `count` files of `size` bytes; `unused` of them, of `unused_size`, of which the largest are `items`."""


class StoreOrderOut(Schema):
    """The result of an order for a store; empty while `told` is false."""

    told: bool
    outcome: str
    message: str
    listed: ListedOut | None


@router.get(
    "/seats/{name}/stores", response=ListOf[ClearableOut], operation_id="stores", auth=Needs(Permission.SEE_HOUSE)
)
def stores(request: HttpRequest, name: str) -> Any:
    """The stores of a seat that may be cleared."""
    survey = latest_survey(seat_or_404(name, person(request)))
    if survey is None:
        return answer([])
    sizes = {(store.app, store.path): store for store in survey.stores}
    readings = [r for r in survey.readings if r.app and is_clearable(r.setting) and is_own(r.app, str(r.value))]
    return answer([_clearable(reading, sizes.get((reading.app, str(reading.value)))) for reading in readings])


def _clearable(reading: Reading, store: Store | None) -> dict[str, Any]:
    row = {"app": reading.app, "setting": reading.setting, "title": catalogue()[reading.setting].title}
    sizes = {"size": store and store.size, "unused": store and store.unused}
    return {**row, "folder": str(reading.value), **sizes}


@router.post(
    "/seats/{name}/stores/look", response=OrderedOut, operation_id="look_at_store", auth=Needs(Permission.CORRECT)
)
def look(request: HttpRequest, name: str, given: LookIn) -> Any:
    """Ask the seat which files of a store nobody used."""
    wanted = ListStore(given.app, given.setting, given.unused_days)
    order = list_store(seat_or_404(name, person(request)), person(request), wanted)
    return plain({"order": str(order.pk)})


@router.post(
    "/seats/{name}/stores/clear",
    response={200: OrderedOut, 202: ProposedOut},
    operation_id="clear_store",
    auth=Needs(Permission.CORRECT, in_person=True),
)
def clear(request: HttpRequest, name: str, given: ClearIn) -> Any:
    """Remove what was listed and is still so when its turn comes; 202 where it waits for a second person."""
    seat = seat_or_404(name, person(request))
    if settings.NORMANT.second_person:
        made = propose_clearing(seat, person(request), _order(seat, given.order), given.keep)
        return plain({"proposal": made.pk}, status=202)
    order = clear_store(seat, person(request), _order(seat, given.order), given.keep)
    return plain({"order": str(order.pk)})


@router.get(
    "/seats/{name}/stores/{order}", response=StoreOrderOut, operation_id="store_order", auth=Needs(Permission.SEE_HOUSE)
)
def store_order(request: HttpRequest, name: str, order: UUID) -> Any:
    """Return the result of an order for a store."""
    order_row = _order(seat_or_404(name, person(request)), order)
    receipt, store = order_row.receipt or {}, listed(order_row)
    return plain(
        {
            "told": bool(receipt),
            "outcome": receipt.get("outcome", ""),
            "message": receipt.get("message", ""),
            "listed": msgspec.to_builtins(store) if store else None,
        }
    )


def _order(seat: Seat, order: UUID) -> Order:
    order_row: Order = row_or_404(
        Order.objects.filter(pk=order, seat=seat, kind__in=KINDS), "order", f"there is no such scan of {seat.name}"
    )
    return order_row
