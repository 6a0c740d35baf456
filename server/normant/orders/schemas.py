"""What is told of orders."""

from ninja import Schema


class OrderedOut(Schema):
    """The order that was written."""

    order: str
