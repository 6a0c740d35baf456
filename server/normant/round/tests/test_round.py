import datetime as dt
import json
from typing import Any
from unittest.mock import patch

from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.deliveries.models import EndedProduction
from normant.findings.models import Finding
from normant.round.items import FEW
from normant.seats.models import Presence, Seat
from normant.tests.house import House, survey

LONG_AGO = dt.timedelta(days=3)


class TheRound(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-30))
        cls.other, cls.token = cls.house.enrolled("pan-04")

    def answer(self) -> dict[str, Any]:
        answer: dict[str, Any] = self.house.client(Role.ASSISTANT).get("/api/v1/round").json()
        return answer

    def behind(self, title: str) -> Any:
        return self.house.client(Role.ASSISTANT).get("/api/v1/round/findings", {"title": title})

    def test_a_seat_that_was_off_norm_before_has_not_left_since(self) -> None:
        self.assertIn("1 seat went off norm", self.answer()["sentence"])
        Finding.objects.update(opened_at=timezone.now() - LONG_AGO)
        self.assertIn("0 seats went off norm, 0 came back", self.answer()["sentence"])

    def test_what_an_ended_production_still_holds_is_told_until_it_is_live_again(self) -> None:
        def held(size: int, minutes: float) -> list[tuple[str, str]]:
            body = survey(minutes=minutes)
            shares = [{"production": "quay_nights", "size": size}, {"production": "mill", "size": 10**12}]
            store = {**body["stores"][0], "productions": shares}
            self.assertLess(self.house.send({**body, "stores": [store]}).status_code, 300)
            items = self.answer()["items"]
            return [(item["title"], item["production"]) for item in items if item["kind"] == "ended"]

        self.assertEqual(held(10**11, -9), [])
        person = self.house.people[Role.SUPERVISOR]
        about = {"name": "Quay Nights", "key": "quaynights", "ended_at": timezone.now(), "ended_by": person}
        EndedProduction.objects.create(**about)
        self.assertEqual(held(10**11, -8), [("Quay Nights has ended and still holds 100 GB", "Quay Nights")])
        self.assertEqual(held(10**8, -7), [])
        Seat.objects.filter(name="pan-04").update(production="Quay Nights")
        self.assertEqual(held(10**11, -6), [])

    def test_a_seat_came_back_when_its_last_finding_closed(self) -> None:
        Finding.objects.update(opened_at=timezone.now() - LONG_AGO)
        first, *others = Finding.objects.open()
        first.closed_at, first.closed_by = timezone.now(), "theirs"
        first.save()
        self.assertIn("0 came back", self.answer()["sentence"])
        for finding in others:
            finding.closed_at, finding.closed_by = timezone.now(), "theirs"
            finding.save()
        self.assertIn("1 came back. No decisions needed.", self.answer()["sentence"])

    def test_one_cause_on_two_seats_is_one_thing(self) -> None:
        self.house.send(survey(seat="pan-04"), self.token)
        items = self.answer()["items"]
        self.assertEqual([item["seats"] for item in items], [["pan-03", "pan-04"]])
        self.assertEqual(items[0]["title"], "7 settings off norm on 2 seats")
        self.assertEqual(len(items[0]["findings"]), 14)

    def test_an_item_of_one_seat_says_how_many_of_its_settings_it_has(self) -> None:
        self.house.send(survey(seat="pan-04"), self.token)
        shared = Finding.objects.open().filter(seat__name="pan-04").first()
        assert shared
        others = Finding.objects.open().filter(seat__name="pan-04").exclude(pk=shared.pk)
        others.update(closed_at=timezone.now(), closed_by="theirs")
        self.assertIn("6 of 7 settings off norm on pan-03", [item["title"] for item in self.answer()["items"]])

    def test_of_many_findings_some_are_told_one_by_one_and_all_can_be_corrected(self) -> None:
        self.house.send(survey(seat="pan-04"), self.token)
        with patch("normant.round.items.LINES", 3):
            item = self.answer()["items"][0]
        self.assertEqual((len(item["findings"]), item["count"], len(item["settings"])), (3, 14, 7))
        behind = self.behind(item["title"]).json()
        self.assertEqual(set(behind["ids"]), set(Finding.objects.open().values_list("pk", flat=True)))
        self.assertEqual(behind["seats"], ["pan-03", "pan-04"])

    def test_of_an_item_that_is_settled_by_now_one_is_told_so(self) -> None:
        title = self.answer()["items"][0]["title"]
        Finding.objects.all().delete()
        answer = self.behind(title)
        self.assertEqual(answer.status_code, 404)
        self.assertIn("reload the Round", answer.json()["detail"])

    def test_without_a_title_everything_that_wants_a_decision_is_behind_it(self) -> None:
        everything = self.behind("").json()
        self.assertEqual(len(everything["ids"]), Finding.objects.open().count())
        Finding.objects.all().delete()
        self.assertEqual(self.behind("").json(), {"ids": [], "seats": []})

    def test_many_seats_of_an_item_are_counted_and_some_are_named(self) -> None:
        self.house.send(survey(seat="pan-04"), self.token)
        with patch("normant.round.api.NAMED", 1):
            item = self.answer()["items"][0]
        self.assertEqual((item["seats"], item["seat_count"]), (["pan-03"], 2))

    def test_a_house_that_falls_silent_is_one_thing(self) -> None:
        Finding.objects.all().delete()
        seen = timezone.now() - dt.timedelta(days=9)
        for number in range(FEW + 1):
            seat = Seat.objects.create(name=f"eddy-{number:02}", role="offline")
            Presence.objects.create(seat=seat, seen_at=seen + dt.timedelta(minutes=number))
            if number == FEW - 1:
                titles = [item["title"] for item in self.answer()["items"]]
                self.assertEqual(titles, [f"eddy-{n:02} is not responding" for n in range(FEW)])
        (item,) = self.answer()["items"]
        self.assertEqual((item["title"], item["seat_count"]), ("13 seats are not responding", FEW + 1))
        self.assertEqual(dt.datetime.fromisoformat(item["since"]), seen + dt.timedelta(minutes=FEW))

    def test_each_line_tells_its_own_seats_bounds(self) -> None:
        Finding.objects.exclude(setting="memory.held_back").delete()
        larger = survey(seat="pan-04")
        larger["facts"] = {**larger["facts"], "memory": {**larger["facts"]["memory"], "total": 2**37}}
        self.house.send(larger, self.token)
        Finding.objects.exclude(setting="memory.held_back").delete()
        item = self.answer()["items"][0]
        self.assertEqual(
            [(line["seat"], line["fix"]) for line in item["findings"]], [("pan-03", "6.4 GiB"), ("pan-04", "12.8 GiB")]
        )

    def test_what_changed_overnight_is_told_with_its_cause(self) -> None:
        Finding.objects.exclude(setting="power.profile").update(opened_at=timezone.now() - LONG_AGO)
        rows = [(h["title"], h["how"], h["by"]) for h in self.answer()["overnight"]]
        self.assertEqual(rows, [("Power profile went off norm on pan-03, changed at the seat", "left", "theirs")])

    def test_a_reading_that_comes_and_goes_is_one_thing_and_not_news_each_morning(self) -> None:
        finding = Finding.objects.get(setting="power.profile")
        Finding.objects.exclude(pk=finding.pk).delete()
        for days in range(1, 6):
            opened = timezone.now() - dt.timedelta(days=days)
            more = {"closed_at": opened + dt.timedelta(hours=2), "closed_by": "theirs"}
            fields = {
                "seat": finding.seat,
                "setting": finding.setting,
                "severity": "should",
                "verdict": finding.verdict,
                "cause": finding.cause,
            }
            Finding.objects.create(**fields, opened_at=opened, opened_by="theirs", **more)
        fields = self.answer()
        self.assertEqual(
            [(i["kind"], i["title"]) for i in fields["items"]], [("flapping", "Power profile keeps changing on pan-03")]
        )
        self.assertIn("it left the norm 6 times in 14 days", fields["items"][0]["words"])
        self.assertEqual([line["id"] for line in fields["items"][0]["findings"]], [finding.pk])
        self.assertEqual(fields["overnight"], [])
        self.assertIn("0 seats went off norm", fields["sentence"])

    def test_what_needs_hands_is_told_as_such(self) -> None:
        lines = [line for item in self.answer()["items"] for line in item["findings"]]
        self.assertEqual({line["remote"] for line in lines}, {True})


class Doors(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def post(self, path: str, body: Any) -> Any:
        raw = body if isinstance(body, str) else json.dumps(body)
        return self.house.client().post(f"/api/v1/{path}", raw, "application/json")

    def test_bad_requests_are_problems_that_say_what_was_expected(self) -> None:
        finding = Finding.objects.open()[0].pk
        cases: list[tuple[str, Any, int, str]] = [
            ("rollouts/plan", {}, 422, "findings"),
            ("rollouts/plan", {"findings": []}, 422, "findings"),
            ("rollouts/plan", {"findings": ["many"]}, 422, "findings.0"),
            ("rollouts/plan", {"findings": [999999]}, 409, "have been resolved"),
            ("rollouts/plan", "{", 400, "parse"),
            ("rollouts", {"findings": [finding]}, 422, "seen"),
            ("rollouts", {"findings": [finding], "seen": "another"}, 409, "review it again"),
            ("rollouts", {"findings": [finding], "seen": "x", "title": "t" * 201}, 422, "title"),
            ("rollouts/99/halt", {}, 404, "no rollout 99"),
            ("rollouts/99/put-back", {}, 404, "no rollout 99"),
            ("seats/pan-99/survey", {}, 404, "no seat pan-99"),
            ("standard/try", {"text": "x" * 400_001}, 422, "text"),
            ("standard/try", {"text": "["}, 422, "TOML"),
        ]
        for path, body, status, words in cases:
            with self.subTest(f"{path} {str(body)[:40]}"):
                answer = self.post(path, body)
                shown = (answer.status_code, answer["Content-Type"])
                self.assertEqual(shown, (status, "application/problem+json"), answer.content)
                self.assertIn(words, answer.content.decode())

    def test_agents_that_say_nonsense_are_told_so(self) -> None:
        agent = self.house.agent()
        for path, body in (
            ("orders/1/progress", {"step": "waiting"}),
            ("orders/1/progress", {"step": "dancing"}),
            ("orders/1/receipt", {"order": "2", "outcome": "done"}),
            ("orders/1/receipt", {"order": "1", "outcome": "perhaps"}),
        ):
            with self.subTest(f"{path} {body}"):
                answer = agent.post(f"/api/v1/agent/{path}", json.dumps(body), "application/json")
                self.assertIn(answer.status_code, (404, 422))
                self.assertEqual(answer["Content-Type"], "application/problem+json")
