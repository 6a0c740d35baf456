"""What is told of errands."""

from typing import Literal

from ninja import Schema

from normant.common.schemas import Moment


class ErrandOut(Schema):
    """Work for a person at a seat; `proves` says how the result is confirmed, `message` what happened."""

    id: int
    seat: str
    room: str
    rollout: int | None
    does: str
    steps: list[str]
    bring: list[str]
    minutes: int
    proof: Literal["survey", "sign-off"]
    proves: str
    because: str
    severity: str | None
    note: str
    state: Literal["held", "open", "signed", "done", "dropped"]
    message: str
    made_by: str
    made_at: Moment
    signed_by: str | None
    signed_at: Moment | None
    words: str
    ended_at: Moment | None


class StopOut(Schema):
    """A seat on somebody's way."""

    room: str
    seat: str
    errands: list[ErrandOut]


class ErrandsOut(Schema):
    """Errands to run, in walking order, and those that ended last."""

    sentence: str
    stops: list[StopOut]
    ended: list[ErrandOut]
