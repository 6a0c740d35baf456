"""Signing the end of the ledger, so that whoever noted it can tell whether it was cut off since."""

import base64
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from normant.common.keys import private_key, public_half
from normant.common.locks import lock
from normant_core.base import chain
from normant_core.base.chain import GENESIS

from ..models import Entry, Head, HouseKey

KEPT = 500  # signed heads, besides one of each day


@transaction.atomic
def sign_head() -> Head | None:
    """A worker's: the end as it is now, signed; None where it is signed already."""
    lock("ledger")
    count = Entry.objects.count()
    digest = Entry.objects.order_by("-id").values_list("digest", flat=True).first() or GENESIS
    newest = Head.objects.first()
    if newest and (newest.entries, newest.digest) == (count, digest):
        return None
    at = timezone.now()
    head_now = chain.Head(count, digest, at.isoformat())
    made = Head.objects.create(
        entries=count, digest=digest, at=at, signature=private_key(_key()).sign(head_now.signed_bytes)
    )
    HouseKey.objects.update_or_create(name="ledger", defaults={"public": public_half(_key())})
    _forget()
    return made


def newest_head() -> chain.Head | None:
    """The newest signed end, as it is handed out; None before a worker signed one."""
    head, key = Head.objects.first(), HouseKey.objects.filter(name="ledger").first()
    return head_document(head, bytes(key.public)) if head and key else None


def head_document(head: Head, key: bytes) -> chain.Head:
    """As it is handed out."""
    signature = base64.b64encode(bytes(head.signature)).decode()
    return chain.Head(head.entries, head.digest, head.at.isoformat(), signature, base64.b64encode(key).decode())


def _forget() -> None:
    old = Head.objects.all()[KEPT:].values("pk")
    days = Head.objects.order_by("at__date", "-id").distinct("at__date").values("pk")
    Head.objects.filter(pk__in=list(old.values_list("pk", flat=True))).exclude(
        pk__in=list(days.values_list("pk", flat=True))
    ).delete()


def _key() -> Path:
    return settings.NORMANT.ledger_key
