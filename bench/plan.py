"""Choosing canaries in a house, and giving every seat its turn."""

import datetime as dt
import random
import time
from collections import Counter

from normant_core.canaries import canaries
from normant_core.waves import Limits, Turn, waves

from .measure import Figure

CONFIGURATIONS, OF_A_SEAT = 200, 6
TURNS = 500
EVENING = dt.datetime(2026, 3, 2, 18, tzinfo=dt.UTC)


def plan(seats: int = 10_000) -> list[Figure]:
    """Seconds for both, with what came of it."""
    return [_canaries(seats), _waves(TURNS)]


def _canaries(seats: int) -> Figure:
    drawn = random.Random(7)
    tries = {f"s{n:05}": drawn.sample(range(CONFIGURATIONS), drawn.randint(1, OF_A_SEAT)) for n in range(seats)}
    busy = {seat: drawn.randint(0, 40) / 4 for seat in tries}
    begun = time.perf_counter()
    found = canaries(tries, busy)
    took = time.perf_counter() - begun
    against = f"of its bar, {len(found.seats)} canaries, bound {found.bound}, {seats:,} seats x {CONFIGURATIONS}"
    return Figure("canaries", took * 1e3, "ms", against, took / 0.5, "under 500 ms", took < 0.5)


def _waves(count: int) -> Figure:
    drawn = random.Random(8)
    turns = [_turn(number, drawn) for number in range(count)]
    roles = Counter(turn.role for turn in turns)
    nights = tuple((_later(24 * day), _later(24 * day + 12)) for day in range(14))
    limits = Limits(EVENING, _later(24 * 14), nights, 2, 3, 60, dt.timedelta(minutes=30), roles)
    begun = time.perf_counter()
    found = waves(turns, limits)
    took = time.perf_counter() - begun
    assert found.done and len(found.slots) + len(found.without) == count
    against = f"of its bar, {count} seats done in {(found.done - EVENING).total_seconds() / 3600:.1f} h"
    return Figure("waves", took * 1e3, "ms", against, took / 2, "under 2 s", took < 2)


def _turn(number: int, drawn: random.Random) -> Turn:
    """A seat that is booked for a few hours of some nights."""
    booked = [drawn.uniform(0, 24 * 14) for _ in range(6)]
    spans = tuple((_later(hour), _later(hour + drawn.uniform(0.5, 5))) for hour in booked)
    takes = dt.timedelta(minutes=drawn.randint(4, 40))
    return Turn(f"s{number:04}", f"room {number // 12}", f"role {number % 6}", takes, spans, number % 50 == 0)


def _later(hours: float) -> dt.datetime:
    return EVENING + dt.timedelta(hours=hours)
