"""Finished exports of a seat: looked into by its agent, frame by frame."""

from typing import Annotated, Any
from uuid import UUID

import msgspec
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.answers import answer_of
from normant.common.lists import plain
from normant.common.problems import Problem
from normant.common.schemas import Moment
from normant.orders.models import Order
from normant.orders.schemas import OrderedOut
from normant.seats.models import Seat
from normant.seats.views_of import latest_survey
from normant.seats.visible import seat_or_404
from normant_core.orders.exports import LIMIT_PATH, Deliverable, Flaw, Inspected, Sound
from normant_core.orders.kinds import InspectExport, parse_order

from .services.inspect_export import EXPORTS, inspect_export, specification_of

router = Router(tags=["rollouts"])
SHOWN = 10  # inspections of a seat


class InspectIn(Schema):
    """An export by its path under the application's store of exports (empty: the newest), and what it has to be."""

    app: Annotated[str, Field(min_length=1, max_length=64)]
    file: Annotated[str, Field(max_length=LIMIT_PATH)] = ""
    specification: Annotated[str, Field(max_length=10_000)] = ""


@answer_of(Sound)
class SoundOut(Schema):
    """A track of sound."""


@answer_of(Deliverable)
class DeliverableOut(Schema):
    """What a file says that it is."""


@answer_of(Flaw)
class FlawOut(Schema):
    """Something that is not as it should be."""


@answer_of(Inspected)
class InspectedOut(Schema):
    """An export that was decoded frame by frame."""


class InspectionOut(Schema):
    """One inspection: its progress on the seat (`message`) and its result."""

    order: UUID
    app: str
    file: str
    asked_at: Moment
    told: bool
    outcome: str
    message: str
    inspected: InspectedOut | None


class ExportsOut(Schema):
    """The applications of a seat that have a store of exports, and what was looked into last, newest first."""

    apps: list[str]
    inspections: list[InspectionOut]


@router.get("/seats/{name}/exports", response=ExportsOut, operation_id="exports", auth=Needs(Permission.SEE_SEATS))
def exports(request: HttpRequest, name: str) -> Any:
    """What can be looked into on a seat, and what was."""
    seat = seat_or_404(name, person(request))
    return plain({"apps": _apps(seat), "inspections": [_inspection(order) for order in _orders(seat)]})


@router.post(
    "/seats/{name}/exports/inspect",
    response=OrderedOut,
    operation_id="inspect_export",
    auth=Needs(Permission.CORRECT),
)
def inspect(request: HttpRequest, name: str, given: InspectIn) -> Any:
    """Have the seat look into an export."""
    seat = seat_or_404(name, person(request))
    if given.app not in _apps(seat):
        raise Problem(422, "No exports", f"no application {given.app} of {name} has an export folder")
    wanted = InspectExport(given.app, given.file.strip(), specification_of(given.specification))
    return plain({"order": str(inspect_export(seat, person(request), wanted).pk)})


def _apps(seat: Seat) -> list[str]:
    survey = latest_survey(seat)
    readings = survey.readings if survey else ()
    return sorted({reading.app for reading in readings if reading.setting == EXPORTS and reading.app})


def _orders(seat: Seat) -> list[Order]:
    return list(
        Order.objects.filter(seat=seat, kind="inspect_export", withdrawn_at=None).order_by("-created_at")[:SHOWN]
    )


def _inspection(order: Order) -> dict[str, Any]:
    receipt = order.receipt or {}
    action = parse_order(bytes(order.body)).action
    assert isinstance(action, InspectExport)
    inspected = receipt.get("inspected")
    shown = msgspec.to_builtins(msgspec.convert(inspected, Inspected)) if inspected else None
    return {
        "order": str(order.pk),
        "app": action.app,
        "file": (inspected or {}).get("file") or action.file,
        "asked_at": order.created_at,
        "told": bool(receipt),
        "outcome": receipt.get("outcome", ""),
        "message": receipt.get("message") or order.message,
        "inspected": shown,
    }
