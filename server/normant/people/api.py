"""People, for administrators; and everybody's own account."""

from typing import Annotated, Any

from django.contrib.auth import update_session_auth_hash
from django.db.models import Count
from django.http import HttpRequest
from ninja import Router, Schema, Status
from pydantic import Field

from normant.accounts.auth import Needs, need_csrf, person
from normant.accounts.models import AccessToken, User
from normant.accounts.permissions import Permission, Role, Scope
from normant.accounts.services.verify_password import verify_password
from normant.common.lists import answer, plain
from normant.common.problems import Problem
from normant.common.schemas import ListOf, Moment
from normant.common.seen import Seen

from .services.people import (
    LINK_HOURS,
    Place,
    add_person,
    change_password,
    change_person,
    disable_person,
    enable_person,
    end_sessions,
    offer_link,
    seen_person,
    set_password_by_link,
)
from .services.tokens import LONGEST_DAYS, make_token, withdraw_token

router = Router(tags=["people"])
_MANAGE = Needs(Permission.MANAGE_PEOPLE, in_person=True)
_OWN = Needs(Permission.OWN_ACCOUNT, in_person=True)
_MANAGE_ONCE = Needs(Permission.MANAGE_PEOPLE, in_person=True, shown_once=True)
_OWN_ONCE = Needs(Permission.OWN_ACCOUNT, in_person=True, shown_once=True)
Name = Annotated[str, Field(min_length=1, max_length=60)]
Password = Annotated[str, Field(min_length=1, max_length=1024)]


class PersonOut(Schema):
    """A person's account; `seen` is its version, for a request that changes it."""

    name: str
    role: Role
    seat: str
    active: bool
    has_password: bool
    last_seen_at: Moment | None
    tokens: int
    seen: str


class StandingIn(Schema):
    """What somebody is to the house."""

    role: Role
    seat: Annotated[str, Field(max_length=64)] = ""


class PersonIn(StandingIn):
    """Somebody new."""

    name: Name


class ChangeIn(StandingIn):
    """Another place, instead of the one that was read."""

    seen: Seen


class PasswordLinkOut(Schema):
    """A link to set a password, shown once: `/set-password#` and this."""

    name: str
    link: str
    valid_hours: int


class PasswordLinkIn(Schema):
    """The part of a link after `#`, and the new password."""

    link: Annotated[str, Field(max_length=200)]
    password: Password


class PasswordIn(Schema):
    """The present password and the new one."""

    old: Password
    new: Password


class TokenIn(Schema):
    """A token by its name: what it may do, and for how many days."""

    name: Annotated[str, Field(min_length=1, max_length=80, pattern=r"\S")]
    scope: Scope
    days: Annotated[int, Field(ge=1, le=LONGEST_DAYS)] = 90


class TokenOut(Schema):
    """A token; its text is shown only once, to the person who created it."""

    id: int
    name: str
    scope: Scope
    created_at: Moment
    ends_at: Moment | None
    last_used_at: Moment | None
    token: str = ""


class AccountOut(Schema):
    """Your own account."""

    name: str
    role: Role
    seat: str
    tokens: list[TokenOut]


@router.get("/people", response=ListOf[PersonOut], operation_id="people", auth=_MANAGE)
def people(request: HttpRequest) -> Any:
    """Who there is."""
    return answer(map(_person, User.objects.annotate(held=Count("tokens")).order_by("-is_active", "username")))


@router.post("/people", response=PasswordLinkOut, operation_id="add_person", auth=_MANAGE_ONCE)
def add(request: HttpRequest, given: PersonIn) -> Any:
    """Somebody new, and the link by which they set their password."""
    user, link = add_person(person(request).username, given.name, Place(given.role, given.seat))
    return _link(user.username, link)


@router.patch("/people/{name}", response=PersonOut, operation_id="change_person", auth=_MANAGE)
def change(request: HttpRequest, name: str, given: ChangeIn) -> Any:
    """Another role or seat."""
    return plain(_person(change_person(person(request).username, name, Place(given.role, given.seat), seen=given.seen)))


@router.post("/people/{name}/link", response=PasswordLinkOut, operation_id="offer_link", auth=_MANAGE_ONCE)
def link(request: HttpRequest, name: str) -> Any:
    """Another link to set a password; those before it end."""
    return _link(name, offer_link(person(request).username, name))


@router.post("/people/{name}/disable", response=PersonOut, operation_id="disable_person", auth=_MANAGE)
def disable(request: HttpRequest, name: str) -> Any:
    """Disable an account: its sessions, tokens and feeds end at once."""
    return plain(_person(disable_person(person(request).username, name)))


@router.post("/people/{name}/enable", response=PersonOut, operation_id="enable_person", auth=_MANAGE)
def enable(request: HttpRequest, name: str) -> Any:
    """They may sign in again."""
    return plain(_person(enable_person(person(request).username, name)))


@router.post("/people/{name}/end-sessions", response=PersonOut, operation_id="end_sessions", auth=_MANAGE)
def sign_out_everywhere(request: HttpRequest, name: str) -> Any:
    """They sign in again everywhere."""
    return plain(_person(end_sessions(person(request).username, name)))


@router.get("/account", response=AccountOut, operation_id="account", auth=_OWN)
def account(request: HttpRequest) -> Any:
    """Your own account, with its tokens."""
    user = person(request)
    tokens = [_token(token) for token in user.tokens.all()]
    return plain({"name": user.username, "role": user.role, "seat": user.seat, "tokens": tokens})


@router.put("/account/password", response={204: None}, operation_id="change_password", auth=_OWN)
def new_password(request: HttpRequest, given: PasswordIn) -> Status[None]:
    """Another password: every other session of yours ends."""
    user = verify_password(request, person(request).username, given.old)
    if user is None:
        raise Problem(403, "Not your password", "the current password is wrong")
    change_password(user, given.new)
    user.refresh_from_db()
    update_session_auth_hash(request, user)
    return Status(204, None)


@router.post("/account/tokens", response=TokenOut, operation_id="make_token", auth=_OWN_ONCE)
def token(request: HttpRequest, given: TokenIn) -> Any:
    """A token for a script; it is shown once."""
    made, text = make_token(person(request), given.name, given.scope, days=given.days)
    return plain({**_token(made), "token": text})


@router.delete("/account/tokens/{number}", response={204: None}, operation_id="withdraw_token", auth=_OWN)
def take_token(request: HttpRequest, number: int) -> Status[None]:
    """It lets nobody in any more."""
    withdraw_token(person(request), number)
    return Status(204, None)


@router.post("/session/password", response={204: None}, operation_id="set_password", auth=None)
def set_password(request: HttpRequest, given: PasswordLinkIn) -> Status[None]:
    """Set a password by the link that an administrator gave."""
    need_csrf(request)
    set_password_by_link(given.link, given.password)
    return Status(204, None)


def _link(name: str, link: str) -> Any:
    return plain({"name": name, "link": link, "valid_hours": LINK_HOURS})


def _person(user: User) -> dict[str, Any]:
    return {
        "name": user.username,
        "role": user.role,
        "seat": user.seat,
        "active": user.is_active,
        "has_password": user.has_usable_password(),
        "last_seen_at": user.last_seen_at,
        "tokens": user.held if hasattr(user, "held") else user.tokens.count(),  # counted for all where all are told
        "seen": seen_person(user),
    }


def _token(token: AccessToken) -> dict[str, Any]:
    names = ("name", "scope", "created_at", "ends_at", "last_used_at")
    return {"id": token.pk, **{name: getattr(token, name) for name in names}}
