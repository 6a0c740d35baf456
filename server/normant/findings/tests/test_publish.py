import json
from typing import Any

from django.test import TestCase

from normant.findings.jobs import reevaluate
from normant.findings.models import Finding
from normant.ledger.models import Entry
from normant.seats.models import Seat
from normant.standards.models import Edition
from normant.tests.house import STANDARD, House, survey

LOOSER = STANDARD.replace('want = "performance"', 'want = "balanced"')


class Publishing(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def post(self, path: str, **body: Any) -> Any:
        return self.house.client().post(f"/api/v1/standard/{path}", json.dumps(body), "application/json")

    def test_the_impact_is_said_before_anything_is_published(self) -> None:
        answer = self.post("try", text=LOOSER).json()
        self.assertEqual(answer["impact"]["sentence"], "This would close 1 finding on 1 seat; 6 would stay.")
        self.assertEqual([(s["name"], s["closes"]) for s in answer["impact"]["rooms"]], [("Pan House", 1)])
        self.assertEqual((Edition.objects.count(), Finding.objects.open().count()), (1, 7))

    def test_publishing_judges_every_seat_anew(self) -> None:
        self.assertEqual(self.post("publish", text=LOOSER, base=1, note="quieter").json(), {"number": 2})
        reevaluate(edition=2)
        self.assertEqual([(f.setting, f.closed_by) for f in Finding.objects.closed()], [("power.profile", "standard")])
        self.assertEqual(Entry.objects.first().action, "publish edition")  # type: ignore[union-attr]

    def test_faults_are_told_in_their_places_and_nothing_is_kept(self) -> None:
        for path in ("try", "publish"):
            answer = self.post(path, text=STANDARD.replace("power.profile", "power.profil"), base=1)
            self.assertEqual(answer.status_code, 422)
            fault = answer.json()["faults"][0]
            self.assertEqual((fault["line"], fault["column"]), (8, 11))
            self.assertIn("power.profile", fault["expected"])
        self.assertEqual(Edition.objects.count(), 1)

    def test_an_edition_that_began_from_an_old_one_is_refused(self) -> None:
        self.post("publish", text=LOOSER, base=1)
        answer = self.post("publish", text=STANDARD, base=1)
        self.assertEqual((answer.status_code, answer.json()["title"]), (409, "Somebody was faster"))

    def test_impact_follows_the_house_as_it_is_at_this_moment(self) -> None:
        def closes() -> int:
            return sum(part["count"] for part in self.post("try", text=LOOSER).json()["impact"]["parts"])

        self.assertEqual(closes(), 1)
        self.house.send(survey(minutes=1, power__profile="performance"))
        self.assertEqual(closes(), 1)  # that one opens now
        Seat.objects.filter(name="pan-03").update(role="comp")
        quiet = STANDARD.replace("when = \"seat.role == 'offline'\"", "when = \"seat.role == 'comp'\"")
        self.assertIn("engine.effects", {p["setting"] for p in self.post("try", text=quiet).json()["impact"]["parts"]})
        _, token = self.house.enrolled("pan-04")
        self.house.send(survey(seat="pan-04"), token)
        self.assertEqual(self.post("try", text=LOOSER).json()["impact"]["seats"], 2)


class TooDeep(TestCase):
    """A rule that no reader follows is not published; where one is in force all the same, it is told and can be left."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def deep(self) -> str:
        return STANDARD.replace("max(4 GiB, 10 % of memory.total)", " + ".join(["1 GiB"] * 215))

    def post(self, path: str, **body: Any) -> Any:
        return self.house.client().post(f"/api/v1/standard/{path}", json.dumps(body), "application/json")

    def test_it_is_refused_with_its_place(self) -> None:
        answer = self.post("publish", text=self.deep(), base=1, note="")
        self.assertEqual(answer.status_code, 422)
        self.assertTrue(answer.json()["faults"][0]["line"])
        self.assertEqual(Edition.objects.count(), 1)

    def test_one_in_force_stops_no_page_and_is_left(self) -> None:
        Edition.objects.filter(number=1).update(text=self.deep())  # as of before bounds were
        self.house.send()
        reevaluate(edition=1)
        client = self.house.client()
        for path in ("seats/pan-03", "drift", "templates", "round", "standard", "findings", "standard/editions/1"):
            with self.subTest(path):
                self.assertEqual(client.get(f"/api/v1/{path}").status_code, 200)
        self.assertEqual(self.post("publish", text=STANDARD, base=1, note="back").json(), {"number": 2})
        reevaluate(edition=2)
        self.assertEqual(client.get("/api/v1/seats/pan-03").status_code, 200)
