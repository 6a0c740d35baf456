"""Whether what a rollout set stays as it was set, and who changes it back."""

import datetime as dt
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ..base.quantities import Plain
from ..catalogue.settings import catalogue
from ..seat.survey import Key

AFTER = (1, 7, 30)  # days
CLOCKS = dt.timedelta(minutes=10)  # by which the clock of a seat may differ from ours
OURS = "ours"


@dataclass(frozen=True, slots=True)
class Corrected:
    """A value that a rollout set on a seat, and when that was settled."""

    seat: str
    key: Key
    value: Plain
    at: dt.datetime


@dataclass(frozen=True, slots=True)
class Interval:
    """A value that a seat had from `since` until `until` (None: still), and what came next: the cause of the change."""

    value: Plain
    since: dt.datetime
    until: dt.datetime | None
    ended_by: str = ""


@dataclass(frozen=True, slots=True)
class Back:
    """A seat that changed a value back: how often, how, and when last."""

    seat: str
    times: int
    how: str
    last: dt.datetime


@dataclass(frozen=True, slots=True)
class Stayed:
    """One setting: how often it was corrected; for each of AFTER how many stayed so long, of how many that could have.

    What a later rollout of ours set anew, or put back, counts until then.
    """

    setting: str
    title: str
    app: str | None
    corrected: int
    after: tuple[tuple[int, int, int], ...]
    back: tuple[Back, ...]


def lasting_corrections(
    corrected: Iterable[Corrected], intervals: Mapping[tuple[str, Key], Sequence[Interval]], now: dt.datetime
) -> list[Stayed]:
    """Each setting that was corrected, the one that is changed back most often first."""
    by_key: dict[Key, list[tuple[Corrected, Interval]]] = {}
    for correction in corrected:
        if held_until := _held(correction, intervals.get((correction.seat, correction.key), ())):
            by_key.setdefault(correction.key, []).append((correction, held_until))
    lasting = [_lasting(key, held, now) for key, held in by_key.items()]
    return sorted(
        lasting, key=lambda setting: (-sum(back.times for back in setting.back), setting.setting, setting.app or "")
    )


def _held(correction: Corrected, intervals: Sequence[Interval]) -> Interval | None:
    """The stretch in which the seat had what was set; None where no survey ever said so."""
    fits = [i for i in intervals if i.value == correction.value and i.since <= correction.at + CLOCKS]
    last = max(fits, key=lambda interval: interval.since, default=None)
    return last if last and (last.until is None or last.until > correction.at - CLOCKS) else None


def _lasting(key: Key, held: Sequence[tuple[Corrected, Interval]], now: dt.datetime) -> Stayed:
    after = tuple((days, *_share(held, dt.timedelta(days=days), now)) for days in AFTER)
    return Stayed(key[0], catalogue()[key[0]].title, key[1], len(held), after, tuple(_back(held)))


def _share(held: Sequence[tuple[Corrected, Interval]], span: dt.timedelta, now: dt.datetime) -> tuple[int, int]:
    """How many stayed for that long, of those whose time has passed and that nobody of ours touched within it."""
    stayed_so = counted = 0
    for correction, interval in held:
        due = correction.at + span
        whole = interval.until is None or interval.until > due
        if due > now or (not whole and interval.ended_by == OURS):
            continue
        counted += 1
        stayed_so += whole
    return stayed_so, counted


def _back(held: Sequence[tuple[Corrected, Interval]]) -> Iterable[Back]:
    """Seats that changed it back, the most stubborn first."""
    ends: dict[str, list[Interval]] = {}
    for correction, interval in held:
        if interval.until and interval.ended_by != OURS:
            ends.setdefault(correction.seat, []).append(interval)
    for seat, ended in sorted(ends.items(), key=lambda item: (-len(item[1]), item[0])):
        how = Counter(interval.ended_by for interval in ended).most_common(1)[0][0]
        yield Back(seat, len(ended), how, max(interval.until for interval in ended if interval.until))
