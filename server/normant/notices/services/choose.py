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

from normant.accounts.models import User, hashed
from normant.common.problems import Problem
from normant.common.reach import NotReached, place_of
from normant.common.rows import row_or_404
from normant.ledger.services.record import record
from normant.seats.models import Seat
from normant_core.words.notice import TEST, of_nothing

from ..later import confirm_later
from ..models import Choice, Hook, SentNotice
from .tell import tell_person

MOST_HOOKS = 5
BETWEEN_CODES, CODE_HOLDS, CODE_TRIES = dt.timedelta(minutes=1), dt.timedelta(hours=1), 5
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
        raise Problem(422, "No such room", f"{', '.join(missing)}: no seats in this room")
    now = Choice.objects.select_for_update().filter(user=user).first() or Choice(user=user)
    mail = now.mail if wishes.mail == now.mail else ""
    fields = {
        "mail": mail,
        "mail_asked": "" if wishes.mail == mail else wishes.mail,
        "at_once": wishes.at_once,
        "digest": wishes.digest,
        "digest_hour": wishes.digest_hour,
        "rooms": sorted(wishes.rooms),
    }
    choice, _ = Choice.objects.update_or_create(user=user, defaults=fields)
    shown = {name: value for name, value in fields.items() if name not in ("mail", "mail_asked")}
    record(user.username, "choose notices", user.username, **shown, mail=bool(wishes.mail))
    if choice.mail_asked and choice.mail_asked != now.mail_asked:
        ask_for_code(user)
    return choice


@transaction.atomic
def ask_for_code(user: User) -> Choice:
    """Send a code to the address that waits to be confirmed. Raises Problem: there is none, or too often."""
    choice = Choice.objects.select_for_update().filter(user=user).exclude(mail_asked="").first()
    if choice is None:
        raise Problem(409, "Nothing to confirm", "no mail address is waiting for confirmation")
    now = timezone.now()
    if choice.code_sent_at and choice.code_sent_at > now - BETWEEN_CODES:
        raise Problem(429, "Too soon", "wait 1 minute before you request another mail: the last code is still valid")
    code = f"{secrets.randbelow(10**8):08}"
    choice.code_digest, choice.code_sent_at, choice.code_tries = hashed(code), now, 0
    choice.save(update_fields=["code_digest", "code_sent_at", "code_tries"])
    confirm_later(choice.mail_asked, code)
    return choice


def confirm(user: User, code: str) -> Choice:
    """The code of the letter: from now on the address is written to. Raises Problem."""
    with transaction.atomic():
        choice = Choice.objects.select_for_update().filter(user=user).exclude(mail_asked="").first()
        if choice is None or not choice.code_digest or not choice.code_sent_at:
            raise Problem(409, "Nothing to confirm", "no mail address is waiting for confirmation")
        late = choice.code_sent_at < timezone.now() - CODE_HOLDS or choice.code_tries >= CODE_TRIES
        right = not late and secrets.compare_digest(choice.code_digest, hashed(code.replace(" ", "")))
        choice.code_tries += 1
        if right:
            choice.mail, choice.mail_asked, choice.code_digest = choice.mail_asked, "", ""
            record(user.username, "confirm mail", user.username)
        choice.save()
    if not right:
        what_next = "request another mail" if late else "check the mail"
        raise Problem(422, "Not the code", f"wrong or expired code: {what_next}")
    return choice


@transaction.atomic
def add_hook(user: User, address: str) -> Hook:
    """Tell this address as well; its secret is known from now on to whoever made it. Raises Problem."""
    try:
        place = place_of(address, settings.NORMANT.webhook_hosts, "NORMANT_WEBHOOK_HOSTS", listed=True)
    except NotReached as why:
        raise Problem(422, "Not reached from here", str(why)) from why
    hooks = Hook.objects.filter(user=user)
    if hooks.filter(address=address).exists():
        raise Problem(409, "There already", f"{address} is already registered: delete it first to get a new secret")
    if hooks.count() >= MOST_HOOKS:
        raise Problem(409, "Too many", f"{MOST_HOOKS} webhooks are the maximum: delete one first")
    secret = "whsec_" + b64encode(secrets.token_bytes(SECRET_BYTES)).decode()
    record(user.username, "add webhook", user.username, host=place.host)
    return Hook.objects.create(user=user, address=address, secret=secret)


@transaction.atomic
def drop_hook(user: User, number: int) -> None:
    """Tell this address no more. Raises Problem."""
    hook = row_or_404(Hook.objects.filter(user=user, pk=number), "webhook", f"you have no webhook {number}")
    record(user.username, "drop webhook", user.username, host=urlsplit(hook.address).hostname)
    hook.delete()


@transaction.atomic
def try_out(user: User) -> SentNotice:
    """A test, by every way that this person has chosen. Raises Problem where there is none."""
    lately = SentNotice.objects.filter(user=user, kind=TEST, at__gt=timezone.now() - BETWEEN_TESTS)
    if lately.exists():
        raise Problem(429, "Too soon", "wait 1 minute before you send another test")
    choice = Choice.objects.filter(user=user).first()
    notice = tell_person(user, choice.mail if choice else "", of_nothing())
    if notice is None:
        raise Problem(409, "No way to tell you", "add a mail address or a webhook first")
    return notice
