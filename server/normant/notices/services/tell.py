"""Telling people: new *must* findings at once, the round once a day."""

import datetime as dt
from collections.abc import Collection, Iterable, Sequence
from typing import Any

import msgspec
from django.conf import settings
from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.accounts.permissions import ALLOWED, Permission
from normant.common.events import tell
from normant.common.locks import lock
from normant.findings.models import Finding
from normant.round.items import Place, episodes_of, round_now
from normant.seats.models import Presence, Seat
from normant_core.judging.groups import OpenFinding
from normant_core.judging.judge import Verdict
from normant_core.words.notice import Notice, Thing, of_musts, of_round
from normant_core.words.overnight import DAYS, flapping

from ..later import deliver_later
from ..models import Choice, Delivery, Hook, SentNotice

BEHIND = dt.timedelta(minutes=10)


@transaction.atomic
def tell_musts() -> int:
    """Tell those who want it at once of every *must* finding that nobody was told of; how many notices went out."""
    lock("notices", ["must"])
    rows = list(Finding.objects.to_tell().select_related("seat").order_by("seat__name", "id"))
    if not rows:
        return 0
    now = timezone.now()
    quiet = _come_and_gone({row.seat_id for row in rows}, now)
    rooms = {row.seat.name: row.seat.room for row in rows}
    findings = [OpenFinding(row.pk, row.seat.name, msgspec.convert(row.verdict, Verdict)) for row in rows]
    findings = [finding for finding in findings if (finding.seat, *finding.verdict.key) not in quiet]
    Finding.objects.filter(pk__in=[row.pk for row in rows]).update(told_at=now)
    sent = 0
    for choice in _choices().filter(at_once=True):
        if concerning := [finding for finding in findings if not choice.rooms or rooms[finding.seat] in choice.rooms]:
            sent += tell_person(choice.user, choice.mail, of_musts(concerning)) is not None
    return sent


def send_digests() -> int:
    """The round, to everybody whose hour has come and who has not had today's; how many went out."""
    if _is_behind(timezone.now()):  # not the local time: arithmetic with that is an hour off when the clock changes
        return 0
    local = timezone.localtime()
    due = _choices().filter(digest=True, digest_hour__lte=local.hour)
    waiting = list(due.exclude(digest_sent_on=local.date()).values_list("pk", flat=True))
    round_shown = round_now() if waiting else {}
    rooms = dict(Seat.objects.active().values_list("name", "room")) if waiting else {}
    return sum(_digest(choice, round_shown, rooms, local.date()) for choice in waiting)


def _is_behind(now: dt.datetime) -> bool:
    """Whether what was heard of the house is not judged yet, or nothing was heard: a digest would tell half of it."""
    heard = Presence.objects.filter(seen_at__isnull=False)
    return not heard.exists() or heard.filter(unjudged_since__lt=now - BEHIND).exists()


@transaction.atomic
def _digest(number: int, round_shown: dict[str, Any], rooms: dict[str, str], today: dt.date) -> bool:
    choice = Choice.objects.select_for_update().select_related("user").get(pk=number)
    if choice.digest_sent_on == today or not choice.digest:
        return False
    choice.digest_sent_on = today
    choice.save(update_fields=["digest_sent_on"])
    items = [item for item in round_shown["items"] if _concerns(choice, item["seats"], rooms)]
    things = [Thing.on(item["seats"], item["title"], item["words"], _fix(item)) for item in items]
    overnight = [step["title"] for step in round_shown["overnight"] if _concerns(choice, step["seats"], rooms)]
    return tell_person(choice.user, choice.mail, of_round(round_shown["sentence"], things, overnight)) is not None


LONGEST = 300  # characters of a letter's subject


def tell_person(user: User, mail: str, notice: Notice) -> SentNotice | None:
    """Keep the notice and have it delivered by every way that this person has; None where there is no way."""
    hooks = list(Hook.objects.filter(user=user, gone_at=None))
    ways: list[tuple[str, str, Hook | None]] = [("mail", mail, None)] if mail else []
    ways += [("hook", hook.address, hook) for hook in hooks]
    if not ways:
        return None
    address = settings.NORMANT.address
    notice_row = SentNotice.objects.create(
        user=user,
        kind=notice.kind,
        subject=" ".join(notice.subject.split())[:LONGEST],  # a value of a seat may stand in it
        text=notice.text(address),
        payload=notice.payload(address),
    )
    for by, to, hook in ways:
        deliver_later(Delivery.objects.create(notice=notice_row, by=by, to=to, hook=hook).pk)
    tell("notice", str(notice_row.pk))
    return notice_row


def _choices() -> Any:
    """Of people who are still let in, and may see the house."""
    roles = [role for role, may in ALLOWED.items() if Permission.SEE_HOUSE in may]
    return Choice.objects.filter(user__is_active=True, user__role__in=roles).select_related("user").order_by("pk")


def _concerns(choice: Choice, seats: Iterable[str], rooms: dict[str, str]) -> bool:
    return not choice.rooms or any(rooms.get(seat) in choice.rooms for seat in seats)


def _fix(item: dict[str, Any]) -> str:
    fixes: Sequence[str] = sorted({line["fix"] for line in item.get("findings", ())})
    return fixes[0] if len(fixes) == 1 else ""


def _come_and_gone(seats: Collection[int], now: dt.datetime) -> set[Place]:
    """Places that come and go, of which somebody was told in these weeks: that is said once, not every night."""
    often = now - dt.timedelta(days=DAYS)
    recent = Finding.objects.filter(seat__in=seats, severity="must", opened_at__gt=often)
    already = {*recent.filter(told_at__isnull=False).values_list("seat__name", "setting", "app")}
    return {
        (flap.seat, flap.setting, flap.app)
        for flap in flapping(episodes_of(recent), timezone.localtime(now))
        if (flap.seat, flap.setting, flap.app or "") in already
    }
