import gzip
import json

from django.db import connection
from django.test import TestCase

from normant.agents.quick import question
from normant.agents.services.hand_in import UNCHANGED
from normant.seats.models import Presence
from normant.tests.house import House, survey


class ShortWay(TestCase):
    """What the shell asks by itself, and which requests it leaves to Django."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-10))

    def _answer(self, raw: bytes, **headers: str) -> int | None:
        """How many orders wait, None where the long way must answer."""
        given = {"authorization": f"Bearer {self.house.token}", **headers}
        asked = question({name.replace("_", "-").encode(): value.encode() for name, value in given.items()}, raw)
        if asked is None:
            return None
        with connection.cursor() as cursor:
            cursor.execute(UNCHANGED, asked)
            row = cursor.fetchone()
        return row[0] if row else None

    def test_a_survey_that_tells_nothing_new_moves_last_seen(self) -> None:
        same = survey(minutes=-5)
        self.assertEqual(self._answer(json.dumps(same).encode()), 0)
        taken = Presence.objects.get().taken_at
        self.assertEqual(taken and taken.isoformat(), same["taken_at"])

    def test_it_may_come_packed(self) -> None:
        raw = gzip.compress(json.dumps(survey(minutes=-5)).encode())
        self.assertEqual(self._answer(raw, content_encoding="gzip"), 0)

    def test_whatever_is_not_plain_goes_the_long_way(self) -> None:
        plain = json.dumps(survey(minutes=-5)).encode()
        cases: dict[str, tuple[bytes, dict[str, str]]] = {
            "news": (json.dumps(survey(minutes=-5, memory__held_back=2**33)).encode(), {}),
            "older": (json.dumps(survey(minutes=-20)).encode(), {}),
            "a stranger": (plain, {"authorization": "Bearer nobody"}),
            "no token": (plain, {"authorization": ""}),
            "broken": (plain[:-3], {}),
            "no gzip": (plain, {"content_encoding": "gzip"}),
            "too large": (plain + b" " * 2**21, {}),
        }
        for name, (raw, headers) in cases.items():
            with self.subTest(name):
                self.assertIsNone(self._answer(raw, **headers))
