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
    """A one-time code for the seat, in place of those that nobody used; it is not kept and cannot be shown again.

    Raises Problem for a retired seat.
    """
    if seat.retired_at:
        raise Problem(409, "Retired", f"{seat.name} has been retired: enrol the new machine under a new name")
    code = new_code()
    spend_codes(seat)
    Enrolment.objects.create(seat=seat, code_digest=hashed(code), expires_at=timezone.now() + valid)
    record(actor, "offer enrolment", seat.name)
    return code


@transaction.atomic
def redeem(code: str) -> tuple[Seat, str]:
    """The seat and its new token; an older agent of the seat loses its own. Raises Problem.

    A code is spent when its token is first used, not by an answer that may have got lost.
    """
    offer = Enrolment.objects.select_for_update().select_related("seat").filter(code_digest=hashed(code)).first()
    if offer is None or offer.spent_at:
        raise Problem(403, "Not enrolled", "this code is unknown or was used; ask the supervisor for a new one")
    if offer.seat.retired_at:
        raise Problem(403, "Not enrolled", f"{offer.seat.name} has been retired")
    if offer.expires_at < timezone.now():
        raise Problem(403, "Not enrolled", "this code has expired; ask the supervisor for a new one")
    offer.used_at = timezone.now()
    offer.save(update_fields=["used_at"])
    token = secrets.token_urlsafe(32)
    fresh = {"token_digest": hashed(token), "survey_digest": None, "offer": offer}
    Presence.objects.update_or_create(seat=offer.seat, defaults=fresh)
    record(f"agent {offer.seat.name}", "enrol", offer.seat.name)
    tell("seat", offer.seat.name)
    return offer.seat, token


@transaction.atomic
def spend(presence: Presence) -> None:
    """The token was used: nobody gets another with the code that it came with."""
    if presence.offer_id is None:
        return
    Enrolment.objects.filter(pk=presence.offer_id, spent_at=None).update(spent_at=timezone.now())
    Presence.objects.filter(pk=presence.pk, offer=presence.offer_id).update(offer=None)


def spend_codes(seat: Seat) -> None:
    """No code of the seat's may be redeemed any more."""
    Enrolment.objects.filter(seat=seat, spent_at=None).update(spent_at=timezone.now())


@transaction.atomic
def revoke(seat: Seat, actor: str) -> None:
    """Take the agent's token away, and every code; what the seat told stays."""
    spend_codes(seat)
    Presence.objects.filter(seat=seat).delete()
    record(actor, "revoke", seat.name)
    tell("seat", seat.name)
