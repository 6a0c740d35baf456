"""Letting an agent speak for a seat."""

import datetime as dt
import secrets

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import hashed
from normant.common.events import tell
from normant.common.problems import Problem
from normant.ledger.services.record import record

from ..models import Enrolment, Presence, Seat

VALID = dt.timedelta(hours=24)
# No letter that is taken for another, and nothing that a shell or a command line takes for more than a letter.
LETTERS = "23456789abcdefghjkmnpqrstvwxyz"


def new_code() -> str:
    """`k7qm-...`: sixteen letters in groups of four, 78 bits, to be read out and typed."""
    return "-".join("".join(secrets.choice(LETTERS) for _ in range(4)) for _ in range(4))


@transaction.atomic
def offer_enrolment(seat: Seat, actor: str, *, valid: dt.timedelta = VALID) -> str:
    """A one-time code for the seat; it is not kept and cannot be shown again. Raises Problem for a retired seat."""
    if seat.retired_at:
        raise Problem(409, "Retired", f"{seat.name} was retired: enrol the new machine under a name of its own")
    code = new_code()
    Enrolment.objects.create(seat=seat, code_digest=hashed(code), expires_at=timezone.now() + valid)
    record(actor, "offer enrolment", seat.name)
    return code


@transaction.atomic
def redeem(code: str) -> tuple[Seat, str]:
    """The seat and its new token; an older agent of the seat loses its own. Raises Problem.

    A code is spent by the first survey that comes with its token, not by an answer that may have got lost.
    """
    offer = Enrolment.objects.select_for_update().select_related("seat").filter(code_digest=hashed(code)).first()
    if offer is None or (offer.used_at and _was_heard(offer)):
        raise Problem(403, "Not enrolled", "this code is unknown or was used; ask the supervisor for a new one")
    if offer.seat.retired_at:
        raise Problem(403, "Not enrolled", f"{offer.seat.name} was retired meanwhile")
    if offer.expires_at < timezone.now():
        raise Problem(403, "Not enrolled", "this code has expired; ask the supervisor for a new one")
    offer.used_at = timezone.now()
    offer.save(update_fields=["used_at"])
    token = secrets.token_urlsafe(32)
    fresh = {"token_digest": hashed(token), "survey_digest": None}
    Presence.objects.update_or_create(seat=offer.seat, defaults=fresh)
    record(f"agent {offer.seat.name}", "enrol", offer.seat.name)
    tell("seat", offer.seat.name)
    return offer.seat, token


def _was_heard(offer: Enrolment) -> bool:
    return Presence.objects.filter(seat=offer.seat, seen_at__gte=offer.used_at).exists()


@transaction.atomic
def revoke(seat: Seat, actor: str) -> None:
    """Take the agent's token away; what the seat told stays."""
    Presence.objects.filter(seat=seat).delete()
    record(actor, "revoke", seat.name)
    tell("seat", seat.name)
