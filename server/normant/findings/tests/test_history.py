import datetime as dt
from typing import Any

from django.test import TestCase
from django.utils import timezone

from normant.findings.models import Finding
from normant.tests.house import House, survey

HELD = "memory.held_back"


class ThePast(TestCase):
    """pan-03 an hour ago, half an hour ago with more held back, and now with another driver."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-60))
        cls.house.send(survey(minutes=-30, memory__held_back=8 * 2**30))
        now = survey(minutes=-1, memory__held_back=8 * 2**30)
        gpus = [{**now["facts"]["gpus"][0], "driver": {"version": "32.0.1", "branch": "swift"}}]
        cls.house.send({**now, "facts": {**now["facts"], "gpus": [*gpus, *now["facts"]["gpus"][1:]]}})

    def _answer(self, path: str, **query: Any) -> Any:
        answer = self.house.client().get(f"/api/v1{path}", query)
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def _ago(self, minutes: float) -> str:
        return (timezone.now() - dt.timedelta(minutes=minutes)).isoformat()

    def _row(self, record: dict[str, Any]) -> dict[str, Any]:
        rows = [row for family in record["families"] for row in family["rows"]]
        return next(row for row in rows if (row["setting"], row["app"]) == (HELD, "corrow"))

    def test_a_seat_is_told_as_it_was_and_judged_as_today(self) -> None:
        rows = [self._row(self._answer("/seats/pan-03", at=self._ago(minutes))) for minutes in (45, 15)]
        self.assertEqual(
            [(row["reading"], row["status"]) for row in rows], [("1.5 GiB", "off-norm"), ("8 GiB", "in-norm")]
        )

    def test_before_the_first_survey_there_is_nothing(self) -> None:
        self.assertIsNone(self._answer("/seats/pan-03", at=self._ago(120))["facts"])

    def test_the_whole_house_is_told_as_it_was(self) -> None:
        answers = [self._answer("/readings", setting=HELD, app="corrow", **at) for at in ({"at": self._ago(45)}, {})]
        self.assertEqual([answer["items"][0]["value"] for answer in answers], [1610612736, 8 * 2**30])

    def test_every_change_is_told_with_its_cause(self) -> None:
        changes = self._answer("/seats/pan-03/changes")["items"]
        self.assertEqual(
            [(c["setting"], c["before"], c["after"], c["cause"]) for c in changes],
            [
                ("driver.released", "2025-08-02", None, "unread"),
                ("driver.version", "31.4.2", "32.0.1", "version"),
                (HELD, "1.5 GiB", "8 GiB", "at the seat"),
            ],
        )

    def test_a_seat_beside_itself_an_hour_ago(self) -> None:
        answer = self._answer("/seats/pan-03/compare", other="pan-03", other_at=self._ago(45))
        self.assertEqual([d["setting"] for d in answer["differences"]][:2], ["driver.version", HELD])
        self.assertEqual(answer["differences"][1]["theirs"], "1.5 GiB")

    def test_a_seat_beside_its_healthy_peers(self) -> None:
        healthy = {
            "engine.effects": "hadrel", HELD: 8 * 2**30, "memory.preview_pool": 16 * 2**30, "power.profile": "performance",
            "store.source_cache.path": "/fast/corrow", "playback.scale": "1/2", "delivery.full_raw": True,
        }  # fmt: skip
        for name in ("pan-01", "pan-02"):
            _, token = self.house.enrolled(name)
            body = survey(seat=name, **{key.replace(".", "__"): value for key, value in healthy.items()})
            gpu, *others = body["facts"]["gpus"]
            body["facts"] = {**body["facts"], "gpus": [{**gpu, "memory": 2**36}, *others]}
            self.house.send(body, token)
        answer = self._answer("/seats/pan-03/compare")
        part = next(d for d in answer["differences"] if d["family"] == "machine")
        self.assertEqual((part["title"], part["theirs"], part["sharing"]), ("GPU gpu0 memory", "64 GiB", 0))
        self.assertNotIn("gpu gpu0 memory", [fact["name"] for fact in answer["facts"]])
        self.assertEqual(answer["peers"]["names"], ["pan-01", "pan-02"])
        self.assertIn(
            "Most likely Driver version: 32.0.1 here, 31.4.2 there; 0 of 2 peers have this value", answer["sentence"]
        )
        corrected = next(d for d in answer["differences"] if d["setting"] == "power.profile")
        finding = Finding.objects.open().get(seat__name="pan-03", setting="power.profile")
        self.assertEqual(corrected["finding"], finding.pk)
        self.assertEqual({d["effect"] for d in answer["differences"]} - {"strong", "moderate", "weak", "none"}, set())
        past = self._answer("/seats/pan-03/compare", at=self._ago(0))
        self.assertEqual({d["finding"] for d in past["differences"]}, {None})

    def test_without_healthy_peers_it_says_so(self) -> None:
        answer = self.house.client().get("/api/v1/seats/pan-03/compare")
        self.assertEqual((answer.status_code, answer.json()["title"]), (409, "No healthy peers"))
