"""What the API takes and tells of plans of clearing."""

from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from normant.common.answers import answer_of
from normant.common.schemas import Moment
from normant.common.seen import Seen
from normant_core.orders.clearing import Cleared, Deleted, Reason

ClearedKind = Literal["source_cache", "frame_cache", "proxies", "renders", "backups", "scratch", "temporary", "bin"]
Name = Annotated[str, Field(min_length=1, max_length=64)]
Quantity = Annotated[str, Field(max_length=40)]


class ClearingIn(Schema):
    """What is to be looked through: kinds of stores on these seats, or on all of a room, or of the house (both empty).

    Items go that nobody used for so many days; with a `production`, only items of that one. `free`: as much goes as
    makes so much free on each volume; `quota`: as each store holds more than that; `200 GB`, or empty for none.
    """

    kinds: list[ClearedKind] = Field(min_length=1, max_length=8)
    seats: list[Name] = Field([], max_length=2000)
    room: Annotated[str, Field(max_length=80)] = ""
    production: Annotated[str, Field(max_length=120)] = ""
    unused_days: Annotated[int, Field(ge=1, le=3650)] = 60
    free: Quantity = ""
    quota: Quantity = ""
    begins: Moment | None = None


class BegunOut(Schema):
    """The plan's number."""

    id: int


class SignClearingIn(Schema):
    """The plan as it was read."""

    seen: Seen


class HaltClearingIn(Schema):
    """Why."""

    why: Annotated[str, Field(min_length=1, max_length=300)]


@answer_of(Reason)
class StaysOut(Schema):
    """Why so many items, of so many bytes, stay."""


@answer_of(Cleared)
class ClearedOut(Schema):
    """What went of a store, and why the rest stayed."""


@answer_of(Deleted)
class DeletedOut(Schema):
    """What became of the files of a store that were held for a day."""


class ClearingRowOut(Schema):
    """A plan: bytes that it promises, that went from their place, that are held and can be put back, that are free."""

    id: int
    title: str
    state: Literal["looking", "planned", "running", "halted", "ended", "dropped"]
    seats: int
    promised: int
    cleared: int
    held: int
    freed: int
    created_by: str
    created_at: Moment


class SeatClearingOut(Schema):
    """Where a seat stands with it."""

    seat: str
    room: str
    state: Literal["looking", "planned", "waiting", "at work", "done", "stopped"]
    message: str
    promised: int
    cleared: int
    held: int
    freed: int


class KindOut(Schema):
    """Stores of one kind in a plan: items and bytes there, of those that would go, and of those that went.

    `making` says what losing them costs, `again` how much picture would have to be made again, where that is known.
    """

    kind: ClearedKind
    making: str
    again: str
    stores: int
    items: int
    size: int
    going: int
    going_size: int
    cleared: int
    cleared_size: int


class ClearingOut(ClearingRowOut):
    """A plan in numbers. `going` items go, some of them `at_once`: those cannot be put back; of `held` bytes the room
    is free when their day is over, `put_back` bytes lie where they lay. Of held files so many were `returned`, because
    they changed, or are `lost`. `stays` are the heaviest reasons for what stays.
    """

    seen: str
    sentence: str
    reason: str
    begins: Moment | None
    signed_by: str | None
    signed_at: Moment | None
    ended_at: Moment | None
    going: int
    cleared_items: int
    put_back: int
    returned: int
    lost: int
    at_once: int
    held_until: Moment | None
    oldest: Moment | None
    kinds: list[KindOut]
    stays: list[StaysOut]
    on: list[SeatClearingOut]


class StoreClearingOut(Schema):
    """A store in a plan, `trouble` why nobody looked through it, `failed` why nothing of it went.

    `is_implausible`: it tells more bytes than its volume has, and is left out of sums.
    """

    seat: str
    place: int
    app: str
    kind: str
    folder: str
    volume: str
    items: int
    size: int
    going: int
    going_size: int
    is_implausible: bool
    oldest: Moment | None
    at_once: bool
    reasons: list[StaysOut]
    trouble: str
    failed: str
    put_back: str
    cleared: ClearedOut | None
    deleted: DeletedOut | None


class ListedItemOut(Schema):
    """An item of a list: bytes that are free without it, and when it was used last."""

    path: str
    size: int
    used: Moment
    production: str
    project: str


class ItemsOut(Schema):
    """A part of a list that its seat handed in, sorted and searched; `matching` of `total` files match.

    A search that takes too long reads the first `searched` files only. `state`: nobody asked for it (`none`), the seat
    is asked (`asked`), it is here (`whole`), or it was refused, by the seat or because it is not as planned.
    """

    state: Literal["none", "asked", "whole", "refused"]
    message: str
    items: list[ListedItemOut]
    matching: int
    total: int
    searched: int
