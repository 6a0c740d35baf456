"""A whole house against a standard: by columns, seat by seat, and the least that it could take."""

import random
import statistics
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from normant_core.catalogue.settings import Kind, Setting, catalogue
from normant_core.house.columns import Codes, House
from normant_core.house.impact import impact
from normant_core.house.marks import OFF_NORM
from normant_core.house.verdicts import Case, Standing
from normant_core.judging.judge import Judge, View
from normant_core.seat.facts import Application, Facts, Gpu, Memory, Seat, Volume
from normant_core.standard.parse import parse_standard

from .measure import Figure

RULES, EXPRESSIONS = 120, 30
APPS = ("corrow", "plinthe")
GIB, GB = 2**30, 10**9
_TIMES = 9
COMPARED = "for comparison"
Key = tuple[str, str | None]

# A rule in plain values and one as an expression for each kind, and what seats hold: mostly the wanted, some not.
_PLAIN: dict[Kind, tuple[str, list[Any]]] = {
    Kind.BYTES: ('at_least = "4 GiB"', [GIB * n for n in (8, 6, 4, 2, 1)]),
    Kind.SECONDS: ('at_most = "12 min"', [300, 600, 720, 900, 1800]),
    Kind.FRACTION: ('at_most = "1/2"', ["1/2", "1/4", 1]),
    Kind.INT: ("between = [1, 9]", [4, 6, 8, 12]),
    Kind.BOOL: ("want = true", [True, False]),
    Kind.TEXT: ('never = ["none"]', ["gpu0", "gpu1", "none"]),
    Kind.PATH: ('never = ["/home/cache"]', ["/fast/cache", "/cove/cache", "/home/cache"]),
}
_EXPRESSED: dict[Kind, str] = {
    Kind.BYTES: 'at_least = "max(4 GiB, 10 % of memory.total)"',
    Kind.PATH: 'must = "volume.attached and not volume.system and volume.free >= 120 GB"',
    Kind.TEXT: 'must = "any(gpus, enabled and id == reading)"',
    Kind.INT: "between = [1, 9]\nwhen = \"memory.total >= 16 GiB and seat.role == 'offline'\"",
    Kind.SECONDS: 'at_most = "12 min"\nwhen = "count(volumes, free > 200 GB and kind == \'nvme\') >= 1"',
}


def drift(seats: int = 10_000) -> list[Figure]:
    """The bars of drift in core, for a house of that many seats."""
    draw = random.Random(1)
    text, keys = _standard()
    standard = parse_standard(text)
    assert len(standard.rules) == RULES
    judge = Judge(standard)
    views = [_seat(number, keys, draw) for number in range(seats)]
    begun = time.perf_counter()
    house = House(views)
    made = time.perf_counter() - begun
    standing = Standing(house, judge)

    def by_columns() -> list[tuple[int, str, str | None, int]]:
        return _list(Standing(house, judge))

    codes = [(case.key, _off(case)) for case in standing.cases.values()]
    whole, floor = _in_turn(by_columns, lambda: _floor(codes))
    off = sum(outcome.status == "off-norm" for view in views for outcome in judge.judge(view))
    assert len(by_columns()) == len(_floor(codes)) == off
    plainly = _once(lambda: [judge.judge(view) for view in views])
    edited = _changed(text)
    what_if, _ = _in_turn(lambda: impact(standing, Standing(house, edited, standing)), lambda: None)
    again, each = _rejudged(standing, draw), plainly / seats
    least = f"numpy comparing and listing, {seats:,} x {RULES}"
    return [
        Figure.at_most("drift", whole * 1e3, "ms", least, whole / floor, 2),
        Figure("by seat", plainly * 1e3, "ms", "the same; compiled closures", plainly / floor, COMPARED, True),
        Figure.at_most("what-if", what_if * 1e3, "ms", "all anew; one rule changed", what_if / whole, 0.1),
        Figure.at_most("re-judge", again * 1e6, "us", "a seat; 3 readings changed", again / each, 0.4),
        Figure("columns", made * 1e3, "ms", "all seats one by one, once", made / plainly, COMPARED, True),
    ]


def _off(case: Case) -> Codes:
    """1 for each seat that is off norm, 0 for others: all that the floor has to compare."""
    return np.array(case.kinds.having(OFF_NORM))[case.kinds.tuples.view()].astype(np.int32)


def _standard() -> tuple[str, list[tuple[Key, Setting]]]:
    known = [s for s in catalogue().settings.values() if s.kind in _PLAIN]
    keys: list[tuple[Key, Setting]] = [((s.key, app), s) for s in known for app in APPS]
    assert len(keys) >= RULES, len(keys)
    expressed = {key for key, s in [k for k in keys if k[1].kind in _EXPRESSED][:EXPRESSIONS]}
    rules = []
    for (key, app), setting in keys[:RULES]:
        check = _EXPRESSED[setting.kind] if (key, app) in expressed else _PLAIN[setting.kind][0]
        rules.append(f'[[layer.rule]]\nsetting = "{key}"\napp = "{app}"\n{check}\n')
    head = 'format = "normant-standard/1"\nname = "bench"\n[[layer]]\nname = "all"\n'
    return head + "\n".join(rules), keys[:RULES]


def _seat(number: int, keys: list[tuple[Key, Setting]], draw: random.Random) -> View:
    """No two are alike: free space differs everywhere, and one reading in ten is not as wanted."""
    volumes = (
        Volume("v0", "/", "ssd", 500 * GB, draw.randrange(500 * GB), system=True, attached=True),
        Volume("v1", "/fast", "nvme", 2000 * GB, draw.randrange(2000 * GB), system=False, attached=True),
        Volume("v2", "/cove", "hdd", 4000 * GB, draw.randrange(4000 * GB), system=False, attached=draw.random() < 0.95),
    )
    facts = Facts(
        memory=Memory(draw.choice([16, 32, 64, 96, 128]) * GIB),
        gpus=(Gpu("gpu0", enabled=True), Gpu("gpu1", enabled=draw.random() < 0.9)),
        volumes=volumes,
        applications=tuple(Application(app, "9.1") for app in APPS),
    )
    readings = {key: setting.parse(_value(setting, draw)) for key, setting in keys}
    return View(Seat(f"gen-{number:05}", draw.choice(["offline", "comp"])), facts, readings)


def _value(setting: Setting, draw: random.Random) -> Any:
    values = _PLAIN[setting.kind][1]
    return values[0] if draw.random() < 0.9 else draw.choice(values[1:])


def _list(standing: Standing) -> list[tuple[int, str, str | None, int]]:
    """Every finding: seat, setting, application, rule."""
    listed = list[tuple[int, str, str | None, int]]()
    for slice_ in standing.with_status(OFF_NORM):
        setting, app = slice_.case.key
        rules = [rule.number for rule in slice_.case.rules]
        listed += [(row, setting, app, rules[mark // 3]) for row, mark in zip(slice_.rows, slice_.marks, strict=True)]
    return listed


def _floor(codes: list[tuple[Key, Codes]]) -> list[tuple[int, str, str | None, int]]:
    """The least: compare a column of codes with one code, and list the same findings."""
    listed = list[tuple[int, str, str | None, int]]()
    for number, ((setting, app), column) in enumerate(codes):
        rows = np.flatnonzero(column == 1).tolist()
        listed += [(row, setting, app, number) for row in rows]
    return listed


def _changed(text: str) -> Judge:
    """The judge of an edition in which one rule, an expression, wants something else."""
    return Judge(
        parse_standard(text.replace("max(4 GiB, 10 % of memory.total)", "max(5 GiB, 12 % of memory.total)", 1))
    )


def _rejudged(standing: Standing, draw: random.Random) -> float:
    """Median seconds of judging a seat after three of its readings changed."""
    cases = [case for case in standing.cases.values() if len(standing.house.readings[case.key].values) > 2]
    taken = []
    for _ in range(2000):
        row = draw.randrange(len(standing.house))
        changes = {
            case.key: draw.choice(standing.house.readings[case.key].values[1:]) for case in draw.sample(cases, 3)
        }
        begun = time.perf_counter()
        standing.put(row, changes)
        taken.append(time.perf_counter() - begun)
    return statistics.median(taken)


def _once(call: Callable[[], object]) -> float:
    begun = time.perf_counter()
    call()
    return time.perf_counter() - begun


def _in_turn(first: Callable[[], object], two: Callable[[], object]) -> tuple[float, float]:
    taken = [(_once(first), _once(two)) for _ in range(_TIMES)]
    return statistics.median(a for a, _ in taken), statistics.median(b for _, b in taken)
