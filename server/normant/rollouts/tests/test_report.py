import csv
import hashlib
import io
import json
from typing import Any

from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.findings.models import Finding
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.rollouts.jobs import advance_rollout
from normant.rollouts.models import Leg, Rollout
from normant.tests.house import House, survey
from normant.tests.options import with_options

SETTINGS = ("memory.held_back", "power.profile")
PUT_RIGHT = {"memory__held_back": 6554 * 2**20, "power__profile": "performance"}


class Reports(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def post(self, path: str, body: Any = None, client: Any = None) -> Any:
        client = client or self.house.client()
        return client.post(f"/api/v1/{path}", json.dumps(body or {}), "application/json")

    def start(self) -> Rollout:
        ids = [f.pk for f in Finding.objects.open() if f.setting in SETTINGS]
        seen = self.post("rollouts/plan", {"findings": ids}).json()["digest"]
        return Rollout.objects.get(pk=self.post("rollouts", {"findings": ids, "seen": seen}).json()["id"])

    def carry_out(self, rollout: Rollout, message: str = "") -> None:
        advance_rollout(rollout.pk)
        for order in Order.objects.waiting():
            results = [{"setting": setting, "outcome": "done", "after": "as asked"} for setting, _ in order.settings]
            receipt = {"order": str(order.pk), "outcome": "done", "message": message, "results": results}
            body = json.dumps({**receipt, "at": timezone.now().isoformat()})
            path = f"/api/v1/agent/orders/{order.pk}/receipt"
            self.assertEqual(self.house.agent().post(path, body, "application/json").status_code, 204)

    def report(self, number: int, kind: str) -> Any:
        return self.house.client(Role.VIEWER).get(f"/api/v1/rollouts/{number}/report?form={kind}")

    def test_a_report_is_made_at_the_end_and_its_digest_is_in_the_ledger(self) -> None:
        rollout = self.start()
        self.carry_out(rollout)
        self.assertEqual(self.report(rollout.pk, "json").status_code, 409)
        self.house.send(survey(**PUT_RIGHT))
        raw = self.report(rollout.pk, "json").content
        report = json.loads(raw)
        self.assertEqual(report["sentence"], "1 seat: 1 settled; 2 changes, each verified.")
        self.assertEqual(
            (report["by"], report["state"], report["seats"][0]["state"]), ("supervisor", "finished", "settled")
        )
        change = next(c for c in report["seats"][0]["changes"] if c["setting"] == "memory.held_back")
        self.assertEqual((change["before"], change["after"], change["read_back"]), ("1536", "6554", "as asked"))
        entry = Entry.objects.get(action="report of rollout")
        self.assertEqual(entry.detail["report"], hashlib.sha256(raw).hexdigest())

    def test_its_other_forms_tell_the_same(self) -> None:
        rollout = self.start()
        Rollout.objects.update(title="<script>alert(1)</script>")
        self.carry_out(rollout)
        self.house.send(survey(**PUT_RIGHT))
        page = self.report(rollout.pk, "html")
        self.assertNotContains(page, "<script")
        for words in (
            "pan-03: settled",
            "1536",
            "6554",
            Entry.objects.get(action="report of rollout").detail["report"],
        ):
            self.assertContains(page, words)
        self.assertTrue(self.report(rollout.pk, "pdf").content.startswith(b"%PDF-"))
        self.assertEqual(self.report(rollout.pk, "pdf").content, self.report(rollout.pk, "pdf").content)
        table = list(csv.DictReader(io.StringIO(self.report(rollout.pk, "csv").content.decode("utf-8-sig"))))
        self.assertEqual({row["change_setting"] for row in table}, {*SETTINGS})
        self.assertEqual(self.report(rollout.pk, "exe").status_code, 422)

    def test_putting_back_makes_another_report_that_says_so(self) -> None:
        rollout = self.start()
        self.carry_out(rollout)
        self.house.send(survey(**PUT_RIGHT))
        back = Rollout.objects.get(pk=self.post(f"rollouts/{rollout.pk}/put-back").json()["id"])
        self.carry_out(back)
        report = self.report(rollout.pk, "json").json()
        self.assertEqual(report["put_back_by"], [{"rollout": back.pk, "seats": ["pan-03"], "state": "finished"}])
        self.assertEqual(self.report(back.pk, "json").json()["of"], rollout.pk)
        self.assertEqual(Entry.objects.filter(action="report of rollout").count(), 3)

    def test_what_no_letter_of_the_face_can_draw_does_not_spoil_the_pages(self) -> None:
        rollout = self.start()
        self.carry_out(rollout)
        Leg.objects.update(message="\u4e2d\u6587 \U0001f600")
        self.house.send(survey(**PUT_RIGHT))
        self.assertEqual(self.report(rollout.pk, "pdf").status_code, 200)

    @with_options(second_person=True)
    def test_where_the_house_asks_for_it_a_second_person_lets_it_begin(self) -> None:
        rollout = self.start()
        advance_rollout(rollout.pk)
        self.assertEqual((rollout.state, Order.objects.count()), ("proposed", 0))
        round_ = self.house.client().get("/api/v1/round").json()
        self.assertEqual([i["rollout"] for i in round_["items"] if i["kind"] == "proposed"], [rollout.pk])
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/approve").status_code, 403)
        other = self.house.browser(Role.ADMINISTRATOR)
        self.assertTrue(other.get(f"/api/v1/rollouts/{rollout.pk}").json()["can_approve"])
        self.assertEqual(
            self.post(f"rollouts/{rollout.pk}/approve", client=other).json()["approved_by"], "administrator"
        )
        self.carry_out(rollout)
        self.house.send(survey(**PUT_RIGHT))
        self.assertEqual(self.report(rollout.pk, "json").json()["approved_by"], "administrator")
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/approve", client=other).status_code, 409)

    @with_options(second_person=True)
    def test_one_that_waits_for_approval_can_be_withdrawn(self) -> None:
        rollout = self.start()
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/halt").json()["state"], "halted")
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/resume").status_code, 409)
