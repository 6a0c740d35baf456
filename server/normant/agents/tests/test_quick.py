import datetime as dt
import gzip
import json
import random
from typing import Any

from django.db import connection
from django.test import TestCase
from django.utils import timezone

from normant.agents.quick import PLAIN, Asked
from normant.agents.services.hand_in import UNCHANGED
from normant.findings.jobs import judge_unjudged
from normant.findings.models import Finding
from normant.findings.services.evaluate import evaluate
from normant.orders.services.issue import issue_survey_now
from normant.seats.models import Presence, Reading, Seat, Survey
from normant.seats.services.take_survey import TAKE, question
from normant.standards.current import current_judge
from normant.tests.house import House, survey


class ShortWay(TestCase):
    """What the shell asks by itself, and which requests it leaves to Django."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-40))
        cls.since = timezone.now() - dt.timedelta(minutes=35)

    def _answer(self, body: dict[str, Any] | bytes, **headers: str) -> str:
        """What the shell's statements come to: unchanged, changed, or the long way."""
        raw = body if isinstance(body, bytes) else json.dumps(body).encode()
        given = {"authorization": f"Bearer {self.house.token}", **headers}
        asked = Asked.of({name.replace("_", "-").encode(): value.encode() for name, value in given.items()}, raw)
        if asked is None:
            return "the long way"
        with connection.cursor() as cursor:
            cursor.execute(UNCHANGED, asked.unchanged)
            if cursor.fetchone():
                return "unchanged"
            if asked.is_sound():
                cursor.execute(PLAIN, asked.plain)
                if row := cursor.fetchone():
                    cursor.execute(TAKE, question(row[0], asked.survey, asked.body, asked.digest))
                    return "changed"
        return "the long way"

    def test_a_survey_that_tells_nothing_new_moves_last_seen(self) -> None:
        same = survey(minutes=-5)
        self.assertEqual(self._answer(same), "unchanged")
        taken = Presence.objects.get().taken_at
        self.assertEqual(taken and taken.isoformat(), same["taken_at"])

    def test_it_may_come_packed(self) -> None:
        raw = gzip.compress(json.dumps(survey(minutes=-5)).encode())
        self.assertEqual(self._answer(raw, content_encoding="gzip"), "unchanged")

    def test_whatever_is_not_plain_goes_the_long_way(self) -> None:
        plain = json.dumps(survey(minutes=-5)).encode()
        cases: dict[str, tuple[dict[str, Any] | bytes, dict[str, str]]] = {
            "older": (survey(minutes=-50), {}),
            "a value that is none": (survey(minutes=-5, memory__held_back="lots"), {}),
            "a setting that is none": ({**survey(), "readings": [{"setting": "engine.nothing", "value": 1}]}, {}),
            "NUL in a text": ({**survey(minutes=-5), "errors": [{"source": "x", "message": "a\0b"}]}, {}),
            "in the future": (survey(minutes=60, memory__held_back=2**33), {}),
            "in the future, and nothing new": (survey(minutes=60), {}),
            "a number beyond all": (survey(minutes=-5, memory__held_back=10**400), {}),
            "another seat": (survey(minutes=-5, seat="pan-04"), {}),
            "a stranger": (plain, {"authorization": "Bearer nobody"}),
            "no token": (plain, {"authorization": ""}),
            "broken": (plain[:-3], {}),
            "no gzip": (plain, {"content_encoding": "gzip"}),
            "too large": (plain + b" " * 2**21, {}),
        }
        before = self._rows()
        for name, (body, headers) in cases.items():
            with self.subTest(name):
                self.assertEqual(self._answer(body, **headers), "the long way")
        self.assertEqual(self._rows(), before)

    def test_a_seat_with_orders_goes_the_long_way(self) -> None:
        issue_survey_now(self.house.seat)
        self.assertEqual(self._answer(survey(minutes=-5, memory__held_back=2**33)), "the long way")

    def test_news_are_kept_at_once_and_judged_each_as_of_its_own_moment(self) -> None:
        self.house.send(survey(minutes=-35, delivery__full_raw=True))
        wrong, right, gone = survey(minutes=-30), *(survey(minutes=at, delivery__full_raw=True) for at in (-20, -10))
        gone["readings"] = [r for r in gone["readings"] if r["setting"] != "memory.held_back"]
        for body in (wrong, right, gone):
            self.assertEqual(self._answer(body), "changed")
        findings = Finding.objects.filter(setting="delivery.full_raw", opened_at__gte=wrong["taken_at"])
        self.assertFalse(findings.exists())
        judge_unjudged()
        finding = findings.get()
        body = (finding.opened_at.isoformat(), finding.closed_at and finding.closed_at.isoformat())
        self.assertEqual(body, (wrong["taken_at"], right["taken_at"]))
        self.assertEqual((finding.opened_by, finding.closed_by), ("theirs", "theirs"))
        held = Finding.objects.get(setting="memory.held_back")
        self.assertEqual(held.closed_at and held.closed_at.isoformat(), gone["taken_at"])
        self.assertFalse(Presence.objects.exclude(unjudged_since=None).exists())
        self.assertEqual(Seat.objects.get().off_norm, Finding.objects.open().count())

    def test_a_new_standard_judges_what_was_waiting_first_and_once(self) -> None:
        self.house.send(survey(minutes=-35, delivery__full_raw=True))
        wrong = survey(minutes=-30)
        self.assertEqual(self._answer(wrong), "changed")
        judge = current_judge()
        assert judge
        evaluate(self.house.seat, judge)
        finding = Finding.objects.open().get(setting="delivery.full_raw")
        self.assertEqual((finding.opened_at.isoformat(), finding.opened_by), (wrong["taken_at"], "theirs"))
        before = list(Finding.objects.values())
        judge_unjudged()
        self.assertEqual(list(Finding.objects.values()), before)
        self.assertIsNone(Presence.objects.get().unjudged_since)

    def test_both_ways_come_to_the_same(self) -> None:
        """Whatever a seat tells: intervals, findings with who opened and closed them, and its levels."""
        values: dict[str, list[Any]] = {
            "memory__held_back": [2**30, 2**33, 7 * 2**30],
            "power__profile": ["balanced", "performance", "power-saver"],
            "playback__scale": ["1/1", "1/2", "1/4"],
            "delivery__full_raw": [True, False],
        }
        other, token = self.house.enrolled("pan-04")
        self.house.send(survey(minutes=-40, seat="pan-04"), token)
        chance = random.Random(15)
        for minutes in range(-30, -5):
            changed = {name: chance.choice(some) for name, some in values.items() if chance.random() < 0.4}
            body = survey(minutes=minutes, **changed)
            if chance.random() < 0.2:  # something is no longer read
                body["readings"] = [r for r in body["readings"] if r["setting"] != "memory.held_back"]
            self.assertIn(self._answer(body), ("changed", "unchanged"))
            self.house.send({**body, "seat": "pan-04"}, token)
            if chance.random() < 0.3:
                judge_unjudged()
        judge_unjudged()
        quick, long = (self._record_of(seat) for seat in (self.house.seat, other))
        self.assertGreater(len(quick["findings"]), 10)
        self.assertEqual(quick, long)

    def _record_of(self, seat: Seat) -> dict[str, Any]:
        of_reading = ("setting", "app", "value", "native", "since", "until", "cause")
        of_finding = (
            "setting",
            "app",
            "severity",
            "verdict",
            "cause",
            "opened_at",
            "opened_by",
            "closed_at",
            "closed_by",
        )
        readings = Reading.objects.filter(seat=seat).order_by("setting", "app", "since").values(*of_reading)
        findings = Finding.objects.filter(seat=seat).order_by("setting", "app", "opened_at").values(*of_finding)
        seat.refresh_from_db()
        # The first survey of each was taken in the moment that its test began.
        return {
            "readings": [{**row, "since": max(row["since"], self.since)} for row in readings],
            "findings": [{**row, "opened_at": max(row["opened_at"], self.since)} for row in findings],
            "levels": seat.levels,
            "off_norm": seat.off_norm,
        }

    def _rows(self) -> tuple[int, int]:
        return Reading.objects.count(), Survey.objects.count()
