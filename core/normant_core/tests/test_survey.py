import json
from typing import Any
from unittest import TestCase

from normant_core.base.errors import DocumentError
from normant_core.seat.survey import LIMIT_BYTES, decode, parse_survey

from .worked import SURVEY


def changed(**parts: Any) -> bytes:
    return json.dumps({**json.loads(SURVEY), **parts}).encode()


REFUSED = [
    (b"{", "1:2", "JSON"),
    (b"[]", "1:1", "object"),
    (changed(format="normant-survey/9"), "format", "normant-survey"),
    (changed(taken_at="yesterday"), "taken_at", ""),
    (changed(errors=[{"source": "x", "message": "a\0b"}]), "NUL", "without it"),
    (changed(readings=[{"setting": "memory.hold_back", "value": 1}]), "readings[0].setting", "memory.held_back"),
    (changed(readings=[{"setting": "memory.held_back", "value": "4 minutes"}]), "readings[0].value", "unit"),
    (changed(readings=[{"setting": "power.profile", "value": "balanced"}] * 2), "readings[1].setting", "read twice"),
    (changed(seat="../other"), "seat", "does not match"),
    (changed(readings=[{"setting": "memory.held_back", "app": "a b", "value": 1}]), "readings[0].app", "not match"),
    (changed(surprise=1), "", "surprise"),
    (b" " * (LIMIT_BYTES + 1), "", "at most"),
]


class Surveys(TestCase):
    def test_bad_surveys_are_refused_with_the_place_of_the_fault(self) -> None:
        for raw, place, words in REFUSED:
            with self.subTest(place + words), self.assertRaises(DocumentError) as caught:
                parse_survey(raw)
            message = str(caught.exception)
            self.assertIn(place, message)
            self.assertRegex(message, words or ".")

    def test_a_fault_in_a_reading_has_its_line(self) -> None:
        raw = SURVEY.replace(b'"value": 268435456', b'"value": "lots"')
        with self.assertRaises(DocumentError) as caught:
            parse_survey(raw)
        self.assertEqual(caught.exception.faults[0].line, 38)

    def test_a_backslash_before_such_letters_is_no_nul(self) -> None:
        survey = parse_survey(changed(errors=[{"source": "x", "message": "C:\\u0000"}]))
        self.assertEqual(survey.errors[0].message, "C:\\u0000")

    def test_moment_and_activity_do_not_count_as_change(self) -> None:
        later = changed(taken_at="2026-03-03T08:00:00Z", activity={"idle_seconds": 1})
        self.assertEqual(decode(SURVEY).content(), decode(later).content())
        self.assertNotEqual(decode(SURVEY).content(), decode(changed(errors=[])).content())

    def test_facts_that_are_readings_too_are_derived(self) -> None:
        values = parse_survey(SURVEY).values()
        self.assertEqual(values["driver.version", None], "31.4.2")
        self.assertEqual(values["app.version", "plinthe"], "9.0.4")
