"""What is told of the house standard."""

from typing import Literal

from ninja import Schema

from normant.common.answers import answer_of
from normant.common.schemas import FaultOut, Moment
from normant_core.house.impact import GroupImpact, Impact, SettingImpact
from normant_core.standard.sentences import CareSentence, LayerSentences, RuleSentence


@answer_of(RuleSentence)
class RuleOut(Schema):
    """A rule as a sentence."""


@answer_of(CareSentence)
class CareSentenceOut(Schema):
    """A sentence of standing care."""


@answer_of(LayerSentences)
class LayerOut(Schema):
    """A layer, its rules and its standing care."""


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


@answer_of(SettingImpact)
class PartOut(Schema):
    """What would happen to one setting on some seats; of many seats the first are named."""

    how: Literal["opens", "closes", "changes", "unread"]


@answer_of(GroupImpact)
class ShareOfOut(Schema):
    """What would happen in one room, or to one hardware class."""


@answer_of(Impact)
class ImpactOut(Schema):
    """The effect that publishing would have today."""


class TryOut(Schema):
    """A text that could be published."""

    impact: ImpactOut
    layers: list[LayerOut]
    warnings: list[FaultOut]


class PublishedOut(Schema):
    """The number of the new edition."""

    number: int
