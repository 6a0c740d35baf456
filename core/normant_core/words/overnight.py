"""What changed between two moments, and readings that come and go: said once, not every day."""

import datetime as dt
import statistics
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import msgspec

from ..base.wording import counted, with_app
from ..catalogue.settings import catalogue
from ..seat.survey import Key

DAYS = 14  # how far back a rhythm is looked for
OFTEN = 4  # times on as many days: more is no accident
_DAY = 86_400
BY = {
    "ours": "by a rollout",
    "theirs": "changed at the seat",
    "standard": "by a new edition",
    "facts": "hardware or a version changed",
}
_HOW = {"left": "went off norm", "back": "came back", "passed": "went off norm and came back"}
_NAMED = 4


@dataclass(frozen=True, slots=True)
class Episode:
    """A finding's life: from when until when (None: still), and who was behind either end."""

    seat: str
    key: Key
    opened: dt.datetime
    opened_by: str
    closed: dt.datetime | None = None
    closed_by: str = ""

    def is_open(self, moment: dt.datetime) -> bool:
        """Whether it had begun at a moment and not ended."""
        return self.opened <= moment and (self.closed is None or self.closed > moment)

    def moved_within(self, since: dt.datetime, until: dt.datetime) -> bool:
        """Whether it began or ended in a span."""
        return any(since < moment <= until for moment in (self.opened, self.closed) if moment)


class Happened(msgspec.Struct, frozen=True):
    """The same step of the same setting on some seats, with its cause; `how` is left, back or passed."""

    how: str
    by: str
    setting: str
    app: str | None
    title: str
    seats: tuple[str, ...]


class Flapping(msgspec.Struct, frozen=True):
    """A reading that comes and goes: how often in the last days, and at what time of the day it leaves and returns."""

    seat: str
    setting: str
    app: str | None
    times: int
    leaves: str
    returns: str
    by: str

    @property
    def sentence(self) -> str:
        """`it left the norm 13 times in 14 days, around 20:20, and came back around 08:20; changed at the seat`"""
        back = f", and came back around {self.returns}" if self.returns else ""
        return f"it left the norm {self.times} times in {DAYS} days, around {self.leaves}{back}; {BY[self.by]}"


def happened(episodes: Iterable[Episode], since: dt.datetime, until: dt.datetime) -> list[Happened]:
    """What opened or closed in that span, by setting and cause, the most seats first."""
    by_place: dict[tuple[str, Key], list[Episode]] = defaultdict(list)
    for episode in episodes:
        by_place[episode.seat, episode.key].append(episode)
    seats: dict[tuple[str, str, Key], list[str]] = defaultdict(list)
    for (seat, key), own in by_place.items():
        if step := _step(sorted(own, key=lambda e: e.opened), since, until):
            seats[*step, key].append(seat)
    happenings = [_happening(how, by, key, sorted(names)) for (how, by, key), names in seats.items()]
    return sorted(happenings, key=lambda h: (-len(h.seats), list(_HOW).index(h.how), h.title))


def _step(episodes: Sequence[Episode], since: dt.datetime, until: dt.datetime) -> tuple[str, str] | None:
    """What became of one place: how it stands at the end against how it stood at the beginning, and who was last."""
    moved = [episode for episode in episodes if episode.moved_within(since, until)]
    if not moved:
        return None
    was_open, is_open = (any(episode.is_open(moment) for episode in episodes) for moment in (since, until))
    last = moved[-1]
    steps = {
        (False, True): ("left", last.opened_by),
        (False, False): ("passed", last.opened_by),
        (True, False): ("back", last.closed_by),
    }
    return steps.get((was_open, is_open))


def _happening(how: str, by: str, key: Key, seats: list[str]) -> Happened:
    place = ", ".join(seats) if len(seats) <= _NAMED else counted(len(seats), "seat")
    title = f"{with_app(catalogue()[key[0]].title, key[1])} {_HOW[how]} on {place}, {BY[by]}"
    return Happened(how, by, *key, title, tuple(seats))


def flapping(episodes: Iterable[Episode], now: dt.datetime) -> list[Flapping]:
    """Readings that left the norm often, on as many different days of the last two weeks, in order of seat."""
    since = now - dt.timedelta(days=DAYS)
    by_place: dict[tuple[str, Key], list[Episode]] = defaultdict(list)
    for episode in episodes:
        if episode.opened > since:
            by_place[episode.seat, episode.key].append(episode)
    flaps = [_flaps(seat, key, episodes) for (seat, key), episodes in by_place.items() if _is_often(episodes)]
    return sorted(flaps, key=lambda f: (f.seat, f.setting, f.app or ""))


def _is_often(episodes: Sequence[Episode]) -> bool:
    return len(episodes) >= OFTEN and len({episode.opened.date() for episode in episodes}) >= OFTEN


def _flaps(seat: str, key: Key, episodes: Sequence[Episode]) -> Flapping:
    closed = [episode.closed for episode in episodes if episode.closed]
    by = statistics.mode(episode.opened_by for episode in episodes)
    leaves = _around([episode.opened for episode in episodes])
    return Flapping(seat, *key, len(episodes), leaves, _around(closed) if closed else "", by)


def _around(moments: Sequence[dt.datetime]) -> str:
    """The middle time of the day, as `20:20`: the moment from which the others are nearest, across midnight too."""
    seconds = [moment.hour * 3600 + moment.minute * 60 + moment.second for moment in moments]
    middle = min(seconds, key=lambda second: sum(min(abs(second - two), _DAY - abs(second - two)) for two in seconds))
    return f"{middle // 3600:02}:{middle % 3600 // 60:02}"
