"""The round: what needs a decision, most useful first, and the sentence at the top."""

import datetime as dt
from typing import Any

import msgspec
from django.db.models import Count, Q
from django.utils import timezone

from normant.findings.models import Finding, Waiver
from normant.findings.services.waive import seats_of, told
from normant.seats.floor import silent_seats
from normant.seats.models import Seat
from normant_core.catalogue import catalogue
from normant_core.drift import Verdict
from normant_core.grouping import Found, Group, groups, house_sentence, title_of
from normant_core.levels import in_words
from normant_core.overnight import DAYS, OFTEN, Episode, Flapping, flapping, happened
from normant_core.waivers import WARNED

from .models import Leg

Place = tuple[str, str, str | None]  # seat, setting, application


MOST = 500  # readings that come and go: of more there is another cause
_BLANK: dict[str, Any] = {
    "status": None,
    "severity": None,
    "distance": None,
    "because": None,
    "findings": [],
    "rollout": None,
    "waiver": None,
    "since": None,
}


def round_now() -> dict[str, Any]:
    """Cause groups, legs that stopped, waivers that end, seats that fell silent."""
    now = timezone.now()
    since, evening = _last_evening()
    episodes = _episodes(now - dt.timedelta(days=DAYS), since)
    flaps = flapping(episodes, now)
    places = {(flap.seat, flap.setting, flap.app) for flap in flaps}
    legs = _stopped_legs()
    found, tried = _found(), _tried(legs)
    coming = [f for f in found if _place(f) in places]
    found = [f for f in found if f not in coming]
    causes = [_cause(together, tried) for together in groups(found)]
    shown = {f.seat for f in found if _place(f) in tried}
    stopped = [_stopped(leg) for leg in legs if leg.seat.name not in shown]
    silent = [_silent(name, seen) for name, seen in silent_seats()]
    items = [*stopped, *_ending(), *causes, *(_flapping(flap, coming, tried) for flap in flaps), *silent]
    left, back = _moved(since, places)
    steady = [e for e in episodes if (e.seat, *e.key) not in places]
    sentence = house_sentence(left=left, back=back, decisions=len(items), since=evening)
    return {
        "sentence": sentence,
        "items": [{**_BLANK, **item} for item in items],
        "since": since,
        "overnight": [msgspec.to_builtins(step) for step in happened(steady, since, now)],
    }


def _place(found: Found) -> Place:
    return found.seat, found.verdict.setting, found.verdict.app


def _found() -> list[Found]:
    rows = Finding.objects.wanting().select_related("seat").order_by("seat__name", "id")
    return [Found(row.pk, row.seat.name, msgspec.convert(row.verdict, Verdict)) for row in rows]


def _episodes(often: dt.datetime, since: dt.datetime) -> list[Episode]:
    """What moved since yesterday, and what opened again and again in the last two weeks."""
    recent = Finding.objects.filter(seat__retired_at=None, waiver=None)
    again = (
        recent.filter(opened_at__gt=often)
        .values("seat", "setting", "app")
        .annotate(times=Count("pk"))
        .filter(times__gte=OFTEN)
        .order_by("-times")
        .values_list("seat", "setting", "app")[:MOST]
    )
    places = Q()
    for seat, setting, app in again:
        places |= Q(seat=seat, setting=setting, app=app)
    moved = Q(opened_at__gt=since) | Q(closed_at__gt=since)
    rows = recent.filter(moved | places & Q(opened_at__gt=often) if places else moved)
    columns = ("seat__name", "setting", "app", "opened_at", "opened_by", "closed_at", "closed_by")
    return [_episode(*row) for row in rows.values_list(*columns)]


def _episode(seat: str, setting: str, app: str, *life: Any) -> Episode:
    opened, opened_by, closed, closed_by = life
    local = timezone.localtime
    return Episode(seat, (setting, app or None), local(opened), opened_by, closed and local(closed), closed_by)


def _flapping(flap: Flapping, open_: list[Found], tried: dict[Place, str]) -> dict[str, Any]:
    own = [f for f in open_ if _place(f) == (flap.seat, flap.setting, flap.app)]
    app = f" of {flap.app.capitalize()}" if flap.app else ""
    return {
        "kind": "flapping",
        "title": f"{catalogue()[flap.setting].title}{app} comes and goes on {flap.seat}",
        "words": flap.sentence,
        "status": own[0].verdict.status if own else "in-norm",
        "severity": own[0].verdict.severity if own else None,
        "distance": own[0].verdict.distance if own else None,
        "because": own[0].verdict.because if own else "",
        "seats": [flap.seat],
        "findings": [_line(found, tried) for found in own],
    }


def _cause(together: list[Group], tried: dict[Place, str]) -> dict[str, Any]:
    first = together[0]
    verdict = first.findings[0].verdict
    return {
        "kind": "cause",
        "title": title_of(together),
        "status": verdict.status,
        "severity": verdict.severity,
        "distance": verdict.distance,
        "words": in_words(verdict) if len(together) == 1 else _titles(together),
        "because": verdict.because if len(together) == 1 else "",
        "seats": sorted({seat for group in together for seat in group.seats}),
        "findings": [_line(found, tried) for group in together for found in group.findings],
    }


def _titles(together: list[Group]) -> str:
    """`Effects of Corrow, Held back of Plinthe`: what stands together, in a line."""
    verdicts = [group.findings[0].verdict for group in together]
    names = [f"{catalogue()[v.setting].title}{f' of {v.app.capitalize()}' if v.app else ''}" for v in verdicts]
    return ", ".join(dict.fromkeys(names))


def _line(found: Found, tried: dict[Place, str]) -> dict[str, Any]:
    verdict = found.verdict
    return {
        "id": found.id,
        "seat": found.seat,
        "setting": verdict.setting,
        "title": catalogue()[verdict.setting].title,
        "app": verdict.app,
        "reading": verdict.reading_shown,
        "norm": verdict.norm.rule or verdict.norm.sentence,
        "fix": verdict.fix_shown,
        "distance": verdict.distance,
        "remote": catalogue()[verdict.setting].remote,
        "tried": tried.get(_place(found)),
    }


def _stopped_legs() -> list[Leg]:
    """The last leg of each seat, where it stopped."""
    last = Leg.objects.order_by("seat__name", "-id").distinct("seat__name")
    found = Leg.objects.filter(state="stopped", rollout__kind="correct", pk__in=last.values("pk"))
    return list(found.select_related("seat", "rollout").order_by("seat__name"))


def _tried(legs: list[Leg]) -> dict[Place, str]:
    """Why the last correction of a reading did not settle it."""
    return {
        (leg.seat.name, change["setting"], change["app"]): leg.message for leg in legs for change in leg.plan["changes"]
    }


def _stopped(leg: Leg) -> dict[str, Any]:
    return {
        "kind": "leg",
        "title": f"{leg.rollout.title}: {leg.seat.name} stopped",
        "words": leg.message,
        "seats": [leg.seat.name],
        "rollout": leg.rollout_id,
    }


def _silent(name: str, seen: dt.datetime) -> dict[str, Any]:
    return {
        "kind": "silent",
        "title": f"{name} is silent",
        "words": "its agent has not been heard; what is shown of it is its last survey",
        "seats": [name],
        "since": seen,
    }


def _ending() -> list[dict[str, Any]]:
    """Waivers that end soon and still cover something."""
    now = timezone.now()
    soon = Waiver.objects.holding(now).filter(ends_at__lte=now + WARNED)
    covering = soon.annotate(covers=Count("findings", filter=Q(findings__closed_at=None))).exclude(covers=0)
    return [
        {
            "kind": "waiver",
            "title": f"A waiver ends: {told(waiver)}",
            "words": waiver.reason,
            "status": "waived",
            "seats": sorted(seats_of(waiver).filter(findings__waiver=waiver).values_list("name", flat=True).distinct()),
            "waiver": waiver.pk,
            "since": waiver.ends_at,
        }
        for waiver in covering.order_by("ends_at", "id")
    ]


def _last_evening() -> tuple[dt.datetime, str]:
    """Yesterday at 18:00, house time: when the last working day was over."""
    now = timezone.localtime()
    evening = (now - dt.timedelta(days=1)).replace(hour=18, minute=0, second=0, microsecond=0)
    return evening, "yesterday at 18:00"


def _moved(since: dt.datetime, coming: set[Place]) -> tuple[int, int]:
    """How many seats left the standard since then, and how many came back to it; what comes and goes is told apart."""
    wanting = Q(findings__waiver=None)
    for seat, setting, app in coming:
        wanting &= ~Q(name=seat, findings__setting=setting, findings__app=app or "")
    then = Q(findings__opened_at__lte=since) & (Q(findings__closed_at=None) | Q(findings__closed_at__gt=since))
    counted = Seat.objects.active().annotate(
        before=Count("findings", filter=wanting & then),
        now=Count("findings", filter=wanting & Q(findings__closed_at=None)),
    )
    left = counted.filter(before=0, now__gt=0).count()
    # A seat that went off norm and came back within the span came back too.
    back = counted.filter(wanting, now=0, findings__closed_at__gt=since).distinct().count()
    return left, back
