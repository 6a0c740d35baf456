"""What is told of plans."""

from typing import Any

from ninja import Schema

from normant.common.schemas import Moment, Plain


class ChangeOut(Schema):
    """One change, native before and after."""

    setting: str
    title: str
    app: str | None
    file: str
    at: str
    line: int | None
    before: str
    after: str
    value: Plain
    shown_before: str
    shown_after: str
    close: str | None
    file_name: str
    volume: str = ""
    driver: dict[str, Plain] | None = None
    template: str = ""
    rounder: Plain = None
    shown_rounder: str = ""


class LeftOut(Schema):
    """A finding that the plan cannot settle; `errand` says what a person at the seat can do, where one can."""

    setting: str
    app: str | None
    why: str
    errand: str = ""


class SeatPlanOut(Schema):
    """What happens on one seat."""

    seat: str
    changes: list[ChangeOut]
    left: list[LeftOut]


class PlannedSeatOut(SeatPlanOut):
    """With the applications that must be closed, whether the machine starts again, the findings it comes from, and what
    stands in its way now."""

    closes: list[str]
    restarts: bool
    findings: list[int]
    in_the_way: list[str]


class TurnOut(Schema):
    """When a seat has its turn, about, and why not sooner."""

    seat: str
    begins: Moment
    ends: Moment
    why: str


class WaveOut(Schema):
    """A wave; that of the canaries has the number 0."""

    wave: int
    turns: list[TurnOut]


class WithoutOut(Schema):
    """A seat that has no turn before the deadline."""

    seat: str
    why: str


class OrderOfSeatsOut(Schema):
    """In which order the seats have their turn; `done` is null where none has."""

    sentence: str
    waves: list[WaveOut]
    without: list[WithoutOut]
    done: Moment | None


class PlanOut(Schema):
    """The plan, the order of its seats, and the digest that starts it."""

    digest: str
    seats: list[PlannedSeatOut]
    order: OrderOfSeatsOut


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
