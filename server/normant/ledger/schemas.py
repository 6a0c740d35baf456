"""What is told of the ledger."""

from typing import Any

from ninja import Schema

from normant.common.answers import answer_of
from normant.common.schemas import Moment
from normant_core.base.chain import Head


class EntryOut(Schema):
    """One act."""

    id: int
    at: Moment
    actor: str
    action: str
    subject: str
    sentence: str
    detail: dict[str, Any]
    digest: str


@answer_of(Head)
class HeadOut(Schema):
    """The signed end of the ledger: number of entries, hash of the last, and the signature (Ed25519, base64)."""

    at: Moment
    fingerprint: str


class NamesOut(Schema):
    """Names to choose entries by."""

    actors: list[str]
    actions: list[str]
