"""Who calls, and whether they may: a session with its CSRF token, or a bearer token."""

import datetime as dt

from django.http import HttpRequest
from django.utils import timezone
from ninja.utils import check_csrf

from normant.common.problems import Problem

from .models import AccessToken, User, hashed
from .permissions import Permission, Scope

SEEN_EVERY = dt.timedelta(minutes=5)


class Needs:
    """The door of a route. Raises Problem: 401 for strangers, 403 for those who may not.

    `in_person`: a token is not enough, so that a stolen one cannot make others. `shown_once`: the answer holds a secret
    that is kept nowhere.
    """

    def __init__(self, permission: Permission, *, in_person: bool = False, shown_once: bool = False) -> None:
        self.permission, self.in_person, self.shown_once = permission, in_person, shown_once

    def __call__(self, request: HttpRequest) -> User:
        user = caller(request)
        if self.in_person and request.headers.get("Authorization"):
            raise Problem(403, "In person", "not possible with a token: sign in first")
        if not user.may(self.permission):
            article = "an" if user.role[0] in "aeiou" else "a"
            raise Problem(403, "Not yours to do", f"{article} {user.role} may not {self.permission.value}")
        request.user = user
        request.shown_once = self.shown_once  # type: ignore[attr-defined]
        return user


def person(request: HttpRequest) -> User:
    """Who was let in by the route's door."""
    assert isinstance(request.user, User), "a route without a door has no person"
    return request.user


def caller(request: HttpRequest) -> User:
    """The person behind the request. Raises Problem 401, or 403 where the CSRF token is missing."""
    kind, _, token = request.headers.get("Authorization", "").partition(" ")
    if kind.lower() == "bearer":
        return _by_token(token)
    user = request.user
    if not isinstance(user, User):
        raise Problem(401, "Sign in first", "this needs a session or a bearer token")
    need_csrf(request)
    _seen(user)
    return user


def need_csrf(request: HttpRequest) -> None:
    """Raises Problem where a browser's request to change something lacks its token."""
    if request.method not in ("GET", "HEAD") and check_csrf(request):
        raise Problem(403, "Forged request", "the CSRF token is missing or wrong: reload the page")


def _by_token(token: str) -> User:
    held = AccessToken.objects.select_related("user").filter(digest=hashed(token), user__is_active=True).first()
    now = timezone.now()
    if held is None or (held.ends_at and held.ends_at <= now):
        raise Problem(401, "Unknown token", "this bearer token is unknown, was withdrawn or has ended")
    if held.last_used_at is None or now - held.last_used_at > SEEN_EVERY:
        AccessToken.objects.filter(pk=held.pk).update(last_used_at=now)
    held.user.scope = Scope(held.scope)
    _seen(held.user)
    return held.user


def _seen(user: User) -> None:
    """Roughly when somebody was last here, without a write for each request."""
    now = timezone.now()
    if user.last_seen_at is None or now - user.last_seen_at > SEEN_EVERY:
        User.objects.filter(pk=user.pk).update(last_seen_at=now)


def address_of(request: HttpRequest) -> str:
    """Where a request comes from, as the shell has it: a proxy's word counts where the house named the proxy."""
    return str(request.META.get("REMOTE_ADDR", ""))
