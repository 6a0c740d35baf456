import math
from fractions import Fraction
from unittest import TestCase

import msgspec

from normant_core.base.errors import DocumentError, FileError, NormantError
from normant_core.dialects.dialect import Dialect, parse_dialect
from normant_core.dialects.native import decode, encode, settle
from normant_core.dialects.preferences import read_files, write_value
from normant_core.seat.facts import Application, Facts, Memory

from .worked import DIALECT

FILE = "corrow/8/preferences.xml"
CONTENT = (
    b"<settings>\n  <render device='software'/>\n  <memory><spare>1536</spare><preview>lots</preview></memory>\n"
    b"  <folders><cache limit=''>/fast/c</cache></folders>\n</settings>\n"
)
FAULTS = [
    ('path = "corrow/8/preferences.xml"', 'path = "../x.xml"', 7, "leaves the preference root"),
    ('path = "corrow/8/preferences.xml"', 'path = "corrow/*/preferences.xml"', 7, "stands for a folder"),
    ('format = "xml"', 'format = "ink"', 8, "one of xml, json"),
    ('setting = "memory.held_back"', 'setting = "memory.heldback"', 17, "memory.held_back"),
    ('unit = "GB"', 'unit = "min"', 34, "a unit of bytes"),
    ('versions = ">=8,<9"', 'versions = ">=eight"', 3, "version"),
    ('kind = "path"', 'colour = "red"', 26, "colour"),
    ('path = "corrow/8/', 'path = "corrow/{major}/', 7, "version.major"),
    ('unit = "MiB"', 'automatic = { 0 = "a third of it" }', 19, "end of the expression"),
    ('unit = "MiB"', 'least = "lots"', 19, "memory.held_back"),
    ('setting = "memory.preview_pool"', 'setting = "memory.held_back"', 22, "bound twice"),
]


class Dialects(TestCase):
    def setUp(self) -> None:
        self.dialect = parse_dialect(DIALECT)

    def _binding(self, setting: str):  # type: ignore[no-untyped-def]
        bound = self.dialect.bound(setting)
        assert bound
        return bound[1]

    def test_faults_are_told_with_their_line(self) -> None:
        for old, new, line, words in FAULTS:
            with self.subTest(new), self.assertRaises(DocumentError) as caught:
                parse_dialect(DIALECT.replace(old, new))
            fault = caught.exception.faults[0]
            self.assertEqual(fault.line, line, fault)
            self.assertIn(words, f"{fault.message} {fault.expected}")

    def test_a_name_may_stand_for_every_template_and_says_where_they_differ(self) -> None:
        text = DIALECT.replace("corrow/8/preferences.xml", "corrow/8/templates/*.xml", 1)
        dialect = parse_dialect(text)
        house, promo = "corrow/8/templates/house.xml", "corrow/8/templates/promo.xml"
        other = {"corrow/8/templates/deep/x.xml": b"<", "corrow/8/templates/notes.txt": b"?"}
        alike = read_files(dialect, {promo: CONTENT, house: CONTENT, **other})
        held = next(r for r in alike.readings if r.setting == "memory.held_back")
        self.assertEqual((held.value, held.native and held.native.file), (1536 * 2**20, house))
        differing = read_files(dialect, {house: CONTENT, promo: CONTENT.replace(b"1536", b"2048")})
        message = {error.source: error.message for error in differing.errors}["dialect:corrow:memory.held_back"]
        self.assertEqual(message, f"the files differ: {house} says 1.5 GiB, {promo} says 2 GiB")
        self.assertEqual(next(e.message for e in read_files(dialect, {}).errors)[-21:], "there is no such file")

    def test_a_text_with_nul_is_unread_and_spoils_nothing_else(self) -> None:
        text = """
            format = "normant-dialect/1"
            app = "tamsel"
            versions = ">=2"
            [[file]]
            name = "p"
            path = "p.json"
            format = "json"
            binding = [{ setting = "engine.decode", at = "/a" }, { setting = "engine.encode", at = "/b" }]
        """
        visit = read_files(parse_dialect(text), {"p.json": b'{"a": "x\\u0000", "b": "cpu"}'})
        self.assertEqual([r.setting for r in visit.readings], ["engine.encode"])
        self.assertIn("NUL", visit.errors[0].message)

    def test_a_file_is_read_into_readings_with_their_native_place(self) -> None:
        visit = read_files(self.dialect, {FILE: CONTENT})
        readings = {r.setting: (r.value, r.native and (r.native.raw, r.native.line)) for r in visit.readings}
        self.assertEqual(
            readings,
            {
                "engine.effects": ("cpu", ("software", 2)),
                "memory.held_back": (1610612736, ("1536", 3)),
                "store.source_cache.path": ("/fast/c", ("/fast/c", 4)),
                "store.source_cache.quota": (None, ("", 4)),
            },
        )

    def test_half_a_character_is_no_reading_that_a_survey_could_tell(self) -> None:
        dialect = parse_dialect(
            'format = "normant-dialect/1"\napp = "corrow"\nversions = ">=1"\n[[file]]\nname = "f"\n'
            'path = "corrow/f.json"\nformat = "json"\n[[file.binding]]\nsetting = "audio.input"\nat = "/a"\n'
        )
        visit = read_files(dialect, {"corrow/f.json": b'{"a": "\\ud800x"}'})
        self.assertEqual(visit.readings, ())
        self.assertIn("half of a character", msgspec.json.encode(visit.errors).decode())

    def test_what_cannot_be_read_is_told_for_its_setting_alone(self) -> None:
        errors = read_files(self.dialect, {FILE: CONTENT}).errors
        self.assertEqual([e.source for e in errors], ["dialect:corrow:memory.preview_pool"])
        self.assertIn("'lots' is no number", errors[0].message)

    def test_a_missing_or_broken_file_makes_the_application_unread(self) -> None:
        for contents in ({}, {FILE: b"<settings>"}, {FILE: "permission denied"}):
            errors = read_files(self.dialect, contents).errors
            self.assertEqual([e.source for e in errors], ["dialect:corrow"])

    def test_values_round_into_the_norm_in_the_units_of_the_file(self) -> None:
        binding = self._binding("memory.held_back")
        self.assertEqual(settle(binding, 6871947674, "up"), ("6554", 6554 * 2**20))
        self.assertEqual(settle(binding, Fraction(64 * 2**30, 10), "down"), ("6553", 6553 * 2**20))

    def test_no_limit_is_an_empty_value(self) -> None:
        binding = self._binding("store.source_cache.quota")
        self.assertEqual((decode(binding, ""), encode(binding, math.inf)), (math.inf, ""))

    def test_words_that_the_file_does_not_know_are_refused(self) -> None:
        binding = self._binding("engine.effects")
        with self.assertRaises(FileError):
            encode(binding, "vulkan")
        with self.assertRaises(NormantError):
            decode(binding, "abacus")


WIDE = parse_dialect("""
format = "normant-dialect/1"
app = "plinthe"
versions = ">=8,<10"

[[file]]
name = "bench"
path = "plinthe/{version.major}/{edition}.json"
format = "json"
binding = [
  { setting = "memory.held_back", at = "/old/leave", unit = "MiB", versions = "<9" },
  { setting = "memory.held_back", at = "/room/leave", unit = "MiB", versions = ">=9" },
  { setting = "playback.effects_bypassed", at = "/effects_on", values = { true = false, false = true } },
  { setting = "memory.preview_pool", at = "/pool", unit = "MiB", automatic = { 0 = "25 % of memory.total", -1 = "" } },
  { setting = "engine.decode", at = "/route", missing = "auto", editions = ["full"] },
  { setting = "store.scratch.path", at = "/scratch", folders = { "@fast" = "/fast" } },
  { setting = "memory.app_ceiling", at = "/share", unit = "%", of = "memory.total", missing = "0 GB" },
  { setting = "engine.workers", at = "/hands", least = "2", most = "16" },
]
""")
NINE, EIGHT = Application("plinthe", "9.0.4", "full"), Application("plinthe", "8.2", "basic")
BENCH = (
    b'{"room": {"leave": 2048}, "old": {"leave": 1024}, "effects_on": true,\n'
    b' "pool": 0, "share": 40, "scratch": "@fast/tmp", "hands": 4}'
)


class WideDialect(TestCase):
    """What an application may do besides holding a number at an address."""

    def _bound(self, setting: str):  # type: ignore[no-untyped-def]
        bound = WIDE.spoken_by(NINE).bound(setting)
        assert bound
        return bound

    def _values(self, dialect: Dialect) -> dict[str, object]:
        visit = read_files(dialect, {dialect.file[0].path: BENCH}, Facts(memory=Memory(32 * 2**30)))
        return {reading.setting: reading.value for reading in visit.readings}

    def test_a_newer_version_reads_the_key_where_it_moved(self) -> None:
        self.assertEqual(WIDE.spoken_by(NINE).file[0].path, "plinthe/9/full.json")
        self.assertEqual(
            self._values(WIDE.spoken_by(NINE)),
            {
                "memory.held_back": 2**31,
                "playback.effects_bypassed": False,
                "memory.preview_pool": 8 * 2**30,
                "memory.app_ceiling": 32 * 2**30 * 2 // 5,
                "engine.decode": "auto",
                "store.scratch.path": "/fast/tmp",
                "engine.workers": 4,
            },
        )

    def test_an_older_version_and_lesser_edition_speak_otherwise(self) -> None:
        values = self._values(WIDE.spoken_by(EIGHT))
        self.assertEqual((values["memory.held_back"], values.get("engine.decode")), (2**30, None))

    def test_an_automatic_value_that_nobody_can_work_out_is_an_error_with_its_reason(self) -> None:
        binding = self._bound("memory.preview_pool")[1]
        for raw, reason in (("0", "memory.total, which was not read"), ("-1", "does not say which")):
            with self.subTest(raw), self.assertRaisesRegex(FileError, reason):
                decode(binding, raw)

    def test_a_share_is_written_as_a_share_of_what_the_machine_has(self) -> None:
        binding, facts = self._bound("memory.app_ceiling")[1], Facts(memory=Memory(64 * 2**30))
        self.assertEqual(settle(binding, 16 * 2**30, "down", facts), ("25", 16 * 2**30))
        with self.assertRaisesRegex(FileError, "memory.total"):
            settle(binding, 16 * 2**30, "down")

    def test_the_word_for_automatic_is_never_written_as_a_value(self) -> None:
        with self.assertRaisesRegex(FileError, "leaves the value"):
            settle(self._bound("memory.preview_pool")[1], 0, "nearest")

    def test_a_value_that_the_application_would_clamp_is_refused_before_it_is_written(self) -> None:
        with self.assertRaisesRegex(FileError, "at most 16"):
            settle(self._bound("engine.workers")[1], 40, "nearest")

    def test_a_key_that_may_be_absent_is_added_in_the_manner_of_the_file(self) -> None:
        file, binding = self._bound("engine.decode")
        self.assertEqual(write_value(file, binding, BENCH, "cpu"), BENCH[:-1] + b', "route": "cpu"}')
