from unittest import TestCase

from normant_core.base.errors import DocumentError
from normant_core.catalogue.settings import catalogue
from normant_core.standard.parse import parse_standard, starter
from normant_core.standard.sentences import layer_sentences

from .worked import STANDARD, judge, judge_of, view

# rule body -> (line, column, words of the message); the rule's first line is line 7.
FAULTS = [
    ('setting = "memory.held_bak"\nat_least = "4 GiB"', 7, 11, "memory.held_back"),
    ('setting = "memory.held_back"\nat_least = "4 minn"', 8, 15, "unknown unit 'minn'"),
    ('setting = "memory.held_back"\nat_least = "4 min"', 8, 13, "bytes"),
    ('setting = "power.profile"\nat_least = "balanced"', 8, 12, "no more or less"),
    ('setting = "power.profile"\nwant = "fast"', 8, 8, "performance, balanced, power-saver"),
    ('setting = "power.profile"', 6, 1, "exactly one of want"),
    ('setting = "power.profile"\nwant = "balanced"\nwnat = 1', 6, 1, "wnat"),
    (
        'setting = "memory.preview_pool"\nbetween = ["40 % of memory.total", "20 % of memory.total"]',
        8,
        11,
        "never hold",
    ),
    ('setting = "playback.waveforms"\nwhen = "1 > 2"\nwant = true', 8, 8, "never be true"),
    ('setting = "engine.effects"\nmust = "reading == 4 GiB"', 8, 9, "text is compared with bytes"),
    ('setting = "app.version"\napp = "corrow"\nwant = "8"\nversions = "about 8"', 10, 13, "comparisons"),
]


class Faults(TestCase):
    def test_each_fault_is_told_with_its_line_and_column(self) -> None:
        for body, line, column, words in FAULTS:
            with self.subTest(body), self.assertRaises(DocumentError) as caught:
                judge(body)
            fault = caught.exception.faults[0]
            self.assertEqual((fault.line, fault.column), (line, column), fault)
            self.assertIn(words, f"{fault.message} {fault.expected}")

    def test_rules_that_look_at_each_other_are_refused(self) -> None:
        rule = 'setting = "playback.scale"\nwant = "1"\nwhen = "setting(\'playback.raw_scale\') < 1"'
        two = 'setting = "playback.raw_scale"\nwant = "1"\nwhen = "setting(\'playback.scale\') < 1"'
        with self.assertRaisesRegex(DocumentError, "circular reference: playback.scale -> playback.raw_scale"):
            judge(rule, two)

    def test_all_faults_of_a_document_are_told_at_once(self) -> None:
        with self.assertRaises(DocumentError) as caught:
            judge('setting = "memory.nope"\nwant = 1', 'setting = "power.profile"\nwant = "fast"')
        self.assertEqual(len(caught.exception.faults), 2)

    def test_broken_toml_is_told_with_its_line(self) -> None:
        with self.assertRaises(DocumentError) as caught:
            parse_standard('format = "normant-standard/1"\nname = "unclosed\n')
        self.assertEqual(caught.exception.faults[0].line, 2)


class Worked(TestCase):
    def test_rules_read_as_sentences_in_their_layers(self) -> None:
        layers = layer_sentences(parse_standard(STANDARD))
        self.assertEqual([layer.name for layer in layers], ["Whole facility", "Cutting rooms"])
        self.assertEqual(
            [rule.sentence for rule in layers[1].rules],
            ["Corrow effects engine is hadrel or opencl", "Corrow playback scale is at most 1/2"],
        )
        self.assertEqual(
            layers[0].rules[2].sentence,
            "Memory reserve is at least 4 GiB or 10 % of installed memory, whichever is more",
        )

    def test_overriding_a_locked_rule_is_a_conflict(self) -> None:
        override = (
            '\n[[layer.rule]]\nsetting = "delivery.full_raw"\nwant = false\n'
            "when = \"setting('playback.raw_scale') < 1\"\n"
        )
        warnings = parse_standard(STANDARD + override).warnings
        self.assertIn("has locked delivery.full_raw", warnings[0].message)


class Starter(TestCase):
    def test_every_rule_of_the_starter_has_its_sentence_and_guards_what_must_be_guarded(self) -> None:
        standard = parse_standard(starter())
        self.assertEqual([rule.line for rule in standard.rules if not rule.text.because], [])
        self.assertEqual(standard.warnings, ())
        locked = {rule.setting.key for rule in standard.rules if rule.text.locked}
        guards = {key for key in catalogue().settings if key.startswith("delivery.") and key != "delivery.preset"}
        self.assertEqual(locked, guards | {"power.process_priority"})

    def test_it_judges_a_seat(self) -> None:
        off = {verdict.setting for verdict in judge_of(starter()).verdicts(view())}
        self.assertLessEqual({"memory.held_back", "store.source_cache.path", "delivery.full_raw"}, off)
