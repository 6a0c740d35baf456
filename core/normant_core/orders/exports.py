"""Finished exports, as seats and the house tell each other of them: what one is, has to be, and what is wrong."""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from ..base.quantities import LARGEST_TOLD

FORMAT = "normant-deliverable/1"
LIMIT_PATH = 400  # characters of an export's path under its store
LIMIT_FLAWS = 200  # that a seat tells of
LIMIT_TEXT = 500  # characters of one flaw
LIMIT_OTHERS = 20  # names of other exports
Word = Annotated[str, Meta(max_length=120)]
Count = Annotated[int, Meta(ge=0, le=LARGEST_TOLD)]
ExportPath = Annotated[str, Meta(max_length=LIMIT_PATH)]


class Sound(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A track of sound; `rate` in samples per second."""

    codec: Word
    channels: Count
    rate: Count


class Deliverable(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a file says that it is; `frames` is None where it does not say how many it has, `least` how many its length
    would hold at least."""

    container: Word
    codec: Word
    width: Count
    height: Count
    rate: Word
    bits: Count
    chroma: Word
    frames: Count | None = None
    least: Count | None = None
    sound: Annotated[tuple[Sound, ...], Meta(max_length=64)] = ()


class Specification(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a deliverable has to be; what is left out may be anything. `allow` lists what may be seen in it."""

    format: Literal["normant-deliverable/1"]
    container: Annotated[tuple[Word, ...], Meta(max_length=20)] = ()
    codec: Annotated[tuple[Word, ...], Meta(max_length=20)] = ()
    width: Count | None = None
    height: Count | None = None
    rate: Annotated[str, Meta(max_length=40, pattern=r"^[0-9]{1,12}(/[0-9]{1,12})?$")] | None = None
    bits: Count | None = None
    chroma: Word | None = None
    frames: Count | None = None
    channels: Annotated[tuple[Count, ...], Meta(max_length=64)] | None = None
    sample_rate: Count | None = None
    allow: Annotated[tuple[Literal["black", "frozen"], ...], Meta(max_length=2)] = ()


class Flaw(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Something that is not as it should be; `at` is the timecode of its first frame, empty of the file as a whole."""

    kind: Word
    message: Annotated[str, Meta(max_length=LIMIT_TEXT)]
    at: Word = ""
    frames: Count = 0


class Inspected(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """An export that a seat has decoded frame by frame: its path under the store, bytes, and all that is wrong with it.

    `unshown` is how many flaws more there are than are listed; `others` the newest exports beside it.
    """

    file: ExportPath
    size: Count
    deliverable: Deliverable
    decoded: Count
    flaws: Annotated[tuple[Flaw, ...], Meta(max_length=LIMIT_FLAWS)] = ()
    unshown: Count = 0
    others: Annotated[tuple[ExportPath, ...], Meta(max_length=LIMIT_OTHERS)] = ()
