"""Waves: when each seat of a rollout has its turn, and why it does not have it sooner.

List scheduling (Graham, 1966, "Bounds for certain multiprocessing anomalies") under limits: a seat is taken while it is
free and inside the window, so many at once in a room, so many of a role left working. Seats with the least free time
come first, the longest of those before others; each takes the earliest slot that the limits leave.
"""

import datetime as dt
from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

Span = tuple[dt.datetime, dt.datetime]
"""From a moment until another, which does not belong to it any more."""


@dataclass(frozen=True, slots=True)
class Turn:
    """What a seat needs: how long, when it is booked, and whether it goes ahead as a canary."""

    seat: str
    room: str
    role: str
    takes: dt.timedelta
    booked: tuple[Span, ...] = ()
    canary: bool = False


@dataclass(frozen=True, slots=True)
class Limits:
    """What a house allows. 0 in `at_once` and `in_wave`: any number.

    `windows`: when seats may be touched (none given: always). `roles` counts the seats of each role in the house, of
    which `left_working` stay out of every moment. `pause` lies between two waves, to see whether it did harm.
    """

    begins: dt.datetime
    ends: dt.datetime
    windows: tuple[Span, ...] = ()
    at_once: int = 0
    left_working: int = 0
    in_wave: int = 0
    pause: dt.timedelta = dt.timedelta()
    roles: Mapping[str, int] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Slot:
    """A seat's turn: in which wave (0: the canaries), from when until when; `why` it is not sooner."""

    seat: str
    wave: int
    begins: dt.datetime
    ends: dt.datetime
    why: str = ""


@dataclass(frozen=True, slots=True)
class Waves:
    """Every turn in order of time, the seats that have none with the reason, and when all is done."""

    slots: tuple[Slot, ...]
    without: tuple[tuple[str, str], ...]
    done: dt.datetime | None


def waves(turns: Iterable[Turn], limits: Limits) -> Waves:
    """The canaries first, then waves of at most `in_wave` seats, each begun a pause after the last one is done."""
    return _Schedule(limits).waves(list(turns))


class _Tally:
    """How many are at work at each moment: boundaries in order, and the count from each until the next."""

    __slots__ = ("at", "count")

    def __init__(self) -> None:
        self.at: list[dt.datetime] = []
        self.count: list[int] = []

    def full_until(self, begins: dt.datetime, ends: dt.datetime, most: int) -> dt.datetime | None:
        """The end of the last stretch inside this span in which `most` are at work; None where there is none."""
        first = max(bisect_right(self.at, begins) - 1, 0)
        for place in range(bisect_left(self.at, ends) - 1, first - 1, -1):
            if self.count[place] >= most and self.at[place + 1] > begins:  # the last count is 0
                return self.at[place + 1]
        return None

    def add(self, begins: dt.datetime, ends: dt.datetime) -> None:
        """One more at work from then until then."""
        for moment in (begins, ends):
            place = bisect_left(self.at, moment)
            if place == len(self.at) or self.at[place] != moment:
                self.at.insert(place, moment)
                self.count.insert(place, self.count[place - 1] if place else 0)
        for place in range(bisect_left(self.at, begins), bisect_left(self.at, ends)):
            self.count[place] += 1


class _Schedule:
    def __init__(self, limits: Limits) -> None:
        self.limits = limits
        self.windows = merged(limits.windows) or [(limits.begins, limits.ends)]
        self.rooms, self.roles = defaultdict[str, _Tally](_Tally), defaultdict[str, _Tally](_Tally)
        self.slots = list[Slot]()
        self.without = list[tuple[str, str]]()

    def waves(self, turns: Sequence[Turn]) -> Waves:
        begins, held = self.limits.begins, ""
        for number, wave in enumerate(self._parts(turns)):
            done = self._wave(number, wave, begins, held)
            if done is not None:
                begins = done + self.limits.pause
                held = "after the canaries" if number == 0 else f"after wave {number}"
        slots = sorted(self.slots, key=lambda slot: (slot.wave, slot.begins, slot.seat))
        return Waves(tuple(slots), tuple(self.without), max((slot.ends for slot in slots), default=None))

    def _parts(self, turns: Sequence[Turn]) -> Iterator[list[Turn]]:
        """Wave 0 are the canaries, also where there are none; then by least free time."""
        ordered = sorted(turns, key=lambda turn: (self._free(turn), -turn.takes, turn.seat))
        yield [turn for turn in ordered if turn.canary]
        others = [turn for turn in ordered if not turn.canary]
        size = self.limits.in_wave or len(others) or 1
        for first in range(0, len(others), size):
            yield others[first : first + size]

    def _free(self, turn: Turn) -> dt.timedelta:
        """How long it is free inside the windows."""
        inside = sum((end - begin for begin, end in self.windows), dt.timedelta())
        for begin, end in merged(turn.booked):
            for opens, closes in self.windows:
                inside -= max(min(end, closes) - max(begin, opens), dt.timedelta())
        return inside

    def _wave(self, number: int, turns: Sequence[Turn], begins: dt.datetime, held: str) -> dt.datetime | None:
        """When the wave is done; None where none of it has a turn."""
        done = None
        for turn in turns:
            slot = self._slot(number, turn, begins, held)
            if slot is None:
                continue
            self.slots.append(slot)
            self.rooms[turn.room].add(slot.begins, slot.ends)
            self.roles[turn.role].add(slot.begins, slot.ends)
            done = slot.ends if done is None else max(done, slot.ends)
        return done

    def _slot(self, number: int, turn: Turn, begins: dt.datetime, held: str) -> Slot | None:
        """The earliest: what stands in its way says until when, and one looks again from there."""
        at, why, booked = begins, held, merged(turn.booked)
        while at + turn.takes <= self.limits.ends:
            hindered = self._hindered(turn, at, booked)
            if hindered is None:
                return Slot(turn.seat, number, at, at + turn.takes, why)
            at, why = hindered
            if at >= self.limits.ends:
                break
        self.without.append((turn.seat, why or "the deadline is too close"))
        return None

    def _hindered(self, turn: Turn, at: dt.datetime, booked: Sequence[Span]) -> tuple[dt.datetime, str] | None:
        """Until when the seat cannot be taken at this moment, and why; None where it can."""
        ends = at + turn.takes
        opens = _opens(self.windows, at, ends)
        if opens != at:
            return opens or self.limits.ends, "outside the window"
        for begin, end in booked:  # a generator would cost more than all the rest
            if begin < ends and end > at:
                return end, "room booked"
        return self._room_is_full(turn, at, ends) or self._role_is_short(turn, at, ends)

    def _room_is_full(self, turn: Turn, at: dt.datetime, ends: dt.datetime) -> tuple[dt.datetime, str] | None:
        if not self.limits.at_once:
            return None
        until = self.rooms[turn.room].full_until(at, ends, self.limits.at_once)
        return (until, f"{self.limits.at_once} at once in {turn.room or 'no room'}") if until else None

    def _role_is_short(self, turn: Turn, at: dt.datetime, ends: dt.datetime) -> tuple[dt.datetime, str] | None:
        """Whether too few seats of its role would be left working."""
        if not self.limits.left_working:
            return None
        most = self.limits.roles.get(turn.role, 0) - self.limits.left_working
        tally = self.roles[turn.role]
        until = tally.full_until(at, ends, most) if most > 0 else self.limits.ends
        return (until, f"{self.limits.left_working} of role {turn.role} must stay free to work") if until else None


def merged(spans: Iterable[Span]) -> list[Span]:
    """In order, those that touch as one; those that end before they begin are none."""
    joined = list[Span]()
    for begin, end in sorted(span for span in spans if span[0] < span[1]):
        if joined and begin <= joined[-1][1]:
            joined[-1] = (joined[-1][0], max(end, joined[-1][1]))
        else:
            joined.append((begin, end))
    return joined


def _opens(windows: Sequence[Span], begins: dt.datetime, ends: dt.datetime) -> dt.datetime | None:
    """When something of that length may begin next: then, where the span lies inside a window; None: never."""
    for opens, closes in windows:
        if opens <= begins and ends <= closes:
            return begins
        if opens > begins:
            return opens
    return None
