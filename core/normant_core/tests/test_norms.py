"""What rules want, how far readings are, what puts them right: a table for each kind of check."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

import msgspec
from hypothesis import given
from hypothesis import strategies as st

from normant_core.base.quantities import Value
from normant_core.judging.judge import Verdict, View
from normant_core.judging.levels import in_words
from normant_core.seat.facts import Facts, Memory, Volume
from normant_core.words.formats import as_object, as_text

from .worked import PAN_03, judge, view

GIB = 2**30
# rule, reading, norm's sentence, distance, fix
CHECKED: list[tuple[str, Value, str, float | None, Any]] = [
    ('setting = "memory.held_back"\nwant = "4 GiB"', 2 * GIB, "4 GiB", -1.0, 4 * GIB),
    ('setting = "memory.held_back"\nat_most = "1 GiB"', 4 * GIB, "at most 1 GiB", 2.0, GIB),
    ('setting = "memory.held_back"\nbetween = ["1 GiB", "2 GiB"]', 8 * GIB, "1 to 2 GiB", 2.0, 2 * GIB),
    ('setting = "memory.held_back"\nbetween = ["512 MiB", "2 GiB"]', 2**27, "512 MiB to 2 GiB", -2.0, 2**29),
    ('setting = "memory.held_back"\none_of = ["4 GiB", "8 GiB"]', GIB, "one of 4 GiB, 8 GiB", -2.0, 4 * GIB),
    ('setting = "memory.held_back"\nnever = ["1 GiB"]', GIB, "never 1 GiB", None, None),
    ('setting = "memory.held_back"\nat_least = "1 GiB"', 0, "at least 1 GiB", -16.0, GIB),
    ('setting = "store.source_cache.quota"\nat_most = "400 GB"', float("inf"), "at most 400 GB", 16.0, 400 * 10**9),
    ('setting = "engine.workers"\nat_least = "cpu.cores - 2"', 7, "at least 10", -3.0, 10),
    ('setting = "engine.workers"\nat_most = "floor(memory.total / 20 GiB)"', 7, "at most 3", 4.0, 3),
    ('setting = "safety.autosave_every"\nat_most = "10 min"', 2400, "at most 10 min", 2.0, 600),
    ('setting = "playback.waveforms"\nwant = false', True, "false", None, False),
    ('setting = "playback.keep"\nwant = "real-time"', "every-frame", "real-time", None, "real-time"),
    ('setting = "driver.version"\nat_least = "31.5"', "31.4.2", "at least 31.5", None, "31.5"),
    ('setting = "driver.version"\nnever = ["31.4.2"]', "31.4.2", "never 31.4.2", None, None),
    ('setting = "audio.input"\nmust = "reading in audio.inputs"', "phone", "one of its sound inputs", None, None),
]


def verdict_on(rule: str, reading: Value, facts: Facts | None = None) -> Verdict:
    setting = rule.split('"')[1]
    app = None if setting.startswith(("driver", "power")) else "corrow"
    seen = View(PAN_03, facts or view().facts, {(setting, app): reading})
    verdict = judge(rule).explain(seen, setting, app)
    assert verdict
    return verdict


class Checks(TestCase):
    def test_each_check_has_its_sentence_distance_and_fix(self) -> None:
        for rule, reading, sentence, distance, fix in CHECKED:
            with self.subTest(rule):
                verdict = verdict_on(rule, reading)
                self.assertEqual(verdict.status, "off-norm")
                shown = (verdict.norm.sentence, verdict.distance and round(verdict.distance, 3), verdict.fix)
                self.assertEqual(shown, (sentence, distance, fix))

    def test_putting_the_fix_in_is_in_norm(self) -> None:
        for rule, reading, *_ in CHECKED:
            verdict = verdict_on(rule, reading)
            if verdict.fix is not None:
                with self.subTest(rule):
                    self.assertEqual(verdict_on(rule, verdict.fix).status, "in-norm")

    def test_a_bound_that_was_not_read_makes_it_unread_with_the_name(self) -> None:
        verdict = verdict_on('setting = "memory.held_back"\nat_least = "10 % of memory.total"', GIB, Facts())
        self.assertEqual((verdict.status, verdict.reason), ("unread", "memory.total is unknown"))
        self.assertIn("memory.total", verdict.norm.sentence)

    def test_every_verdict_can_be_told_as_line_and_text(self) -> None:
        for rule, reading, sentence, *_ in CHECKED:
            verdict = verdict_on(rule, reading)
            line = msgspec.json.decode(msgspec.json.encode(as_object("pan-03", verdict)))
            self.assertEqual(line["norm"]["sentence"], sentence)
            self.assertIn("off norm", "\n".join(as_text("pan-03", [verdict])))


class NeverSilly(TestCase):
    """No finding whose printed reading is its printed bound."""

    def test_a_size_that_is_worked_out_is_met_by_what_is_nearly_so(self) -> None:
        facts = Facts(memory=Memory(32 * GIB))
        for check, reading, status in (
            ('at_least = "20 % of memory.total"', 6_871_947_673, "in-norm"),
            ('at_least = "20 % of memory.total"', 6_860_000_000, "off-norm"),
            ('at_most = "20 % of memory.total"', 6_875_000_000, "in-norm"),
            ('between = ["10 % of memory.total", "20 % of memory.total"]', 6_872_000_000, "in-norm"),
            ('at_least = "8 GiB"', 8 * GIB - 1, "off-norm"),
        ):
            with self.subTest(check, reading=reading):
                verdict = verdict_on(f'setting = "memory.held_back"\n{check}', reading, facts)
                self.assertEqual(verdict.status, status)

    def test_what_would_look_alike_is_printed_exactly(self) -> None:
        verdict = verdict_on('setting = "memory.held_back"\nat_least = "8 GiB"', 8 * GIB - 1)
        self.assertEqual(
            in_words(verdict), "Memory reserve is 8589934591 B, house standard: at least 8 GiB, a little too small"
        )
        self.assertNotIn("-0.00", "\n".join(as_text("s", [verdict])))

    @given(st.integers(0, 64), st.integers(-(10**9), 10**9), st.sampled_from(["at_least", "at_most", "want"]))
    def test_a_printed_reading_is_never_its_printed_bound(self, gib: int, off_by: int, check: str) -> None:
        reading = max(0, gib * GIB + off_by)
        verdict = verdict_on(f'setting = "memory.held_back"\n{check} = "{gib} GiB"', reading)
        if verdict.status == "off-norm":
            self.assertNotEqual(
                verdict.reading_shown, verdict.norm.sentence.removeprefix(f"{check.replace('_', ' ')} ")
            )


RULE = 'setting = "store.source_cache.path"\nmust = "volume.attached and volume.free >= 100 GB"'


class BestVolume(TestCase):
    def best(self, *volumes: Volume) -> Any:
        home = Volume("home", "/", kind="nvme", free=10**9, capacity=10**12, system=True, attached=True)
        facts = Facts(volumes=(home, *volumes))
        return verdict_on(RULE, "/home/cache", facts).fix

    def volume(self, name: str, **more: Any) -> Volume:
        fields: dict[str, Any] = {
            "kind": "ssd",
            "free": 2 * 10**11,
            "capacity": 10**12,
            "attached": True,
            "system": False,
        } | more
        return Volume(name, f"/{name}", **fields)

    def test_the_faster_kind_comes_before_the_faster_disk(self) -> None:
        disks = self.volume("a", kind="hdd", read_rate=9 * 10**9), self.volume("b", kind="nvme", read_rate=1)
        self.assertEqual(self.best(*disks), "b")

    def test_within_a_kind_the_measured_rate_then_the_free_share_decides(self) -> None:
        self.assertEqual(self.best(self.volume("a", read_rate=1), self.volume("b", read_rate=2)), "b")
        self.assertEqual(self.best(self.volume("a"), self.volume("b", free=9 * 10**11)), "b")

    def test_what_is_removable_detached_read_only_or_full_is_not_fit(self) -> None:
        unfit: list[dict[str, Any]] = [{"removable": True}, {"attached": False}, {"writable": False}, {"free": 10}]
        for fault in unfit:
            with self.subTest(fault):
                self.assertIsNone(self.best(self.volume("a", **fault)))

    def test_the_systems_own_volume_comes_last(self) -> None:
        self.assertEqual(self.best(self.volume("a", system=True, kind="nvme"), self.volume("b", kind="hdd")), "b")

    def test_the_longest_mount_holds_a_path(self) -> None:
        facts = Facts(volumes=(Volume("v0", "/"), Volume("v1", "/fast"), Volume("v2", "D:\\")))
        held = {
            path: (facts.volume_of(path) or Volume("none", "")).id for path in ("/fast", "/fast/c", "/faster", "D:\\c")
        }
        self.assertEqual(held, {"/fast": "v1", "/fast/c": "v1", "/faster": "v0", "D:\\c": "v2"})
        self.assertIsNone(replace(view(), facts=Facts()).facts.volume_of("/x"))
