"""Clearing a seat's stores by a plan, as seats and the house tell each other of it.

A seat looks its stores through by rules, keeps the list of what would go, and tells figures and the list's SHA-256.
What people sign is that digest; the seat clears what is on the list of that digest, and nothing else.
"""

import datetime as dt
from typing import Annotated

import msgspec
from msgspec import Meta

from ..care.clearing import Kind

MOST_STORES = 40  # of one seat in one plan
MOST_NAMES = 2000  # productions, or projects, that a plan names
MOST_REASONS = 30  # for which items stay, that a seat tells of a store
Name = Annotated[str, Meta(min_length=1, max_length=120)]
Word = Annotated[str, Meta(max_length=120)]
Folder = Annotated[str, Meta(max_length=4096)]
Count = Annotated[int, Meta(ge=0, le=1 << 62)]
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
    digest: Annotated[str, Meta(pattern="^([0-9a-f]{64})?$")] = ""
    at_once: bool = False
    trouble: Annotated[str, Meta(max_length=500)] = ""


class Finished(ClearingStruct, frozen=True):
    """An export that nobody writes to any more, by its path under its application's store of exports."""

    app: Annotated[str, Meta(min_length=1, max_length=64)]
    file: Annotated[str, Meta(min_length=1, max_length=400)]
    size: Annotated[int, Meta(ge=1, le=1 << 62)]
    digest: Sha256
    finished_at: Moment
    project: Name
    production: Word = ""


class Cleared(ClearingStruct, frozen=True):
    """What went of a list: so many items and bytes, and why the others stay.

    `held_until`: they can be put back until then, and only then is the room free; None: they are gone.
    """

    items: Count
    size: Count
    reasons: Annotated[tuple[Reason, ...], Meta(max_length=MOST_REASONS)] = ()
    held_until: Moment | None = None
