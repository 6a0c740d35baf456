"""What is told of bookings."""

from ninja import Schema

from normant.common.schemas import Moment


class BookingOut(Schema):
    """From when until when."""

    begins: Moment
    ends: Moment


class RoomBookedOut(Schema):
    """When a room is booked in the next two weeks; `file` is null where nobody brought its calendar.

    With an `address` it is fetched again and again; `fault` says why the last time it was not.
    """

    room: str
    file: str | None
    address: str
    fault: str
    kept_by: str | None
    kept_at: Moment | None
    hours: float
    next: list[BookingOut]
