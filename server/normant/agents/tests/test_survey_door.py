import datetime as dt
import gzip
import json
from typing import Any

from django.test import TestCase
from django.utils import timezone

from normant.findings.models import Finding
from normant.seats.models import Presence, Reading, Seat, Survey
from normant.seats.services.edit_register import retire
from normant.seats.services.enrol import offer_enrolment, revoke
from normant.tests.house import House, survey

LIMIT = 2 * 1024 * 1024


class Surveys(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()

    def answer(self) -> tuple[int, int, int]:
        """Rows that surveys leave: surveys, readings, findings."""
        return Survey.objects.count(), Reading.objects.count(), Finding.objects.count()

    def test_a_first_survey_opens_the_findings_of_the_worked_table(self) -> None:
        self.assertEqual(self.house.send().json(), {"changed": True, "orders": 0})
        self.assertEqual(Finding.objects.open().count(), 7)
        self.assertEqual(Seat.objects.get(name="pan-03").off_norm, 7)

    def test_an_unchanged_survey_is_one_statement_and_adds_nothing(self) -> None:
        self.house.send()
        before = self.answer()
        for minute in (1, 2, 3):
            with self.assertNumQueries(2):  # who it is, and that nothing changed
                answer = self.house.send(survey(minutes=minute))
            self.assertEqual(answer.json(), {"changed": False, "orders": 0})
        self.assertEqual(self.answer(), before)

    def test_gzip_is_taken(self) -> None:
        raw = gzip.compress(json.dumps(survey()).encode())
        client = self.house.agent()
        answer = client.post("/api/v1/agent/survey", raw, "application/json", headers={"Content-Encoding": "gzip"})
        self.assertEqual(answer.status_code, 200)

    def test_what_is_overtaken_or_replayed_changes_nothing(self) -> None:
        self.house.send(survey(minutes=1, memory__held_back=8 * 2**30))
        before = self.answer()
        for late in (survey(minutes=0, memory__held_back=1), survey(minutes=-60)):
            self.assertEqual(self.house.send(late).json()["changed"], False)
        self.assertEqual(self.answer(), before)
        self.assertEqual(Reading.objects.current().get(setting="memory.held_back", app="corrow").value, 8 * 2**30)

    def test_a_clock_that_is_behind_is_told(self) -> None:
        behind = []
        for minutes in (-20, 0):
            self.house.send(survey(minutes=minutes))
            behind.append(self.house.client().get("/api/v1/seats/pan-03").json()["clock_behind"])
        self.assertAlmostEqual(behind[0], 1200, delta=30)
        self.assertIsNone(behind[1])

    def test_a_clock_that_was_ahead_for_a_while_bars_no_survey(self) -> None:
        self.house.send(survey(minutes=-3))
        ahead = self.house.send(survey(minutes=120))  # it tells nothing new
        self.assertEqual((ahead.status_code, ahead.json()["title"]), (422, "Clock ahead"))
        Presence.objects.update(taken_at=timezone.now() + dt.timedelta(days=30))  # as an earlier version kept it
        for minutes, value in ((-2, 1), (-1, 2)):
            self.assertTrue(self.house.send(survey(minutes=minutes, memory__held_back=value)).json()["changed"])
        self.assertLess(Presence.objects.get(seat=self.house.seat).taken_at, timezone.now())

    def test_bad_surveys_are_refused_and_leave_nothing(self) -> None:
        revoked, token = self.house.enrolled("pan-09")
        revoke(revoked, "test")
        cases: list[tuple[Any, str, int, str]] = [
            (b"{", "", 422, "line"),
            (b"\xff\xfe", "", 422, "survey"),
            (survey() | {"format": "normant-survey/2"}, "", 422, "format"),
            (survey(memory__held_back="plenty"), "", 422, "readings"),
            (survey() | {"extra": 1}, "", 422, "extra"),
            (survey(seat="pan-04"), "", 403, "belongs to pan-03"),
            (survey(minutes=120), "", 422, "set the seat's clock"),
            (survey(), "guessed", 401, "enrol this seat again"),
            (survey(), token, 401, "enrol this seat again"),
            (b" " * (LIMIT + 1), "", 413, "at most"),
            (gzip.compress(b" " * (LIMIT + 1)), "", 413, "at most"),
            (gzip.compress(b"x")[:5] + b"??", "", 400, "gzip"),
        ]
        for body, who, status, words in cases:
            raw = body if isinstance(body, bytes) else json.dumps(body).encode()
            zipped = {"Content-Encoding": "gzip"} if raw.startswith(b"\x1f\x8b") else {}
            with self.subTest(words):
                client = self.house.agent(who)
                answer = client.post("/api/v1/agent/survey", raw, "application/json", headers=zipped)
                self.assertEqual(answer.status_code, status, answer.content)
                self.assertEqual(answer["Content-Type"], "application/problem+json")
                self.assertIn(words, answer.content.decode())
        self.assertEqual(self.answer(), (0, 0, 0))

    def test_every_fault_of_a_survey_is_told_with_its_path(self) -> None:
        bad = survey()
        bad["readings"][0]["setting"], bad["readings"][1]["value"] = "engine.efects", "lots"
        faults = self.house.send(bad).json()["faults"]
        self.assertEqual([f["path"] for f in faults], ["readings[0].setting", "readings[1].value"])
        self.assertIn("engine.effects", faults[0]["expected"])


class Intervals(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-10))

    def test_a_changed_value_ends_one_interval_and_begins_the_next(self) -> None:
        before = Reading.objects.count()
        self.house.send(survey(minutes=-5, memory__held_back=2**33))
        rows = Reading.objects.filter(setting="memory.held_back", app="corrow").order_by("since")
        first, second = rows
        self.assertEqual((first.until, second.until), (second.since, None))
        self.assertEqual([r.cause for r in rows], ["first seen", "at the seat"])
        self.assertEqual(Reading.objects.count(), before + 1)

    def test_a_finding_closes_because_a_survey_says_so(self) -> None:
        self.house.send(survey(minutes=-5, power__profile="performance"))
        finding = Finding.objects.get(setting="power.profile")
        self.assertEqual((finding.closed_by, finding.closed_at is not None), ("theirs", True))

    def test_what_cannot_be_read_any_more_is_not_in_norm(self) -> None:
        lost = survey(minutes=-5)
        lost["readings"] = [r for r in lost["readings"] if r.get("app") != "corrow"]
        lost["errors"] = [{"source": "dialect:corrow", "message": "preferences.xml: line 3: no closing tag"}]
        self.house.send(lost)
        engine = Seat.objects.get(name="pan-03").levels[0]
        self.assertEqual(engine["status"], "unread")
        self.assertIn("line 3: no closing tag", engine["words"])


class Enrolment(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()

    def redeem(self, code: str) -> Any:
        return self.client.post("/api/v1/agent/enrol", json.dumps({"code": code}), "application/json")

    def test_a_code_is_spent_by_the_first_survey(self) -> None:
        code = offer_enrolment(self.house.seat, "test")
        self.redeem(code)  # this answer got lost
        token = self.redeem(code).json()["token"]
        self.assertEqual(self.house.send(token=token).status_code, 200)
        self.assertEqual(self.redeem(code).status_code, 403)

    def test_a_spent_code_stays_spent_whatever_becomes_of_its_agent(self) -> None:
        code = offer_enrolment(self.house.seat, "test")
        token = self.redeem(code).json()["token"]
        self.house.agent(token).get("/api/v1/agent/dialects")
        for act in (revoke, revoke):
            act(self.house.seat, "test")
            self.assertEqual(self.redeem(code).status_code, 403)

    def test_older_codes_die_with_a_new_one_with_revoking_and_with_retiring(self) -> None:
        first, second = (offer_enrolment(self.house.seat, "test") for _ in range(2))
        self.assertEqual(self.redeem(first).status_code, 403)
        revoke(self.house.seat, "test")
        self.assertEqual(self.redeem(second).status_code, 403)
        third = offer_enrolment(self.house.seat, "test")
        retire(self.house.seat, "test", reason="")
        self.assertEqual(self.redeem(third).status_code, 403)

    def test_a_new_enrolment_takes_the_old_token_away(self) -> None:
        self.redeem(offer_enrolment(self.house.seat, "test"))
        self.assertEqual(self.house.send().status_code, 401)

    def test_tokens_and_codes_are_kept_as_digests_alone(self) -> None:
        code = offer_enrolment(self.house.seat, "test")
        answer = self.redeem(code).json()
        rows = str(list(Presence.objects.values())) + str(list(self.house.seat.enrolment_set.values()))
        self.assertNotIn(code, rows)
        self.assertNotIn(answer["token"], rows)

    def test_a_retired_seat_is_not_enrolled(self) -> None:
        code = offer_enrolment(self.house.seat, "test")
        self.house.client().post("/api/v1/seats/pan-03/retire", "{}", "application/json")
        self.assertEqual(self.redeem(code).status_code, 403)
        again = self.house.client().post("/api/v1/enrolments", '{"seat": "pan-03"}', "application/json")
        self.assertEqual((again.status_code, "has been retired" in again.json()["detail"]), (409, True))

    def test_a_code_can_be_typed_as_it_is_read(self) -> None:
        for _ in range(50):
            self.assertRegex(offer_enrolment(self.house.seat, "test"), r"^[2-9a-z]{4}(-[2-9a-z]{4}){3}$")

    def test_unknown_and_malformed_codes_are_refused(self) -> None:
        self.assertEqual(self.redeem("guessed").status_code, 403)
        answer = self.client.post("/api/v1/agent/enrol", "[]", "application/json")
        self.assertEqual(answer.status_code, 422)
