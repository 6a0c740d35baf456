import base64
import datetime as dt
from typing import Any

from django.test import TestCase
from django.utils import timezone

from normant.seats.models import Room
from normant.tests.house import House, survey

OFF, WAIVED = 4, 3


class TheGrid(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-90, memory__held_back=2**33))
        cls.house.send(survey(minutes=-30))
        _, token = cls.house.enrolled("pan-01")
        cls.house.send(survey(minutes=-20, seat="pan-01", power__profile="performance"), token)
        Room.objects.create(name="Pan House", position=1)

    def grid(self, at: dt.datetime | None = None) -> Any:
        return self.house.client().get("/api/v1/drift", {"at": at.isoformat()} if at else {}).json()

    def cell(self, answer: Any, setting: str, seat: str) -> int:
        row = next(number for number, row in enumerate(answer["rows"]) if row["setting"] == setting)
        column = [seat_row["name"] for seat_row in answer["seats"]].index(seat)
        return base64.b64decode(answer["cells"])[row * len(answer["seats"]) + column]

    def test_it_says_how_every_setting_stands_on_every_seat(self) -> None:
        answer = self.grid()
        self.assertEqual([seat["name"] for seat in answer["seats"]], ["pan-01", "pan-03"])
        self.assertEqual(len(base64.b64decode(answer["cells"])), 2 * len(answer["rows"]))
        self.assertEqual([self.cell(answer, "power.profile", seat) & 7 for seat in ("pan-01", "pan-03")], [1, OFF])
        self.assertEqual(answer["sentence"], "13 readings off norm on 2 seats, from 7 causes.")
        of = base64.b64decode(answer["cause_of"])
        self.assertEqual(len(of), 2 * 13)
        self.assertEqual({of[n] for n in range(0, 26, 2)}, set(range(7)))

    def test_a_past_moment_shows_the_house_as_it_was(self) -> None:
        before = timezone.now() - dt.timedelta(minutes=60)
        answer = self.grid(before)
        self.assertEqual([seat["name"] for seat in answer["seats"]], ["pan-03"])
        self.assertEqual(self.cell(answer, "memory.held_back", "pan-03") & 7, 1)
        self.assertEqual(self.cell(self.grid(), "memory.held_back", "pan-03") & 7, OFF)

    def test_a_cell_tells_its_words_and_its_finding(self) -> None:
        asked = {"seat": "pan-03", "setting": "memory.held_back", "app": "corrow"}
        answer = self.house.client().get("/api/v1/drift/cell", asked).json()
        self.assertEqual(
            answer["words"], "Memory reserve is 1.5 GiB, house standard: at least 6.4 GiB, 4.3 times too small"
        )
        self.assertEqual((answer["fix"], answer["opened_by"]), ("6.4 GiB", "theirs"))
        asked["seat"] = "pan-99"
        self.assertEqual(self.house.client().get("/api/v1/drift/cell", asked).status_code, 404)

    def test_what_was_selected_gives_its_findings(self) -> None:
        places = [{"setting": "power.profile", "app": None, "seats": ["pan-01", "pan-03"]}]
        answer = self.house.client().post("/api/v1/drift/findings", {"places": places}, "application/json").json()
        self.assertEqual([(f["seat"], f["setting"]) for f in answer["items"]], [("pan-03", "power.profile")])
