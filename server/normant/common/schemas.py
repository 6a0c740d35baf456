"""Shapes that several apps tell of. They are published in the OpenAPI document and checked in the tests; answers
are sent as they are built, not validated on the way out."""

import datetime as dt
from typing import Generic, Literal, TypeVar

from ninja import Schema

from normant_core.judging.judge import Link, Verdict
from normant_core.judging.norms import Norm
from normant_core.seat.survey import Native

from .answers import answer_of

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


@answer_of(Norm)
class NormOut(Schema):
    """The norm by the effective standard."""


@answer_of(Link)
class LinkOut(Schema):
    """One rule in the chain of a norm."""

    outcome: Literal["made", "lost", "locked out"]


@answer_of(Verdict)
class VerdictOut(Schema):
    """The status of a reading."""

    status: Status


@answer_of(Native)
class NativeOut(Schema):
    """The address of a reading in the application's file."""


Moment = dt.datetime
