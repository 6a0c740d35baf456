"""What is told of the ledger."""

from typing import Any

from ninja import Schema

from normant.common.schemas import Moment


class EntryOut(Schema):
    """One act."""

    id: int
    at: Moment
    actor: str
    action: str
    subject: str
    detail: dict[str, Any]
    digest: str
