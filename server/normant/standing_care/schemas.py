"""What the API takes and tells of standing care."""

from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from normant.common.schemas import Moment

CareName = Annotated[str, Field(min_length=1, max_length=80)]


class ResumeCareIn(Schema):
    """The sentence, by its name."""

    name: CareName


class StopCareIn(ResumeCareIn):
    """Why no turn more of it comes."""

    why: Annotated[str, Field(min_length=1, max_length=300)]


class CareTextIn(Schema):
    """The text of a standard that may become an edition."""

    text: str


class LookCareIn(CareTextIn):
    """A text, and the sentence of it whose seats are to look what it would take."""

    name: CareName


class CareImpactOut(Schema):
    """The effect of an automatic clean-up today: it applies to `stores` on `seats` with `size` bytes, of which
    `unused` bytes have not been used for a month. `is_agreed`: it ran before in this form, so it needs no new
    signature."""

    name: str
    layer: str
    sentence: str
    seats: int
    stores: int
    size: int
    unused: int
    is_agreed: bool


class CareTurnOut(Schema):
    """A run: the bytes that its plan promised and that were deleted, or why a person has to check it."""

    opens: Moment
    clearing: int | None
    state: Literal["looking", "planned", "running", "halted", "ended", "dropped", "none"]
    by_itself: bool
    seats: int
    promised: int
    cleared: int
    problem: str


class StandingCareOut(Schema):
    """An automatic clean-up in the published standard, whether it needs a signature, and its last runs."""

    name: str
    layer: str
    applies: str
    sentence: str
    because: str
    state: Literal["new", "waits", "agreed", "stopped"]
    seats: int
    stores: int
    size: int
    unused: int
    next: Moment | None
    agreed_by: str | None
    agreed_at: Moment | None
    agreed_size: int
    stopped_by: str | None
    stopped_at: Moment | None
    why: str
    turns: list[CareTurnOut]
