"""Where the stores of a seat would lie best, through the API."""

from typing import Any

from django.test import TestCase

from normant.accounts.permissions import Role
from normant.tests.house import House, survey

GB = 10**9


class Placement(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()

    def placed(self, status: int = 200, role: Role = Role.SUPERVISOR) -> Any:
        answer = self.house.client(role).get("/api/v1/seats/pan-03/placement")
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def test_the_worked_seat_moves_its_cache_off_the_system_disk(self) -> None:
        self.house.send()
        shown = self.placed()
        (store,) = shown["stores"]
        self.assertEqual((store["name"], store["now"], store["best"]), ("source_cache of Corrow", "v0", "v1"))
        self.assertIn("not the system's", store["why"])
        self.assertEqual(shown["amiss_now"], ["source_cache of Corrow lies on the system's volume v0"])
        self.assertEqual((shown["amiss_then"], shown["impossible"], shown["disk"]), ([], "", 0))
        (move,) = shown["moves"]
        self.assertEqual((move["source"], move["target"], move["size"]), ("v0", "v1", shown["moved"]))

    def test_a_seat_without_room_says_which_disk_is_missing(self) -> None:
        body = survey()
        volumes = [
            {**v, "free": 10 * GB} if v["id"] != "v0" else {**v, "attached": False} for v in body["facts"]["volumes"]
        ]
        self.house.send({**body, "facts": {**body["facts"], "volumes": volumes}})
        shown = self.placed()
        self.assertIn("has so much room", shown["impossible"])
        self.assertTrue(88 * GB < shown["disk"] < 100 * GB)
        self.assertEqual((shown["moves"], shown["stores"][0]["best"]), ([], None))

    def test_more_than_a_seat_has_and_no_survey_are_told(self) -> None:
        self.assertIn("sent no survey", self.placed(409)["detail"])
        body = survey()
        stores = [{**body["stores"][0], "app": f"app{n}"} for n in range(40)]
        self.house.send({**body, "stores": stores})
        self.assertIn("40 stores", self.placed(422)["detail"])

    def test_who_sees_no_house_sees_no_placement(self) -> None:
        self.house.send()
        self.placed(403, Role.EDITOR)
