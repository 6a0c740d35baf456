"""Choosing what one is told, and where."""

import datetime as dt
import secrets
from base64 import b64encode
from collections.abc import Sequence
from dataclasses import dataclass
from urllib.parse import urlsplit

from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.problems import Problem
from normant.common.reach import refused_host
from normant.ledger.services.record import record
from normant.seats.models import Seat
from normant_core.notice import TEST, of_nothing

from ..models import Choice, Hook, Told
from .tell import told_to

MOST_HOOKS = 5
BETWEEN_TESTS = dt.timedelta(minutes=1)
SECRET_BYTES = 32  # Standard Webhooks asks for 24 to 64


@dataclass(frozen=True, slots=True)
class Wishes:
    """What a person wants to be told; `mail` empty: nothing by mail; `rooms` empty: of every room."""

    mail: str
    at_once: bool
    digest: bool
    digest_hour: int
    rooms: Sequence[str] = ()


@transaction.atomic
def choose(user: User, wishes: Wishes) -> Choice:
    """Keep what a person wants. Raises Problem."""
    if wishes.mail:
        try:
            validate_email(wishes.mail)
        except ValidationError as error:
            raise Problem(422, "No mail address", f"{wishes.mail!r}: expected somebody@house.example") from error
    known = {*Seat.objects.active().values_list("room", flat=True)}
    if missing := sorted({*wishes.rooms} - known):
        raise Problem(422, "No such room", f"{', '.join(missing)}: no seat is in it")
    told = {
        "mail": wishes.mail,
        "at_once": wishes.at_once,
        "digest": wishes.digest,
        "digest_hour": wishes.digest_hour,
        "rooms": sorted(wishes.rooms),
    }
    choice, _ = Choice.objects.update_or_create(user=user, defaults=told)
    record(user.username, "choose notices", user.username, **{**told, "mail": bool(wishes.mail)})
    return choice


@transaction.atomic
def add_hook(user: User, address: str) -> Hook:
    """Tell this address as well; its secret is known from now on to whoever made it. Raises Problem."""
    parts = urlsplit(address)
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.username or parts.password:
        raise Problem(422, "No address", f"{address!r}: expected https://host/path, without a name or a password in it")
    if why := refused_host(address, settings.NORMANT_WEBHOOK_HOSTS, "NORMANT_WEBHOOK_HOSTS"):
        raise Problem(422, "Not reached from here", why)
    hooks = Hook.objects.filter(user=user)
    if hooks.filter(address=address).exists():
        raise Problem(409, "There already", f"{address} is told already: take it away first to have another secret")
    if hooks.count() >= MOST_HOOKS:
        raise Problem(409, "Too many", f"{MOST_HOOKS} addresses are told already: take one away first")
    secret = "whsec_" + b64encode(secrets.token_bytes(SECRET_BYTES)).decode()
    record(user.username, "add webhook", user.username, host=parts.hostname)
    return Hook.objects.create(user=user, address=address, secret=secret)


@transaction.atomic
def drop_hook(user: User, number: int) -> None:
    """Tell this address no more. Raises Problem."""
    hook = Hook.objects.filter(user=user, pk=number).first()
    if hook is None:
        raise Problem(404, "No such webhook", f"you have no webhook {number}")
    record(user.username, "drop webhook", user.username, host=urlsplit(hook.address).hostname)
    hook.delete()


@transaction.atomic
def try_out(user: User) -> Told:
    """A test, by every way that this person has chosen. Raises Problem where there is none."""
    lately = Told.objects.filter(user=user, kind=TEST, at__gt=timezone.now() - BETWEEN_TESTS)
    if lately.exists():
        raise Problem(429, "Too soon", "one test a minute: whoever gets them should not have to mind")
    choice = Choice.objects.filter(user=user).first()
    told = told_to(user, choice.mail if choice else "", of_nothing())
    if told is None:
        raise Problem(409, "No way to tell you", "give a mail address or a webhook first")
    return told
