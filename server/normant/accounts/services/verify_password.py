"""Passwords are verified here alone: every wrong one counts, whoever sends it and wherever.

Ten wrong passwords for a name from one address lock that pair for a quarter of an hour. Many for a name from different
addresses, or for different names from one address, lock nobody out: they slow that name or that address down. Whoever
signed in from that address before is not slowed, so a stranger who guesses keeps nobody from their work.
"""

import datetime as dt
from collections.abc import Sequence

from axes.models import AccessAttempt, AccessLog
from django.conf import settings
from django.contrib.auth import authenticate
from django.db import transaction
from django.db.models import Q, Sum
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from normant.common.locks import lock
from normant.common.problems import Problem, respond

from ..auth import address_of
from ..models import User

WINDOW = dt.timedelta(hours=settings.AXES_COOLOFF_TIME)
MOST_FOR_A_NAME, MOST_FROM_AN_ADDRESS = 30, 60  # wrong passwords within WINDOW; then one attempt in PAUSE
PAUSE = dt.timedelta(seconds=10)


def verify_password(request: HttpRequest, name: str, password: str) -> User | None:
    """Return the person with that name and password, or None. Raises Problem 429 after too many wrong ones."""
    address = address_of(request)
    limits = ((Q(username=name), MOST_FOR_A_NAME), (Q(ip_address=address), MOST_FROM_AN_ADDRESS))
    slowed = [which for which, most in limits if _failures(which) >= most]
    if not slowed or AccessLog.objects.filter(username=name, ip_address=address).exists():
        user = _authenticate(request, name, password)
    else:
        user = _authenticate_slowly(request, name, password, slowed)
    if user is None and getattr(request, "axes_locked_out", False):
        raise too_many(WINDOW)
    return user


def _authenticate_slowly(request: HttpRequest, name: str, password: str, slowed: Sequence[Q]) -> User | None:
    """Take one attempt in PAUSE, and one at a time. Raises Problem 429 for the others."""
    if _is_early(slowed):  # most are refused here, without waiting for the lock
        raise too_many(PAUSE)
    with transaction.atomic():  # nothing is raised within it: the count of this attempt has to stay
        lock("passwords", [f"name {name}", f"address {address_of(request)}"])
        is_early = _is_early(slowed)
        user = None if is_early else _authenticate(request, name, password)
    if is_early:
        raise too_many(PAUSE)
    return user


def _is_early(slowed: Sequence[Q]) -> bool:
    return any(AccessAttempt.objects.filter(which).filter(_within(PAUSE)).exists() for which in slowed)


def too_many(wait: dt.timedelta) -> Problem:
    """The refusal after too many wrong passwords."""
    seconds = int(wait.total_seconds())
    words = f"{seconds // 60} minutes" if seconds >= 60 else f"{seconds} seconds"
    problem = Problem(429, "Not signed in", f"too many wrong passwords: wait {words}, then try again")
    problem.headers["Retry-After"] = str(seconds)
    return problem


def lockout_answer(request: HttpRequest, *_: object) -> HttpResponse:
    """The answer of django-axes to whoever is locked out."""
    return respond(too_many(WINDOW))


def _authenticate(request: HttpRequest, name: str, password: str) -> User | None:
    user = authenticate(request, username=name, password=password)
    return user if isinstance(user, User) else None


def _failures(which: Q) -> int:
    """Wrong passwords within WINDOW."""
    recent = AccessAttempt.objects.filter(which).filter(_within(WINDOW))
    return recent.aggregate(count=Sum("failures_since_start"))["count"] or 0


def _within(time: dt.timedelta) -> Q:
    return Q(attempt_time__gt=timezone.now() - time)
