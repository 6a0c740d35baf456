"""What is told of dialects."""

from ninja import Schema

from normant.common.schemas import Moment


class DialectOut(Schema):
    """How an application keeps its preferences."""

    app: str
    text: str
    number: int
    changed_at: Moment
