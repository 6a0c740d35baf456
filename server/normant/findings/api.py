"""Findings, the round, and publishing the standard that makes them."""

from typing import Any, Literal

import msgspec
from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.problems import fault_object
from normant.common.schemas import ListOf
from normant.seats.visible import seat_or_404
from normant.standards.schemas import PublishedOut, TryOut
from normant_core.sentences import layers_told

from .models import Finding
from .schemas import FindingOut, SeatRecordOut
from .seat_record import seat_record
from .services.publish import publish, try_edition

router = Router(tags=["findings"])
COLUMNS = (
    "id",
    "seat__name",
    "setting",
    "app",
    "severity",
    "verdict",
    "opened_at",
    "opened_by",
    "closed_at",
    "closed_by",
)


class Filters(Page):
    """Which findings."""

    seat: str | None = None
    setting: str | None = None
    status: Literal["open", "closed"] | None = None


class EditionIn(Schema):
    text: str = Field(max_length=400_000)


class PublishIn(EditionIn):
    base: int
    note: str = Field("", max_length=300)


@router.get("/findings", response=ListOf[FindingOut], operation_id="findings", auth=Needs(Permission.SEE_SEATS))
def findings(request: HttpRequest, filters: Query[Filters]) -> Any:
    """Findings of the seats that you may see."""
    found = Finding.objects.visible_to(person(request))
    if filters.seat:
        found = found.filter(seat__name=filters.seat)
    if filters.setting:
        found = found.filter(setting=filters.setting)
    if filters.status:
        found = found.open() if filters.status == "open" else found.closed()
    rows = found.values(*COLUMNS)[filters.start : filters.end]
    return answer((finding_object(row) for row in rows), total=found.count())


def finding_object(row: dict[str, Any]) -> dict[str, Any]:
    """A finding as the API tells it."""
    return {
        "id": row["id"],
        "seat": row["seat__name"],
        "setting": row["setting"],
        "app": row["app"] or None,
        "status": "closed" if row["closed_at"] else "open",
        "severity": row["severity"],
        "opened_at": row["opened_at"],
        "opened_by": row["opened_by"],
        "closed_at": row["closed_at"],
        "closed_by": row["closed_by"] or None,
        "verdict": row["verdict"],
    }


@router.get("/seats/{name}", response=SeatRecordOut, operation_id="seat", auth=Needs(Permission.SEE_SEATS))
def seat(request: HttpRequest, name: str) -> Any:
    """The whole record of one seat."""
    return plain(seat_record(seat_or_404(name, request.user)))  # type: ignore[arg-type]


@router.post("/standard/try", response=TryOut, operation_id="try_edition", auth=Needs(Permission.PUBLISH))
def try_text(request: HttpRequest, given: EditionIn) -> Any:
    """What publishing this text would open and close; faults come as a problem document."""
    standard, impact = try_edition(given.text)
    return plain(
        {
            "sentence": impact.sentence,
            "impact": msgspec.to_builtins(impact),
            "layers": [msgspec.to_builtins(layer) for layer in layers_told(standard)],
            "warnings": [fault_object(fault) for fault in standard.warnings],
        }
    )


@router.post("/standard/publish", response=PublishedOut, operation_id="publish", auth=Needs(Permission.PUBLISH))
def publish_text(request: HttpRequest, given: PublishIn) -> Any:
    """Publish a new edition; every seat is judged anew."""
    edition = publish(given.text, base=given.base, note=given.note, user=person(request))
    return plain({"number": edition.number})
