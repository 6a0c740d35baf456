"""Verifying the ledger where it lies."""

import base64
from collections.abc import Iterator

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

from normant_core.base import chain
from normant_core.base.chain import verified

from ..models import Entry, Head, HouseKey
from .record import handed_out
from .sign_head import head_document


def verify(noted: chain.Head | None = None) -> Iterator[str]:
    """A sentence for every fault: of entries, of the ends that were signed here, and against an end that was noted."""
    entries = (handed_out(entry) for entry in Entry.objects.order_by("id").iterator(chunk_size=2000))
    for number, entry, fault in verified(entries, noted):
        yield f"entry {number} ({entry.action}, {entry.at}): {fault}" if entry else f"entry {number}: {fault}"
    key = HouseKey.objects.filter(name="ledger").first()
    if key is None:
        return
    for head in Head.objects.order_by("id"):
        yield from _of_head(head_document(head, bytes(key.public)))


def is_signed(head: chain.Head) -> bool:
    """Whether the signature is that of the key which the head names."""
    try:
        key = Ed25519PublicKey.from_public_bytes(base64.b64decode(head.key))
        key.verify(base64.b64decode(head.signature), head.signed_bytes)
    except (InvalidSignature, ValueError):
        return False
    return True


def _of_head(head: chain.Head) -> Iterator[str]:
    there = Entry.objects.order_by("id")[head.entries - 1 : head.entries].values_list("digest", flat=True).first()
    if not is_signed(head):
        yield f"the head of {head.at} was not signed by the ledger's key"
    elif head.entries and there is None:
        count = Entry.objects.count()
        yield f"the ledger has {count} entries; at {head.at} it had {head.entries}: its end was cut off"
    elif head.entries and there != head.digest:
        yield f"another entry stands where the ledger ended at {head.at} (entry {head.entries})"
