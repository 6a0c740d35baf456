"""What the house has delivered, and which productions have ended."""

from typing import Annotated, Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Query, Router, Schema, Status
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf, Moment
from normant.common.seen import Seen
from normant.orders.models import Order
from normant.proposals.api import ProposedOut
from normant.seats.visible import seat_or_404
from normant_core.base.quantities import LARGEST_TOLD

from .inspections import inspections_of
from .models import Delivery, EndedProduction
from .productions import productions_now
from .release_words import flaws_of, release_sentence, release_warnings
from .released import ReleasedStore, productions_by_project, released_by
from .services.assign_delivery import assign_delivery
from .services.close_production import close_or_propose, reopen_production
from .services.propose_delivery import Export, propose_delivery
from .services.sign_delivery import attach_inspection, seen_of_delivery, sign_or_propose
from .services.withdraw_delivery import withdraw_delivery

router = Router(tags=["deliveries"])
OF_HOUSE, CORRECTS = Needs(Permission.SEE_HOUSE), Needs(Permission.CORRECT)
SIGNS = Needs(Permission.CORRECT, in_person=True)
MOST_RELEASED = 500  # stores that are listed one by one
Name = Annotated[str, Field(min_length=1, max_length=120)]
App = Annotated[str, Field(min_length=1, max_length=64)]
State = Literal["proposed", "delivered", "withdrawn"]


class DeliveryIn(Schema):
    """A finished export that somebody saw: SHA-256 of its file, and its bytes; `app` is whose project it is."""

    project: Name
    production: Name
    app: App
    file: Annotated[str, Field(min_length=1, max_length=400)]
    seat: Annotated[str, Field(max_length=64)] = ""
    digest: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
    size: Annotated[int, Field(ge=1, le=LARGEST_TOLD)]
    finished_at: Moment


class DeliveredOut(Schema):
    """A delivery, and the `inspection` beside it, with how many `flaws`; `inspected` is a newer one of the same file."""

    id: int
    project: str
    production: str
    file: str
    seat: str | None
    app: str
    project_app: str
    digest: str
    size: int
    finished_at: Moment
    state: State
    proposed_by: str
    proposed_at: Moment
    signed_by: str | None
    signed_at: Moment | None
    reason: str
    inspection: UUID | None
    flaws: int | None
    inspected: UUID | None


class ReleasedStoreOut(Schema):
    """Bytes of a seat's renders or backups that a delivery releases."""

    seat: str
    app: str
    kind: str
    size: int


class ReleaseOut(Schema):
    """What a signature under a delivery releases, by the newest surveys: all of it in bytes, and the largest stores.

    `warnings` are what a person should know before signing; `may_sign` is false where something has to be assigned.
    """

    sentence: str
    warnings: list[str]
    may_sign: bool
    size: int
    seats: int
    stores: list[ReleasedStoreOut]
    seen: str


class AssignDeliveryIn(Schema):
    """Whose project it is: its production, and the application that renders it."""

    production: Name
    app: App


class SignDeliveryIn(Schema):
    """The version of the release that was read."""

    seen: Seen


class WithdrawIn(Schema):
    """Why."""

    reason: Annotated[str, Field(min_length=1, max_length=300)]


class AttachIn(Schema):
    """The order that inspected the file."""

    order: UUID


class ClosedProductionIn(Schema):
    """Its name."""

    name: Name


class ProductionOut(Schema):
    """A production that seats are booked on, or that has ended; how many of its projects are delivered."""

    id: int | None
    name: str
    seats: int
    delivered: int
    ended_at: Moment | None
    ended_by: str | None


class DeliveriesPage(Page):
    """Which part of them, and in which state."""

    state: State | None = None


@router.get("/deliveries", response=ListOf[DeliveredOut], operation_id="deliveries", auth=OF_HOUSE)
def deliveries(request: HttpRequest, page: Query[DeliveriesPage]) -> Any:
    """Every delivery, those first that wait for a signature, then the newest."""
    rows = Delivery.objects.select_related("seat", "signed_by", "inspection")
    if page.state == "withdrawn":
        rows = rows.filter(withdrawn_at__isnull=False)
    elif page.state:
        rows = rows.to_sign() if page.state == "proposed" else rows.signed()
    chosen = rows.order_by("withdrawn_at", "-signed_at", "-id")[page.start : page.end]
    shown = list(chosen)
    newest = inspections_of(shown)
    return answer((_object(row, newest.get(row.pk)) for row in shown), total=rows.count())


@router.post("/deliveries", response=DeliveredOut, operation_id="propose_delivery", auth=CORRECTS)
def propose(request: HttpRequest, given: DeliveryIn) -> Any:
    """Register a finished export that no agent has proposed."""
    user = person(request)
    seat = seat_or_404(given.seat, user) if given.seat else None
    export = Export(
        given.project,
        given.file,
        given.digest,
        given.size,
        given.finished_at,
        given.production.strip(),
        project_app=given.app.strip(),
    )
    return plain(_object(propose_delivery(export, user.username, seat)))


@router.get("/deliveries/{number}/release", response=ReleaseOut, operation_id="delivery_release", auth=OF_HOUSE)
def release(request: HttpRequest, number: int) -> Any:
    """What a signature under it releases."""
    return plain(_release(_delivery(number)))


@router.post("/deliveries/{number}/assign", response=DeliveredOut, operation_id="assign_delivery", auth=CORRECTS)
def assign(request: HttpRequest, number: int, given: AssignDeliveryIn) -> Any:
    """Set its production and application."""
    assign_delivery(_delivery(number), person(request), given.production.strip(), given.app.strip())
    return plain(_object(_delivery(number)))


@router.post(
    "/deliveries/{number}/sign",
    response={200: DeliveredOut, 202: ProposedOut},
    operation_id="sign_delivery",
    auth=SIGNS,
)
def sign(request: HttpRequest, number: int, given: SignDeliveryIn) -> Any:
    """Sign a delivery: renders and backups of its project can be cleaned up. 202 if it waits for a second person."""
    made = sign_or_propose(_delivery(number), person(request), given.seen)
    return plain({"proposal": made.pk}, status=202) if made else plain(_object(_delivery(number)))


@router.post("/deliveries/{number}/withdraw", response=DeliveredOut, operation_id="withdraw_delivery", auth=CORRECTS)
def withdraw(request: HttpRequest, number: int, given: WithdrawIn) -> Any:
    """Take it back: what it alone released stays."""
    withdraw_delivery(_delivery(number), person(request), given.reason)
    return plain(_object(_delivery(number)))


@router.post("/deliveries/{number}/inspection", response=DeliveredOut, operation_id="attach_inspection", auth=CORRECTS)
def attach(request: HttpRequest, number: int, given: AttachIn) -> Any:
    """Lay an inspection of the same file beside it."""
    orders = Order.objects.filter(pk=given.order, kind="inspect_export")
    order = row_or_404(orders, "inspection", "this order is not an inspection")
    attach_inspection(_delivery(number), person(request), order)
    return plain(_object(_delivery(number)))


@router.get("/productions", response=ListOf[ProductionOut], operation_id="productions", auth=OF_HOUSE)
def productions(request: HttpRequest) -> Any:
    """Productions that seats are booked on, and those that have ended."""
    return answer(productions_now())


@router.post(
    "/productions/close",
    response={200: ListOf[ProductionOut], 202: ProposedOut},
    operation_id="close_production",
    auth=SIGNS,
)
def close(request: HttpRequest, given: ClosedProductionIn) -> Any:
    """Say that a production has ended: from now on its items age; 202 where it waits for a second person."""
    made = close_or_propose(given.name.strip(), person(request))
    return plain({"proposal": made.pk}, status=202) if made else answer(productions_now())


@router.delete("/productions/{number}", response={204: None}, operation_id="reopen_production", auth=CORRECTS)
def reopen(request: HttpRequest, number: int) -> Status[None]:
    """Resume an ended production: its files are kept."""
    row = row_or_404(EndedProduction.objects.filter(pk=number), "production", "no such production has ended")
    reopen_production(row, person(request))
    return Status(204, None)


def _delivery(number: int) -> Delivery:
    rows = Delivery.objects.select_related("seat", "signed_by", "inspection").filter(pk=number)
    row: Delivery = row_or_404(rows, "delivery", f"there is no delivery {number}")
    return row


def _release(row: Delivery) -> dict[str, Any]:
    stores = released_by(row)
    others = productions_by_project([row.project])[row.project]
    largest = sorted(stores, key=lambda store: (-store.size, store.seat, store.kind))[:MOST_RELEASED]
    return {
        "sentence": release_sentence(stores),
        "warnings": release_warnings(row, others),
        "may_sign": row.state == "proposed" and bool(row.production and row.project_app),
        "size": sum(store.size for store in stores),
        "seats": len({store.seat for store in stores}),
        "stores": [_released(store) for store in largest],
        "seen": seen_of_delivery(row, stores),
    }


def _released(store: ReleasedStore) -> dict[str, Any]:
    return {"seat": store.seat, "app": store.app, "kind": store.kind, "size": store.size}


def _object(row: Delivery, inspected: UUID | None = None) -> dict[str, Any]:
    own = (
        "project",
        "production",
        "file",
        "app",
        "project_app",
        "digest",
        "size",
        "finished_at",
        "state",
        "proposed_by",
        "proposed_at",
    )
    return {
        "id": row.pk,
        **{name: getattr(row, name) for name in own},
        "seat": row.seat.name if row.seat else None,
        "signed_by": row.signed_by.username if row.signed_by else None,
        "signed_at": row.signed_at,
        "reason": row.reason,
        "inspection": row.inspection_id,
        "flaws": flaws_of(row),
        "inspected": inspected if inspected != row.inspection_id else None,
    }
