import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from normant.accounts.models import User
from normant.accounts.permissions import Role
from normant.common.problems import Problem
from normant.dialects.models import Dialect
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.packages.models import Package
from normant.proposals.models import Proposal
from normant.proposals.services.propose import approve
from normant.tests.house import EXAMPLES, House
from normant.tests.options import with_options

DIALECT = (EXAMPLES / "corrow.dialect.toml").read_text("utf-8")
CHANGED = DIALECT.replace(">=8,<9", ">=8,<10")
ELSEWHERE = DIALECT.replace("corrow/8/preferences.xml", "maker/corrow/8/preferences.xml")
ADMIN = Role.ADMINISTRATOR


class Proposals(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.house.send()

    def post(self, path: str, role: Role = Role.SUPERVISOR, **body: Any) -> Any:
        return self.house.client(role).post(f"/api/v1/{path}", json.dumps(body), "application/json")

    def proposed(self, answer: Any) -> Proposal:
        self.assertEqual(answer.status_code, 202, answer.content)
        return Proposal.objects.get(pk=answer.json()["proposal"])

    def approve(self, proposal: Proposal, role: Role = ADMIN, **other: Any) -> Any:
        body = json.dumps({"seen": proposal.seen, **other})
        path = f"/api/v1/proposals/{proposal.pk}/approve"
        return self.house.browser(role).post(path, body, "application/json")

    def text(self) -> str:
        return Dialect.objects.get(app="corrow").text


@with_options(second_person=True)
class TwoPeople(Proposals):
    def test_a_dialect_waits_is_read_and_is_kept_by_the_second(self) -> None:
        proposal = self.proposed(self.post("dialects/keep", text=CHANGED))
        self.assertEqual(self.text(), DIALECT)
        asked = self.house.client(Role.VIEWER).get("/api/v1/proposals").json()["items"][0]
        self.assertIn('app = "corrow"', "\n".join(asked["lines"]))
        self.assertEqual(self.approve(proposal, Role.SUPERVISOR).status_code, 403)
        self.assertEqual(self.approve(proposal, seen="another").json()["title"], "Changed meanwhile")
        self.assertEqual(self.approve(proposal).json()["approved"], True)
        self.assertEqual(self.text(), CHANGED)
        self.assertEqual(self.approve(proposal).json()["title"], "Decided")
        self.assertEqual(Entry.objects.first().action, "approve proposal")  # type: ignore[union-attr]

    def test_the_same_once_more_is_the_one_that_waits(self) -> None:
        numbers = {self.proposed(self.post("dialects/keep", text=CHANGED)).pk for _ in range(3)}
        self.assertEqual(len(numbers), 1)

    def test_what_cannot_be_done_any_more_goes_on_waiting(self) -> None:
        proposal = self.proposed(self.post("dialects/keep", text=CHANGED, base=1))
        other = self.proposed(self.post("dialects/keep", text=DIALECT + "# other", base=1))
        self.approve(other)
        self.assertEqual(self.approve(proposal).json()["title"], "Somebody was faster")
        self.assertIsNone(Proposal.objects.get(pk=proposal.pk).decided_at)
        self.assertEqual(self.post(f"proposals/{proposal.pk}/refuse", reason="late").json()["approved"], False)

    def test_who_was_disabled_since_has_nothing_done(self) -> None:
        proposal = self.proposed(self.post("dialects/keep", text=CHANGED))
        User.objects.filter(role=Role.SUPERVISOR).update(is_active=False)
        self.assertEqual(self.approve(proposal).json()["title"], "No longer theirs")
        self.assertEqual(self.text(), DIALECT)

    def test_a_seats_files_are_asked_for_after_the_second_agreed(self) -> None:
        proposal = self.proposed(self.post("dialects/corrow/watch", seat="pan-03"))
        self.assertFalse(Order.objects.filter(kind="send_files").exists())
        self.approve(proposal)
        self.assertEqual(Order.objects.filter(kind="send_files").count(), 1)
        self.assertEqual(self.post("dialects/corrow/watch", seat="pan-03").status_code, 200)

    def test_a_package_waits_with_its_hash(self) -> None:
        form = {"serves": "Hadrel H60", "version": "31.5", "package": SimpleUploadedFile("d.run", b"driver")}
        proposal = self.proposed(self.house.client().post("/api/v1/packages", form))
        self.assertFalse(Package.objects.exists())
        self.assertIn("SHA-256", proposal.lines[0])
        self.approve(proposal)
        self.assertEqual(Package.objects.get().kept_by, "supervisor")

    def test_nobody_else_decides(self) -> None:
        proposal = self.proposed(self.post("dialects/keep", text=CHANGED))
        for role in (Role.VIEWER, Role.EDITOR, Role.ASSISTANT):
            for act in ("approve", "refuse"):
                body = {"seen": proposal.seen} if act == "approve" else {}
                self.assertEqual(self.post(f"proposals/{proposal.pk}/{act}", role, **body).status_code, 403)


class Folders(Proposals):
    def test_a_folder_that_no_dialect_named_waits_for_an_administrator(self) -> None:
        proposal = self.proposed(self.post("dialects/keep", text=ELSEWHERE))
        self.assertTrue(proposal.needs_administrator)
        self.assertIn("maker/corrow/", " ".join(proposal.lines))
        self.assertNotIn("maker/", self.text())
        self.approve(proposal)
        self.assertEqual(self.text(), ELSEWHERE)
        again = self.post("dialects/keep", text=ELSEWHERE + "# more")
        self.assertEqual(again.status_code, 200, "the folder was admitted")

    def test_two_supervisors_are_not_enough(self) -> None:
        proposal = self.proposed(self.post("dialects/keep", text=ELSEWHERE))
        Proposal.objects.update(made_by=User.objects.create_user("kim", role=Role.SUPERVISOR))
        supervisor = User.objects.get(username="supervisor")
        with self.assertRaisesRegex(Problem, "needs an administrator"):
            approve(proposal.pk, supervisor, seen=proposal.seen)

    def test_an_administrator_says_which_folder_is_admitted(self) -> None:
        asked = self.post("dialects/keep", ADMIN, text=ELSEWHERE)
        self.assertEqual((asked.status_code, asked.json()["folders"]), (409, ["maker/corrow/"]))
        admitted = self.post("dialects/keep", ADMIN, text=ELSEWHERE, admits=["maker/corrow/"])
        self.assertEqual((admitted.status_code, self.text()), (200, ELSEWHERE))

    def test_another_version_of_an_admitted_folder_is_no_news(self) -> None:
        self.assertEqual(
            self.post("dialects/keep", text=DIALECT.replace("corrow/8/pre", "corrow/9/pre")).status_code, 200
        )
