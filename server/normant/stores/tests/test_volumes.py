"""How full the volumes of the house are: kept from surveys day by day, and told with the day on which they fill."""

import datetime as dt
from typing import Any
from unittest.mock import patch

from django.db import DataError, OperationalError
from django.db.models import F
from django.test import TestCase
from django.utils import timezone

from normant.accounts.models import User
from normant.accounts.permissions import Role
from normant.deliveries.models import EndedProduction
from normant.seats.models import Survey
from normant.stores.jobs import figures, forget
from normant.stores.models import Kept, StoreDay, VolumeNow
from normant.stores.services import keep_figures as module
from normant.stores.services.keep_figures import EVERY, keep_figures
from normant.tests.house import House, survey
from normant_core.base.quantities import LARGEST_TOLD

DAY = 24 * 60
GB = 10**9


def grown(days_ago: float, used: int, *, cache: int | None = 100 * GB, seat: str = "pan-03") -> dict[str, Any]:
    """A survey in which so much of v1 is used, with a frame cache on it."""
    body = survey(minutes=-days_ago * DAY, seat=seat)
    volume = {"id": "v1", "mount": "/fast", "kind": "ssd", "capacity": 500 * GB, "free": 500 * GB - used}
    store = {
        "purpose": "frame_cache",
        "app": "corrow",
        "path": "/fast/frames",
        "volume": "v1",
        "size": cache,
        "unused": 7,
        "oldest": "2026-01-04T10:00:00Z",
        "unused_for": [{"days": 7, "size": 9}, {"days": 30, "size": 7}],
        "productions": [{"production": "salt_ledger", "size": 5 * GB}, {"production": "mill", "size": 3 * GB}],
    }
    stores = [] if cache is None else [store]
    return {
        **body,
        "facts": {**body["facts"], "volumes": [{**volume, "system": False, "attached": True}]},
        "stores": stores,
    }


class Volumes(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()

    def send(self, *bodies: dict[str, Any]) -> None:
        for body in bodies:
            self.assertLess(self.house.send(body).status_code, 300)

    def keep(self) -> int:
        """As half an hour later."""
        Kept.objects.update(heard_at=F("heard_at") - EVERY)
        return keep_figures()

    def test_a_network_volume_stands_once_with_the_seats_that_mount_it(self) -> None:
        for name in ("pan-03", "pan-04", "pan-05"):
            token = self.house.token if name == "pan-03" else self.house.enrolled(name)[1]
            body = grown(0, 400 * GB, seat=name)
            local, shared = body["facts"]["volumes"][0], {"id": "v2", "mount": "/brine", "kind": "network"}
            size = {"capacity": 96_000 * GB, "free": 9 * GB, "system": False, "attached": True}
            body["facts"]["volumes"] = [local, {**shared, **size}]
            self.house.send(body, token)
        keep_figures()
        listed = self.house.client().get("/api/v1/volumes").json()
        rows = [(row["seat"], row["mount"], row["seats"]) for row in listed["items"]]
        self.assertEqual(rows[0], ("pan-03", "/brine", 3))
        self.assertEqual(sorted(rows[1:]), [(f"pan-0{n}", "/fast", 1) for n in (3, 4, 5)])
        self.assertEqual(listed["total"], 4)
        self.assertEqual(self.house.client().get("/api/v1/seats/pan-04/volumes/v2").status_code, 200)
        of_one = self.house.client().get("/api/v1/volumes?seat=pan-05").json()
        self.assertEqual([row["mount"] for row in of_one["items"]], ["/brine", "/fast"])
        self.assertEqual(self.house.client().get("/api/v1/volumes?seat=nowhere").json()["total"], 0)

    def volume(self, role: Role = Role.SUPERVISOR) -> Any:
        answer = self.house.client(role).get("/api/v1/seats/pan-03/volumes/v1")
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def test_a_volume_that_grows_has_its_day_and_its_year(self) -> None:
        self.send(*(grown(9 - day, (300 + 10 * day) * GB, cache=(100 + 10 * day) * GB) for day in range(10)))
        self.assertEqual(self.keep(), 1)
        shown = self.volume()
        self.assertEqual((shown["capacity"], shown["free"], shown["mount"]), (500 * GB, 110 * GB, "/fast"))
        self.assertEqual(round(shown["per_day"] / GB), 10)
        last = timezone.now()
        full = dt.datetime.fromisoformat(shown["full_on"])
        self.assertTrue(dt.timedelta(days=10) < full - last < dt.timedelta(days=12), full)
        self.assertTrue(shown["first"] <= shown["full_on"] <= shown["last"])
        self.assertEqual([store["name"] for store in shown["stores"]], ["frame_cache corrow"])
        whole, cache = shown["series"]
        self.assertEqual((whole["store"], len(whole["sizes"]), whole["sizes"][-1]), ("", 10, 390 * GB))
        self.assertEqual(
            (cache["sizes"][0], shown["grew"]), (100 * GB, [{"store": "frame_cache corrow", "bytes": 90 * GB}])
        )

    def test_what_of_a_store_could_go_by_age_and_what_stays_whatever_its_age(self) -> None:
        by = User.objects.get(username="supervisor")
        EndedProduction.objects.create(name="Salt Ledger", key="saltledger", ended_at=timezone.now(), ended_by=by)
        self.send(grown(0, 300 * GB))
        self.keep()
        (store,) = self.volume()["stores"]
        self.assertEqual(store["unused_for"], [{"days": 7, "size": 9}, {"days": 30, "size": 7}])
        self.assertEqual((store["unused"], store["oldest"]), (7, "2026-01-04T10:00:00Z"))
        self.assertEqual(store["stays"], "open or locked files; 3 GB of mill, which has not ended")

    def test_a_store_that_its_application_limits_has_the_day_on_which_it_reaches_that(self) -> None:
        body = grown(0, 390 * GB, cache=190 * GB)
        body["readings"].append({"setting": "store.frame_cache.quota", "app": "corrow", "value": 290 * GB})
        self.send(*(grown(9 - day, (300 + 10 * day) * GB, cache=(100 + 10 * day) * GB) for day in range(9)), body)
        self.keep()
        self.assertRegex(self.volume()["stores"][0]["limit"], r"^limit 290 GB, reached on \w{3} \d+ \w{3}$")
        body["readings"][-1]["value"] = 190 * GB
        self.send({**body, "taken_at": timezone.now().isoformat()})
        self.keep()
        self.assertEqual(self.volume()["stores"][0]["limit"], "limit 190 GB, reached")

    def test_what_fills_within_a_week_stands_on_the_round(self) -> None:
        self.send(*(grown(9 - day, (350 + 10 * day) * GB) for day in range(10)))
        self.keep()
        items = self.house.client().get("/api/v1/round").json()["items"]
        (item,) = (item for item in items if item["kind"] == "fills")
        self.assertEqual((item["title"], item["volume"]), ("/fast on pan-03 fills up within a week", "v1"))
        self.assertRegex(item["words"], r"^Grows by 10\.0 GB a day: full on \w{3} \d+ \w{3}\.$")
        self.assertEqual(self.volume()["words"], item["words"].rstrip("."))

    def test_a_full_volume_is_said_to_be_full_and_days_that_differ_are_said(self) -> None:
        self.send(*(grown(9.1 - day, (300 + 10 * day + day % 3 * 9) * GB) for day in range(10)))
        self.keep()
        self.assertRegex(
            self.volume()["words"], r"full on \w{3} \d+ \w{3}, between \w{3} \d+ \w{3} and \w{3} \d+ \w{3}$"
        )
        self.send(grown(0, 500 * GB))
        self.keep()
        self.assertEqual(self.volume()["words"], "Full")
        items = self.house.client().get("/api/v1/round").json()["items"]
        self.assertIn("/fast on pan-03 is full", [item["title"] for item in items])

    def test_only_what_changed_is_kept_and_a_second_time_does_nothing(self) -> None:
        self.send(grown(3, 300 * GB), grown(2, 300 * GB), grown(1, 320 * GB), grown(0, 320 * GB))
        self.keep()
        rows = list(StoreDay.objects.filter(store="").values_list("size", flat=True))
        self.assertEqual(rows, [300 * GB, 320 * GB])
        before = list(StoreDay.objects.values())
        self.assertEqual(keep_figures(), 0)
        figures()
        self.assertEqual(list(StoreDay.objects.values()), before)
        self.assertEqual(self.volume()["series"][0]["sizes"], [300 * GB, 300 * GB, 320 * GB, 320 * GB])

    def test_a_seat_that_tells_nothing_new_is_as_it_was_until_it_was_heard_last(self) -> None:
        self.send(*(grown(12 - day, (300 + 10 * day) * GB) for day in range(5)))
        self.keep()
        shown = self.volume()
        self.assertEqual(shown["series"][0]["sizes"][-8:], [340 * GB] * 8)
        self.assertLess(shown["per_day"], 2 * GB)

    def test_the_newest_of_a_day_counts_and_is_looked_at_every_half_hour(self) -> None:
        noon = timezone.now().replace(hour=12, minute=0) - dt.timedelta(days=2)

        def at(minutes: int, used: int) -> dict[str, Any]:
            return {**grown(0, used), "taken_at": (noon + dt.timedelta(minutes=minutes)).isoformat()}

        self.send(at(0, 300 * GB))
        self.keep()
        self.send(at(10, 310 * GB))
        self.assertEqual(keep_figures(), 0)
        self.send(at(31, 320 * GB))
        self.assertEqual(self.keep(), 1)
        self.assertEqual(list(StoreDay.objects.filter(store="").values_list("size", flat=True)), [320 * GB])

    def test_a_store_that_went_is_empty_from_then_on_and_a_clearing_is_no_trend(self) -> None:
        self.send(*(grown(9 - day, (300 + 10 * day) * GB) for day in range(5)))
        self.send(*(grown(4 - day, (100 + 10 * day) * GB, cache=None) for day in range(5)))
        self.keep()
        shown = self.volume()
        self.assertEqual(round(shown["per_day"] / GB), 10)
        self.assertEqual(shown["series"][1]["sizes"][-5:], [0] * 5)
        self.assertEqual(shown["stores"], [])

    def test_a_volume_that_is_gone_is_not_told_and_a_retired_seat_neither(self) -> None:
        self.send(grown(2, 300 * GB))
        self.keep()
        self.send(survey(minutes=-1))
        self.keep()
        listed = self.house.client().get("/api/v1/volumes").json()
        self.assertEqual(listed["total"], VolumeNow.objects.count())
        self.assertEqual({row["volume"] for row in listed["items"]}, {"v0", "v1", "v2"})
        self.assertEqual(self.house.client().get("/api/v1/seats/pan-03/volumes/v9").status_code, 404)
        self.house.seat.retired_at = timezone.now()
        self.house.seat.save()
        self.assertEqual(self.house.client().get("/api/v1/volumes").json()["items"], [])

    def test_the_soonest_full_comes_first_then_the_fullest(self) -> None:
        self.send(*(grown(9 - day, (300 + 10 * day) * GB) for day in range(10)))
        for name, used in (("pan-07", 490), ("pan-08", 20)):
            seat, token = self.house.enrolled(name)
            self.house.send(grown(0, used * GB, seat=seat.name), token)
        self.keep()
        rows = self.house.client().get("/api/v1/volumes").json()["items"]
        self.assertEqual([row["seat"] for row in rows], ["pan-03", "pan-07", "pan-08"])
        some = self.house.client().get("/api/v1/volumes?offset=1&limit=1").json()
        self.assertEqual(([row["seat"] for row in some["items"]], some["total"]), (["pan-07"], 3))

    def test_full_volumes_come_first_and_the_sentence_counts_them(self) -> None:
        self.send(*(grown(9 - day, (300 + 10 * day) * GB) for day in range(10)))
        _, token = self.house.enrolled("pan-07")
        self.house.send(grown(0, 500 * GB, seat="pan-07"), token)
        self.keep()
        listed = self.house.client().get("/api/v1/volumes").json()
        self.assertEqual([row["seat"] for row in listed["items"]], ["pan-07", "pan-03"])
        self.assertEqual(listed["sentence"], "1 volume is full")
        VolumeNow.objects.filter(seat__name="pan-03").update(full_on=timezone.now() + dt.timedelta(days=2))
        listed = self.house.client().get("/api/v1/volumes").json()
        self.assertEqual((listed["sentence"], listed["seats"]), ("1 volume is full, 1 fills up within a week", 2))

    def test_a_list_has_the_year_of_each_volume_in_weeks(self) -> None:
        today = timezone.now().date()
        monday = today - dt.timedelta(days=today.weekday())
        self.send(grown(0, 320 * GB))
        self.keep()
        StoreDay.objects.all().delete()
        for weeks, day, used in ((3, 0, 100), (3, 6, 110), (1, 2, 300)):
            StoreDay.objects.create(
                seat=self.house.seat,
                volume="v1",
                day=monday - dt.timedelta(weeks=weeks) + dt.timedelta(days=day),
                size=used * GB,
            )
        (row,) = self.house.client().get("/api/v1/volumes").json()["items"]
        self.assertEqual(row["used_weekly"], [110 * GB, 110 * GB, 300 * GB, 320 * GB])
        StoreDay.objects.all().delete()
        StoreDay.objects.create(seat=self.house.seat, volume="v1", day=today - dt.timedelta(days=900), size=100 * GB)
        (row,) = self.house.client().get("/api/v1/volumes").json()["items"]
        self.assertEqual((len(row["used_weekly"]), row["used_weekly"][-1]), (53, 320 * GB))

    def test_whatever_a_seat_tells_is_kept_within_bounds(self) -> None:
        body = grown(1, 300 * GB)
        volume = {**body["facts"]["volumes"][0], "capacity": LARGEST_TOLD, "free": 0}
        many = [
            {**body["stores"][0], "purpose": "p" * 300 + str(n), "size": LARGEST_TOLD, "items": LARGEST_TOLD}
            for n in range(3)
        ]
        few = [{**body["stores"][0], "purpose": f"p{n}", "size": n} for n in range(600)]
        self.send({**body, "facts": {**body["facts"], "volumes": [volume]}, "stores": [*many, *few][:500]})
        self.assertEqual(self.keep(), 1)
        self.assertLessEqual(StoreDay.objects.count(), module.MOST)
        self.assertEqual(self.volume()["capacity"], LARGEST_TOLD)

    def test_what_one_seat_tells_keeps_no_other_from_its_figures(self) -> None:
        _, token = self.house.enrolled("pan-07")
        body = grown(1, 300 * GB)
        strange = {**body["stores"][0], "purpose": "x" + "z" * 400}
        self.send({**body, "stores": [strange, *({**strange, "purpose": f"p{n}", "size": n} for n in range(200))]})
        self.house.send(grown(1, 200 * GB, seat="pan-07"), token)
        self.assertEqual(self.keep(), 2)
        shown = self.volume()
        self.assertEqual((len(shown["stores"]), shown["stores"][0]["name"][:3]), (module.MOST_STORES, "xzz"))
        real = module._keep

        def breaks(number: int, seen_at: dt.datetime) -> bool:
            if number == self.house.seat.pk:
                raise DataError("as if")
            return real(number, seen_at)

        with patch.object(module, "_keep", side_effect=OperationalError), self.assertRaises(OperationalError):
            self.keep()
        with patch.object(module, "_keep", breaks):
            self.assertEqual(self.keep(), 1)
        Survey.objects.filter(seat=self.house.seat).update(body=b"of an older version")
        self.assertEqual(self.keep(), 1)

    def test_a_job_that_ends_in_the_middle_leaves_a_seat_as_it_was(self) -> None:
        self.send(grown(2, 300 * GB), grown(1, 310 * GB))
        with patch.object(module, "_keep_now", side_effect=RuntimeError), self.assertRaises(RuntimeError):
            self.keep()
        self.assertEqual(StoreDay.objects.count(), 0)
        self.assertEqual(self.keep(), 1)

    def test_a_job_ends_in_time_and_the_next_does_the_rest(self) -> None:
        self.send(grown(1, 300 * GB))
        with patch.object(module, "SECONDS", 0):
            self.assertEqual(self.keep(), 0)
        self.assertEqual(keep_figures(), 1)

    def test_what_is_older_than_a_year_goes_unless_it_still_holds(self) -> None:
        today = timezone.now().date()
        for age, size in ((900, 1), (500, 2), (400, 3), (100, 4)):
            StoreDay.objects.create(seat=self.house.seat, volume="v1", day=today - dt.timedelta(days=age), size=size)
        forget()
        self.assertEqual(list(StoreDay.objects.values_list("size", flat=True)), [3, 4])

    def test_who_sees_no_house_sees_no_volumes(self) -> None:
        self.send(grown(1, 300 * GB))
        self.keep()
        for role in Role:
            may = role not in (Role.EDITOR,)
            for path in ("volumes", "seats/pan-03/volumes/v1"):
                with self.subTest(role=role, path=path):
                    status = self.house.client(role).get(f"/api/v1/{path}").status_code
                    self.assertEqual(status == 200, may, status)
