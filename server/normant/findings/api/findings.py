"""Findings, the round, and publishing the standard that makes them."""

import datetime as dt
from typing import Annotated, Any, Literal

import msgspec
from django.http import HttpRequest
from django.utils import timezone
from ninja import Query, Router, Schema
from pydantic import AwareDatetime, Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.problems import fault_object
from normant.common.schemas import ListOf
from normant.seats.visible import seat_or_404
from normant.standards.schemas import PublishedOut, TryOut
from normant_core.standard.sentences import layer_sentences

from ..changes import changes_of, first_survey
from ..compare import compare
from ..models import Finding
from ..schemas import ChangesOut, CompareOut, FindingOut, SeatRecordOut
from ..seat_record import seat_record
from ..services.draft import need_second_person
from ..services.publish import publish, try_edition

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
    "waiver",
)


class Filters(Page):
    """Which findings; `seat` as often as need be."""

    seat: Annotated[list[str] | None, Query(max_length=500)] = None
    setting: str | None = None
    status: Literal["open", "closed"] | None = None
    waived: bool | None = None


class Beside(Schema):
    """The other side of a comparison: another seat (or the same) at a time, or the healthy similar seats if none is
    named."""

    other: str | None = None
    at: AwareDatetime | None = None
    other_at: AwareDatetime | None = None


class EditionIn(Schema):
    text: str = Field(max_length=400_000)


class PublishIn(EditionIn):
    base: int
    note: str = Field("", max_length=300)


@router.get("/findings", response=ListOf[FindingOut], operation_id="findings", auth=Needs(Permission.SEE_SEATS))
def findings(request: HttpRequest, filters: Query[Filters]) -> Any:
    """Findings of the seats that you may see."""
    matching = Finding.objects.visible_to(person(request))
    if filters.seat:
        matching = matching.filter(seat__name__in=filters.seat)
    if filters.setting:
        matching = matching.filter(setting=filters.setting)
    if filters.status:
        matching = matching.open() if filters.status == "open" else matching.closed()
    if filters.waived is not None:
        matching = matching.filter(waiver__isnull=not filters.waived)
    rows = matching.values(*COLUMNS)[filters.start : filters.end]
    return answer((finding_object(row) for row in rows), total=matching.count())


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
        "waiver": row["waiver"],
        "verdict": row["verdict"],
    }


@router.get("/seats/{name}", response=SeatRecordOut, operation_id="seat", auth=Needs(Permission.SEE_SEATS))
def seat(request: HttpRequest, name: str, at: AwareDatetime | None = None) -> Any:
    """Return the full record of a seat, now or at an earlier time."""
    return plain(seat_record(seat_or_404(name, person(request)), at))


@router.get("/seats/{name}/changes", response=ChangesOut, operation_id="seat_changes", auth=Needs(Permission.SEE_SEATS))
def changes(request: HttpRequest, name: str, days: Annotated[int, Query(ge=1, le=3660)] = 30) -> Any:
    """What changed on a seat, the newest first."""
    seat = seat_or_404(name, person(request))
    items = changes_of(seat, since=timezone.now() - dt.timedelta(days=days))
    return plain({"items": items, "total": len(items), "first": first_survey(seat)})


@router.get("/seats/{name}/compare", response=CompareOut, operation_id="compare", auth=Needs(Permission.SEE_HOUSE))
def compared(request: HttpRequest, name: str, given: Query[Beside]) -> Any:
    """What differs between a seat and another one, itself at another moment, or its healthy peers."""
    seat = seat_or_404(name, person(request))
    other = seat_or_404(given.other, person(request)) if given.other else None
    return plain(compare(seat, other, at=given.at, other_at=given.other_at))


@router.post("/standard/try", response=TryOut, operation_id="try_edition", auth=Needs(Permission.PUBLISH))
def try_text(request: HttpRequest, given: EditionIn) -> Any:
    """What publishing this text would open and close; faults come as a problem document."""
    standard, impact = try_edition(given.text)
    return plain(
        {
            "impact": msgspec.to_builtins(impact),
            "layers": [msgspec.to_builtins(layer) for layer in layer_sentences(standard)],
            "warnings": [fault_object(fault) for fault in standard.warnings],
        }
    )


@router.post("/standard/publish", response=PublishedOut, operation_id="publish", auth=Needs(Permission.PUBLISH))
def publish_text(request: HttpRequest, given: PublishIn) -> Any:
    """Publish a new edition; every seat is judged anew."""
    need_second_person(None)
    edition = publish(given.text, base=given.base, note=given.note, user=person(request))
    return plain({"number": edition.number})
