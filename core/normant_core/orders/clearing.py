"""Clearing a seat's stores by a plan, as seats and the house tell each other of it.

A seat looks its stores through by rules, keeps the list of what would go, and tells figures and the list's SHA-256.
What people sign is that digest; the seat clears what is on the list of that digest, and nothing else.
"""

import datetime as dt
from typing import Annotated

import msgspec
from msgspec import Meta

from ..base.quantities import LARGEST_TOLD
from ..care.clearing import Kind
from ..care.deliveries import ProjectOfProduction

MOST_STORES = 40  # of one seat in one plan
MOST_NAMES = 2000  # productions, or deliveries, that a plan names
MOST_LISTED = 1_000_000  # files that one list holds
MOST_REASONS = 30  # for which items stay, that a seat tells of a store
Name = Annotated[str, Meta(min_length=1, max_length=120)]
Word = Annotated[str, Meta(max_length=120)]
Folder = Annotated[str, Meta(max_length=4096)]
Count = Annotated[int, Meta(ge=0, le=LARGEST_TOLD)]
Moment = Annotated[dt.datetime, Meta(tz=True)]
Sha256 = Annotated[str, Meta(pattern="^[0-9a-f]{64}$")]


class ClearingStruct(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Common manner of what is told of clearing."""


class StoreAim(ClearingStruct, frozen=True):
    """A store of an application (empty: the system's own) that is looked through, and what of it may go.

    Of what nobody used for so many days as much goes as is too much for `quota` bytes; None: all of it.
    """

    app: Word
    kind: Kind
    unused_days: Annotated[int, Meta(ge=1, le=3650)] = 60
    quota: Count | None = None


class Ended(ClearingStruct, frozen=True):
    """A production, and when it ended."""

    production: Name
    at: Moment


class Reason(ClearingStruct, frozen=True):
    """Why so many items, of so many bytes, stay."""

    why: Annotated[str, Meta(max_length=300)]
    items: Count
    size: Count


class PlannedStore(ClearingStruct, frozen=True):
    """A store that was looked through: `items` of `size` bytes, of which `going` of `going_size` would go.

    `digest` is of the list of those, the `oldest` of which was used then; empty where nothing goes. `at_once`: they do
    not lie in a holding folder for a day, because the volume has no room for that. `trouble` is why nobody looked.

    `rests_on` are the deliveries by which renders and backups of the list may go, `productions` those of all its files
    whose path tells one. `projects` is what agents before 0.8.0 sent in place of `rests_on`.
    """

    app: Word
    kind: Kind
    folder: Folder = ""
    volume: Word = ""
    items: Count = 0
    size: Count = 0
    going: Count = 0
    going_size: Count = 0
    oldest: Moment | None = None
    reasons: Annotated[tuple[Reason, ...], Meta(max_length=MOST_REASONS)] = ()
    projects: Annotated[tuple[Word, ...], Meta(max_length=MOST_NAMES)] = ()
    rests_on: Annotated[tuple[ProjectOfProduction, ...], Meta(max_length=MOST_NAMES)] = ()
    productions: Annotated[tuple[Word, ...], Meta(max_length=MOST_NAMES)] = ()
    digest: Annotated[str, Meta(pattern="^([0-9a-f]{64})?$")] = ""
    at_once: bool = False
    trouble: Annotated[str, Meta(max_length=500)] = ""


class ListedFile(msgspec.Struct, frozen=True):
    """A line of a list as a seat hands it in: path, bytes that are free without the file, seconds of its last use."""

    path: Annotated[str, Meta(min_length=1, max_length=4096)]
    size: Count
    used: Annotated[float, Meta(ge=-(1 << 53), le=1 << 53)]
    production: Annotated[str, Meta(max_length=4096)] = ""
    project: Annotated[str, Meta(max_length=4096)] = ""


class Finished(ClearingStruct, frozen=True):
    """An export that nobody writes to any more, by its path under its application's store of exports."""

    app: Annotated[str, Meta(min_length=1, max_length=64)]
    file: Annotated[str, Meta(min_length=1, max_length=400)]
    size: Annotated[int, Meta(ge=1, le=LARGEST_TOLD)]
    digest: Sha256
    finished_at: Moment
    project: Name
    production: Word = ""


class Deleted(ClearingStruct, frozen=True):
    """What became of the files that an order held for a day: so many were deleted, and `size` bytes are free.

    Those that were changed meanwhile were `returned` to their place, or stay held where that is taken; the `lost` ones
    are neither held nor in their place. `unrecorded` are names in the holding folder that the order did not put there.
    """

    at: Moment
    items: Count = 0
    size: Count = 0
    returned: Count = 0
    staying: Count = 0
    lost: Count = 0
    unrecorded: Count = 0
    reasons: Annotated[tuple[Reason, ...], Meta(max_length=MOST_REASONS)] = ()


class Cleared(ClearingStruct, frozen=True):
    """What went of a list: so many items and bytes, and why the others stay.

    `held_until`: they can be put back until then, and only then is the room free; None: they are gone. With
    `is_reported` the seat tells, as Deleted, what it has deleted after that.
    """

    items: Count
    size: Count
    reasons: Annotated[tuple[Reason, ...], Meta(max_length=MOST_REASONS)] = ()
    held_until: Moment | None = None
    is_reported: bool = False
