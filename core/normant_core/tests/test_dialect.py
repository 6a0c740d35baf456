import math
from fractions import Fraction
from unittest import TestCase

from normant_core.dialect import decode, encode, parse_dialect, read_files, settle
from normant_core.errors import DocumentError, FileError, NormantError

from .worked import DIALECT

FILE = "corrow/8/preferences.xml"
CONTENT = (
    b"<settings>\n  <render device='software'/>\n  <memory><spare>1536</spare><preview>lots</preview></memory>\n"
    b"  <folders><cache limit=''>/fast/c</cache></folders>\n</settings>\n"
)
FAULTS = [
    ('path = "corrow/8/preferences.xml"', 'path = "../x.xml"', 7, "leaves the preference root"),
    ('format = "xml"', 'format = "ini"', 8, "one of xml, json"),
    ('setting = "memory.held_back"', 'setting = "memory.heldback"', 17, "memory.held_back"),
    ('unit = "GB"', 'unit = "min"', 34, "a unit of bytes"),
    ('versions = ">=8,<9"', 'versions = ">=eight"', 3, "version"),
    ('kind = "path"', 'colour = "red"', 26, "colour"),
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

    def test_a_file_is_read_into_readings_with_their_native_place(self) -> None:
        visit = read_files(self.dialect, {FILE: CONTENT})
        found = {r.setting: (r.value, r.native and (r.native.raw, r.native.line)) for r in visit.readings}
        self.assertEqual(
            found,
            {
                "engine.effects": ("cpu", ("software", 2)),
                "memory.held_back": (1610612736, ("1536", 3)),
                "store.source_cache.path": ("/fast/c", ("/fast/c", 4)),
                "store.source_cache.quota": (None, ("", 4)),
            },
        )

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
