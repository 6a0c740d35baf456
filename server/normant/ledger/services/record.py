"""Writing to the ledger."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from normant.common.locks import lock
from normant_core import chain
from normant_core.chain import GENESIS, digest_of, fits

from ..models import Entry


def record(actor: str, action: str, subject: str, **detail: Any) -> Entry:
    """Add an entry, in the transaction of what it tells; entries are written one at a time."""
    with transaction.atomic():
        lock("ledger")
        previous = Entry.objects.order_by("-id").values_list("digest", flat=True).first() or GENESIS
        entry = Entry(at=timezone.now(), actor=actor, action=action, subject=subject, detail=detail, previous=previous)
        entry.digest = digest_of(handed_out(entry))
        entry.save()
    return entry


def handed_out(entry: Entry) -> chain.Entry:
    """As the ledger is handed out."""
    at = entry.at.isoformat()
    return chain.Entry(at, entry.actor, entry.action, entry.subject, entry.detail, entry.previous, entry.digest)


def first_broken() -> Entry | None:
    """The first entry that does not fit the one before it, None where the chain is whole."""
    previous = GENESIS
    for entry in Entry.objects.order_by("id").iterator():
        if not fits(handed_out(entry), previous):
            return entry
        previous = entry.digest
    return None
