"""Where the stores of a seat would lie best, through the API."""

import json
from typing import Any

from django.test import TestCase

from normant.accounts.permissions import Role
from normant.findings.models import Finding
from normant.tests.house import House, survey

GB = 10**9
AMISS = [
    "Corrow source_cache is on the system volume v0",
    "the house standard does not allow Corrow source_cache on v0",
]


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
        self.assertEqual((store["name"], store["now"], store["best"]), ("Corrow source_cache", "v0", "v1"))
        self.assertIn("not the system volume", store["why"])
        self.assertEqual(shown["amiss_now"], AMISS)
        self.assertEqual((shown["amiss_then"], shown["impossible"], shown["disk"]), ([], "", 0))
        (move,) = shown["moves"]
        self.assertEqual((move["source"], move["target"], move["size"]), ("v0", "v1", shown["moved"]))
        finding = Finding.objects.get(setting="store.source_cache.path", closed_at=None)
        self.assertEqual(shown["findings"], [finding.pk])
        self.assertEqual(self.arrange({})["findings"], [])

    def test_a_seat_without_room_says_which_disk_is_missing(self) -> None:
        body = survey()
        volumes = [
            {**v, "free": 10 * GB} if v["id"] != "v0" else {**v, "attached": False} for v in body["facts"]["volumes"]
        ]
        self.house.send({**body, "facts": {**body["facts"], "volumes": volumes}})
        shown = self.placed()
        self.assertIn("has enough space", shown["impossible"])
        self.assertTrue(88 * GB < shown["disk"] < 100 * GB)
        self.assertIn("Bring a disk of at least 97.78 GB", shown["errand"]["does"])
        self.assertEqual((shown["moves"], shown["stores"][0]["best"]), ([], None))

    def test_the_house_standard_says_on_which_volumes_a_store_may_lie(self) -> None:
        body = survey()
        slow = {"id": "v9", "mount": "/slow", "kind": "hdd", "capacity": 4000 * GB, "free": 3000 * GB, "attached": True}
        slow |= {"removable": False, "writable": True, "system": False}
        facts = {**body["facts"], "volumes": [*body["facts"]["volumes"], slow]}
        self.house.send({**body, "facts": facts})
        shown = self.placed()
        (store,) = shown["stores"]
        self.assertEqual((store["best"], shown["unmet"]), ("v1", []))
        self.assertEqual(shown["refused"][store["name"]]["v9"], "the house standard does not allow it")
        near = [{**v, "free": 150 * GB if v["id"] == "v1" else v["free"]} for v in facts["volumes"]]
        self.house.send({**survey(minutes=1), "facts": {**facts, "volumes": near}})
        shown = self.placed()  # with the store on it less than 120 GB of v1 would be free
        self.assertEqual((shown["unmet"], shown["refused"][store["name"]].get("v9")), (["Corrow source_cache"], None))
        self.assertEqual(self.arrange({store["name"]: "v1"})["unmet"], ["Corrow source_cache"])

    def arrange(self, on: dict[str, str], status: int = 200, role: Role = Role.SUPERVISOR) -> Any:
        path, body = "/api/v1/seats/pan-03/placement", json.dumps({"on": on})
        answer = self.house.client(role).post(path, body, "application/json")
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def test_what_somebody_chose_is_answered_by_the_rules_and_nothing_is_done(self) -> None:
        body = survey()
        away = {
            "id": "v9",
            "mount": "/away",
            "removable": True,
            "attached": True,
            "free": 900 * GB,
            "capacity": 999 * GB,
        }
        volumes = [*body["facts"]["volumes"], away]
        self.house.send({**body, "facts": {**body["facts"], "volumes": volumes}})
        shown = self.arrange({"Corrow source_cache": "v1"})
        self.assertEqual((shown["amiss_then"], shown["impossible"], len(shown["moves"])), ([], "", 1))
        self.assertIn("Copy Corrow source_cache (88 GB) from / to /fast", shown["errand"]["steps"][0])
        shown = self.arrange({"Corrow source_cache": "v9"})
        self.assertIn("v9 is removable", shown["impossible"])
        self.assertEqual((shown["refused"]["Corrow source_cache"]["v9"], shown["moves"]), ("v9 is removable", []))
        self.assertEqual(self.arrange({})["amiss_then"], AMISS)
        for on, words in (({"x": "v1"}, "has no x"), ({"Corrow source_cache": "v77"}, "no volume v77")):
            self.assertIn(words, self.arrange(on, 422)["detail"])
        self.arrange({f"s{n}": "v1" for n in range(65)}, 422)
        self.arrange({}, 403, Role.EDITOR)

    def test_more_than_a_seat_has_and_no_survey_are_told(self) -> None:
        self.assertIn("sent no survey", self.placed(409)["detail"])
        body = survey()
        stores = [{**body["stores"][0], "app": f"app{n}"} for n in range(40)]
        self.house.send({**body, "stores": stores})
        self.assertIn("40 stores", self.placed(422)["detail"])

    def test_who_sees_no_house_sees_no_placement(self) -> None:
        self.house.send()
        self.placed(403, Role.EDITOR)
