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
    """What to scan: kinds of stores on these seats, or in a room, or everywhere (both empty).

    Selects files that were unused for a number of days; with a `production`, only its files. `free`: select as much
    as needed to have this much free space on each volume; `quota`: select what each store has beyond it. Both are
    sizes such as `200 GB`, or empty for no limit.
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
    """The version of the plan that was read."""

    seen: Seen


class HaltClearingIn(Schema):
    """Why."""

    why: Annotated[str, Field(min_length=1, max_length=300)]


@answer_of(Reason)
class StaysOut(Schema):
    """Why so many items, of so many bytes, stay."""


@answer_of(Cleared)
class ClearedOut(Schema):
    """What was deleted from a store, and why the rest was kept."""


@answer_of(Deleted)
class DeletedOut(Schema):
    """What became of the files of a store that were held for a day."""


class ClearingRowOut(Schema):
    """A plan with the bytes that it promises, that were moved, that are held and can be put back, and that are free."""

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
    """The progress of a clean-up on one seat."""

    seat: str
    room: str
    state: Literal["looking", "planned", "waiting", "at work", "done", "stopped"]
    message: str
    promised: int
    cleared: int
    held: int
    freed: int


class KindOut(Schema):
    """Stores of one kind in a plan: files and bytes in total, to be deleted, and deleted.

    `making` says what recreating them costs, `again` how much video would have to be recreated, if known.
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
    """The totals of a plan.

    `going` files are to be deleted, `at_once` of them immediately, without a way to put them back. The space of
    `held` bytes is free after 24 hours; `put_back` bytes were restored. `returned` held files were put back because
    they changed; `lost` ones are missing. `stays` are the reasons that keep the most bytes.
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
    """A store in a plan; `trouble` says why it was not scanned, `failed` why nothing was deleted.

    `is_implausible`: it reports more bytes than its volume has, and is left out of sums.
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
    """A page of a file list from a seat, sorted and searched; `matching` of `total` files match.

    A search that takes too long reads only the first `searched` files. `state`: `none` (not requested), `asked`
    (requested from the seat), `whole` (received), or refused, by the seat or because it differs from the plan.
    """

    state: Literal["none", "asked", "whole", "refused"]
    message: str
    items: list[ListedItemOut]
    matching: int
    total: int
    searched: int
