"""Which seat an agent speaks for."""

from django.http import HttpRequest

from normant.accounts.models import hashed
from normant.common.problems import Problem
from normant.seats.models import Presence
from normant.seats.services.enrol import spend


def token_digest(request: HttpRequest) -> str:
    """The digest of the bearer token. Raises Problem."""
    kind, _, token = request.headers.get("Authorization", "").partition(" ")
    if kind.lower() != "bearer" or not token:
        raise Problem(401, "Who are you?", "send the agent's token: Authorization: Bearer ...")
    return hashed(token)


def presence_of(digest: str) -> Presence:
    """The presence that belongs to a token. Raises Problem."""
    presence = Presence.objects.select_related("seat").filter(token_digest=digest).first()
    if presence is None:
        raise Problem(401, "Unknown agent", "this token is unknown or was revoked: enrol this seat again")
    if presence.offer_id:
        spend(presence)
    return presence
