"""When a store fills, from how large it was day by day.

The slope is the median of the slopes of all pairs of sizes (H. Theil, 1950), its interval that of P. K. Sen, "Estimates
of the regression coefficient based on Kendall's tau", Journal of the American Statistical Association 63 (1968). Pairs
are taken within stretches alone: a clearing or a move ends one and begins the next.

That interval is of a line with even noise. Stores grow otherwise, some days much and at weekends nothing, and such days
add up until the store is full. So the first and the last day are those that either allows: Sen's interval, or a sum of
days that scatter as those did which were seen, of which the speed is known from so many days alone.
"""

import datetime as dt
import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from ..base.errors import DocumentError, Fault
from ..base.tables import check_columns, filled_rows

Event = Literal["", "cleared", "moved"]
EVENTS: tuple[Event, ...] = ("", "cleared", "moved")
WINDOW = dt.timedelta(days=14)
DAY = 86_400.0
LIMIT_SIZES = 100_000  # of a table
FARTHEST = 3650.0  # days: what fills later is not said to fill
_BOUND = 1.959964  # of a normal variable, both sides: intervals of 95 %
_OFTEN = 1.281552  # the same of 80 %: with Sen's beside it, of simulated stores 93 in 100 fill between the two days
_LEAST_STEPS = 2
_DIGITS = 18
_MOST = 1000  # sizes of one forecast: of more, evenly many are taken

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Size:
    """So many bytes at a moment; `event` says that it was cleared or moved just before."""

    moment: dt.datetime
    size: int
    event: Event = ""


@dataclass(frozen=True, slots=True)
class Forecast:
    """Bytes a day with their interval, and the moment at which the limit is reached, from the last size on.

    `low` and `high` are Sen's of 95 %. None where nothing says so: too few sizes, flat or falling, or later than in ten
    years. `between` holds the first and the last moment at which it may be; the last is None where it may never fill.
    """

    per_day: float | None
    low: float | None
    high: float | None
    full_on: dt.datetime | None
    between: tuple[dt.datetime | None, dt.datetime | None] | None


NOTHING = Forecast(None, None, None, None, None)


def forecast(sizes: Iterable[Size], limit: int) -> Forecast:
    """When `limit` bytes are reached, by the sizes of the last 14 days (in any order)."""
    ordered = sorted(sizes, key=lambda size: size.moment)
    if not ordered:
        return NOTHING
    last = ordered[-1]
    recent = _thinned([size for size in ordered if last.moment - size.moment <= WINDOW])
    slopes, spread = _slopes(recent)
    if not slopes.size:
        return NOTHING
    per_day = float(np.median(slopes))
    low, high = _interval(slopes, spread)
    full_on = _reached(last, limit, per_day)
    if full_on is None:
        return Forecast(per_day, low, high, None, None)
    if last.size >= limit:
        return Forecast(per_day, low, high, full_on, (full_on, full_on))
    soonest, latest = _as_days_scatter(recent, limit - last.size, per_day)
    first, final = _after(last, soonest), _after(last, latest)
    by_high, by_low = _reached(last, limit, high), _reached(last, limit, low)
    return Forecast(per_day, low, high, full_on, (_sooner(first, by_high), final and by_low and max(final, by_low)))


def _sooner(*moments: dt.datetime | None) -> dt.datetime | None:
    return min((moment for moment in moments if moment), default=None)


def _as_days_scatter(sizes: Sequence[Size], left: int, per_day: float) -> tuple[float, float]:
    """Days until so many bytes are full, at the soonest and the latest.

    After h days it has grown by p·h, give or take z·s·√(h + h²/n): h days that scatter by s each, at a speed that n
    days have shown. That sum meets what is left where (p² - c/n)·h² - (2·p·left + c)·h + left² = 0, with c = z²·s².
    """
    steps = [(days, grown) for stretch in _stretches(sizes) for days, grown in _steps(stretch)]
    if len(steps) < _LEAST_STEPS:
        return 0.0, math.inf  # nothing says how far days scatter
    seen = sum(days for days, _ in steps)
    scatter = sum((grown - per_day * days) ** 2 / days for days, grown in steps) / (len(steps) - 1)
    c = _OFTEN**2 * scatter
    a, b = per_day**2 - c / seen, 2 * per_day * left + c
    root = math.sqrt(max(0.0, b**2 - 4 * a * left**2))
    return 2 * left**2 / (b + root), (b + root) / (2 * a) if a > 0 else math.inf


def _steps(stretch: Sequence[Size]) -> Iterator[tuple[float, float]]:
    """Days and bytes from each size to the next."""
    days, sizes = _columns(stretch)
    for apart, grown in zip(np.diff(days), np.diff(sizes), strict=True):
        if apart > 0:
            yield float(apart), float(grown)


def _thinned(sizes: list[Size]) -> list[Size]:
    """Every event, and as many others as are taken; the work grows with the square of their number."""
    step = math.ceil(len(sizes) / _MOST)
    return [size for n, size in enumerate(sizes) if size.event or (len(sizes) - 1 - n) % step == 0]


def _slopes(sizes: Sequence[Size]) -> tuple[Floats, float]:
    """The slopes of all pairs of each stretch, in order; and the variance of Kendall's score of all stretches."""
    slopes, variance = list[Floats](), 0.0
    for stretch in _stretches(sizes):
        days, bytes_ = _columns(stretch)
        first, second = np.triu_indices(len(stretch), k=1)
        apart = days[second] - days[first]
        there = apart > 0
        slopes.append((bytes_[second] - bytes_[first])[there] / apart[there])
        variance += len(stretch) * (len(stretch) - 1) * (2 * len(stretch) + 5) / 18
    return (np.sort(np.concatenate(slopes)) if slopes else np.empty(0)), variance


def _columns(stretch: Sequence[Size]) -> tuple[Floats, Floats]:
    """Days since its first size, and bytes."""
    begin = stretch[0].moment
    days = np.array([(size.moment - begin).total_seconds() / DAY for size in stretch])
    return days, np.array([float(size.size) for size in stretch])


def _stretches(sizes: Sequence[Size]) -> list[list[Size]]:
    made = list[list[Size]]()
    for size in sizes:
        if not made or size.event:
            made.append([])
        made[-1].append(size)
    return made


def _interval(slopes: Floats, variance: float) -> tuple[float, float]:
    """Sen's: as many slopes in from both ends as Kendall's score would rarely miss the middle by."""
    width = _BOUND * math.sqrt(variance)
    low = max(0, math.floor((len(slopes) - width) / 2))
    return float(slopes[low]), float(slopes[len(slopes) - 1 - low])


def _reached(last: Size, limit: int, per_day: float) -> dt.datetime | None:
    """When, at so many bytes a day; None for never, or later than anybody plans."""
    if last.size >= limit:
        return last.moment
    return _after(last, (limit - last.size) / per_day) if per_day > 0 else None


def _after(last: Size, days: float) -> dt.datetime | None:
    return last.moment + dt.timedelta(days=days) if days <= FARTHEST else None


COLUMNS = ("moment", "bytes", "event")


def read_sizes(table: Sequence[Sequence[str]], source: str = "") -> list[Size]:
    """The sizes of a table whose first row names its columns: `moment` (ISO), `bytes`, and maybe `event`.

    A moment without an offset is in UTC. Raises DocumentError with the line of every fault.
    """
    names, rows = filled_rows(table)
    check_columns(names, COLUMNS if "event" in names else COLUMNS[:2], source)
    if len(rows) > LIMIT_SIZES:
        raise DocumentError(source, [Fault(f"there are {len(rows):,} sizes", expected=f"at most {LIMIT_SIZES:,}")])
    sizes, faults = list[Size](), list[Fault]()
    for line, row in rows.items():
        try:
            sizes.append(_size({**dict.fromkeys(COLUMNS, ""), **dict(zip(names, row, strict=False))}))
        except SizeError as why:
            faults.append(Fault(why.what, line=line, expected=why.expected))
    if faults:
        raise DocumentError(source, faults)
    return sizes


class SizeError(ValueError):
    """A row of a table that is no size of a store: what it has, and what was expected."""

    def __init__(self, what: str, expected: str) -> None:
        super().__init__(what)
        self.what, self.expected = what, expected


def _size(row: Mapping[str, str]) -> Size:
    """Raises SizeError."""
    try:
        moment = dt.datetime.fromisoformat(row["moment"])
    except ValueError as why:
        raise SizeError(f"{row['moment'][:40]!r} is no moment", "such as 2026-11-02T06:00:00+00:00") from why
    moment = moment if moment.tzinfo else moment.replace(tzinfo=dt.UTC)
    if not 1970 <= moment.year <= 2200:
        raise SizeError(f"{row['moment'][:40]} is no moment of a survey", "a year from 1970 to 2200")
    text = row["bytes"]
    if not (text.isascii() and text.isdigit() and len(text) <= _DIGITS):
        raise SizeError(f"{text[:40]!r} is no number of bytes" if text else "the bytes are missing", "a whole number")
    event = next((known for known in EVENTS if known == row["event"]), None)
    if event is None:
        raise SizeError(f"unknown event {row['event'][:40]!r}", "cleared, moved, or nothing")
    return Size(moment, int(text), event)
