"""Errands as they are read: all of them along the floor, one by one, those of a seat."""

from collections.abc import Iterable
from typing import Any

import msgspec

from normant.seats.floor import places_of
from normant.seats.models import Seat
from normant_core.base.wording import counted
from normant_core.plan.errands import Errand as CoreErrand
from normant_core.plan.errands import way

from .models import Errand
from .querysets import ErrandQuerySet

LAST = 20  # of those that ended


def errands_now() -> dict[str, Any]:
    """Those to run in walking order, room by room; and the last that ended."""
    waiting = {errand.pk: errand for errand in with_all(Errand.objects.to_run())}
    seats = dict(Seat.objects.filter(errands__in=waiting).values_list("name", "room"))
    places = [(seats[name], name) for name in places_of() if name in seats]
    stops = way({pk: errand.seat.name for pk, errand in waiting.items()}, places)
    ended = with_all(Errand.objects.filter(ended_at__isnull=False).order_by("-ended_at"))[:LAST]
    return {
        "sentence": _sentence(waiting.values()),
        "stops": [
            {"room": stop.room, "seat": stop.seat, "errands": [errand_object(waiting[pk]) for pk in stop.errands]}
            for stop in stops
        ],
        "ended": [errand_object(errand) for errand in ended],
    }


def errands_of(seat: Seat) -> list[dict[str, Any]]:
    """Those that somebody is going to come for."""
    return [errand_object(errand) for errand in with_all(Errand.objects.to_run().filter(seat=seat))]


def with_all(errands: ErrandQuerySet) -> ErrandQuerySet:
    """With everything that is told of an errand."""
    rows: ErrandQuerySet = errands.select_related("seat", "finding", "made_by", "signed_by")
    return rows


def errand_object(errand: Errand) -> dict[str, Any]:
    """One errand, whole."""
    errand_text = msgspec.convert(errand.work, CoreErrand)
    return {
        **errand.work,
        "id": errand.pk,
        "seat": errand.seat.name,
        "room": errand.seat.room,
        "rollout": errand.rollout_id,
        "proves": errand_text.proves,
        "because": (errand.finding.verdict.get("because") or "") if errand.finding else "",
        "severity": errand.finding.severity if errand.finding else None,
        "note": errand.note,
        "state": errand.state,
        "message": errand.message,
        "made_by": errand.made_by.username,
        "made_at": errand.made_at,
        "signed_by": errand.signed_by.username if errand.signed_by else None,
        "signed_at": errand.signed_at,
        "words": errand.words,
        "ended_at": errand.ended_at,
    }


def _sentence(errands: Iterable[Errand]) -> str:
    """`Four errands at three seats, about an hour of work; one is signed off and waits for its survey.`"""
    known = list(errands)
    if not known:
        return "No open errands."
    seats = len({errand.seat_id for errand in known})
    minutes = sum(errand.work["minutes"] for errand in known if errand.state == Errand.State.OPEN)
    signed = sum(errand.state == Errand.State.SIGNED for errand in known)
    where = f"{counted(len(known), 'errand')} at {counted(seats, 'seat')}"
    work = f", about {minutes} minutes of work plus walking" if minutes else ""
    proof = f"; {signed:,} signed off, waiting for a survey" if signed else ""
    return f"{where}{work}{proof}."
