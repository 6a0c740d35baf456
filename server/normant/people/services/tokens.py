"""Personal tokens, for scripts."""

import datetime as dt

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import AccessToken, User
from normant.accounts.permissions import Scope
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.ledger.services.record import record

MOST = 20
LONGEST_DAYS = 366


@transaction.atomic
def make_token(user: User, name: str, scope: Scope, *, days: int) -> tuple[AccessToken, str]:
    """A token and its text, which is shown once. Raises Problem."""
    if not name.strip() or not 1 <= days <= LONGEST_DAYS:
        raise Problem(422, "No token", f"a token has a name and an end, 1 to {LONGEST_DAYS} days from now")
    lock("tokens", [str(user.pk)])
    if AccessToken.objects.filter(user=user).count() >= MOST:
        raise Problem(409, "Too many", f"{MOST} tokens are the maximum: revoke one first")
    text = AccessToken.make(user, name.strip()[:80], scope, ends_at=timezone.now() + dt.timedelta(days=days))
    made = AccessToken.objects.filter(user=user).latest("pk")
    record(user.username, "make token", user.username, name=made.name, scope=scope.value, ends=str(made.ends_at))
    return made, text


@transaction.atomic
def withdraw_token(user: User, number: int) -> None:
    """It lets nobody in any more. Raises Problem."""
    token = row_or_404(AccessToken.objects.filter(user=user, pk=number), "token", f"you have no token {number}")
    record(user.username, "withdraw token", user.username, name=token.name, scope=token.scope)
    token.delete()
