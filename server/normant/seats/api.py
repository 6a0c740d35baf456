"""The floor, a seat, and enrolment."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Query, Router, Schema, Status
from pydantic import AwareDatetime, Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import answer, plain
from normant.common.schemas import ListOf
from normant.ledger.services.keys import fingerprint_of

from .floor import seats_on_floor
from .models import Reading, Seat
from .schemas import EnrolmentOut, ReadingOut, SeatOut
from .services.enrol import offer_enrolment, revoke
from .services.register import Place, register, validate_role
from .visible import seat_or_404

router = Router(tags=["seats"])
READING = ("seat__name", "setting", "app", "value", "since", "cause")
NAME = r"^[A-Za-z0-9][A-Za-z0-9._-]{0,63}$"


class EnrolmentIn(Schema):
    """A seat to enrol; one that is not in the register yet is added to it."""

    seat: str = Field(pattern=NAME)
    role: str = Field("", max_length=40)
    room: str = Field("", max_length=80)
    production: str = Field("", max_length=80)


class WhichReadings(Schema):
    """Which readings, at which moment (none: now)."""

    setting: str | None = None
    app: str | None = None
    seat: str | None = None
    at: AwareDatetime | None = None
    offset: int = Field(0, ge=0)
    limit: int = Field(1000, ge=1, le=20_000)


@router.get("/seats", response=ListOf[SeatOut], operation_id="seats", auth=Needs(Permission.SEE_SEATS))
def seats(
    request: HttpRequest, retired: bool = False, name: Annotated[list[str] | None, Query(max_length=500)] = None
) -> Any:
    """Every seat that you may see, with its five levels, as the floor is arranged; or those that were retired.

    `name`, as often as need be, asks for these seats alone.
    """
    rows = Seat.objects.visible_to(person(request))
    rows = rows.exclude(retired_at=None) if retired else rows.active()
    return answer(seats_on_floor(rows.filter(name__in=name) if name else rows))


@router.get("/readings", response=ListOf[ReadingOut], operation_id="readings", auth=Needs(Permission.SEE_SEATS))
def readings(request: HttpRequest, filters: Query[WhichReadings]) -> Any:
    """List the readings of all seats, now or at an earlier time."""
    matching = Reading.objects.visible_to(person(request))
    matching = matching.at(filters.at) if filters.at else matching.current()
    for column in ("setting", "app", "seat__name"):
        if (wanted := getattr(filters, column.removesuffix("__name"))) is not None:
            matching = matching.filter(**{column: wanted})
    rows = matching.order_by("seat__name", "setting", "app").values_list(*READING)
    page = rows[filters.offset : filters.offset + filters.limit]
    names = ("seat", *READING[1:])
    whole = filters.offset == 0 and len(page) < filters.limit
    return answer((dict(zip(names, row, strict=True)) for row in page), total=len(page) if whole else matching.count())


@router.post(
    "/enrolments", response=EnrolmentOut, operation_id="enrol_seat", auth=Needs(Permission.ENROL, shown_once=True)
)
def enrol(request: HttpRequest, given: EnrolmentIn) -> Any:
    """A one-time code for a seat, valid for a day. It is shown once."""
    actor = person(request).username
    seat = Seat.objects.filter(name=given.seat).first()
    if seat is None:
        validate_role(given.role)
        seat = register(given.seat, Place(given.role, given.room, given.production), actor)
    return plain(
        {"seat": seat.name, "code": offer_enrolment(seat, actor), "valid_hours": 24, "key": fingerprint_of("orders")}
    )


@router.delete("/seats/{name}/agent", response={204: None}, operation_id="revoke_agent", auth=Needs(Permission.ENROL))
def revoke_agent(request: HttpRequest, name: str) -> Status[None]:
    """Take the seat's token away."""
    revoke(seat_or_404(name, person(request)), person(request).username)
    return Status(204, None)
