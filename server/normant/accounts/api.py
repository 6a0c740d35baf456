"""Signing in and out."""

from typing import Annotated, Any

from django.conf import settings
from django.contrib.auth import login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema, Status
from pydantic import Field

from normant.common.problems import Problem

from .auth import need_csrf
from .models import User
from .permissions import ALLOWED, Role
from .services.verify_password import verify_password

router = Router(tags=["session"])


class SignIn(Schema):
    name: Annotated[str, Field(max_length=150)]
    password: Annotated[str, Field(max_length=1024)]


class SessionOut(Schema):
    """The account that is signed in, if `name` is not null, and the IANA name of the facility's time zone.

    `may` lists the account's permissions.
    """

    name: str | None
    role: str | None
    seat: str | None
    may: list[str]
    time_zone: str


@router.get("/session", response=SessionOut, operation_id="session", auth=None)
def session(request: HttpRequest) -> dict[str, Any]:
    """Return the account that is signed in, and set the CSRF cookie."""
    get_token(request)
    return _account(request.user)


@router.post("/session", response=SessionOut, operation_id="sign_in", auth=None)
def sign_in(request: HttpRequest, given: SignIn) -> dict[str, Any]:
    """Sign in with a name and a password."""
    need_csrf(request)
    user = verify_password(request, given.name, given.password)
    if user is None:
        raise Problem(401, "Not signed in", "wrong name or password")
    login(request, user)
    return _account(user)


@router.delete("/session", response={204: None}, operation_id="sign_out", auth=None)
def sign_out(request: HttpRequest) -> Status[None]:
    """Sign out."""
    need_csrf(request)
    logout(request)
    return Status(204, None)


def _account(user: Any) -> dict[str, Any]:
    if not isinstance(user, User):
        return {"name": None, "role": None, "seat": None, "may": [], "time_zone": settings.TIME_ZONE}
    may = sorted(permission.value for permission in ALLOWED[Role(user.role)])
    account = {"name": user.username, "role": user.role, "seat": user.seat or None, "may": may}
    return account | {"time_zone": settings.TIME_ZONE}
