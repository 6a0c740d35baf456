import datetime as dt
import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from normant.accounts.permissions import Role
from normant.findings.jobs import reevaluate_seats
from normant.findings.models import Finding
from normant.findings.services.evaluate import evaluate
from normant.seats.models import Reading, Seat
from normant.seats.views_of import STALE_DAYS
from normant.standards.current import current_judge
from normant.tests.house import House, survey

DECODE = "engine.decode"


class ByHand(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send(survey(minutes=-5))

    def _enter(self, value: str | None, setting: str = DECODE, app: str = "corrow", status: int = 204) -> Any:
        client = self.house.client(Role.ASSISTANT)
        body = json.dumps({"setting": setting, "app": app, "value": value})
        answer = client.post("/api/v1/seats/pan-03/readings", body, content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content)
        return json.loads(answer.content or b"null")

    def _row(self) -> Any:
        record = self.house.client().get("/api/v1/seats/pan-03").json()
        rows = [row for family in record["families"] for row in family["rows"]]
        return next((row for row in rows if row["setting"] == DECODE), None)

    def test_a_reading_by_hand_is_marked_with_who_and_outlives_surveys(self) -> None:
        self._enter("gpu1")
        self.house.send(survey(minutes=-1, memory__held_back=2**33))
        row = self._row()
        self.assertEqual((row["reading"], row["cause"], row["entered_by"]), ("gpu1", "by hand", "assistant"))

    def test_a_finding_that_follows_is_not_the_standards_doing(self) -> None:
        with self.captureOnCommitCallbacks(execute=True):
            self._enter("1 GiB", setting="memory.held_back", app="glaize")
        job = ProcrastinateJob.objects.filter(task_name="findings.reevaluate_seats").latest("id")
        reevaluate_seats(**job.args)
        finding = Finding.objects.open().get(setting="memory.held_back", app="glaize")
        self.assertEqual(finding.opened_by, "theirs")

    def test_it_ends_when_a_dialect_reaches_it_or_somebody_takes_it_back(self) -> None:
        self._enter("gpu1")
        late = survey(minutes=-1)
        late["readings"] = [*late["readings"], {"setting": DECODE, "app": "corrow", "value": "cpu"}]
        self.house.send(late)  # taken before it was entered: the newer word stands
        self.assertEqual(self._row()["reading"], "gpu1")
        body = survey(minutes=1)
        body["readings"].append({"setting": DECODE, "app": "corrow", "value": "gpu0"})
        self.house.send(body)
        self.assertEqual((self._row()["reading"], self._row()["cause"]), ("gpu0", "at the seat"))
        self._enter(None, status=404)
        self._enter("8", setting="engine.workers")
        self._enter(None, setting="engine.workers")
        self.assertFalse(Reading.objects.current().filter(setting="engine.workers").exists())

    def test_it_is_judged_and_grows_stale(self) -> None:
        self._enter("no", setting="delivery.full_raw", app="")
        seat, judge = Seat.objects.get(), current_judge()
        assert judge
        Reading.objects.by_hand().update(since=timezone.now() - dt.timedelta(days=STALE_DAYS + 1))
        evaluate(seat, judge)
        reason = f"assistant entered it {STALE_DAYS + 1} days ago: check again"
        self.assertEqual(self._stale(self.house.client().get("/api/v1/seats/pan-03").json()), reason)

    def _stale(self, record: Any) -> str:
        return next(e["message"] for e in record["errors"] if e["source"] == "reading:delivery.full_raw")

    def test_what_the_agent_reads_and_what_is_no_value_is_refused(self) -> None:
        self.assertIn("preferences.xml", self._enter("1 GiB", setting="memory.held_back", status=409)["detail"])
        self.assertIn("expected", self._enter("lots", setting="engine.workers", status=422)["detail"])
        self.assertIn("engine.decode", self._enter("x", setting="engine.decod", status=422)["detail"])


class Brought(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        Seat.objects.create(name="sluice-09", role="ingest")

    def _bring(self, body: Any, status: int = 200) -> Any:
        file = SimpleUploadedFile("survey.json", body if isinstance(body, bytes) else json.dumps(body).encode())
        answer = self.house.client(Role.ASSISTANT).post("/api/v1/surveys", {"survey": file})
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def test_a_seat_without_a_network_is_served_by_a_file(self) -> None:
        answer = self._bring(survey(minutes=-60, seat="sluice-09"))
        self.assertEqual((answer["seat"], answer["changed"]), ("sluice-09", True))
        self.assertEqual(
            Reading.objects.current().get(seat__name="sluice-09", setting="power.profile").value, "balanced"
        )
        self.assertFalse(self._bring(survey(minutes=-90, seat="sluice-09"))["changed"])

    def test_two_seats_may_be_without_a_network(self) -> None:
        Seat.objects.create(name="sluice-10")
        for name in ("sluice-09", "sluice-10"):
            self._bring(survey(minutes=-60, seat=name))

    def test_what_is_no_survey_or_of_no_seat_is_refused(self) -> None:
        self.assertEqual(self._bring(b"{", 422)["faults"][0]["line"], 1)
        self.assertIn("add it to the register", self._bring(survey(seat="nobody-1"), 404)["detail"])
