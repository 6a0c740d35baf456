"""Accepting findings for a while, and ending that."""

import datetime as dt
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.local_time import full_words
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.common.seen import need_seen
from normant.ledger.services.record import record
from normant.seats.models import Seat
from normant.seats.querysets import SeatQuerySet
from normant_core.base.wording import with_app
from normant_core.catalogue.settings import catalogue
from normant_core.house.waivers import GROUPS, LONGEST, scope_text
from normant_core.seat.survey import Key

from ..later import judge_seats
from ..models import Finding, Waiver


@dataclass(frozen=True, slots=True)
class Scope:
    """Places (setting, application) on these seats, or (none named) on every seat of all these groups."""

    places: Sequence[Key]
    seats: Sequence[str] = ()
    groups: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Terms:
    """Why, and until when: a moment, or the end of a production."""

    reason: str
    ends_at: dt.datetime | None = None
    until_production: str = ""


def would_cover(scope: Scope) -> list[Finding]:
    """The open findings that would be waived; those of locked rules are not among them. Raises Problem."""
    _check_scope(scope)
    findings = Finding.objects.open().filter(seat__in=_seats(scope.seats, scope.groups)).select_related("seat")
    places = {*scope.places}
    spoken = (f for f in findings if (f.setting, f.app or None) in places or (f.setting, None) in places)
    return [finding for finding in spoken if not finding.verdict.get("locked")]


@transaction.atomic
def waive(scope: Scope, terms: Terms, user: User) -> list[Waiver]:
    """One waiver for each place; the findings that they cover are marked soon after. Raises Problem."""
    _check_terms(terms)
    if not would_cover(scope):
        raise Problem(
            409, "Nothing to waive", "no open findings in this scope, or the rule is locked and cannot be waived"
        )
    lock("waive")
    asked = [_wanted(setting, app, scope, terms) for setting, app in dict.fromkeys(scope.places)]
    there = [Waiver.objects.holding(timezone.now()).filter(**wanted).first() for wanted in asked]
    # The same waiver once more, by a second press or a second person, is the one that holds already.
    made = [
        Waiver.objects.create(**fields, made_by=user) for fields, held in zip(asked, there, strict=True) if not held
    ]
    for waiver in made:
        until = waiver.until_production or waiver.ends_at
        record(user.username, "waive", waiver_subject(waiver), waiver=waiver.pk, reason=waiver.reason, until=str(until))
    _moved(made)
    return [*made, *(waiver for waiver in there if waiver)]


def _wanted(setting: str, app: str | None, scope: Scope, terms: Terms) -> dict[str, Any]:
    return {
        "setting": setting,
        "app": app or "",
        "seats": sorted(scope.seats),
        "groups": dict(scope.groups),
        "reason": terms.reason.strip(),
        "ends_at": terms.ends_at,
        "until_production": terms.until_production,
    }


@transaction.atomic
def end_waiver(number: int, user: User) -> Waiver:
    """Its findings count again. Raises Problem."""
    waiver = _running(number)
    _end([waiver], "person", user.username)
    return waiver


@transaction.atomic
def prolong(number: int, ends_at: dt.datetime, user: User, *, seen: dt.datetime | None) -> Waiver:
    """Another end of a waiver that has not ended, and whose end was `seen`. Raises Problem."""
    waiver = _running(number)
    if waiver.ends_at != ends_at:  # the same once more is done already
        need_seen(str(seen), str(waiver.ends_at), f"the end of waiver {number}")
    _check_end(ends_at)
    waiver.ends_at, waiver.until_production = ends_at, ""
    waiver.save(update_fields=["ends_at", "until_production"])
    record(user.username, "prolong waiver", waiver_subject(waiver), waiver=waiver.pk, until=str(ends_at))
    _moved([waiver])
    return waiver


@transaction.atomic
def end_production(production: str, user: User) -> int:
    """The production is over: how many waivers that waited for this have ended."""
    ended = list(Waiver.objects.holding(timezone.now()).filter(until_production=production).select_for_update())
    record(user.username, "end production", production, waivers=[waiver.pk for waiver in ended])
    _end(ended, "production", user.username)
    return len(ended)


@transaction.atomic
def end_those_over() -> int:
    """End what has come to its date; told by a job each minute."""
    over = list(Waiver.objects.filter(ended_at=None, ends_at__lte=timezone.now()).select_for_update(skip_locked=True))
    _end(over, "date", "server")
    return len(over)


def waiver_subject(waiver: Waiver) -> str:
    """`Held back of Corrow on pan-03`."""
    return f"{with_app(catalogue()[waiver.setting].title, waiver.app)} on {scope_text(waiver.seats, waiver.groups)}"


def seats_of(waiver: Waiver) -> SeatQuerySet:
    """The seats in its scope."""
    return _seats(waiver.seats, waiver.groups)


def _seats(names: Iterable[str], groups: Mapping[str, str]) -> SeatQuerySet:
    seats: SeatQuerySet = Seat.objects.active().filter(**groups)
    return seats.filter(name__in=[*names]) if names else seats


def _end(waivers: Sequence[Waiver], by: str, actor: str) -> None:
    for waiver in waivers:
        waiver.ended_at, waiver.ended_by = timezone.now(), by
        waiver.save(update_fields=["ended_at", "ended_by"])
        record(actor, "end waiver", waiver_subject(waiver), waiver=waiver.pk, by=by)
    _moved(waivers)


def _moved(waivers: Sequence[Waiver]) -> None:
    """Levels and counts of the seats in their scope are made anew."""
    judge_seats(pk for waiver in waivers for pk in seats_of(waiver).values_list("pk", flat=True))
    if waivers:
        tell("waiver", ",".join(str(waiver.pk) for waiver in waivers[:20]))


def _running(number: int) -> Waiver:
    lock("waiver", [str(number)])
    waiver: Waiver = row_or_404(Waiver.objects.filter(pk=number), "waiver", f"there is no waiver {number}")
    if waiver.ended_at:
        raise Problem(409, "Ended", f"waiver {number} ended on {waiver.ended_at:%d %b %Y}: create a new one")
    return waiver


def _check_scope(scope: Scope) -> None:
    known = catalogue()
    for setting, _ in scope.places:
        if setting not in known:
            raise Problem(422, "No such setting", f"{setting} is not in the catalogue")
    if unknown := set(scope.groups) - set(GROUPS):
        raise Problem(422, "No such group", f"{', '.join(sorted(unknown))}: expected one of {', '.join(GROUPS)}")
    missing = {*scope.seats} - {*Seat.objects.active().filter(name__in=scope.seats).values_list("name", flat=True)}
    if missing:
        raise Problem(422, "No such seat", f"{', '.join(sorted(missing))}: not in the register")


def _check_terms(terms: Terms) -> None:
    if not terms.reason.strip():
        raise Problem(422, "No reason", "a waiver needs a reason")
    if terms.ends_at:
        _check_end(terms.ends_at)
    elif not terms.until_production:
        raise Problem(422, "No end", "a waiver needs an end: a date or a production")
    elif not Seat.objects.active().filter(production=terms.until_production).exists():
        raise Problem(422, "No such production", f"no seat is booked on {terms.until_production}")


def _check_end(ends_at: dt.datetime) -> None:
    now = timezone.now()
    if ends_at <= now:
        raise Problem(422, "Ends too early", f"{full_words(ends_at)} is in the past: choose a later end")
    if ends_at > now + LONGEST:
        raise Problem(422, "Ends too late", "a waiver lasts at most 1 year: change the standard instead")
