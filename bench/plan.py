"""Choosing canaries in a house, and giving every seat its turn."""

import datetime as dt
import random
import time
from collections import Counter

from normant_core.base.quantities import Value
from normant_core.catalogue.settings import Kind, catalogue
from normant_core.dialects.dialect import parse_dialect
from normant_core.judging.judge import Judge, View
from normant_core.plan.plan import Means, plan_seat
from normant_core.rollout.canaries import canaries
from normant_core.rollout.schedule import PlannedSeat, Terms, schedule
from normant_core.rollout.waves import Limits, Turn, waves
from normant_core.seat.facts import Application, Facts, Seat
from normant_core.seat.survey import Key, Native
from normant_core.standard.parse import parse_standard

from .measure import Figure

CONFIGURATIONS, OF_A_SEAT = 200, 6
CHANGES = 20
_NATIVE = {Kind.BOOL: "true", Kind.INT: "8", Kind.BYTES: '"4 GiB"'}  # what the standard wants
_OFF: dict[Kind, bool | int] = {Kind.BOOL: False, Kind.INT: 2, Kind.BYTES: 2**20}
_DIALECT = """
format = "normant-dialect/1"
app = "corrow"
versions = ">=8"
[[file]]
name = "preferences"
path = "corrow.json"
format = "json"
"""
_BINDING = """
[[file.binding]]
setting = "{0}"
at = "/k{1}"
"""
_STANDARD = """
format = "normant-standard/1"
name = "bench"
[[layer]]
name = "all"
"""
_RULE = """
[[layer.rule]]
setting = "{0}"
want = {1}
"""
TURNS = 500
EVENING = dt.datetime(2026, 3, 2, 18, tzinfo=dt.UTC)


def plan(seats: int = 10_000) -> list[Figure]:
    """Seconds for both, with what came of it."""
    return [_planning(), _canaries(seats), _waves(TURNS)]


def _planning() -> Figure:
    """Changes of whole seats, and their turns: from findings to the order of the seats."""
    of_app = [s for s in catalogue().settings.values() if s.scope == "app" and s.remote and s.kind in _NATIVE]
    chosen = of_app[:CHANGES]
    assert len(chosen) == CHANGES
    dialect = parse_dialect(_DIALECT + "".join(_BINDING.format(s.key, n) for n, s in enumerate(chosen)))
    rules = "".join(_RULE.format(s.key, _NATIVE[s.kind]) for s in chosen)
    judge = Judge(parse_standard(_STANDARD + rules))
    facts = Facts(applications=(Application("corrow", "8.1", running=True),))
    readings: dict[Key, Value] = {(s.key, "corrow"): s.parse(_OFF[s.kind]) for s in chosen}
    natives: dict[Key, Native] = {
        (s.key, "corrow"): Native("corrow.json", f"/k{n}", "0", n + 1) for n, s in enumerate(chosen)
    }
    verdicts = judge.verdicts(View(Seat("s"), facts, readings))
    assert len(verdicts) == CHANGES
    begun = time.perf_counter()
    plans = [plan_seat(f"s{n}", verdicts, facts=facts, natives=natives, means=Means([dialect])) for n in range(TURNS)]
    parts = [PlannedSeat(made, facts, f"room {n // 12}", "comp", f"class {n % 9}") for n, made in enumerate(plans)]
    order = schedule(parts, Terms(at_once=2, in_wave=60, pause=30), {"comp": TURNS}, EVENING)
    took = time.perf_counter() - begun
    assert all(len(made.changes) == CHANGES for made in plans) and len(order.waves.slots) == TURNS
    note = f"{TURNS} seats x {CHANGES} changes, {len(order.canaries.seats)} canaries"
    return Figure.paced("planning", took * 1e3, "ms", note, 1000)


def _canaries(seats: int) -> Figure:
    drawn = random.Random(7)
    tries = {f"s{n:05}": drawn.sample(range(CONFIGURATIONS), drawn.randint(1, OF_A_SEAT)) for n in range(seats)}
    busy = {seat: drawn.randint(0, 40) / 4 for seat in tries}
    begun = time.perf_counter()
    chosen = canaries(tries, busy)
    took = time.perf_counter() - begun
    note = f"{len(chosen.seats)} canaries, bound {chosen.bound}, {seats:,} seats x {CONFIGURATIONS}"
    return Figure.paced("canaries", took * 1e3, "ms", note, 500)


def _waves(count: int) -> Figure:
    drawn = random.Random(8)
    turns = [_turn(number, drawn) for number in range(count)]
    roles = Counter(turn.role for turn in turns)
    nights = tuple((_later(24 * day), _later(24 * day + 12)) for day in range(14))
    limits = Limits(EVENING, _later(24 * 14), nights, 2, 3, 60, dt.timedelta(minutes=30), roles)
    begun = time.perf_counter()
    order = waves(turns, limits)
    took = time.perf_counter() - begun
    assert order.done and len(order.slots) + len(order.without) == count
    note = f"{count} seats done in {(order.done - EVENING).total_seconds() / 3600:.1f} h"
    return Figure.paced("waves", took * 1e3, "ms", note, 2000)


def _turn(number: int, drawn: random.Random) -> Turn:
    """A seat that is booked for a few hours of some nights."""
    booked = [drawn.uniform(0, 24 * 14) for _ in range(6)]
    spans = tuple((_later(hour), _later(hour + drawn.uniform(0.5, 5))) for hour in booked)
    takes = dt.timedelta(minutes=drawn.randint(4, 40))
    return Turn(f"s{number:04}", f"room {number // 12}", f"role {number % 6}", takes, spans, number % 50 == 0)


def _later(hours: float) -> dt.datetime:
    return EVENING + dt.timedelta(hours=hours)
