"""What is told of rollouts and of the round."""

from typing import Literal

from ninja import Schema

from normant.common.schemas import By, Moment, Plain, Status

from .errand_schemas import ErrandOut


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


class StartedOut(Schema):
    """The number of the rollout."""

    id: int


class OrderedOut(Schema):
    """The order that was written."""

    order: str


class RolloutRowOut(Schema):
    """A rollout in a list."""

    id: int
    title: str
    kind: Literal["correct", "put_back"]
    state: Literal["proposed", "running", "halted", "finished"]
    created_by: str
    created_at: Moment
    ended_at: Moment | None
    seats: int
    counts: dict[str, int]
    sentence: str


class LegOut(Schema):
    """A rollout on one seat."""

    seat: str
    room: str
    wave: int
    state: Literal["waiting", "moving", "settled", "stopped", "halted"]
    step: str
    message: str
    moved_at: Moment
    ended_at: Moment | None
    can_put_back: bool
    can_retry: bool
    troubled: bool
    objection: str
    asks_waiver: bool
    put_off: int


class BackOut(Schema):
    """A seat that changed a setting back: how often, how (as a reading's cause), and when last."""

    seat: str
    times: int
    how: str
    last: Moment


class StayedOut(Schema):
    """A setting that was corrected; `after` tells (days, how many stayed so long, of how many)."""

    setting: str
    title: str
    app: str | None
    corrected: int
    after: list[tuple[int, int, int]]
    back: list[BackOut]


class BookingOut(Schema):
    """From when until when."""

    begins: Moment
    ends: Moment


class RoomBookedOut(Schema):
    """When a room is booked in the next two weeks; `file` is null where nobody brought its calendar.

    With an `address` it is fetched again and again; `fault` says why the last time it was not.
    """

    room: str
    file: str | None
    address: str
    fault: str
    kept_by: str | None
    kept_at: Moment | None
    hours: float
    next: list[BookingOut]


class ReasonOut(Schema):
    """Why a setting is put right, in the standard's words."""

    title: str
    app: str | None
    because: str


class PlannedOut(Schema):
    """What a rollout is going to do on a seat, for the person who sits there; `latest` is how far it can be put off."""

    rollout: int
    title: str
    by: str
    state: Literal["waiting", "moving"]
    message: str
    objection: str
    asks_waiver: bool
    may_put_off: bool
    latest: Moment
    closes: list[str]
    reasons: list[ReasonOut]
    plan: SeatPlanOut


class DoneOut(Schema):
    """What a rollout did on a seat."""

    rollout: int
    title: str
    by: str
    state: Literal["settled", "stopped", "halted"]
    message: str
    ended_at: Moment
    changes: list[str]


class AskedOut(Schema):
    """What whoever sits there is asked: to close an application, or (none) to let the machine start again."""

    app: str | None
    why: str
    since: Moment


class MineOut(Schema):
    """A seat for the person who sits there: what is asked and planned, who comes, and what was done last."""

    seat: str
    sentence: str
    planned: list[PlannedOut]
    done: list[DoneOut]
    errands: list[ErrandOut]
    asked: list[AskedOut]


class RolloutOut(RolloutRowOut):
    """A rollout, whole."""

    of: int | None
    reason: str
    approved_by: str | None
    can_approve: bool
    report: str | None
    can_put_back: bool
    can_resume: bool
    can_go_on: bool
    put_back_by: int | None
    errands: int
    steps: list[str]
    legs: list[LegOut]


class LineOut(Schema):
    """One finding of a cause."""

    id: int
    seat: str
    setting: str
    title: str
    app: str | None
    reading: str
    norm: str
    fix: str
    distance: float | None
    remote: bool
    tried: str | None


class SpokenOfOut(Schema):
    """A setting of an application that an item is about."""

    setting: str
    title: str
    app: str | None
    remote: bool


class RoundItemOut(Schema):
    """Something that needs a decision: a cause, a leg that stopped, a waiver that ends, a silent seat.

    `findings` tells the first of `count` one by one; `ids` holds as many as one plan takes.
    """

    kind: Literal["cause", "leg", "halted", "proposed", "objection", "waiver", "flapping", "silent"]
    title: str
    words: str
    seats: list[str]
    status: Status | None
    severity: str | None
    distance: float | None
    because: str | None
    findings: list[LineOut]
    ids: list[int]
    count: int
    settings: list[SpokenOfOut]
    rollout: int | None
    waiver: int | None
    since: Moment | None


class HappenedOut(Schema):
    """What opened or closed since yesterday evening, with its cause."""

    how: Literal["left", "back", "passed"]
    by: By
    setting: str
    app: str | None
    title: str
    seats: list[str]


class RoundOut(Schema):
    """The round; `overnight` is what changed since that moment."""

    sentence: str
    since: Moment
    overnight: list[HappenedOut]
    items: list[RoundItemOut]
