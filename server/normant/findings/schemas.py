"""What is told of findings, and of a seat as a whole."""

from typing import Any, Literal

from ninja import Schema

from normant.common.schemas import By, LinkOut, Moment, NativeOut, Status, VerdictOut
from normant.seats.schemas import SeatOut


class FindingOut(Schema):
    """A reading off norm, from when until when."""

    id: int
    seat: str
    setting: str
    app: str | None
    status: Literal["open", "closed"]
    severity: str
    opened_at: Moment
    opened_by: By
    closed_at: Moment | None
    closed_by: By | None
    verdict: VerdictOut


class StepOut(Schema):
    """A part of a rule, and what it came to."""

    part: str
    result: str


class RowOut(Schema):
    """One reading in a seat's record; what a norm adds is empty where no rule speaks of it."""

    setting: str
    title: str
    help: str
    app: str | None
    reading: str
    since: Moment | None
    cause: str | None
    native: NativeOut | None
    finding: int | None
    remote: bool
    status: Status
    words: str
    severity: str
    distance: float | None
    norm: str
    is_rule: bool
    origin: str
    chain: list[LinkOut]
    fix: str
    because: str
    steps: list[StepOut]
    reason: str


class FamilyOut(Schema):
    """The readings of a family."""

    family: str
    title: str
    rows: list[RowOut]


class UnreadableOut(Schema):
    """Something that the agent could not read."""

    source: str
    message: str


class SeatRecordOut(SeatOut):
    """The whole record of a seat; facts, stores and activity as docs/schemas/survey.json has them."""

    edition: int | None
    facts: dict[str, Any] | None
    families: list[FamilyOut]
    errors: list[UnreadableOut]
    stores: list[dict[str, Any]]
    activity: dict[str, Any] | None
