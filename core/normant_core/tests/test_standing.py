"""A house by columns stands as its seats do one by one."""

import unittest
from typing import Any

import msgspec
from hypothesis import given, settings
from hypothesis import strategies as st

from normant_core.house.columns import House
from normant_core.house.marks import status_of
from normant_core.house.verdicts import Standing
from normant_core.judging.judge import Judge, View
from normant_core.seat.facts import Application, Facts, Gpu, Memory, Seat, Volume
from normant_core.seat.survey import Store, Unreadable
from normant_core.standard.parse import parse_standard

HEAD = """format = "normant-standard/1"
name = "t"
[constants]
room = "120 GB"
quick = ["nvme", "ssd"]
[groups]
large = "memory.total >= 32 GiB"
kiln = "seat.room == 'Kiln' and not large"
[[release]]
setting = "app.version"
app = "corrow"
version = "9"
standing = "blocked"
[[release]]
setting = "app.version"
app = "corrow"
version = "8.2"
standing = "approved"
"""
GB, GIB = 10**9, 2**30
# Conditions of layers and of rules, and checks by setting: every kind of input in every manner of use.
LAYERS = (
    "",
    "when = \"seat.role == 'offline'\"",
    "when = \"seat.name in ['s1', 's3']\"",
    "when = \"memory.total >= 32 GiB and not (seat.room == 'Kiln')\"",
    "when = \"any(gpus, 'opencl' in interfaces)\"",
    'when = "kiln"',
    "when = \"setting('power.profile') == 'performance'\"",
)
WHENS = (
    "",
    "when = \"setting('playback.raw_scale') < 1\"",
    'when = "memory.total < 64 GiB"',
    "when = \"count(volumes, free > 200 GB and kind != 'hdd') >= 1\"",
    "when = \"app.edition == 'full' or app.version >= '8.2'\"",
    'versions = ">= 8.1"',
    'when = "first(gpus, enabled).memory >= 8 GiB"',
    "when = \"not large and any(stores, purpose == 'renders' and size > 100 GB)\"",
)
CHECKS = {
    "memory.held_back": ('at_least = "max(4 GiB, 10 % of memory.total)"', 'between = ["2 GiB", "8 GiB"]'),
    "store.source_cache.path": (
        "must = \"volume.attached and not volume.system and volume.kind in ['nvme', 'ssd'] and volume.free >= 120 GB\"",
        'must = "volume.free >= 10 % of volume.capacity"',
        'must = "volume.kind in quick and volume.free >= room"',
        'never = ["/a/cache"]',
    ),
    "engine.effects": (
        "must = \"reading == 'cpu' or any(gpus, enabled and reading in interfaces)\"",
        'one_of = ["hadrel", "opencl"]',
    ),
    "playback.scale": ('at_most = "1/2"', "want = 1"),
    "power.profile": ('want = "performance"',),
    "app.version": ('at_least = "8.2"', 'never = ["8.1"]'),
}
SETTINGS: dict[str, Any] = {
    "memory.held_back": st.sampled_from([GIB, 2 * GIB, 4 * GIB, 9 * GIB]),
    "store.source_cache.path": st.sampled_from(["/a/cache", "/b/cache", "/nowhere"]),
    "engine.effects": st.sampled_from(["cpu", "hadrel", "opencl"]),
    "playback.scale": st.sampled_from([1]),
    "playback.raw_scale": st.sampled_from([1]),
    "power.profile": st.sampled_from(["performance", "balanced"]),
    "app.version": st.sampled_from(["8.1", "8.2", "9"]),
}
NAMES = st.sampled_from([None, "corrow", "plinthe"])


def maybe(values: st.SearchStrategy[Any]) -> st.SearchStrategy[Any]:
    return st.one_of(st.none(), values)


@st.composite
def standards(draw: st.DrawFn) -> str:
    parts = []
    for number in range(draw(st.integers(1, 3))):
        parts.append(f'[[layer]]\nname = "layer {number}"\n{draw(st.sampled_from(LAYERS))}\n')
        for _ in range(draw(st.integers(0, 4))):
            setting = draw(st.sampled_from(sorted(CHECKS)))
            app = draw(NAMES) if setting != "power.profile" else None
            lines = ["[[layer.rule]]", f'setting = "{setting}"', draw(st.sampled_from(CHECKS[setting]))]
            lines += [f'app = "{app}"'] if app else []
            lines += [draw(st.sampled_from(WHENS)), "locked = true" if draw(st.integers(0, 3)) == 0 else ""]
            parts.append("\n".join(lines) + "\n")
    return HEAD + "\n".join(parts)


gpus = st.builds(
    Gpu,
    id=st.sampled_from(["g0", "g1"]),
    enabled=maybe(st.booleans()),
    memory=maybe(st.sampled_from([4 * GIB, 16 * GIB])),
    interfaces=maybe(st.sampled_from([("opencl",), ("hadrel", "opencl"), ()])),
)
volumes = st.builds(
    Volume,
    id=st.just("v"),
    mount=st.sampled_from(["/", "/a", "/b"]),
    kind=maybe(st.sampled_from(["nvme", "hdd"])),
    capacity=maybe(st.sampled_from([500 * GB, 900 * GB])),
    free=maybe(st.sampled_from([50 * GB, 120 * GB, 120 * GB - 1, 200 * GB, 300 * GB])),
    system=maybe(st.booleans()),
    attached=maybe(st.booleans()),
)
apps = st.builds(
    Application,
    id=st.sampled_from(["corrow", "plinthe"]),
    version=maybe(st.sampled_from(["8.1", "8.2", "9", "odd one"])),
    edition=maybe(st.sampled_from(["full", "basic"])),
)
facts = st.builds(
    Facts,
    memory=st.builds(Memory, total=maybe(st.sampled_from([16 * GIB, 32 * GIB, 64 * GIB]))),
    gpus=maybe(st.lists(gpus, max_size=2).map(tuple)),
    volumes=maybe(st.lists(volumes, max_size=2, unique_by=lambda v: v.mount).map(tuple)),
    applications=maybe(st.lists(apps, max_size=2, unique_by=lambda a: a.id).map(tuple)),
)
stores = st.builds(
    Store,
    purpose=st.sampled_from(["renders", "proxies"]),
    path=st.just("/r"),
    size=maybe(st.sampled_from([50 * GB, 100 * GB, 300 * GB])),
)
failures = st.sampled_from(
    ["reading:power.profile", "dialect:corrow:memory.held_back", "dialect:plinthe", "facts:gpus"]
)


@st.composite
def views(draw: st.DrawFn, name: str) -> View:
    seat = Seat(name, draw(maybe(st.sampled_from(["offline", "comp"]))), draw(maybe(st.sampled_from(["Kiln", "Loft"]))))
    readings = {}
    for setting, values in SETTINGS.items():
        for app in (None,) if setting == "power.profile" else ("corrow", "plinthe"):
            if (value := draw(maybe(values))) is not None:
                readings[setting, app] = value
    errors = tuple(Unreadable(source, "x") for source in draw(st.sets(failures, max_size=2)))
    return View(seat, draw(facts), readings, errors, tuple(draw(st.lists(stores, max_size=2))))


houses = st.integers(1, 5).flatmap(lambda n: st.tuples(*(views(f"s{i}") for i in range(n))))


def plain(judge: Judge, view: View) -> list[tuple[Any, ...]]:
    """The naive way: the whole verdict of every setting that might be spoken of, by the plain evaluator."""
    failed = [error.reading for error in view.errors if error.reading]
    keys = {*view.readings, *failed, *(k for k in judge.named if view.facts.application(k[1]))}
    verdicts = [judge.explain(view, *key) for key in keys]
    return sorted((v.setting, v.app or "", v.status, v.norm.check, v.layer) for v in verdicts if v)


def by_columns(standing: Standing, row: int) -> list[tuple[Any, ...]]:
    layers, rules = standing.judge.standard.layers, standing.judge.standard.rules
    return sorted(
        (o.setting, o.app or "", o.status, rules[o.rule].check, layers[rules[o.rule].layer].name)
        for o in standing.outcomes(row)
    )


class AsSeatBySeat(unittest.TestCase):
    maxDiff = 3000

    @settings(max_examples=80, deadline=None)
    @given(standards(), houses)
    def test_a_house_stands_as_its_seats_do(self, text: str, views: tuple[View, ...]) -> None:
        judge = Judge(parse_standard(text))
        standing = Standing(House(views), judge)
        for row, view in enumerate(views):
            self.assertEqual(by_columns(standing, row), plain(judge, view))
            same = sorted((o.setting, o.app or "", o.status, o.rule) for o in judge.judge(view))
            self.assertEqual(sorted((o.setting, o.app or "", o.status, o.rule) for o in standing.outcomes(row)), same)
        counted = sorted(
            (f.case.key, row) for status in range(3) for f in standing.with_status(status) for row in f.rows
        )
        self.assertEqual(len(counted), sum(len(plain(judge, view)) for view in views))

    @settings(max_examples=50, deadline=None)
    @given(standards(), houses, st.data())
    def test_seats_that_change_and_editions_that_follow_change_only_what_they_must(
        self, text: str, seats: tuple[View, ...], data: st.DataObject
    ) -> None:
        standing = Standing(House(seats), Judge(parse_standard(text)))
        now = list(seats)
        for _ in range(3):
            row = data.draw(st.integers(0, len(now) - 1))
            before = {(o.setting, o.app): o for o in standing.outcomes(row)}
            known = [*standing.cases]
            now[row] = data.draw(views(now[row].seat.name))
            moved = standing.replace(row, now[row])
            standing = Standing(standing.house, standing.judge, standing)  # with settings that nobody had before
            self.assertEqual(by_columns(standing, row), plain(standing.judge, now[row]))
            after = {(o.setting, o.app): o for o in standing.outcomes(row)}
            other = {key for key in known if before.get(key) != after.get(key)}
            self.assertEqual({case.key for case, _, _ in moved}, other)
        another = Judge(parse_standard(data.draw(standards())))
        following = Standing(standing.house, another, standing)
        for row, view in enumerate(now):
            self.assertEqual(by_columns(following, row), plain(another, view))

    def test_a_number_that_is_only_compared_is_told_apart_by_its_side(self) -> None:
        text = (
            HEAD
            + '[[layer]]\nname = "a"\n[[layer.rule]]\nsetting = "store.source_cache.path"\nmust = "volume.free >= 120 GB"'
        )
        seats = [
            View(
                Seat(f"s{n}"),
                Facts(volumes=(Volume("v", "/", free=n * GB),)),
                {("store.source_cache.path", None): "/c"},
            )
            for n in range(300)
        ]
        standing = Standing(House(seats), Judge(parse_standard(text)))
        self.assertEqual(len(next(iter(standing.cases.values())).kinds.table), 3)  # below, at, above
        self.assertEqual([len(f.rows) for f in standing.with_status()], [120])

    def test_readings_that_are_put_say_which_cases_moved(self) -> None:
        text = (
            HEAD
            + '[[layer]]\nname = "a"\n'
            + "".join(
                f'[[layer.rule]]\nsetting = "{s}"\n{CHECKS[s][0]}\n' for s in ("memory.held_back", "power.profile")
            )
        )
        facts_ = Facts(memory=Memory(64 * GIB))
        views = [View(Seat("s"), facts_, {("memory.held_back", "corrow"): GIB, ("power.profile", None): "performance"})]
        standing = Standing(House(views), Judge(parse_standard(text)))
        moved = standing.put(0, {("memory.held_back", "corrow"): 9 * GIB, ("power.profile", None): "performance"})
        self.assertEqual(
            [(c.key[0], status_of(b), status_of(a)) for c, b, a in moved],
            [("memory.held_back", "off-norm", "in-norm")],
        )
        self.assertEqual(
            msgspec.to_builtins(standing.outcomes(0)), msgspec.to_builtins(standing.judge.judge(standing.house.view(0)))
        )
