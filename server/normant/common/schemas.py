"""Shapes that several apps tell of. They are published in the OpenAPI document and checked in the tests; answers
are sent as they are built, not validated on the way out."""

import datetime as dt
from typing import Generic, Literal, TypeVar

from ninja import Schema

T = TypeVar("T")
Plain = bool | int | float | str | None
Status = Literal["in-norm", "off-norm", "unread", "waived", "no-norm"]
By = Literal["ours", "theirs", "standard", "facts"]


class ListOf(Schema, Generic[T]):
    """A part of a list, and how many there are."""

    items: list[T]
    total: int


class FaultOut(Schema):
    """One thing wrong in one place of a document."""

    message: str
    path: str
    line: int | None
    column: int | None
    expected: str


class NormOut(Schema):
    """What the effective standard wants."""

    check: str
    values: list[Plain]
    sentence: str
    rule: str = ""
    there: str = ""


class LinkOut(Schema):
    """One rule in the chain of a norm."""

    layer: str
    sentence: str
    outcome: Literal["made", "lost", "locked out"]


class VerdictOut(Schema):
    """How a reading stands."""

    setting: str
    app: str | None
    status: Status
    severity: str
    reading: Plain
    reading_shown: str
    norm: NormOut
    distance: float | None
    fix: Plain
    fix_shown: str
    layer: str
    chain: list[LinkOut]
    because: str
    evidence: str
    steps: list[list[str]] = []
    reason: str = ""
    locked: bool = False


class NativeOut(Schema):
    """Where a reading stands in the application's own file."""

    file: str
    at: str
    raw: str
    line: int | None = None


Moment = dt.datetime
