"""What is told of the house standard."""

from typing import Any, Literal

from ninja import Schema

from normant.common.schemas import FaultOut, Moment


class RuleOut(Schema):
    """A rule as a sentence."""

    setting: str
    app: str | None
    sentence: str
    severity: str
    because: str
    evidence: str
    rests_on: str
    locked: bool
    line: int | None
    at: list[int]
    fields: dict[str, Any]


class LayerOut(Schema):
    """A layer and its rules."""

    name: str
    kind: str
    applies: str
    rules: list[RuleOut]
    at: int | None


class StandardOut(Schema):
    """An edition, whole."""

    number: int
    name: str
    note: str
    published_at: Moment
    published_by: str | None
    judged: int
    of: int
    followed_at: Moment | None
    folklore: str
    second_person: bool
    text: str
    layers: list[LayerOut]
    warnings: list[FaultOut]


class EditionOut(Schema):
    """An edition in a list."""

    number: int
    note: str
    published_at: Moment
    published_by: str | None


class PartOut(Schema):
    """What would happen to one setting on some seats; of many seats the first are named."""

    setting: str
    app: str | None
    title: str
    how: Literal["opens", "closes", "changes", "unread"]
    count: int
    seats: list[str]


class ShareOfOut(Schema):
    """What would happen in one room, or to one hardware class."""

    name: str
    opens: int
    closes: int
    changes: int
    unread: int


class ImpactOut(Schema):
    """What publishing would do to the house as it is now."""

    parts: list[PartOut]
    rooms: list[ShareOfOut]
    classes: list[ShareOfOut]
    kept: int
    seats: int
    sentence: str


class TryOut(Schema):
    """A text that could be published."""

    impact: ImpactOut
    layers: list[LayerOut]
    warnings: list[FaultOut]


class PublishedOut(Schema):
    """The number of the new edition."""

    number: int
