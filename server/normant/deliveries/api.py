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
from normant.seats.visible import seat_or_404

from .inspections import inspections_of
from .models import Delivery, EndedProduction
from .productions import productions_now
from .services.close_production import close_production, reopen_production
from .services.propose_delivery import Export, propose_delivery
from .services.sign_delivery import attach_inspection, seen_of_delivery, sign_delivery
from .services.withdraw_delivery import withdraw_delivery

router = Router(tags=["deliveries"])
OF_HOUSE, CORRECTS = Needs(Permission.SEE_HOUSE), Needs(Permission.CORRECT)
Name = Annotated[str, Field(min_length=1, max_length=120)]
State = Literal["proposed", "delivered", "withdrawn"]


class DeliveryIn(Schema):
    """A finished export that somebody saw: SHA-256 of its file, and its bytes."""

    project: Name
    production: Annotated[str, Field(max_length=120)] = ""
    file: Annotated[str, Field(min_length=1, max_length=400)]
    seat: Annotated[str, Field(max_length=64)] = ""
    digest: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
    size: Annotated[int, Field(ge=1, le=1 << 62)]
    finished_at: Moment


class DeliveredOut(Schema):
    """A delivery, and the `inspection` beside it, with how many `flaws`; `inspected` is a newer one of the same file."""

    id: int
    project: str
    production: str
    file: str
    seat: str | None
    app: str
    digest: str
    size: int
    finished_at: Moment
    state: State
    seen: str
    proposed_by: str
    proposed_at: Moment
    signed_by: str | None
    signed_at: Moment | None
    reason: str
    inspection: UUID | None
    flaws: int | None
    inspected: UUID | None


class SignDeliveryIn(Schema):
    """The delivery as it was read."""

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
    export = Export(given.project, given.file, given.digest, given.size, given.finished_at, given.production)
    return plain(_object(propose_delivery(export, user.username, seat)))


@router.post("/deliveries/{number}/sign", response=DeliveredOut, operation_id="sign_delivery", auth=CORRECTS)
def sign(request: HttpRequest, number: int, given: SignDeliveryIn) -> Any:
    """Say that it is delivered: renders and backups of its project may go."""
    sign_delivery(_delivery(number), person(request), given.seen)
    return plain(_object(_delivery(number)))


@router.post("/deliveries/{number}/withdraw", response=DeliveredOut, operation_id="withdraw_delivery", auth=CORRECTS)
def withdraw(request: HttpRequest, number: int, given: WithdrawIn) -> Any:
    """Take it back: what it alone released stays."""
    withdraw_delivery(_delivery(number), person(request), given.reason)
    return plain(_object(_delivery(number)))


@router.post("/deliveries/{number}/inspection", response=DeliveredOut, operation_id="attach_inspection", auth=CORRECTS)
def attach(request: HttpRequest, number: int, given: AttachIn) -> Any:
    """Lay an inspection of the same file beside it."""
    orders = Order.objects.filter(pk=given.order, kind="inspect_export")
    order = row_or_404(orders, "inspection", "nothing was inspected by this order")
    attach_inspection(_delivery(number), person(request), order)
    return plain(_object(_delivery(number)))


@router.get("/productions", response=ListOf[ProductionOut], operation_id="productions", auth=OF_HOUSE)
def productions(request: HttpRequest) -> Any:
    """Productions that seats are booked on, and those that have ended."""
    return answer(productions_now())


@router.post("/productions/close", response=ListOf[ProductionOut], operation_id="close_production", auth=CORRECTS)
def close(request: HttpRequest, given: ClosedProductionIn) -> Any:
    """Say that a production has ended: from now on its items age."""
    close_production(given.name.strip(), person(request))
    return answer(productions_now())


@router.delete("/productions/{number}", response={204: None}, operation_id="reopen_production", auth=CORRECTS)
def reopen(request: HttpRequest, number: int) -> Status[None]:
    """Say that a production goes on after all: nothing of it goes."""
    row = row_or_404(EndedProduction.objects.filter(pk=number), "production", "no such production has ended")
    reopen_production(row, person(request))
    return Status(204, None)


def _delivery(number: int) -> Delivery:
    rows = Delivery.objects.select_related("seat", "signed_by", "inspection").filter(pk=number)
    row: Delivery = row_or_404(rows, "delivery", f"there is no delivery {number}")
    return row


def _object(row: Delivery, inspected: UUID | None = None) -> dict[str, Any]:
    own = (
        "project",
        "production",
        "file",
        "app",
        "digest",
        "size",
        "finished_at",
        "state",
        "proposed_by",
        "proposed_at",
    )
    beside = ((row.inspection.receipt if row.inspection else None) or {}).get("inspected")
    return {
        "id": row.pk,
        **{name: getattr(row, name) for name in own},
        "seat": row.seat.name if row.seat else None,
        "seen": seen_of_delivery(row),
        "signed_by": row.signed_by.username if row.signed_by else None,
        "signed_at": row.signed_at,
        "reason": row.reason,
        "inspection": row.inspection_id,
        "flaws": len(beside.get("flaws", ())) + beside.get("unshown", 0) if beside else None,
        "inspected": inspected if inspected != row.inspection_id else None,
    }
