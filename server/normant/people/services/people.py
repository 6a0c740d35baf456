"""People: who there is, what they may, and how they are let in and kept out."""

import re
from dataclasses import dataclass

from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.tokens import PasswordResetTokenGenerator
from django.core.exceptions import ValidationError
from django.db import transaction

from normant.accounts.models import AccessToken, User
from normant.accounts.permissions import Role
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.seen import need_seen, seen_of
from normant.ledger.services.record import record

LINK_HOURS = 24
_NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9._@-]{0,59}")
_RESERVED = {"server", "agent", "worker", "normant"}  # the ledger calls others so


@dataclass(frozen=True, slots=True)
class Place:
    """What somebody is to the house: a role, and an editor's own seat."""

    role: Role
    seat: str = ""


class _Links(PasswordResetTokenGenerator):
    """Links to set a password: once, for a day, and only the newest."""

    key_salt = "normant.accounts.link"

    def _make_hash_value(self, user: User, timestamp: int) -> str:
        return f"{user.pk}|{user.let_in}|{user.links}|{user.is_active}|{timestamp}"


_links = _Links()


@transaction.atomic
def add_person(actor: str, name: str, place: Place) -> tuple[User, str]:
    """A new person without a password, and the link by which they set one. Raises Problem."""
    if not _NAME.fullmatch(name) or name.lower() in _RESERVED:
        raise Problem(422, "No name", f"{name[:60]!r}: expected letters, digits and . _ @ -, except reserved names")
    lock("people")
    if User.objects.filter(username__iexact=name).exists():
        raise Problem(409, "There already", f"the name {name} is taken: choose another one")
    _check(place)
    user = User(username=name, role=place.role.value, seat=place.seat)
    user.set_unusable_password()
    user.save()
    record(actor, "add person", name, role=place.role.value, seat=place.seat)
    return user, _link(actor, user)


@transaction.atomic
def offer_link(actor: str, name: str) -> str:
    """Another link to set a password; those before it end. Raises Problem."""
    user = _person(name)
    if not user.is_active:
        raise Problem(409, "Disabled", f"{name} is disabled: enable the account first")
    return _link(actor, user)


@transaction.atomic
def change_person(actor: str, name: str, place: Place, *, seen: str) -> User:
    """Another role or seat, in place of what was `seen`. Raises Problem: also for the last administrator."""
    user = _person(name)
    need_seen(seen, seen_person(user), name)
    _check(place)
    if place.role is not Role.ADMINISTRATOR:
        _keep_one_administrator(user)
    user.role, user.seat = place.role.value, place.seat
    user.save(update_fields=["role", "seat"])
    record(actor, "change person", name, role=place.role.value, seat=place.seat)
    tell("person", str(user.pk))
    return user


@transaction.atomic
def disable_person(actor: str, name: str) -> User:
    """Nothing lets them in any more: no session, token, feed or stream. Raises Problem for the last administrator."""
    user = _person(name)
    _keep_one_administrator(user)
    user.is_active = False
    user.save(update_fields=["is_active"])
    withdrawn, _ = AccessToken.objects.filter(user=user).delete()
    record(actor, "disable person", name, tokens=withdrawn)
    _end_all(user)
    return user


@transaction.atomic
def enable_person(actor: str, name: str) -> User:
    """They may sign in again, with the password that they had."""
    user = _person(name)
    user.is_active = True
    user.save(update_fields=["is_active"])
    record(actor, "enable person", name)
    tell("person", str(user.pk))
    return user


@transaction.atomic
def end_sessions(actor: str, name: str) -> User:
    """They sign in again everywhere; their tokens stay."""
    user = _person(name)
    record(actor, "end sessions", name)
    _end_all(user)
    return user


@transaction.atomic
def set_password_by_link(link: str, password: str) -> User:
    """Whoever has the link sets the password, once. Raises Problem."""
    name, _, token = link.partition(":")
    user = User.objects.select_for_update().filter(username=name, is_active=True).first()
    if user is None or not _links.check_token(user, token):
        raise Problem(403, "Link over", "this link has been used or has expired: ask an administrator for a new one")
    _set_password(user, password)
    record(user.username, "set password", user.username, by="link")
    return user


@transaction.atomic
def change_password(verified: User, new: str) -> None:
    """Set another password for a person whose present one was just verified; every session of theirs ends.

    Raises Problem where the new one is too weak, or where another password was set meanwhile.
    """
    user = User.objects.select_for_update().get(pk=verified.pk)
    if user.password != verified.password:
        raise Problem(409, "Changed meanwhile", "the password has changed: sign in with the new one and try again")
    _set_password(user, new)
    record(user.username, "set password", user.username, by="themselves")


def seen_person(user: User) -> str:
    """What somebody who read of a person has seen."""
    return seen_of(user.username, user.role, user.seat, user.is_active)


def _set_password(user: User, password: str) -> None:
    try:
        validate_password(password, user)
    except ValidationError as fault:
        raise Problem(422, "Too weak", " ".join(fault.messages)) from fault
    user.set_password(password)
    user.links += 1
    user.save(update_fields=["password", "links"])
    tell("person", str(user.pk))


def _link(actor: str, user: User) -> str:
    user.links += 1
    user.save(update_fields=["links"])
    record(actor, "offer link", user.username, hours=LINK_HOURS)
    return f"{user.username}:{_links.make_token(user)}"


def _end_all(user: User) -> None:
    user.epoch += 1
    user.save(update_fields=["epoch"])
    tell("person", str(user.pk))


def _check(place: Place) -> None:
    if place.seat and place.role is not Role.EDITOR:
        raise Problem(422, "No editor", "only editors have a seat of their own")
    if len(place.seat) > 64:
        raise Problem(422, "No such seat", "a seat's name has at most 64 characters")


def _keep_one_administrator(user: User) -> None:
    lock("people")
    others = User.objects.filter(role=Role.ADMINISTRATOR, is_active=True).exclude(pk=user.pk)
    if user.role == Role.ADMINISTRATOR and user.is_active and not others.exists():
        raise Problem(
            409, "The last administrator", f"{user.username} is the last administrator: appoint another first"
        )


def _person(name: str) -> User:
    lock("people")
    person_row = User.objects.select_for_update().filter(username=name).first()
    if person_row is None:
        raise Problem(404, "Nobody", f"there is no account {name[:60]!r}")
    return person_row
