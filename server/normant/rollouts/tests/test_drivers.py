"""Driver packages, and rollouts that install them: through the API and the agents' door."""

import hashlib
import json
import os
import tempfile
from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile

from normant.accounts.permissions import Role
from normant.errands.models import Errand
from normant.errands.tests.test_errands import Branches, with_driver
from normant.findings.models import Finding
from normant.orders.models import Order
from normant.packages.services.forget_packages import forget_packages
from normant.rollouts.jobs import advance_rollout
from normant.rollouts.models import Leg
from normant.round.items import round_now
from normant.tests.options import with_options
from normant_core.orders.kinds import InstallDriver, parse_order

NEW, OLD = b"installs 31.4.1", b"installs 31.4.2"


class Drivers(Branches):
    def setUp(self) -> None:
        folder = self.enterContext(tempfile.TemporaryDirectory())
        self.enterContext(with_options(packages=Path(folder)))
        self.folder = Path(folder)

    def keep(self, body: bytes, version: str, branch: str, role: Role = Role.SUPERVISOR, **how: str) -> Any:
        file = SimpleUploadedFile(f"driver-{version}.bin", body)
        fields = {"serves": "Hadrel H60, Hadrel H40", "version": version, "branch": branch, **how, "package": file}
        return self.house.client(role).post("/api/v1/packages", fields)

    def test_bytes_that_nobody_approved_are_forgotten_after_a_day(self) -> None:
        with with_options(second_person=True):
            numbers = [self.keep(body, "31.4.1", "swift").json()["proposal"] for body in (b"waits", b"refused")]
        self.keep(NEW, "31.4.1", "swift")
        self.post(f"proposals/{numbers[1]}/refuse")
        for left in (".12-34.part", "notes.txt"):
            (self.folder / left).write_bytes(b"")
        forget_packages()
        self.assertEqual(len([*self.folder.iterdir()]), 5)
        for file in self.folder.iterdir():
            os.utime(file, (1, 1))
        forget_packages()
        digests = [hashlib.sha256(body).hexdigest() for body in (b"waits", NEW)]
        self.assertEqual(sorted(file.name for file in self.folder.iterdir()), sorted([*digests, "notes.txt"]))

    def fetched(self, digest: str) -> bytes:
        """What an agent gets."""
        return b"".join(self.house.agent().get(f"/api/v1/agent/packages/{digest}"))

    def settled_by_order(self) -> list[bool]:
        """Whether the Round offers to correct the branch, or an errand."""
        settings = [spoken for item in round_now()["items"] for spoken in item["settings"]]
        return [spoken["remote"] for spoken in settings if spoken["setting"] == "driver.branch"]

    def test_an_approved_package_settles_by_order_what_was_an_errand(self) -> None:
        body: dict[str, Any] = {"findings": self.branches()[:1], "terms": {"canaries": False}}
        left = self.post("rollouts/plan", body).json()["seats"][0]["left"]
        self.assertEqual(left[0]["errand"], "Change GPU driver branch to steady")
        self.assertEqual(self.settled_by_order(), [False])
        self.keep(NEW, "31.4.1", "steady")
        self.keep(OLD, "31.4.2", "swift")
        self.assertEqual(self.settled_by_order(), [True])
        plan = self.post("rollouts/plan", body).json()
        self.assertEqual((plan["seats"][0]["restarts"], plan["seats"][0]["left"]), (True, []))
        number = self.post("rollouts", {**body, "seen": plan["digest"]}).json()["id"]
        advance_rollout(number)
        order = Order.objects.get(leg__rollout=number)
        new, old = (hashlib.sha256(body).hexdigest() for body in (NEW, OLD))
        action = InstallDriver("gpu0", "31.4.2", "31.4.1", new, len(NEW), old)
        self.assertEqual(parse_order(bytes(order.body)).action, action)
        self.assertEqual(self.fetched(new), NEW)
        self.hand_in(order, "done")
        self.house.send(with_driver("steady"))
        self.assertEqual(Leg.objects.get(rollout=number).state, "settled")
        self.assertFalse(Finding.objects.open().filter(setting="driver.branch", seat__name="pan-03").exists())
        self.assertFalse(Errand.objects.exists())

    def test_one_that_was_withdrawn_is_planned_with_no_more_and_still_leads_back(self) -> None:
        number = self.keep(NEW, "31.4.1", "steady").json()["items"][0]["id"]
        self.house.client().delete(f"/api/v1/packages/{number}")
        plan = self.post("rollouts/plan", {"findings": self.branches()[:1]}).json()
        self.assertEqual(plan["seats"][0]["changes"], [])
        digest = hashlib.sha256(NEW).hexdigest()
        self.assertEqual(self.fetched(digest), NEW)
        self.assertEqual(self.house.client().delete(f"/api/v1/packages/{number}").status_code, 404)

    def test_what_is_no_package_is_refused_and_leaves_nothing(self) -> None:
        for title, body, version, how in (
            ("No version", NEW, "the newest", {}),
            ("For no GPU", NEW, "31.4", {"serves": " , "}),
            ("Empty", b"", "31.4", {}),
        ):
            with self.subTest(title):
                self.assertEqual(self.keep(body, version, "steady", **how).json()["title"], title)
        self.assertEqual(list(self.folder.iterdir()), [])
        self.assertEqual(self.keep(NEW, "31.4", "steady", Role.ASSISTANT).status_code, 403)
        self.keep(NEW, "31.4", "steady")
        self.assertEqual(self.keep(NEW, "31.4", "steady").json()["title"], "Kept already")
        self.assertEqual(len(list(self.folder.iterdir())), 1)

    def test_agents_get_what_the_house_holds_and_nothing_else(self) -> None:
        for name in ("0" * 64, "..", "order.key"):
            with self.subTest(name):
                self.assertEqual(self.house.agent().get(f"/api/v1/agent/packages/{name}").status_code, 404)

    def test_what_waits_to_start_again_is_on_its_way_and_not_halted(self) -> None:
        self.keep(NEW, "31.4.1", "steady")
        body: dict[str, Any] = {"findings": self.branches()[:1], "terms": {"canaries": False}}
        seen = self.post("rollouts/plan", body).json()["digest"]
        number = self.post("rollouts", {**body, "seen": seen}).json()["id"]
        advance_rollout(number)
        order = Order.objects.get(leg__rollout=number)
        step = {"step": "restart", "message": "waiting for an answer at the seat"}
        path = f"/api/v1/agent/orders/{order.pk}/progress"
        self.house.agent().post(path, json.dumps(step), "application/json")
        leg = self.post(f"rollouts/{number}/halt").json()["legs"][0]
        self.assertEqual((leg["state"], leg["step"], leg["troubled"]), ("moving", "restart", True))
        self.hand_in(order, "done")
        self.house.send(with_driver("steady"))
        self.assertEqual(Leg.objects.get(rollout=number).state, "settled")
