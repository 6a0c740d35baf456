"""Errands through the API, with the agent's door beside it."""

from typing import Any

from normant.accounts.permissions import Role
from normant.errands.jobs import prove_errands
from normant.findings.jobs import reevaluate_seats
from normant.findings.models import Finding
from normant.findings.services.publish import publish
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.rollouts.models import Rollout
from normant.rollouts.tests.test_waves import Stage
from normant.seats.models import Seat
from normant.tests.house import STANDARD, SURVEY, survey
from normant.tests.options import with_options

from ..models import Errand

BRANCH = """
[[layer.rule]]
setting = "driver.branch"
want = "steady"
severity = "should"
because = "The other branch drops frames."
"""


def with_driver(branch: str, **more: Any) -> dict[str, Any]:
    """The worked survey with a driver of that branch on its GPUs."""
    gpus = [{**gpu, "driver": {**gpu["driver"], "branch": branch}} for gpu in SURVEY["facts"]["gpus"]]
    return {**survey(**more), "facts": {**SURVEY["facts"], "gpus": gpus}}


class Branches(Stage):
    """Every seat has a driver of another branch than the house standard."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        publish(
            STANDARD.replace('\n[[layer]]\nname = "Cutting', BRANCH + '\n[[layer]]\nname = "Cutting'),
            base=1,
            note="",
            user=None,
        )
        reevaluate_seats(list(Seat.objects.values_list("pk", flat=True)))

    def branches(self) -> list[int]:
        return list(Finding.objects.open().filter(setting="driver.branch").values_list("pk", flat=True))


class Errands(Branches):
    def give(self) -> Any:
        return self.post("errands", {"findings": self.branches()})

    def of(self, seat: str = "pan-03") -> Errand:
        return Errand.objects.get(seat__name=seat)

    def sign(self, seat: str = "pan-03", role: Role = Role.ASSISTANT) -> Any:
        return self.post(f"errands/{self.of(seat).pk}/sign-off", {"words": "done, and played for two minutes"}, role)

    def test_what_no_order_can_do_is_written_down_in_walking_order(self) -> None:
        answer = self.give().json()
        self.assertEqual([stop["seat"] for stop in answer["stops"]], ["pan-03", "pan-04", "pan-05", "pan-06"])
        self.assertEqual(answer["sentence"], "4 errands at 4 seats, about 80 minutes of work plus walking.")
        errand = answer["stops"][0]["errands"][0]
        self.assertEqual(errand["does"], "Change GPU driver branch to steady")
        self.assertEqual((errand["because"], errand["room"]), ("The other branch drops frames.", "Pan House"))
        self.assertEqual(self.give().json()["title"], "No errand")  # they are on somebody's list by now

    def test_a_seat_that_no_order_reaches_gets_an_errand_for_what_orders_do(self) -> None:
        self.post("errands", {"findings": self.findings()[:1]})
        self.assertEqual(self.of().work["does"], "Set Power profile to performance")

    def test_a_survey_proves_it_and_the_sign_off_says_who(self) -> None:
        self.give()
        answer = self.sign().json()
        self.assertEqual((answer["state"], answer["signed_by"]), ("signed", "assistant"))
        self.assertTrue(Order.objects.waiting().filter(seat__name="pan-03", kind="survey_now").exists())
        self.house.send(with_driver("steady"))
        errand = self.of()
        self.assertEqual(
            (errand.state, errand.message), ("done", "Signed off by assistant, and the survey confirms it")
        )

    def test_a_survey_that_says_otherwise_opens_it_again(self) -> None:
        self.give()
        self.sign()
        self.house.send(survey(power__profile="performance"))
        errand = self.of()
        self.assertEqual(errand.state, "open")
        self.assertIn("Signed off by assistant, but the survey of", errand.message)

    def test_what_was_done_without_a_sign_off_is_done_all_the_same(self) -> None:
        self.give()
        self.house.send(with_driver("steady"))
        prove_errands(timestamp=0)
        self.assertEqual(self.of().message, "Not signed off; the survey confirms it")
        self.assertEqual(self.sign().json()["title"], "Not to be done")

    def test_in_own_words_the_sign_off_alone_ends_it(self) -> None:
        body = {
            "seat": "pan-04",
            "does": "Look after the fan",
            "steps": ["Open the case", "Blow it out"],
            "note": "loud",
        }
        self.assertEqual(self.post("errands/by-hand", body).json()["proof"], "sign-off")
        self.assertEqual(self.sign("pan-04").json()["state"], "done")
        for wrong in ({"seat": "pan-99"}, {"steps": []}, {"does": "  "}):
            with self.subTest(wrong):
                self.assertEqual(self.post("errands/by-hand", {**body, **wrong}).status_code, 422)

    def test_a_rollout_gives_those_that_it_cannot_settle_itself(self) -> None:
        both = [*self.findings(), *self.branches()]
        self._started(both)
        self.assertEqual(Errand.objects.filter(state="open", rollout__isnull=False).count(), 4)
        planned = self.house.client(Role.EDITOR).get("/api/v1/seats/pan-03/planned").json()
        self.assertEqual([e["does"] for e in planned["errands"]], ["Change GPU driver branch to steady"])

    def test_a_rollout_may_leave_them_out(self) -> None:
        self._started([*self.findings(), *self.branches()], errands=False)
        self.assertFalse(Errand.objects.exists())

    @with_options(second_person=True)
    def test_those_of_a_rollout_to_be_approved_are_held_and_dropped_with_it(self) -> None:
        rollout = self._started([*self.findings(), *self.branches()])
        self.assertEqual({e.state for e in Errand.objects.all()}, {"held"})
        self.house.browser(Role.ADMINISTRATOR).post(f"/api/v1/rollouts/{rollout.pk}/approve")
        self.assertEqual({e.state for e in Errand.objects.all()}, {"open"})
        Errand.objects.all().delete()
        other = self._started([*self.findings()[1:], *self.branches()])
        self.post(f"rollouts/{other.pk}/halt")
        self.assertEqual({e.state for e in Errand.objects.all()}, {"dropped"})

    def _started(self, findings: list[int], **terms: Any) -> Rollout:
        body = {"findings": findings, "terms": terms}
        seen = self.post("rollouts/plan", body).json()["digest"]
        return Rollout.objects.get(pk=self.post("rollouts", {**body, "seen": seen}).json()["id"])

    def test_dropped_it_says_why_and_the_finding_may_have_another(self) -> None:
        self.give()
        number = self.of().pk
        self.assertEqual(self.post(f"errands/{number}/drop", {"why": " "}).status_code, 422)
        self.post(f"errands/{number}/drop", {"why": "the seat moves on Friday"})
        self.assertEqual(Errand.objects.get(pk=number).message, "Dropped by supervisor: the seat moves on Friday")
        self.assertEqual(self.give().status_code, 200)
        self.assertEqual(Entry.objects.filter(action="drop errand").count(), 1)

    def test_those_of_a_retired_seat_are_dropped(self) -> None:
        self.give()
        self.post("seats/pan-03/retire")
        prove_errands(timestamp=0)
        self.assertEqual(self.of().state, "dropped")

    def test_the_sheet_is_a_pdf_of_all_a_room_or_one(self) -> None:
        self.give()
        client = self.house.client(Role.ASSISTANT)
        for query in ("", "?room=Pan%20House", f"?errand={self.of().pk}"):
            with self.subTest(query):
                self.assertEqual(client.get(f"/api/v1/errands/sheet{query}").content[:5], b"%PDF-")
        self.assertEqual(client.get("/api/v1/errands/sheet?room=Attic").json()["title"], "Nothing to print")

    def test_a_list_costs_the_same_questions_however_long_it_is(self) -> None:
        self.give()
        client = self.house.client()
        with self.assertNumQueries(6):
            client.get("/api/v1/errands")
        Errand.objects.exclude(seat__name="pan-03").delete()
        with self.assertNumQueries(6):
            client.get("/api/v1/errands")
