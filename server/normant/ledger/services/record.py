"""Writing to the ledger."""

from typing import Any

import orjson
from django.db import transaction
from django.utils import timezone

from normant.common.locks import lock
from normant_core.base import chain
from normant_core.base.chain import GENESIS, canonical, digest_of

from ..models import Entry

LONGEST = {"actor": 160, "action": 60, "subject": 160}  # characters
EXACT = 2**53


def record(actor: str, action: str, subject: str, **detail: Any) -> Entry:
    """Add an entry, in the transaction of what it tells; entries are written one at a time."""
    words = {"actor": actor, "action": action, "subject": subject}
    texts = {name: _cut(text, LONGEST[name]) for name, text in words.items()}
    with transaction.atomic():
        lock("ledger")
        previous = Entry.objects.order_by("-id").values_list("digest", flat=True).first() or GENESIS
        at = timezone.now()
        body = canonical(
            chain.LedgerEntry(at.isoformat(), **texts, detail=_sayable(detail), previous=previous, digest="")
        )
        detail = orjson.loads(body)[4]  # as it was hashed
        entry = Entry(at=at, **texts, detail=detail, previous=previous, body=body)
        entry.digest = digest_of(handed_out(entry))
        entry.save()
    return entry


def _cut(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"


def _sayable(value: Any) -> Any:
    """Numbers that JSON, Python and the database would not all read alike are written as text."""
    if isinstance(value, dict):
        return {str(name): _sayable(part) for name, part in value.items()}
    if isinstance(value, list | tuple | set | frozenset):
        return [_sayable(part) for part in value]
    if isinstance(value, int | float) and not -EXACT <= value <= EXACT:
        return repr(value)
    return value


def handed_out(entry: Entry) -> chain.LedgerEntry:
    """As the ledger is handed out."""
    body = bytes(entry.body).decode() if entry.body else ""
    detail = entry.detail
    return chain.LedgerEntry(
        entry.at.isoformat(), entry.actor, entry.action, entry.subject, detail, entry.previous, entry.digest, body
    )
