"""What is told of kept plans and of rehearsals."""

from typing import Any, Literal

from ninja import Schema

from normant.common.schemas import Moment

from .schemas import OrderOfSeatsOut, SeatPlanOut


class KeptPlanOut(Schema):
    """A plan that somebody kept; `off_norm` of its readings want correcting now."""

    id: int
    name: str
    seats: int
    readings: int
    off_norm: int
    kept_by: str
    kept_at: Moment
    seen: str


class AgainOut(Schema):
    """A plan to look at: the findings that it would settle now, how many of its readings are settled, its terms."""

    name: str
    findings: list[int]
    settled: int
    terms: dict[str, Any]


class OpenedPlanOut(AgainOut, KeptPlanOut):
    """A kept plan to look at."""


class DraftSeatOut(SeatPlanOut):
    """What would happen on one seat, with the applications to close and whether the machine starts again."""

    closes: list[str]
    restarts: bool


class DraftPlanOut(Schema):
    """What it would take to bring the house to a text that is not published; nothing of it can be started."""

    seats: list[DraftSeatOut]
    order: OrderOfSeatsOut


class RehearsedLineOut(Schema):
    """What would become of one change."""

    title: str
    app: str | None
    outcome: Literal["would_do", "holds_it", "waits", "refused", "failed"]
    words: str


class RehearsedSeatOut(Schema):
    """What a seat said; `told` once it answered."""

    seat: str
    heard: bool
    told: bool
    message: str
    lines: list[RehearsedLineOut]


class RehearsalOut(Schema):
    """A plan that was tried on its seats; `over` once every seat answered."""

    id: int
    digest: str
    made_by: str
    made_at: Moment
    over: bool
    sentence: str
    seats: list[RehearsedSeatOut]
