"""What the floor tells of a seat."""

from typing import Literal

from ninja import Schema

from normant.common.answers import answer_of
from normant.common.schemas import ListOf, Moment, Plain, Status
from normant_core.judging.levels import Level


@answer_of(Level)
class LevelOut(Schema):
    """One gauge: the status of the worst reading in a family."""

    status: Status


class SeatOut(Schema):
    """A seat on the floor."""

    name: str
    role: str
    room: str
    production: str
    hardware_class: str
    tags: list[str]
    retired_at: Moment | None
    levels: list[LevelOut]
    off_norm: int
    seen_at: Moment | None
    taken_at: Moment | None
    idle_seconds: int | None
    presence: Literal["here", "silent", "never"]


class PlaceOut(Schema):
    """A seat on the plan of the floor."""

    name: str
    role: str
    production: str
    off_norm: int
    presence: Literal["here", "silent", "never"]


class RoomOut(Schema):
    """A room with its seats and their places; seats without a room are in a room with an empty name."""

    name: str
    seats: list[PlaceOut]


class FloorOut(ListOf[RoomOut]):
    """The floor; `seen` is its version, for a request that arranges it."""

    seen: str


class ReadingOut(Schema):
    """One value of one setting on one seat; `app` is empty for the machine's own."""

    seat: str
    setting: str
    app: str
    value: Plain
    since: Moment
    cause: str


class EnrolmentOut(Schema):
    """A one-time code, shown once; `key` is the fingerprint of the key that the agent must show when it enrols."""

    seat: str
    code: str
    valid_hours: int
    key: str
