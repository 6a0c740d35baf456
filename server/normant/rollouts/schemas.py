"""What is told of rollouts and of rehearsals."""

from typing import Literal

from ninja import Schema

from normant.common.answers import answer_of
from normant.common.schemas import Moment
from normant.errands.schemas import ErrandOut
from normant.plans.schemas import SeatPlanOut
from normant_core.rollout.lasting import Back, Stayed


class StartedOut(Schema):
    """The number of the rollout."""

    id: int


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


@answer_of(Back)
class BackOut(Schema):
    """A seat that changed a setting back: how often, how (as a reading's cause), and when last."""


@answer_of(Stayed)
class StayedOut(Schema):
    """A corrected setting; `after` lists (days, how many stayed corrected that long, of how many)."""


class ReasonOut(Schema):
    """Why a setting is put right, in the standard's words."""

    title: str
    app: str | None
    because: str


class PlannedOut(Schema):
    """The planned changes on a seat, for its editor; `latest` is the latest time to which they can be postponed.

    `begun`: it is the seat's turn, and the work starts as soon as nothing blocks it.
    """

    rollout: int
    title: str
    by: str
    state: Literal["waiting", "moving"]
    begun: bool
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
    """The question to the editor: to close an application, or (null) to restart the machine."""

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
    """A rollout with its seats; `starts_at` is the time chosen for its start, null where it started at once."""

    starts_at: Moment | None
    of: int | None
    reason: str
    approved_by: str | None
    can_approve: bool
    report: str | None
    can_put_back: bool
    can_resume: bool
    can_begin_now: bool
    can_go_on: bool
    behind_canaries: bool
    put_back_by: int | None
    errands: int
    steps: list[str]
    legs: list[LegOut]


class RehearsedLineOut(Schema):
    """What would become of one change."""

    title: str
    app: str | None
    outcome: Literal["would_do", "holds_it", "waits", "refused", "failed"]
    words: str


class RehearsedSeatOut(Schema):
    """The answer of a seat to a dry run; `told` is true once it has answered."""

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
