"""In which order the seats of a plan have their turn: canaries that try everything first, then waves."""

import datetime as dt
from collections import Counter
from collections.abc import Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import msgspec

from ..base.wording import counted
from ..plan.plan import SeatPlan
from ..seat.facts import Facts
from .canaries import Canaries, canaries
from .waves import Limits, Slot, Span, Turn, Waves, waves

FOR_A_FILE = dt.timedelta(seconds=30)  # compare, copy, write, read back, and the next survey
FOR_AN_APPLICATION = dt.timedelta(minutes=2)  # to close it and open it again
FOR_A_STORE = dt.timedelta(minutes=5)  # to copy it and to compare every file
FOR_A_RESTART = dt.timedelta(minutes=10)  # with what has to be installed before
FOR_A_MEASUREMENT = dt.timedelta(minutes=5)  # of which a canary has two
HORIZON = dt.timedelta(days=14)  # so far ahead is looked for free time where no deadline is given


class Terms(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """How careful a rollout is. 0: no such limit; `pause` in minutes; `begins` None: at once.

    Nothing new begins once `halt_after` seats of one wave have stopped, or, with `halt_on_must`, once a seat that had
    its turn has a finding that must be settled and that it had not before. `put_off` is how often the person at a seat
    may put its turn off. With `opens` and `closes` (HH:MM, by the house's clock) seats are touched only between these
    hours of each day. `errands`: what no order can do is written down for a person. `remove_old`: the old folder of a
    store that moved is removed, which cannot be put back. `measure`: each canary plays or renders before and after its
    change, and nothing new begins where that became worse. `rounder`: a size that was worked out gives
    way to a rounder one within its norm.
    """

    canaries: bool = True
    at_once: int = 0
    left_working: int = 0
    in_wave: int = 0
    pause: int = 0
    halt_after: int = 2
    halt_on_must: bool = True
    put_off: int = 3
    errands: bool = True
    remove_old: bool = False
    measure: Literal["", "play", "render"] = ""
    begins: dt.datetime | None = None
    ends: dt.datetime | None = None
    opens: str = ""
    closes: str = ""
    rounder: bool = False

    def window(self, moment: dt.datetime) -> Span | None:
        """The hours in which seats may be touched: those that hold this moment, or the next; None where all may be.

        By the clock of the moment's own zone.
        """
        if not self.opens or not self.closes:
            return None
        spans = (self._of_day(moment, day) for day in (-1, 0, 1))
        return next(span for span in spans if span[1] > moment)

    def _of_day(self, moment: dt.datetime, days: int) -> Span:
        """The window that opens so many days from the moment's; one that closes before it opens lasts over night."""
        day = moment.date() + dt.timedelta(days=days)
        opens, closes = (dt.time.fromisoformat(hour) for hour in (self.opens, self.closes))
        last = day + dt.timedelta(days=closes <= opens)
        return dt.datetime.combine(day, opens, moment.tzinfo), dt.datetime.combine(last, closes, moment.tzinfo)


@dataclass(frozen=True, slots=True)
class PlannedSeat:
    """One seat of a plan, with what its turn depends on; one that is not `heard` is no canary."""

    plan: SeatPlan
    facts: Facts
    room: str
    role: str
    hardware_class: str
    heard: bool = True
    booked: tuple[Span, ...] = ()


@dataclass(frozen=True, slots=True)
class Schedule:
    """The canaries, and everybody's turn."""

    canaries: Canaries
    waves: Waves

    @property
    def slots(self) -> Mapping[str, Slot]:
        """The turn of each seat that has one."""
        return {slot.seat: slot for slot in self.waves.slots}

    @property
    def sentence(self) -> str:
        """`2 canaries try all of 5 combinations; fewer are not possible. Then seven seats in one wave.`"""
        many = Counter(slot.wave for slot in self.waves.slots)
        first, later = many.pop(0, 0), sum(many.values())
        in_waves = f"{counted(later, 'seat')} in {counted(len(many), 'wave')}"
        seats = first + later + len(self.waves.without)
        ahead = self.canaries.sentence if seats > 1 else ""  # one seat has nobody to go ahead of
        words = [ahead, f"Then {in_waves}."] if first else [f"{in_waves}.", ahead]
        if self.waves.without:
            words.append(f"{counted(len(self.waves.without), 'seat')} cannot finish before the deadline.")
        return " ".join(filter(None, words))


def tries(part: PlannedSeat) -> frozenset[Hashable]:
    """What a change on this seat would try out: each setting, on this hardware and in this version."""
    versions = {app.id: app.version for app in part.facts.applications or ()}
    return frozenset(
        (part.hardware_class, versions.get(change.app or ""), change.setting, change.app)
        for change in part.plan.changes
    )


def takes(plan: SeatPlan) -> dt.timedelta:
    """How long a seat is taken, about."""
    files = {(change.app, change.file) for change in plan.changes}
    moved = sum(bool(change.volume) for change in plan.changes)
    return (
        len(files) * FOR_A_FILE
        + moved * FOR_A_STORE
        + len(plan.closes) * FOR_AN_APPLICATION
        + plan.restarts * FOR_A_RESTART
    )


def schedule(parts: Iterable[PlannedSeat], terms: Terms, roles: Mapping[str, int], now: dt.datetime) -> Schedule:
    """`roles` counts the seats of each role in the house."""
    changing = [part for part in parts if part.plan.changes]
    chosen = _canaries(changing) if terms.canaries else Canaries((), 0, 0)
    begins = max(terms.begins or now, now)
    limits = Limits(
        begins=begins,
        ends=terms.ends or begins + HORIZON,
        windows=tuple(_windows(terms, begins.astimezone(now.tzinfo))),
        at_once=terms.at_once,
        left_working=terms.left_working,
        in_wave=terms.in_wave,
        pause=dt.timedelta(minutes=terms.pause),
        roles=roles,
    )
    turns = []
    for part in changing:
        goes_ahead = part.plan.seat in chosen.seats
        lasts = takes(part.plan) + 2 * bool(goes_ahead and terms.measure) * FOR_A_MEASUREMENT
        turns.append(Turn(part.plan.seat, part.room, part.role, lasts, part.booked, goes_ahead))
    return Schedule(chosen, waves(turns, limits))


def _windows(terms: Terms, begins: dt.datetime) -> Iterator[Span]:
    """The hours of each day until the horizon."""
    at = begins
    while (window := terms.window(at)) and window[0] < begins + HORIZON:
        yield window
        at = window[1]


def _hours(part: PlannedSeat) -> float:
    """How much a seat is needed by others: its bookings, and what somebody has open on it now."""
    booked = sum((end - begin for begin, end in part.booked), dt.timedelta())
    return (booked + len(part.plan.closes) * FOR_AN_APPLICATION) / dt.timedelta(hours=1)


def _canaries(parts: Sequence[PlannedSeat]) -> Canaries:
    """None where every seat would be one: then nobody goes ahead of anybody."""
    hours = {p.plan.seat: _hours(p) for p in parts}
    silent = [tries(p) for p in parts if not p.heard]
    chosen = canaries({p.plan.seat: tries(p) for p in parts if p.heard}, hours, silent)
    return chosen if len(chosen.seats) < len(parts) else Canaries((), chosen.tried, chosen.bound)
