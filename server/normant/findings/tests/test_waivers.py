import datetime as dt
import json
from typing import Any

from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.findings.jobs import end_waivers, reevaluate_seats
from normant.findings.models import Finding, Waiver
from normant.ledger.models import Entry
from normant.round.items import round_now
from normant.seats.models import Seat
from normant.tests.house import House, survey

DAY = dt.timedelta(days=1)
HELD = {"setting": "memory.held_back", "app": "corrow"}


class Waivers(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def post(self, path: str, role: Role = Role.SUPERVISOR, **body: Any) -> Any:
        return self.house.client(role).post(f"/api/v1/{path}", json.dumps(body, default=str), "application/json")

    def waive(self, **more: Any) -> Any:
        fields = {"places": [HELD], "seats": ["pan-03"], "reason": "a trial runs", "ends_at": timezone.now() + 9 * DAY}
        answer = self.post("waivers", **{**fields, **more})
        self.judge()
        return answer

    def judge(self) -> None:
        """As the worker does it soon after."""
        reevaluate_seats([*Seat.objects.values_list("pk", flat=True)])

    def row(self) -> dict[str, Any]:
        record = self.house.client().get("/api/v1/seats/pan-03").json()
        rows = [row for family in record["families"] for row in family["rows"]]
        return next(row for row in rows if (row["setting"], row["app"]) == (HELD["setting"], HELD["app"]))

    def test_a_waived_finding_stays_open_counts_no_more_and_says_why(self) -> None:
        before = Seat.objects.get(name="pan-03").off_norm
        made = self.waive().json()["items"][0]
        self.assertEqual((made["scope"], made["ends_soon"]), ("pan-03", False))
        self.assertEqual(Seat.objects.get(name="pan-03").off_norm, before - 1)
        self.assertEqual(Finding.objects.open().count() - Finding.objects.wanting().count(), 1)
        row = self.row()
        self.assertEqual((row["status"], row["reason"], row["waiver"]["id"]), ("waived", "a trial runs", made["id"]))
        titles = [item["title"] for item in round_now()["items"]]
        self.assertFalse([title for title in titles if title.startswith("Memory reserve")])
        self.assertEqual(Entry.objects.first().action, "waive")  # type: ignore[union-attr]

    def test_the_same_waiver_once_more_is_the_one_that_holds(self) -> None:
        until = timezone.now() + 9 * DAY
        numbers = {self.waive(ends_at=until).json()["items"][0]["id"] for _ in range(3)}
        self.assertEqual((len(numbers), Waiver.objects.count()), (1, 1))
        self.waive(ends_at=until, reason="another")
        self.assertEqual(Waiver.objects.count(), 2)

    def test_a_finding_that_opens_while_a_waiver_holds_is_waived_from_the_first(self) -> None:
        self.waive(seats=[], groups={"role": "offline"})
        self.house.send(survey(minutes=1, memory__held_back=2**33))
        self.house.send(survey(minutes=2, memory__held_back=2**30))
        self.judge()
        self.assertEqual(self.row()["status"], "waived")

    def test_it_ends_by_itself_on_its_date_and_with_its_production(self) -> None:
        for until in ({"ends_at": timezone.now() + DAY}, {"ends_at": None, "until_production": "The Salt Ledger"}):
            with self.subTest(until):
                self.waive(**until)
                if until["ends_at"]:
                    Waiver.objects.filter(ended_at=None).update(
                        made_at=timezone.now() - 2 * DAY, ends_at=timezone.now() - DAY
                    )
                    end_waivers()
                else:
                    self.assertEqual(self.post("productions/end", production="The Salt Ledger").json(), {"waivers": 1})
                self.judge()
                self.assertEqual((self.row()["status"], self.row()["waiver"]), ("off-norm", None))
                self.assertEqual(Waiver.objects.exclude(ended_at=None).count(), Waiver.objects.count())

    def test_the_round_warns_before_the_end_and_prolonging_quiets_it(self) -> None:
        made = self.waive(ends_at=timezone.now() + DAY).json()["items"][0]
        item = next(item for item in round_now()["items"] if item["kind"] == "waiver")
        self.assertEqual(item["title"], "Waiver ends: Corrow memory reserve on pan-03")
        self.assertEqual((item["waiver"], item["seats"]), (made["id"], ["pan-03"]))
        fields = {"ends_at": timezone.now() + 20 * DAY}
        answer = self.post(f"waivers/{made['id']}/prolong", **fields, seen=timezone.now())
        self.assertEqual((answer.status_code, answer.json()["title"]), (409, "Changed meanwhile"))
        for _ in range(2):  # the second time it is so already
            self.assertEqual(
                self.post(f"waivers/{made['id']}/prolong", **fields, seen=made["ends_at"]).status_code, 200
            )
        self.assertFalse([item for item in round_now()["items"] if item["kind"] == "waiver"])

    def test_ended_by_a_person_it_cannot_be_ended_or_prolonged_again(self) -> None:
        number = self.waive().json()["items"][0]["id"]
        self.assertEqual(self.post(f"waivers/{number}/end").json()["ended_by"], "person")
        self.judge()
        self.assertEqual(self.row()["status"], "off-norm")
        for again in ("end", "prolong"):
            answer = self.post(f"waivers/{number}/{again}", ends_at=timezone.now() + DAY)
            self.assertEqual((answer.status_code, answer.json()["title"]), (409, "Ended"))

    def test_the_past_shows_what_was_waived_then(self) -> None:
        number = self.waive().json()["items"][0]["id"]
        while_it_held = timezone.now()
        self.post(f"waivers/{number}/end")
        record = self.house.client().get("/api/v1/seats/pan-03", {"at": while_it_held.isoformat()}).json()
        self.assertIn("waived", {row["status"] for family in record["families"] for row in family["rows"]})

    def test_what_cannot_be_waived_is_refused_with_the_reason(self) -> None:
        locked = {"setting": "delivery.full_raw", "app": "plinthe"}
        for title, more in (
            ("Nothing to waive", {"places": [locked]}),
            ("Nothing to waive", {"places": [{"setting": "power.sleep_after"}]}),
            ("No such setting", {"places": [{"setting": "power.slep"}]}),
            ("No reason", {"reason": "  "}),
            ("No end", {"ends_at": None}),
            ("Ends too early", {"ends_at": timezone.now() - DAY}),
            ("Ends too late", {"ends_at": timezone.now() + 400 * DAY}),
            ("No such seat", {"seats": ["pan-99"]}),
            ("No such group", {"groups": {"colour": "blue"}}),
            ("No such production", {"ends_at": None, "until_production": "Nobody's"}),
        ):
            with self.subTest(title):
                answer = self.waive(**more)
                self.assertEqual(answer.json()["title"], title)
                self.assertIn(answer.status_code, (409, 422))
        self.assertFalse(Waiver.objects.exists())

    def test_what_a_waiver_would_cover_is_said_before(self) -> None:
        body = {"places": [{"setting": HELD["setting"]}]}
        self.assertEqual(self.post("waivers/try", **body).json(), {"findings": 1, "seats": ["pan-03"]})
