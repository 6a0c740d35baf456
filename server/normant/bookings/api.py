"""Rooms, and when they are booked."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import File, Form, Router, Schema, UploadedFile
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import answer
from normant.common.schemas import ListOf
from normant_core.rollout.bookings import LIMIT_BYTES

from .rooms import calendars
from .schemas import RoomBookedOut
from .services.keep_calendar import follow_calendar, forget_calendar, keep_calendar

router = Router(tags=["rollouts"])


class FollowIn(Schema):
    """A room, and the address of its calendar."""

    room: Annotated[str, Field(min_length=1, max_length=80)]
    address: Annotated[str, Field(min_length=1, max_length=500)]


@router.get("/rooms", response=ListOf[RoomBookedOut], operation_id="rooms", auth=Needs(Permission.SEE_HOUSE))
def rooms(request: HttpRequest) -> Any:
    """Every room with seats, and when its calendar says that it is booked."""
    return answer(calendars())


@router.post(
    "/rooms/calendar", response=ListOf[RoomBookedOut], operation_id="keep_calendar", auth=Needs(Permission.CORRECT)
)
def keep_calendar_of_room(request: HttpRequest, room: Form[str], calendar: File[UploadedFile]) -> Any:
    """From now on this calendar (iCalendar) says when the room is booked."""
    keep_calendar(room, calendar.read(LIMIT_BYTES + 1), calendar.name or "calendar", person(request))
    return answer(calendars())


@router.post(
    "/rooms/calendar/follow",
    response=ListOf[RoomBookedOut],
    operation_id="follow_calendar",
    auth=Needs(Permission.CORRECT),
)
def follow_calendar_of_room(request: HttpRequest, given: FollowIn) -> Any:
    """From now on what is at this address says when the room is booked: fetched now, and each quarter of an hour."""
    follow_calendar(given.room, given.address, person(request))
    return answer(calendars())


@router.delete(
    "/rooms/calendar", response=ListOf[RoomBookedOut], operation_id="forget_calendar", auth=Needs(Permission.CORRECT)
)
def forget_calendar_of_room(request: HttpRequest, room: str) -> Any:
    """The room counts as free."""
    forget_calendar(room, person(request))
    return answer(calendars())
