"""What is published of the shapes is what is served."""

import json
import zlib
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import msgspec
from django.test import TestCase
from django.utils import timezone
from ninja import Schema
from pydantic import TypeAdapter

from normant.accounts.permissions import Role
from normant.clearings.models import FileList, ListPage, ListPart, SeatClearing, StoreClearing
from normant.config.management.commands.openapi import document
from normant.config.management.commands.problems import listed
from normant.deliveries.models import ProjectOnSeat
from normant.findings.services.publish import publish
from normant.ledger.services.sign_head import sign_head
from normant.orders.services.issue import issue_order, issue_send_files
from normant.projects.models import NightlyLook, Project
from normant.standing_care.models import Turn
from normant.stores.services.keep_figures import keep_figures
from normant.timelines.models import Timeline
from normant.trials.models import Run, TrialSeat
from normant_core.dialects import dialect
from normant_core.measure.machine.laid import Laid
from normant_core.orders.kinds import CheckProjects, SendList
from normant_core.seat import survey
from normant_core.standard import parse as standard

from .house import STANDARD, House
from .test_routes import routes

DOCS = Path(__file__).resolve().parents[3] / "docs"


NO_JSON = {"archive", "template_file", "whole_ledger", "report", "errand_sheet", "clearing_list"}
QUERY = {
    "compare": "?other=pan-03",  # there are no peers
    "triable": "?seat=pan-03",
    "drift_cell": "?seat=pan-03&setting=power.profile",
}


class Published(TestCase):
    maxDiff = 2000

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()
        client = cls.house.client()
        findings = client.get("/api/v1/findings").json()["items"]
        ids = [finding["id"] for finding in findings]
        seen = client.post("/api/v1/rollouts/plan", {"findings": ids}, "application/json").json()
        started = client.post("/api/v1/rollouts", {"findings": ids, "seen": seen["digest"]}, "application/json")
        cls.number = started.json()["id"]
        waived = {"places": [{"setting": findings[0]["setting"]}], "reason": "x", "until_production": "The Salt Ledger"}
        client.post("/api/v1/waivers", waived, "application/json")
        drafted = client.post("/api/v1/standard/drafts", {"text": STANDARD, "base": 1}, "application/json")
        cls.draft = drafted.json()["id"]
        errand = {"seat": "pan-03", "does": "look", "steps": ["look"]}
        cls.errand = client.post("/api/v1/errands/by-hand", errand, "application/json").json()["id"]
        plan = client.post("/api/v1/plans", {"name": "x", "findings": ids[:1]}, "application/json")
        store = {"app": "corrow", "setting": "store.source_cache.path"}
        asked = client.post("/api/v1/seats/pan-03/stores/look", store, "application/json")
        cls.looked = asked.json()["order"]
        cls.tried = client.post("/api/v1/rehearsals", {"findings": ids}, "application/json").json()["id"]
        cls.plan = plan.json()["id"]
        pool = {"setting": "memory.preview_pool", "app": "corrow", "value": "8 GiB"}
        trial = {"kind": "change", "job": "play", "conditions": [{}, {"sets": [pool]}], "seats": ["pan-03"]}
        cls.trial = client.post("/api/v1/trials", trial, "application/json").json()["id"]
        by_hand = {**trial, "by_hand": {"what": "0:10 to 0:40", "frames": 750, "rate": 25}}
        cls.sheet = client.post("/api/v1/trials", by_hand, "application/json").json()["id"]
        on = TrialSeat.objects.get(trial=cls.trial)
        cls.made_run = Run.objects.create(
            of=on, block=1, place=0, condition="8 GiB", figure=40.0, ended_at=timezone.now()
        )
        cls.timeline = Timeline.objects.create(
            name="Reel", body=msgspec.json.encode(Laid("25", "1", (), ())), rate="25", clips=0, seconds=1
        ).pk
        cls.order = issue_send_files(cls.house.seat, "corrow").pk
        cls.clearing = cls._clearing()
        cls.scan = issue_order(cls.house.seat, CheckProjects("corrow")).pk
        seen = {"file": "a.corrow", "items": 1, "troubles": [], "more": 1}
        cls.project = Project.objects.create(
            seat=cls.house.seat,
            app="corrow",
            file="a.corrow",
            seen=seen,
            seen_at=timezone.now(),
            sent_at=timezone.now(),
        ).pk
        delivery = {"project": "x", "production": "x", "app": "corrow", "file": "x", "digest": "0" * 64, "size": 1}
        delivery |= {"finished_at": "2026-01-05T00:00:00Z"}
        cls.delivery = client.post("/api/v1/deliveries", delivery, "application/json").json()["id"]
        ProjectOnSeat.objects.create(
            seat=cls.house.seat, app="corrow", kind="renders", production="x", project="x", size=5
        )
        cls._care()
        sign_head()
        keep_figures()

    @classmethod
    def _clearing(cls) -> int:
        """A plan with a store of which something would go, and its list."""
        begun = cls.house.client().post("/api/v1/clearings", {"kinds": ["source_cache"]}, "application/json")
        on = SeatClearing.objects.get(clearing=begun.json()["id"])
        planned = {"app": "corrow", "kind": "source_cache", "items": 2, "size": 9, "digest": "0" * 64, "going": 1}
        planned |= {"oldest": "2026-01-05T00:00:00Z", "reasons": [{"why": "x", "items": 1, "size": 4}]}
        cleared = {"items": 1, "size": 5, "held_until": "2126-01-05T00:00:00Z"}
        store = StoreClearing.objects.create(
            of=on, place=0, kind="source_cache", planned=planned, going=1, cleared=cleared
        )
        item = b'{"path": "a", "size": 5, "used": "2026-01-05T00:00:00Z", "production": "", "project": ""}'
        order = issue_order(on.seat, SendList("p", "0" * 64), clearing=on)
        file_list = FileList.objects.create(store=store, order=order, state=FileList.State.WHOLE)
        ListPart.objects.create(list=file_list, number=0, body=zlib.compress(item + b"\n"), lines=1)
        ListPage.objects.create(list=file_list, sort="listed", number=0, body=zlib.compress(b"[" + item + b"]"))
        return on.clearing_id

    @classmethod
    def _care(cls) -> None:
        """A sentence in force that has had a turn, and a production that is looked at each night."""
        care = 'name = "x"\nkinds = ["bin"]\nunused_days = 9\neach = "day"\nopens = "01:00"\ncloses = "02:00"\nmost = "1 GB"'
        publish(f'{STANDARD}\n[[layer]]\nname = "Care"\n[[layer.care]]\n{care}\n', base=1, note="", user=None)
        now = timezone.now()
        Turn.objects.create(name="x", meaning="", sentence="", opens=now, closes=now, clearing_id=cls.clearing)
        NightlyLook.objects.create(production="x", made_by=cls.house.people[Role.SUPERVISOR], asked_on=now.date())

    def test_the_openapi_document_is_current(self) -> None:
        committed = (DOCS / "openapi.json").read_text("utf-8").strip()
        self.assertEqual(committed, document(), "run script/schemas and commit what it writes")

    def test_the_list_of_problems_is_current(self) -> None:
        committed = (DOCS / "problems.md").read_text("utf-8").strip()
        self.assertEqual(committed, listed().strip(), "run script/schemas and commit what it writes")

    def test_the_json_schemas_are_current(self) -> None:
        for name, schema in (("survey", survey.schema), ("standard", standard.schema), ("dialect", dialect.schema)):
            committed = json.loads((DOCS / "schemas" / f"{name}.json").read_text("utf-8"))
            self.assertEqual(committed, json.loads(json.dumps(schema())), "run script/schemas")

    def test_every_answer_has_its_published_shape(self) -> None:
        script, browser = self.house.client(), self.house.browser(Role.ADMINISTRATOR)
        for method, path, operation in routes():
            client = browser if getattr(operation.auth_param, "in_person", False) else script
            if method != "GET" or operation.auth_param is None or operation.operation_id in NO_JSON:
                continue
            with self.subTest(path):
                there = path.replace("rollouts/1", f"rollouts/{self.number}").replace("{order}", str(self.order))
                there = there.replace("drafts/1", f"drafts/{self.draft}").replace("errands/1", f"errands/{self.errand}")
                there = there.replace("plans/1", f"plans/{self.plan}")
                there = there.replace(f"stores/{self.order}", f"stores/{self.looked}")
                there = there.replace(f"scans/{self.order}", f"scans/{self.scan}")
                there = there.replace("trials/1/sheet/{seat}", f"trials/{self.sheet}/sheet/pan-03")
                there = there.replace("trials/1", f"trials/{self.trial}").replace("{run}", str(self.made_run.pk))
                there = there.replace("{volume}", "v1").replace("deliveries/1", f"deliveries/{self.delivery}")
                there = there.replace("timelines/1", f"timelines/{self.timeline}")
                there = there.replace("rehearsals/1", f"rehearsals/{self.tried}")
                there = there.replace("projects/1", f"projects/{self.project}")
                there = there.replace("clearings/1", f"clearings/{self.clearing}").replace("{place}", "0")
                answer = client.get(there + QUERY.get(operation.operation_id, ""))
                self.assertEqual(answer.status_code, 200)
                shape: Any = operation.response_models[200].model_fields["response"].annotation
                TypeAdapter(shape).validate_json(answer.content, strict=False)
                self.assertEqual(_unknown(answer.json(), shape), set())

    def test_no_two_shapes_have_one_name(self) -> None:
        """Of two, one would be published in the place of the other, without a word."""
        places = defaultdict[str, set[str]](set)
        for shape in _below(Schema):
            module = shape.__module__
            if module.startswith("normant.") and ".tests." not in module and module != "normant.common.answers":
                places[shape.__name__].add(module)
        self.assertGreater(len(places), 100)
        self.assertEqual({name: where for name, where in places.items() if len(where) > 1}, {})

    def test_addresses_that_lead_nowhere_are_problems(self) -> None:
        for path in ("/api/v1/nothing", "/api/v2/seats", "/api/v1/agent/nothing"):
            answer = self.client.get(path)
            self.assertEqual((answer.status_code, answer["Content-Type"]), (404, "application/problem+json"))
            self.assertIn(f"`{answer.json()['type']}`", listed())


def _below(shape: type[Schema]) -> Iterator[type[Schema]]:
    for narrower in shape.__subclasses__():
        yield narrower
        yield from _below(narrower)


def _unknown(value: Any, shape: Any) -> set[str]:
    """Fields that an answer has and its published shape does not."""
    fields = set(getattr(shape, "model_fields", {}))
    return set(value) - fields if isinstance(value, dict) else set()
