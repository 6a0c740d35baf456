"""Timelines: bring one, see what it takes of every seat, and what would make it play."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import File, Form, Query, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf
from normant.seats.visible import seat_or_404
from normant_core.base.toml_places import LIMIT_BYTES

from .loads import effects_object, on_seats, seat_object, seats_object, sources_object
from .models import Costs, Timeline
from .schemas import CostsOut, SeatTimelineOut, TimelineOut, TimelineRowOut
from .services.keep_timeline import LARGEST, MEDIA_LARGEST, drop_timeline, keep_costs, keep_media, keep_timeline

router = Router(tags=["trials"])


class TimelineIn(Schema):
    """A timeline's name, and what its sources are: CSV with target_url, codec, width, height (empty: not known yet)."""

    name: Annotated[str, Field(min_length=1, max_length=120, pattern=r"\S")]
    media: Annotated[str, Field(max_length=MEDIA_LARGEST)] = ""


class MediaIn(Schema):
    """What sources are, CSV."""

    media: Annotated[str, Field(min_length=1, max_length=MEDIA_LARGEST, pattern=r"\S")]


class CostsIn(Schema):
    """The list of effects, TOML, and the number of the one that was read before (0: none)."""

    text: Annotated[str, Field(max_length=LIMIT_BYTES)]
    base: Annotated[int, Field(ge=0, le=1 << 53)]


@router.get("/timelines", response=ListOf[TimelineRowOut], operation_id="timelines", auth=Needs(Permission.SEE_HOUSE))
def timelines(request: HttpRequest, page: Query[Page]) -> Any:
    """Every timeline that was brought."""
    rows = Timeline.objects.defer("media", "body")[page.start : page.end]
    return answer((_row(timeline) for timeline in rows), total=Timeline.objects.count())


@router.post("/timelines", response=TimelineRowOut, operation_id="keep_timeline", auth=Needs(Permission.CORRECT))
def keep(request: HttpRequest, about: Form[TimelineIn], file: File[UploadedFile]) -> Any:
    """Keep a timeline of OpenTimelineIO; one of the same name is kept anew."""
    body, actor = file.read(LARGEST + 1), person(request).username
    return plain(_row(keep_timeline(about.name, file.name or "", body, about.media, actor)))


@router.get("/timelines/{number}", response=TimelineOut, operation_id="timeline", auth=Needs(Permission.SEE_HOUSE))
def timeline(request: HttpRequest, number: int) -> Any:
    """One timeline, and how every seat plays it."""
    row = _timeline(number)
    ready = on_seats(row)
    return plain(
        {
            **_row(row),
            "left": list(ready.left),
            "sources": sources_object(ready, row.media),
            "effects": effects_object(ready),
            "seats": seats_object(ready),
        }
    )


@router.get(
    "/timelines/{number}/seats/{name}",
    response=SeatTimelineOut,
    operation_id="timeline_on_seat",
    auth=Needs(Permission.SEE_HOUSE),
)
def on_seat(request: HttpRequest, number: int, name: str) -> Any:
    """Its load profile on a seat, and what would make all of it play there."""
    return plain(seat_object(on_seats(_timeline(number)), seat_or_404(name, person(request))))


@router.post(
    "/timelines/{number}/media", response={204: None}, operation_id="keep_media", auth=Needs(Permission.CORRECT)
)
def media(request: HttpRequest, number: int, given: MediaIn) -> Status[None]:
    """Say what its sources are."""
    keep_media(_timeline(number), given.media, person(request).username)
    return Status(204, None)


@router.delete(
    "/timelines/{number}", response={204: None}, operation_id="drop_timeline", auth=Needs(Permission.CORRECT)
)
def drop(request: HttpRequest, number: int) -> Status[None]:
    """Let go of it."""
    drop_timeline(_timeline(number), person(request).username)
    return Status(204, None)


@router.get("/effects", response=CostsOut, operation_id="effects", auth=Needs(Permission.SEE_HOUSE))
def effects(request: HttpRequest) -> Any:
    """What effects, proxies and renders ahead cost in this house."""
    return plain(_costs(Costs.objects.first()))


@router.put("/effects", response=CostsOut, operation_id="keep_effects", auth=Needs(Permission.PUBLISH))
def change_effects(request: HttpRequest, given: CostsIn) -> Any:
    """Write it anew."""
    return plain(_costs(keep_costs(given.text, given.base, person(request).username)))


def _timeline(number: int) -> Timeline:
    return row_or_404(Timeline.objects.filter(pk=number), "timeline", f"there is no timeline {number}")


def _row(timeline: Timeline) -> dict[str, Any]:
    fields = ("name", "rate", "seconds", "clips", "kept_by", "kept_at")
    return {"id": timeline.pk, **{name: getattr(timeline, name) for name in fields}}


def _costs(costs: Costs | None) -> dict[str, Any]:
    if costs is None:
        return {"id": 0, "text": "", "kept_by": "", "kept_at": None}
    return {"id": costs.pk, "text": costs.text, "kept_by": costs.kept_by, "kept_at": costs.kept_at}
