"""Standing care: sentences of layers, as they are written, spoken, followed and agreed to."""

import datetime as dt
from functools import partial
from typing import Any
from unittest import TestCase
from zoneinfo import ZoneInfo

from normant_core.base.errors import DocumentError
from normant_core.rules.evaluate import Scope, evaluate
from normant_core.seat.facts import Facts, Seat
from normant_core.standard.care import care_on, care_sentence, may_run, meaning, next_turn, turn_at
from normant_core.standard.edit import add_part, edit_part, remove_part
from normant_core.standard.parse import parse_standard
from normant_core.standard.rule import Care, Layer
from normant_core.standard.sentences import changed_between, layer_sentences

HEAD = 'format = "normant-standard/1"\nname = "t"\n'
LAYER = '[[layer]]\nname = "{}"\n{}'
CARE = """[[layer.care]]
name = "{}"
kinds = ["frame_cache"]
unused_days = 30
each = "sunday"
opens = "03:00"
closes = "07:00"
most = "500 GB"
"""
TEXT = (
    HEAD
    + LAYER.format("All", "")
    + CARE.format("Old frames")
    + LAYER.format("Offline", "when = \"seat.role == 'offline'\"\n")
    + CARE.format("Offline frames").replace("30", "7")
)
ZONE = ZoneInfo("Europe/Berlin")


def only_care(text: str) -> Care:
    [care] = parse_standard(text).care
    return care


def at(day: int, hour: int, minute: int = 0) -> dt.datetime:
    """Of November 2026, the 1st of which is a Sunday."""
    return dt.datetime(2026, 11, day, hour, minute, tzinfo=ZONE)


class Reading(TestCase):
    def test_faults_are_told_with_their_places(self) -> None:
        plain = HEAD + LAYER.format("All", "") + CARE.format("Old frames")
        for before, after, line, words in (
            ('"500 GB"', '"a lot"', 12, "such as 500 GB"),
            ('"500 GB"', '"5 min"', 12, "bytes"),
            ('"500 GB"', '"0 B"', 12, "no size that can be made free"),
            ('most = "500 GB"', 'most = "1 GB"\nfree = "x"', 13, "such as 500 GB"),
            ('["frame_cache"]', '["exports"]', 7, "never removed by us"),
            ('["frame_cache"]', '["frame_cache", "frame_cache"]', 7, "twice"),
            ('["frame_cache"]', '["caches"]', 7, "caches"),
            ('"07:00"', '"03:00"', 11, "closes when it opens"),
            ('"07:00"', '"7:00"', 11, "7:00"),
            ('"sunday"', '"holiday"', 9, "holiday"),
            ("30", "0", 8, "0"),
            ("unused_days", "unused", 5, "unused"),
        ):
            with self.subTest(after), self.assertRaises(DocumentError) as raised:
                parse_standard(plain.replace(before, after))
            fault = raised.exception.faults[0]
            self.assertIn(words, f"{fault.message} {fault.expected}")
            self.assertEqual(fault.line, line, fault)

    def test_a_name_and_a_kind_of_a_layer_stand_once(self) -> None:
        for text, words in (
            (TEXT.replace("Offline frames", "Old frames"), "Old frames stands twice"),
            (HEAD + LAYER.format("All", "") + CARE.format("One") + CARE.format("Two"), "frame cache twice"),
            (HEAD + LAYER.format("All", "") + "".join(CARE.format(n) for n in range(201)), "201 of care"),
        ):
            with self.subTest(words), self.assertRaises(DocumentError) as raised:
                parse_standard(text)
            self.assertIn(words, str(raised.exception))

    def test_it_is_spoken_and_told_where_it_changed(self) -> None:
        before, after = parse_standard(TEXT), parse_standard(TEXT.replace("500", "200", 1))
        sentence = (
            "Frame cache: files unused for 30 days are deleted, each Sunday from 03:00 to 07:00, at most {} per seat"
        )
        [care] = layer_sentences(before)[0].care
        self.assertEqual(care.sentence, sentence.format("500 GB"))
        [changed] = changed_between(before, after)
        self.assertIn("at most 500 GB", str(changed.before))
        self.assertIn("at most 200 GB", str(changed.after))
        until = only_care((HEAD + LAYER.format("All", "") + CARE.format("x")).replace("500 GB", '1 GB"\nfree = "2 TB'))
        self.assertIn(", until 2 TB are free on each volume", care_sentence(until.text))

    def test_its_text_is_changed_from_sentences_and_all_else_stays(self) -> None:
        more = edit_part(TEXT, "care", 0, 0, {"most": "1 TB", "because": "full disks"})
        self.assertEqual(parse_standard(more).care[0].most, 10**12)
        self.assertEqual(
            remove_part(TEXT, "care", 1, 0).rstrip(),
            TEXT.replace(CARE.format("Offline frames").replace("30", "7"), "").rstrip(),
        )
        fields: dict[str, Any] = {"name": "Bins", "kinds": ["bin"], "unused_days": 14, "each": "day", "opens": "22:00"}
        added = parse_standard(add_part(TEXT, "care", 0, {**fields, "closes": "05:00", "most": "10 GB"}))
        self.assertEqual([care.text.name for care in added.care], ["Old frames", "Bins", "Offline frames"])
        with self.assertRaisesRegex(DocumentError, "sentence of care has no 'want'"):
            add_part(TEXT, "care", 0, {"want": "x"})


class Following(TestCase):
    def applies(self, scope: Scope, layer: Layer) -> bool:
        return layer.condition is None or evaluate(layer.condition.node, scope) is True

    def test_the_last_layer_that_applies_decides_of_a_kind(self) -> None:
        standard = parse_standard(TEXT)
        for role, name in (("offline", "Offline frames"), ("online", "Old frames"), (None, "Old frames")):
            with self.subTest(role):
                deciding = care_on(standard, partial(self.applies, Scope(Facts(), Seat("pan-03", role or ""), {})))
                self.assertEqual({kind: care.text.name for kind, care in deciding.items()}, {"frame_cache": name})

    def test_a_turn_lasts_for_its_hours_on_its_day(self) -> None:
        text = only_care(HEAD + LAYER.format("All", "") + CARE.format("x")).text
        self.assertEqual(turn_at(text, at(1, 3)), (at(1, 3), at(1, 7)))
        self.assertEqual(turn_at(text, at(8, 6, 59)), (at(8, 3), at(8, 7)))
        self.assertEqual(next_turn(text, at(1, 2)), at(1, 3))
        self.assertEqual(next_turn(text, at(1, 3)), at(8, 3))
        for moment in (at(1, 2, 59), at(1, 7), at(2, 4)):
            self.assertIsNone(turn_at(text, moment), moment)

    def test_a_turn_over_midnight_is_of_the_day_on_which_it_opens(self) -> None:
        night = CARE.format("x").replace("03:00", "22:00")
        text = only_care(HEAD + LAYER.format("All", "") + night).text
        self.assertEqual(turn_at(text, at(2, 6)), (at(1, 22), at(2, 7)))
        self.assertIsNone(turn_at(text, at(1, 6)))
        daily = only_care(HEAD + LAYER.format("All", "") + night.replace("sunday", "day")).text
        self.assertEqual(turn_at(daily, at(4, 6)), (at(3, 22), at(4, 7)))

    def test_it_waits_for_a_person_the_first_time_and_when_it_grows_by_half(self) -> None:
        self.assertFalse(may_run(1, []))
        self.assertTrue(may_run(150, [100, 20]))
        self.assertFalse(may_run(151, [100, 20]))

    def test_another_sentence_is_agreed_to_anew_but_not_another_reason(self) -> None:
        [first, _] = parse_standard(TEXT).care
        for before, after, is_same in (
            ("500 GB", "600 GB", False),
            ("unused_days = 30", "unused_days = 29", False),
            ('name = "All"', 'name = "All"\nwhen = "seat.role == \'online\'"', False),
            ('most = "500 GB"\n[[', 'most = "500 GB"\nbecause = "so"\n[[', True),
        ):
            with self.subTest(after):
                other = parse_standard(TEXT.replace(before, after, 1)).care
                moved = next(care for care in other if care.text.name == first.text.name)
                self.assertEqual(meaning(moved) == meaning(first), is_same)
