"""What is told of plans."""

from typing import Any

from ninja import Schema

from normant.common.answers import answer_of
from normant.common.schemas import Moment, Plain
from normant_core.plan.changes import PlannedChange
from normant_core.plan.plan import Left, SeatPlan
from normant_core.rollout.waves import Slot


@answer_of(PlannedChange)
class ChangeOut(Schema):
    """One change, native before and after."""

    # A plan that was kept before there were these has none of them.
    file_name: str = ""
    volume: str = ""
    driver: dict[str, Plain] | None = None
    template: str = ""
    rounder: Plain = None
    shown_rounder: str = ""


@answer_of(Left)
class LeftOut(Schema):
    """A finding that the plan cannot settle; `errand` says what a person at the seat can do, where one can."""

    errand: str = ""


@answer_of(SeatPlan)
class SeatPlanOut(Schema):
    """What happens on one seat."""


class PlannedSeatOut(SeatPlanOut):
    """A seat in a plan, with the applications that must be closed, whether the machine restarts, its findings, and
    what blocks it now."""

    closes: list[str]
    restarts: bool
    findings: list[int]
    in_the_way: list[str]


@answer_of(Slot, without=["wave"])
class TurnOut(Schema):
    """When a seat has its turn, about, and why not sooner."""


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
    """A saved plan; `off_norm` of its readings are off norm now."""

    id: int
    name: str
    seats: int
    readings: int
    off_norm: int
    kept_by: str
    kept_at: Moment
    seen: str


class AgainOut(Schema):
    """A plan to review: the findings that it would settle now, how many of its readings are already settled, its
    terms."""

    name: str
    findings: list[int]
    settled: int
    terms: dict[str, Any]


class OpenedPlanOut(AgainOut, KeptPlanOut):
    """A saved plan to review."""


class DraftSeatOut(SeatPlanOut):
    """What would happen on one seat, with the applications to close and whether the machine starts again."""

    closes: list[str]
    restarts: bool


class DraftPlanOut(Schema):
    """The corrections that an unpublished text would need; they cannot be started yet."""

    seats: list[DraftSeatOut]
    order: OrderOfSeatsOut
