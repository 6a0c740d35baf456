"""What a survey tells of a seat's volumes and stores, a figure a day for each; and how a volume goes on from there."""

import datetime as dt
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from ..base.quantities import Dimension, show
from ..base.wording import counted
from ..seat.facts import Volume
from ..seat.survey import Store, Survey
from .forecast import NOTHING, Forecast, Size, forecast

WHOLE = ""  # the name of a volume itself among its stores
FALLS = 0.95  # of a size: what is smaller a day later was cleared, or moved away
SOON = dt.timedelta(days=7)


@dataclass(frozen=True, slots=True)
class DayFigure:
    """How large a store of a volume is: bytes, items, bytes unused; of the volume itself (WHOLE) what is used of it."""

    volume: str
    store: str
    size: int
    items: int | None = None
    unused: int | None = None


def figures_of(survey: Survey) -> Iterator[DayFigure]:
    """Of every attached volume whose capacity and free bytes were read, and of the stores on them."""
    for volume in measured_volumes(survey):
        yield DayFigure(volume.id, WHOLE, used_of(volume))
        for name, store in stores_on(survey, volume.id).items():
            yield DayFigure(volume.id, name, store.size or 0, store.items, store.unused)


def measured_volumes(survey: Survey) -> Iterator[Volume]:
    """Those that are attached, and of which it is known how full they are; each once."""
    there = set[str]()
    for volume in survey.facts.volumes or ():
        if volume.attached is not False and volume.capacity and volume.free is not None and volume.id not in there:
            there.add(volume.id)
            yield volume


def used_of(volume: Volume) -> int:
    """Bytes of it that are not free."""
    return max(0, (volume.capacity or 0) - (volume.free or 0))


def stores_on(survey: Survey, volume: str) -> dict[str, Store]:
    """The stores on a volume whose size is known, by purpose and application."""
    known = (store for store in survey.stores if store.volume == volume and store.size is not None)
    return {f"{store.purpose} {store.app or ''}".strip(): store for store in known}


def day_by_day(sizes: Mapping[dt.date, int], until: dt.date) -> Iterator[tuple[dt.date, int]]:
    """Every day from the first to the last, where only those are in `sizes` on which it was another one."""
    if not sizes:
        return
    day, size = min(sizes), 0
    while day <= until:
        size = sizes.get(day, size)
        yield day, size
        day += dt.timedelta(days=1)


def as_sizes(days: Iterable[tuple[dt.date, int]]) -> Iterator[Size]:
    """At noon of each day; where it fell by more than a twentieth, it was cleared."""
    before = 0
    for day, size in days:
        fell = size < FALLS * before
        yield Size(dt.datetime.combine(day, dt.time(12), dt.UTC), size, "cleared" if fell else "")
        before = size


def forecast_of(sizes: Mapping[dt.date, int], until: dt.date, limit: int) -> Forecast:
    """When so many bytes are reached, by the sizes that changed day by day."""
    return forecast(as_sizes(day_by_day(sizes, until)), limit) if sizes else NOTHING


def full_words(made: Forecast, free: int) -> str:
    """`It grows by 11.9 GB a day: full on Thu 3 Dec, between Wed 2 Dec and Sat 5 Dec`; empty where nothing says so."""
    if free <= 0:
        return "Full"
    if made.full_on is None or made.between is None or made.per_day is None:
        return ""
    return f"Grows by {made.per_day / 1e9:.1f} GB a day: full on {_days(made)}"


def volumes_words(full: int, filling: int) -> str:
    """Return the state of a house's volumes: `1 volume is full, 2 fill up within a week`."""
    parts = [
        f"{counted(full, 'volume')} {'is' if full == 1 else 'are'} full" if full else "",
        f"{filling if full else counted(filling, 'volume')} {'fills' if filling == 1 else 'fill'} up within a week"
        if filling
        else "",
    ]
    return ", ".join(filter(None, parts)) or "No volume is full or fills up within a week"


def limit_words(made: Forecast, size: int, limit: int) -> str:
    """`400 GB at most, reached on Thu 3 Dec, between Wed 2 Dec and Sat 5 Dec`: a store that its application limits."""
    most = f"limit {show(limit, Dimension.BYTES, unit='GB')}"
    if size >= limit:
        return f"{most}, {'exceeded' if size > limit else 'reached'}"
    return most if made.full_on is None else f"{most}, reached on {_days(made)}"


def _days(made: Forecast) -> str:
    assert made.full_on and made.between
    first, last = (moment and _day(moment) for moment in made.between)
    likely = _day(made.full_on)
    return likely if first == last else f"{likely}, between {first} and {last or 'never'}"


def _day(moment: dt.datetime) -> str:
    return f"{moment:%a %-d %b}"


def grew_most(stores: Mapping[str, Mapping[dt.date, int]], since: dt.date, until: dt.date) -> Sequence[tuple[str, int]]:
    """The stores that grew since a day, the most first, with their bytes."""
    grown = list[tuple[str, int]]()
    for name, sizes in stores.items():
        days = dict(day_by_day(sizes, until))
        first = days.get(max(since, min(days, default=since)), 0)
        if days and days[max(days)] > first:
            grown.append((name, days[max(days)] - first))
    return sorted(grown, key=lambda pair: (-pair[1], pair[0]))
