"""What rollouts set, and whether it stayed so."""

import datetime as dt
from collections import defaultdict
from typing import Any

import msgspec
from django.db.models import Q
from django.utils import timezone

from normant.seats.models import Reading
from normant_core.plan.plan import SeatPlan
from normant_core.rollout.lasting import Corrected, Interval, lasting_corrections
from normant_core.seat.survey import Key

from .models import Leg, Rollout

LOOKED_BACK = dt.timedelta(days=90)
MOST = 5000  # legs that are looked at, the newest


def stayed_put(rollout: int | None = None) -> list[dict[str, Any]]:
    """Every setting that rollouts (or this one) corrected in the last three months."""
    now = timezone.now()
    legs = Leg.objects.filter(
        state=Leg.State.SETTLED, rollout__kind=Rollout.Kind.CORRECT, ended_at__gt=now - LOOKED_BACK
    )
    if rollout is not None:
        legs = legs.filter(rollout=rollout)
    corrected = [
        Corrected(seat, (change.setting, change.app), change.value, ended)
        for seat, plan, ended in legs.order_by("-ended_at").values_list("seat__name", "plan", "ended_at")[:MOST]
        for change in msgspec.convert(plan, SeatPlan).changes
        if ended and change.driver is None
    ]
    return [msgspec.to_builtins(row) for row in lasting_corrections(corrected, _intervals(corrected), now)]


def _intervals(corrected: list[Corrected]) -> dict[tuple[str, Key], list[Interval]]:
    """What the seats said of these settings since the first of them was corrected."""
    if not corrected:
        return {}
    first = min(correction.at for correction in corrected) - dt.timedelta(hours=1)
    wanted = {(correction.seat, correction.key) for correction in corrected}
    rows = Reading.objects.filter(
        Q(until=None) | Q(until__gt=first),
        seat__name__in={correction.seat for correction in corrected},
        setting__in={correction.key[0] for correction in corrected},
    ).order_by("since")
    by_place: dict[tuple[str, Key], list[Interval]] = defaultdict(list)
    for seat, setting, app, *life in rows.values_list(
        "seat__name", "setting", "app", "value", "since", "until", "cause"
    ):
        place = (seat, (setting, app or None))
        if place not in wanted:
            continue
        value, since, until, cause = life
        if by_place[place]:  # who ended the one before is who began this one
            before = by_place[place].pop()
            by_place[place].append(Interval(before.value, before.since, before.until, cause))
        by_place[place].append(Interval(value, since, until))
    return by_place
