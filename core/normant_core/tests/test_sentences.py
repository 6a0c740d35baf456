"""Sentences for people: levels, groups, rules, the house."""

from unittest import TestCase

from normant_core.base.wording import counted, with_app
from normant_core.judging.groups import OpenFinding, groups, house_sentence, jaccard, title_of
from normant_core.judging.judge import Judge
from normant_core.judging.levels import levels, times
from normant_core.standard.parse import parse_standard
from normant_core.standard.sentences import layer_sentences, rule_sentence

from .worked import STANDARD, judge, view

RULES = [
    ('setting = "power.profile"\nwant = "performance"', "Power profile is performance"),
    ('setting = "memory.held_back"\nbetween = ["1 GiB", "2 GiB"]', "Memory reserve is from 1 GiB to 2 GiB"),
    (
        'setting = "power.profile"\nnever = ["balanced", "power-saver"]',
        "Power profile is never balanced or power-saver",
    ),
    ('setting = "playback.waveforms"\napp = "corrow"\nwant = false', "Corrow waveforms is false"),
    ('setting = "engine.workers"\nat_most = 8\nversions = ">=8"\napp = "corrow"', "for versions >=8"),
    (
        'setting = "engine.workers"\nat_most = 8\nwhen = "memory.total < 32 GiB"',
        "is at most 8, when installed memory is less than 32 GiB",
    ),
    ('setting = "audio.input"\nmust = "reading in audio.inputs"', "Audio input is one of its sound inputs"),
]


class Rules(TestCase):
    def test_each_rule_reads_as_a_sentence(self) -> None:
        for rule, sentence in RULES:
            with self.subTest(rule):
                self.assertIn(sentence, rule_sentence(judge(rule).standard.rules[0]))

    def test_layers_say_whom_they_speak_to(self) -> None:
        layers = layer_sentences(parse_standard(STANDARD))
        self.assertEqual([layer.applies for layer in layers], ["every seat", "where the seat's role is offline"])
        self.assertEqual([layer.kind for layer in layers], ["facility", "role"])
        self.assertEqual([rule.locked for rule in layers[0].rules].count(True), 1)


class Levels(TestCase):
    def test_the_worst_reading_speaks_for_its_family(self) -> None:
        by_family = {
            level.family: level for level in levels(Judge(parse_standard(STANDARD)).verdicts(view(), every=True))
        }
        memory = by_family["memory"]
        self.assertEqual((memory.severity, memory.count), ("should", 2))
        self.assertIn("Memory reserve is 1.5 GiB", memory.words)
        self.assertTrue(memory.words.endswith("and 1 more"))

    def test_how_far_is_said_in_the_settings_own_way(self) -> None:
        cases = [
            ('setting = "memory.held_back"\napp = "corrow"\nat_least = "6.4 GiB"', "4.3 times too small"),
            ('setting = "playback.scale"\napp = "corrow"\nat_most = "1/2"', "2.0 times too large"),
            ('setting = "store.source_cache.quota"\napp = "corrow"\nat_most = "1 TB"', "far too large"),
            ('setting = "power.profile"\nwant = "performance"', ""),
        ]
        for rule, words in cases:
            with self.subTest(rule):
                self.assertEqual(times(judge(rule).verdicts(view())[0]), words)


class Groups(TestCase):
    def findings(self, *places: tuple[str, int]) -> list[OpenFinding]:
        verdicts = Judge(parse_standard(STANDARD)).verdicts(view())
        return [OpenFinding(n, seat, verdicts[index]) for n, (seat, index) in enumerate(places)]

    def test_what_is_severe_and_on_many_seats_comes_first(self) -> None:
        places = [("a", 2), ("b", 0), ("c", 5), ("d", 5), ("e", 5), ("f", 5)]
        titles = [title_of(together) for together in groups(self.findings(*places))]
        self.assertEqual(titles[0], "Power profile is balanced on 4 seats")
        self.assertEqual(titles[1], "Corrow effects engine is cpu on b")

    def test_what_stands_together_is_counted(self) -> None:
        places = [(seat, index) for seat in "abcd" for index in (0, 1, 2)]
        (together,) = groups(self.findings(*places))
        self.assertEqual(title_of(together), "3 settings off norm on 4 seats")
        self.assertEqual(title_of(together, 3), "3 settings off norm on 4 seats")
        self.assertEqual(title_of(together, 7), "3 of 7 settings off norm on 4 seats")

    def test_nearly_the_same_seats_is_four_fifths(self) -> None:
        self.assertEqual(jaccard("abcde", "abcd"), 0.8)
        near = [(seat, 0) for seat in "abcde"] + [(seat, 1) for seat in "abcd"]
        apart = [(seat, 0) for seat in "abcde"] + [(seat, 1) for seat in "abc"]
        self.assertEqual([len(groups(self.findings(*places))) for places in (near, apart)], [1, 2])


class House(TestCase):
    def test_the_sentence_fits_its_numbers(self) -> None:
        cases = [
            ((1, 0, 0), "1 seat went off norm, 0 came back. No decisions needed."),
            ((0, 1, 1), "0 seats went off norm, 1 came back. 1 decision needed."),
            ((13, 2, 20), "13 seats went off norm, 2 came back. 20 decisions needed."),
        ]
        for (left, back, decisions), words in cases:
            with self.subTest(words):
                sentence = house_sentence(left=left, back=back, decisions=decisions, since="yesterday at 18:00")
                self.assertEqual(sentence, f"Since yesterday at 18:00: {words}")

    def test_numbers_are_words_up_to_twelve(self) -> None:
        self.assertEqual([counted(n, "seat") for n in (0, 1, 1200)], ["0 seats", "1 seat", "1,200 seats"])
        names = [with_app("Preview pool", "corrow"), with_app("GPU choice", "corrow"), with_app("Power profile", None)]
        self.assertEqual(names, ["Corrow preview pool", "Corrow GPU choice", "Power profile"])
