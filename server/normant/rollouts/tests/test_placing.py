"""A rollout that places the house's template: through the API and the agents' door."""

import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from normant.dialects.services.keep_dialect import keep_dialect
from normant.findings.models import Finding
from normant.findings.services.publish import publish
from normant.orders.models import Order
from normant.rollouts.jobs import advance_rollout
from normant.rollouts.models import Leg
from normant.seats.models import Reading
from normant.templates.tests.test_templates import PROJECT, RULE
from normant.tests.house import EXAMPLES, STANDARD, House, survey
from normant_core.orders.kinds import Change, PlaceTemplate, parse_order

PATH = "corrow/8/templates/house.json"
HARD, SOFT = b'{"engine": "hadrel"}', b'{"engine": "software"}'


def with_engine(value: str, raw: str, rate: int = 24) -> dict[str, Any]:
    """The worked survey, with a template of the seat's own."""
    own = {"setting": "project.engine", "app": "corrow", "value": value}
    body = survey()
    native = {"file": PATH, "at": "/engine", "raw": raw}
    other = {"setting": "project.frame_rate", "app": "corrow", "value": rate}
    return {**body, "readings": [*body["readings"], {**own, "native": native}, other]}


class Placing(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        keep_dialect((EXAMPLES / "corrow.dialect.toml").read_text("utf-8") + PROJECT, "test")
        publish(STANDARD + RULE, base=1, note="", user=None)
        cls.house.send(with_engine("cpu", "software"))

    def keep(self, body: bytes, **more: Any) -> str:
        fields = {"name": "House", "app": "corrow", **more, "file": SimpleUploadedFile("house.json", body)}
        digest: str = self.house.client().post("/api/v1/templates", fields).json()["digest"]
        return digest

    def post(self, path: str, body: Any) -> Any:
        return self.house.client().post(f"/api/v1/{path}", json.dumps(body), "application/json").json()

    def asked(self) -> dict[str, Any]:
        findings = Finding.objects.open().filter(setting="project.engine").values_list("pk", flat=True)
        return {"findings": list(findings), "terms": {"canaries": False}}

    def planned(self) -> Any:
        return self.post("rollouts/plan", self.asked())

    def test_what_only_a_person_could_decide_the_houses_template_settles(self) -> None:
        self.assertEqual(self.planned()["seats"][0]["left"][0]["why"], "a person must choose the value")
        digest = self.keep(HARD)
        plan = self.planned()
        change = plan["seats"][0]["changes"][0]
        self.assertEqual((change["template"], change["before"], change["after"]), (digest, "software", "hadrel"))
        number = self.post("rollouts", {**self.asked(), "seen": plan["digest"]})["id"]
        advance_rollout(number)
        order = Order.objects.get(leg__rollout=number)
        replaced = Change("project.engine", "software", "hadrel", "hadrel")
        action = PlaceTemplate("corrow", "template", PATH, (replaced,), digest)
        self.assertEqual(parse_order(bytes(order.body)).action, action)
        self.house.client().delete(f"/api/v1/templates/{self.held()[0]['id']}")
        self.assertEqual(self.house.agent().get(f"/api/v1/agent/templates/{digest}").content, HARD)
        receipt = {"order": str(order.pk), "outcome": "done"}
        self.house.agent().post(f"/api/v1/agent/orders/{order.pk}/receipt", json.dumps(receipt), "application/json")
        self.house.send(with_engine("hadrel", "hadrel", rate=25))
        self.assertEqual(Leg.objects.get(rollout=number).state, "settled")
        causes = Reading.objects.current().filter(setting__startswith="project.").values_list("setting", "cause")
        self.assertEqual(dict(causes), {"project.engine": "ours", "project.frame_rate": "ours"})

    def held(self) -> Any:
        return self.house.client().get("/api/v1/templates").json()["items"]

    def test_a_template_that_is_no_better_there_or_of_others_settles_nothing(self) -> None:
        for name, body, more in (("Soft", SOFT, {}), ("Lamps", HARD, {"productions": ["Nine Lamps"]})):
            with self.subTest(name):
                self.keep(body, name=name, **more)
                self.assertEqual(self.planned()["seats"][0]["changes"], [])

    def test_one_of_the_production_that_is_no_better_is_not_passed_over(self) -> None:
        self.keep(HARD)
        self.keep(SOFT, name="Ledger", productions=["The Salt Ledger"])
        self.assertEqual(self.planned()["seats"][0]["changes"], [])

    def test_agents_get_templates_by_their_hash_and_nothing_else(self) -> None:
        digest = self.keep(HARD)
        self.assertEqual(self.house.agent().get(f"/api/v1/agent/templates/{'0' * 64}").status_code, 404)
        self.assertEqual(self.house.agent("x").get(f"/api/v1/agent/templates/{digest}").status_code, 401)
