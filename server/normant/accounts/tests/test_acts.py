import datetime as dt
import json
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from unittest import TestCase as PlainTestCase

from django.test import TestCase
from django.utils import timezone

from normant.accounts.models import Act
from normant.accounts.permissions import Role
from normant.errands.models import Errand
from normant.ledger.models import Entry
from normant.tests.house import House
from normant.tests.served import served

ERRAND = {"seat": "pan-03", "does": "Look at the cable", "steps": ["Follow it"]}


class OneAct(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def give(self, key: str, role: Role = Role.SUPERVISOR, **other: Any) -> Any:
        headers = {"Idempotency-Key": key}
        body = json.dumps({**ERRAND, **other})
        return self.house.client(role).post("/api/v1/errands/by-hand", body, "application/json", headers=headers)

    def test_under_one_key_it_is_done_once_and_answered_alike(self) -> None:
        first, second = self.give("a"), self.give("a")
        self.assertEqual((first.status_code, first.json()), (second.status_code, second.json()))
        self.assertEqual((second["Idempotent-Replay"], Errand.objects.count()), ("true", 1))
        self.assertEqual(self.give("a", does="Another").json()["title"], "Key used")
        self.give("a", Role.ADMINISTRATOR)  # keys are each person's own
        self.give("b")
        self.assertEqual(Errand.objects.count(), 3)

    def test_what_was_refused_is_not_kept_and_leaves_nothing(self) -> None:
        entries = Entry.objects.count()
        self.assertEqual(self.give("c", seat="nowhere").status_code, 422)
        self.assertEqual((Act.objects.count(), Entry.objects.count()), (0, entries))
        self.assertEqual(self.give("c").status_code, 200)

    def test_a_secret_that_is_shown_once_is_not_kept(self) -> None:
        client = self.house.client()

        def enrol() -> Any:
            headers = {"Idempotency-Key": "d"}
            return client.post("/api/v1/enrolments", '{"seat": "pan-03"}', "application/json", headers=headers)

        offered = Entry.objects.filter(action="offer enrolment")
        before = offered.count()
        code, again = enrol().json()["code"], enrol()
        self.assertEqual((again.status_code, again.json()["title"]), (409, "Done already"))
        self.assertNotIn(code.encode(), bytes(Act.objects.get().body))
        self.assertEqual(offered.count() - before, 1)

    def test_a_key_that_is_none_is_told(self) -> None:
        self.assertEqual(self.give("x" * 81).status_code, 422)


class AtOnce(PlainTestCase):
    """Against a real server: what happens at the same instant."""

    def ask(self, path: str, body: dict[str, Any], **headers: str) -> Any:
        with served().client("supervisor") as client:
            return client.post(f"/api/v1/{path}", json=body, headers=headers)

    def at_once(self, path: str, body: dict[str, Any], **headers: str) -> list[Any]:
        with ThreadPoolExecutor(6) as pool:
            return list(pool.map(lambda _: self.ask(path, body, **headers), range(6)))

    def test_six_equal_acts_at_once_are_one(self) -> None:
        with served().client("supervisor") as client:
            findings = client.get("/api/v1/findings").json()["items"]
        held = next(f for f in findings if f["setting"] == "memory.held_back")
        place = {"setting": held["setting"], "app": held["app"]}
        until = {"reason": "at once", "ends_at": (timezone.now() + dt.timedelta(days=9)).isoformat()}
        waived = self.at_once("waivers", {"places": [place], "seats": ["pan-03"], **until})
        self.assertEqual({answer.status_code for answer in waived}, {200}, waived[0].text)
        self.assertEqual(len({answer.json()["items"][0]["id"] for answer in waived}), 1)
        power = [f["id"] for f in findings if f["setting"] == "power.profile"]
        seen = self.ask("rollouts/plan", {"findings": power}).json()["digest"]
        started = self.at_once("rollouts", {"findings": power, "seen": seen})
        self.assertEqual(len({answer.json()["id"] for answer in started}), 1)
        given = self.at_once("errands/by-hand", ERRAND, **{"Idempotency-Key": "at-once"})
        self.assertEqual(len({answer.text for answer in given}), 1)
