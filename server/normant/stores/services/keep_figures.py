"""Keeping how full volumes are, day by day, from the surveys that seats send anyway."""

import datetime as dt
import logging
import time
from collections import defaultdict
from collections.abc import Iterable, Mapping
from itertools import islice
from typing import Any, cast

import msgspec
from django.db import DataError, IntegrityError, transaction
from django.db.models import Exists, F, OuterRef, Q
from django.db.models.functions import TruncDate
from django.utils import timezone

from normant.deliveries.services.keep_projects import keep_projects
from normant.seats.models import Seat, Survey
from normant_core.base.errors import NormantError
from normant_core.care.figures import WHOLE, DayFigure, figures_of, forecast_of, measured_volumes, stores_on
from normant_core.care.forecast import WINDOW
from normant_core.seat.survey import Store, decode
from normant_core.seat.survey import Survey as CoreSurvey

from ..models import Kept, StoreDay, VolumeNow

MOST, MOST_STORES = 500, 100  # figures of a seat, and stores of a volume that are told
log = logging.getLogger(__name__)
SECONDS = 10.0  # that one job takes at most
EVERY = dt.timedelta(minutes=30)  # so often a seat's figures are kept
YEAR = dt.timedelta(days=366)
LARGEST = 2**63 - 1

Sizes = dict[tuple[str, str], dict[dt.date, int]]


def keep_figures() -> int:
    """Of every seat that was heard since, those first that wait longest, for some seconds; how many.

    Two at once do not meet, and a second time does nothing. A worker that is to end waits for its job: of a large house
    the next minute does the rest.
    """
    Kept.objects.bulk_create(
        (Kept(seat=seat) for seat in Seat.objects.filter(figures_kept=None).only("pk")), ignore_conflicts=True
    )
    waiting = Kept.objects.filter(seat__retired_at=None, seat__presence__seen_at__isnull=False).filter(
        Q(heard_at=None) | Q(seat__presence__seen_at__gte=F("heard_at") + EVERY)
    )
    longest = waiting.order_by(F("heard_at").asc(nulls_first=True), "pk").values_list("pk", "seat__presence__seen_at")
    until, count = time.monotonic() + SECONDS, 0
    for seat, seen_at in list(longest):
        if seen_at and time.monotonic() < until:
            count += _keep_or_say(seat, seen_at)
    return count


def _keep_or_say(seat: int, seen_at: dt.datetime) -> bool:
    """What one seat tells keeps no other from its figures; where the database is away, nobody's are kept."""
    try:
        return _keep(seat, seen_at)
    except (DataError, IntegrityError, NormantError, msgspec.MsgspecError, ValueError, OverflowError):
        log.exception("the figures of a seat cannot be kept", extra={"seat": seat})
        return False


@transaction.atomic
def _keep(seat: int, seen_at: dt.datetime) -> bool:
    """A seat that tells nothing new is as its newest survey has it, up to the moment at which it was heard last."""
    row = Kept.objects.select_for_update(skip_locked=True).filter(pk=seat).first()
    if row is None or (row.heard_at and row.heard_at >= seen_at):
        return False  # another worker is at it, or was
    surveys = Survey.objects.filter(seat=seat).annotate(day=TruncDate("taken_at", tzinfo=dt.UTC))
    if row.upto is not None:
        surveys = surveys.filter(Q(taken_at__gt=row.upto) | Q(latest=True))
    newest = None
    for survey in surveys.order_by("day", "-taken_at").distinct("day").iterator(chunk_size=10):
        newest = decode(bytes(survey.body))
        if row.upto is None or survey.taken_at > row.upto:
            _keep_day(seat, survey.taken_at.astimezone(dt.UTC).date(), figures_of(newest))
            row.upto = survey.taken_at
    if newest is not None:
        _keep_now(seat, newest, seen_at)
        keep_projects(seat, newest)
    row.heard_at = seen_at
    row.save()
    return newest is not None


def _keep_day(seat: int, day: dt.date, figures: Iterable[DayFigure]) -> None:
    """A row for each figure that is another one than it was; that of the same day is written over."""
    held = StoreDay.objects.filter(seat=seat, day__lt=day).order_by("volume", "store", "-day")
    before = {(row.volume, row.store): row for row in held.distinct("volume", "store")}
    now = {(row.volume, row.store): row for row in (_row(seat, day, f) for f in islice(figures, MOST))}
    there = {volume for volume, _ in now}
    gone = [_row(seat, day, DayFigure(*key, 0)) for key in before.keys() - now.keys() if key[0] in there]
    rows = [row for row in (*now.values(), *gone) if _figures(before.get((row.volume, row.store))) != _figures(row)]
    StoreDay.objects.filter(seat=seat, day=day).delete()
    StoreDay.objects.bulk_create(rows)


def _figures(row: StoreDay | None) -> tuple[int | None, ...]:
    return (row.size, row.items, row.unused) if row else ()


def _row(seat: int, day: dt.date, figure: DayFigure) -> StoreDay:
    """As the columns take it, whatever a seat tells."""
    numbers = (figure.size, figure.items, figure.unused)
    size, items, unused = (None if number is None else min(max(0, number), LARGEST) for number in numbers)
    names = {"volume": figure.volume[:120], "store": figure.store[:200]}
    return StoreDay(seat_id=seat, day=day, **names, size=size or 0, items=items, unused=unused)


def _keep_now(seat: int, survey: CoreSurvey, at: dt.datetime) -> None:
    sizes = sizes_of(seat, at.date() - WINDOW)
    VolumeNow.objects.filter(seat=seat).delete()
    VolumeNow.objects.bulk_create(
        VolumeNow(
            seat_id=seat,
            at=at,
            volume=volume.id[:120],
            mount=volume.mount[:4096],
            kind=(volume.kind or "")[:400],
            system=volume.system,
            capacity=min(volume.capacity or 0, LARGEST),
            free=min(volume.free or 0, LARGEST),
            stores=_largest(stores_on(survey, volume.id)),
            **_going_on(sizes.get((volume.id, WHOLE), {}), at.astimezone(dt.UTC).date(), volume.capacity or 0),
        )
        for volume in islice(measured_volumes(survey), MOST)
    )


def _largest(stores: Mapping[str, Store]) -> dict[str, Any]:
    """What is told of the largest stores of a volume: a seat may name any number, with long paths."""
    largest = sorted(stores.items(), key=lambda pair: -(pair[1].size or 0))[:MOST_STORES]
    shown = {
        name[:200]: {
            "purpose": store.purpose[:200],
            "app": store.app,
            "size": store.size,
            "unused": store.unused,
            "oldest": store.oldest,
            "unused_for": store.unused_for,
            "productions": store.productions,
        }
        for name, store in largest
    }
    return cast(dict[str, Any], msgspec.to_builtins(shown))


def _going_on(sizes: Mapping[dt.date, int], until: dt.date, capacity: int) -> dict[str, object]:
    made = forecast_of(sizes, until, capacity)
    first, last = made.between or (None, None)
    return {"per_day": made.per_day, "full_on": made.full_on, "first": first, "last": last}


def sizes_of(seat: int, since: dt.date, volume: str | None = None) -> Sizes:
    """By volume and store, the size from each day on at which it changed; the first is that which held on `since`."""
    rows = StoreDay.objects.filter(seat=seat)
    rows = rows.filter(volume=volume) if volume is not None else rows
    made: Sizes = defaultdict(dict)
    held = rows.filter(day__lte=since).order_by("volume", "store", "-day").distinct("volume", "store")
    for row in held:
        made[row.volume, row.store][since] = row.size
    for row in rows.filter(day__gt=since):
        made[row.volume, row.store][row.day] = row.size
    return dict(made)


def forget_days() -> int:
    """Rows older than a year go, but for those that still hold; how many."""
    limit = timezone.now().date() - YEAR
    later = StoreDay.objects.filter(
        seat=OuterRef("seat"),
        volume=OuterRef("volume"),
        store=OuterRef("store"),
        day__gt=OuterRef("day"),
        day__lte=limit,
    )
    count, _ = StoreDay.objects.filter(Exists(later), day__lte=limit).delete()
    return count
