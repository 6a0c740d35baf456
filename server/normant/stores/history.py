"""The last year of volumes, week by week: short enough for a line beside each volume of a list."""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterable

from django.db.models.functions import TruncWeek

from normant_core.care.figures import WHOLE

from .models import StoreDay, VolumeNow

WEEK = dt.timedelta(weeks=1)
MAX_WEEKS = 53


def weekly_used(volumes: Iterable[VolumeNow]) -> dict[int, list[int]]:
    """Return, by primary key, the bytes in use at the end of each recorded week: at most a year, the oldest first.

    The last figure is that of the newest survey. One query for all volumes, at most one row per volume and week.
    """
    rows = list(volumes)
    sizes = defaultdict[tuple[int, str], dict[dt.date, int]](dict)
    last_of_weeks = (
        StoreDay.objects.filter(seat__in={row.seat_id for row in rows}, store=WHOLE)
        .annotate(week=TruncWeek("day"))
        .order_by("seat", "volume", "week", "-day")
        .distinct("seat", "volume", "week")
    )
    for seat, volume, week, size in last_of_weeks.values_list("seat", "volume", "week", "size"):
        sizes[seat, volume][week] = size
    return {row.pk: _filled(row, sizes.get((row.seat_id, row.volume), {})) for row in rows}


def _filled(row: VolumeNow, sizes: dict[dt.date, int]) -> list[int]:
    """Repeat a size in the weeks after it: `StoreDay` has a row only where the size changed."""
    now = max(0, row.capacity - row.free)
    this_week = _monday(row.at.astimezone(dt.UTC).date())
    week = min(sizes, default=this_week)
    line, size = list[int](), 0
    while week < this_week:
        size = sizes.get(week, size)
        line.append(size)
        week += WEEK
    return [*line, now][-MAX_WEEKS:]


def _monday(day: dt.date) -> dt.date:
    return day - dt.timedelta(days=day.weekday())
