"""Keeping reference clips."""

import hashlib

from django.db import transaction

from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.ledger.services.record import record
from normant_core.orders.kinds import LIMIT_CLIP

from ..models import Clip

MOST = 40  # clips: agents keep those that they have decoded


@transaction.atomic
def keep_clip(name: str, codec: str, body: bytes, actor: str, *, frame: tuple[int, int] | None = None) -> Clip:
    """Keep it, with the size of its `frame`; the same file once more is the one that is there. Raises Problem.

    It is not opened here: that is left to a process of an agent's that has nothing to lose.
    """
    if not body:
        raise Problem(422, "Empty", "this file is empty")
    if len(body) > LIMIT_CLIP:
        raise Problem(413, "Too large", f"a reference clip has at most {LIMIT_CLIP:,} bytes: a few seconds are enough")
    lock("clip")
    digest, named = hashlib.sha256(body).hexdigest(), name.strip()
    if there := Clip.objects.filter(digest=digest).first():
        return there
    if Clip.objects.filter(name=named).exists():
        raise Problem(409, "Named already", f"there is another clip named {named}: a verdict names its clip")
    if Clip.objects.count() >= MOST:
        raise Problem(409, "Too many clips", f"a house has at most {MOST}: delete one that no trial uses")
    width, height = frame or (None, None)
    about = {"name": named, "codec": codec, "width": width, "height": height}
    clip = Clip.objects.create(**about, digest=digest, size=len(body), body=body, kept_by=actor)
    record(actor, "keep clip", clip.name, codec=codec, sha256=digest, bytes=len(body))
    return clip


@transaction.atomic
def drop_clip(number: int, actor: str) -> None:
    """Forget it. Raises Problem where a trial was made with it: its verdict names it."""
    lock("clip")
    clip = row_or_404(Clip.objects.defer("body").filter(pk=number), "clip", f"there is no clip {number}")
    if clip.trials.exists():
        raise Problem(409, "Measured with", f"{clip.name} is used by a trial and cannot be deleted")
    record(actor, "drop clip", clip.name, sha256=clip.digest)
    clip.delete()
