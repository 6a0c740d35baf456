"""Writing to the ledger."""

import hashlib
from typing import Any

import orjson
from django.db import transaction
from django.utils import timezone

from normant.common.locks import lock

from ..models import Entry

GENESIS = "0" * 64


def record(actor: str, action: str, subject: str, **detail: Any) -> Entry:
    """Add an entry, in the transaction of what it tells; entries are written one at a time."""
    with transaction.atomic():
        lock("ledger")
        previous = Entry.objects.order_by("-id").values_list("digest", flat=True).first() or GENESIS
        entry = Entry(at=timezone.now(), actor=actor, action=action, subject=subject, detail=detail, previous=previous)
        entry.digest = digest_of(entry)
        entry.save()
    return entry


def digest_of(entry: Entry) -> str:
    """SHA-256 over the entry's canonical JSON, the hash of the entry before it included."""
    told = [entry.at.isoformat(), entry.actor, entry.action, entry.subject, entry.detail, entry.previous]
    return hashlib.sha256(orjson.dumps(told, option=orjson.OPT_SORT_KEYS)).hexdigest()


def first_broken() -> Entry | None:
    """The first entry that does not fit the one before it, None where the chain is whole."""
    previous = GENESIS
    for entry in Entry.objects.order_by("id").iterator():
        if entry.previous != previous or entry.digest != digest_of(entry):
            return entry
        previous = entry.digest
    return None
