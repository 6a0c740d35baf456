"""What is told of the house standard."""

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
    locked: bool
    line: int | None


class LayerOut(Schema):
    """A layer and its rules."""

    name: str
    kind: str
    applies: str
    rules: list[RuleOut]


class StandardOut(Schema):
    """An edition, whole."""

    number: int
    name: str
    note: str
    published_at: Moment
    published_by: str | None
    text: str
    layers: list[LayerOut]
    warnings: list[FaultOut]


class EditionOut(Schema):
    """An edition in a list."""

    number: int
    note: str
    published_at: Moment
    published_by: str | None


class DialectOut(Schema):
    """How an application keeps its preferences."""

    app: str
    text: str
    number: int
    changed_at: Moment


class MoveOut(Schema):
    """A setting on a seat that would change its standing."""

    seat: str
    setting: str
    app: str | None
    title: str
    opens: bool


class ImpactOut(Schema):
    """What publishing would do."""

    opened: list[MoveOut]
    closed: list[MoveOut]
    kept: int
    seats: int


class TryOut(Schema):
    """A text that could be published."""

    sentence: str
    impact: ImpactOut
    layers: list[LayerOut]
    warnings: list[FaultOut]


class PublishedOut(Schema):
    """The number of the new edition."""

    number: int
