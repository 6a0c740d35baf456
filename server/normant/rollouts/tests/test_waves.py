"""Waves in the state machine, moved by receipts and surveys through the agents' door."""

import datetime as dt
import json
from typing import Any

from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.findings.jobs import reevaluate_seats
from normant.findings.models import Finding
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.rollouts.jobs import advance_rollout, sweep
from normant.rollouts.models import Leg, Rollout
from normant.round.items import round_now
from normant.seats.models import Presence, Seat
from normant.tests.house import House, survey

POWER = "power.profile"
NAMES = ("pan-03", "pan-04", "pan-05", "pan-06")


class Stage(TestCase):
    """Four seats off norm, each with its agent."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.tokens = {"pan-03": cls.house.token, **{name: cls.house.enrolled(name)[1] for name in NAMES[1:]}}
        for name in NAMES:
            cls.house.send(survey(seat=name, minutes=-10), cls.tokens[name])
        reevaluate_seats(list(Seat.objects.values_list("pk", flat=True)))

    def post(self, path: str, body: Any = None, role: Role = Role.SUPERVISOR) -> Any:
        return self.house.client(role).post(f"/api/v1/{path}", json.dumps(body or {}, default=str), "application/json")

    def findings(self) -> list[int]:
        return list(Finding.objects.open().filter(setting=POWER).order_by("pk").values_list("pk", flat=True))

    def plan(self, **terms: Any) -> Any:
        return self.post("rollouts/plan", {"findings": self.findings(), "terms": terms})

    def start(self, **terms: Any) -> Rollout:
        body = {"findings": self.findings(), "seen": self.plan(**terms).json()["digest"], "terms": terms}
        answer = self.post("rollouts", body)
        self.assertEqual(answer.status_code, 200, answer.content)
        rollout = Rollout.objects.get(pk=answer.json()["id"])
        advance_rollout(rollout.pk)
        return rollout

    def begun(self) -> list[str]:
        return list(Leg.objects.filter(begun_at__isnull=False, ended_at=None).values_list("seat__name", flat=True))

    def end(self, seat: str, outcome: str = "done") -> None:
        """The seat's agent carries out its order, and its next survey tells it."""
        order = Order.objects.waiting().get(seat__name=seat)
        self.hand_in(order, outcome)
        if outcome == "done":
            self.house.send(survey(seat=seat, power__profile="performance"), self.tokens[seat])
        advance_rollout(order.leg.rollout_id)  # type: ignore[union-attr]

    def hand_in(self, order: Order, outcome: str) -> None:
        """The receipt of the seat's agent."""
        body = json.dumps({"order": str(order.pk), "outcome": outcome, "at": timezone.now().isoformat()})
        agent = self.house.agent(self.tokens[order.seat.name])
        agent.post(f"/api/v1/agent/orders/{order.pk}/receipt", body, "application/json")

    def shown(self, rollout: Rollout) -> Any:
        return self.house.client().get(f"/api/v1/rollouts/{rollout.pk}").json()


class Waves(Stage):
    def test_the_plan_tells_its_canaries_and_waves(self) -> None:
        order = self.plan(in_wave=2, pause=30).json()["order"]
        self.assertEqual(
            order["sentence"],
            "1 canary covers the only combination that seats share; this is the minimum. Then 3 seats in 2 waves.",
        )
        self.assertEqual(
            [(w["wave"], [t["seat"] for t in w["turns"]]) for w in order["waves"]],
            [
                (0, ["pan-03"]),
                (1, ["pan-04", "pan-05"]),
                (2, ["pan-06"]),
            ],
        )
        self.assertEqual(order["waves"][1]["turns"][0]["why"], "after the canaries")

    def test_a_plan_costs_the_same_questions_however_many_seats_it_has(self) -> None:
        body = {"findings": self.findings(), "terms": {}}
        for findings in (body["findings"][:1], body["findings"]):
            with self.subTest(len(findings)), self.assertNumQueries(17):
                self.post("rollouts/plan", {**body, "findings": findings})

    def test_nobody_begins_before_the_canaries_are_settled(self) -> None:
        rollout = self.start()
        self.assertEqual(self.begun(), ["pan-03"])
        waits = {leg["seat"]: leg["message"] for leg in self.shown(rollout)["legs"]}
        self.assertEqual(waits["pan-06"], "after the canaries")
        sweep(timestamp=0)
        self.assertEqual(self.begun(), ["pan-03"])
        self.end("pan-03")
        self.assertEqual(self.begun(), ["pan-04", "pan-05", "pan-06"])
        for name in NAMES[1:]:
            self.end(name)
        rollout.refresh_from_db()
        self.assertEqual(rollout.state, "finished")

    def test_rooms_and_roles_are_not_emptied(self) -> None:
        for terms in ({"at_once": 2}, {"left_working": 2}):
            with self.subTest(terms):
                rollout = self.start(canaries=False, **terms)
                self.assertEqual(len(self.begun()), 2)
                first = self.begun()[0]
                self.end(first, "failed")
                self.assertEqual(len(self.begun()), 2)
                self.assertNotIn(first, self.begun())
                self.post(f"rollouts/{rollout.pk}/halt")

    def test_a_pause_lies_between_waves_and_a_person_may_end_it(self) -> None:
        rollout = self.start(pause=30)
        self.end("pan-03")
        self.assertEqual(self.begun(), [])
        answer = self.shown(rollout)
        self.assertTrue(answer["can_go_on"])
        self.assertIn("the wave starts at", answer["legs"][1]["message"])
        self.post(f"rollouts/{rollout.pk}/go-on")
        advance_rollout(rollout.pk)
        self.assertEqual(len(self.begun()), 3)
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/go-on").json()["title"], "Nothing waits")

    def test_a_canary_that_stops_halts_the_rest_and_says_so(self) -> None:
        rollout = self.start(halt_after=1)
        self.end("pan-03", "failed")
        answer = self.shown(rollout)
        self.assertEqual((answer["state"], self.begun()), ("halted", []))
        self.assertEqual(
            answer["reason"], "pan-03 of the canaries stopped: no more seats start until a person has checked"
        )
        self.assertEqual({leg["state"] for leg in answer["legs"]}, {"stopped", "halted"})
        item = next(item for item in round_now()["items"] if item["kind"] == "halted")
        self.assertEqual((item["rollout"], item["words"]), (rollout.pk, answer["reason"]))

    def test_a_finding_that_must_be_settled_and_came_with_the_change_halts_the_rest(self) -> None:
        answer = self._with_something_new()
        self.assertEqual((answer["state"], self.begun()), ("halted", []))
        self.assertIn(
            "new critical findings since the change: Effects engine on pan-03: no more seats start", answer["reason"]
        )

    def test_a_house_may_go_on_in_spite_of_it(self) -> None:
        self.assertEqual(self._with_something_new(halt_on_must=False)["state"], "running")

    def _with_something_new(self, **terms: Any) -> Any:
        """The canary has its turn; its next survey tells that the CPU computes effects from now on."""
        self.house.send(survey(engine__effects="hadrel", minutes=-5), self.tokens["pan-03"])
        rollout = self.start(**terms)
        self.end("pan-03")
        return self.shown(rollout)

    def test_a_must_that_another_edition_found_halts_nothing(self) -> None:
        rollout = self.start()
        Finding.objects.filter(severity="must").update(opened_at=timezone.now(), opened_by="standard")
        self.end("pan-03")
        self.assertEqual(self.shown(rollout)["state"], "running")

    def test_what_was_halted_is_resumed_with_the_seats_that_it_kept(self) -> None:
        rollout = self.start(halt_after=1)
        self.end("pan-03", "failed")
        self.assertTrue(self.shown(rollout)["can_resume"])
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/resume", role=Role.VIEWER).status_code, 403)
        self.post(f"rollouts/{rollout.pk}/resume")
        advance_rollout(rollout.pk)
        self.assertEqual(self.begun(), ["pan-04", "pan-05", "pan-06"])
        self.end("pan-04", "failed")
        self.assertEqual(self.shown(rollout)["state"], "halted")  # what stopped since counts anew
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/resume").status_code, 200)

    def test_a_receipt_that_comes_after_the_halt_was_resumed_ends_the_leg_and_says_why(self) -> None:
        rollout = self.start(canaries=False)
        late = Order.objects.waiting().get(seat__name="pan-03")
        self.post(f"rollouts/{rollout.pk}/halt")
        self.post(f"rollouts/{rollout.pk}/resume")
        advance_rollout(rollout.pk)
        body = json.dumps({"order": str(late.pk), "outcome": "done", "at": timezone.now().isoformat()})
        path = f"/api/v1/agent/orders/{late.pk}/receipt"
        self.assertEqual(self.house.agent().post(path, body, "application/json").status_code, 204)
        leg = Leg.objects.get(seat__name="pan-03")
        self.assertEqual((leg.state, leg.message[:27]), ("stopped", "changed before the seat cou"))
        self.assertFalse(Order.objects.waiting().filter(leg=leg).exists())

    def test_a_retired_seat_is_neither_tried_again_nor_resumed(self) -> None:
        rollout = self.start(canaries=False)
        self.end("pan-04", "refused")
        self.post("seats/pan-04/retire")
        answer = self.post(f"rollouts/{rollout.pk}/retry", {"seats": ["pan-04"]})
        self.assertEqual(answer.json()["title"], "Not tried again")
        self.post(f"rollouts/{rollout.pk}/halt")
        self.post("seats/pan-05/retire")
        self.post(f"rollouts/{rollout.pk}/resume")
        self.assertEqual(
            set(Leg.objects.filter(state="waiting").values_list("seat__name", flat=True)), {"pan-03", "pan-06"}
        )

    def test_a_limit_of_the_room_is_no_wave_to_go_on_with(self) -> None:
        rollout = self.start(canaries=False, at_once=2)
        self.assertFalse(self.shown(rollout)["can_go_on"])
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/go-on").json()["title"], "Nothing waits")

    def test_a_rollout_costs_the_same_questions_however_many_seats_stopped(self) -> None:
        rollout = self.start(canaries=False, halt_after=0)
        client = self.house.client()
        counts = []
        for name in ("pan-03", "pan-04", "pan-05"):
            self.end(name, "refused")
            with CaptureQueriesContext(connection) as asked:
                client.get(f"/api/v1/rollouts/{rollout.pk}")
            counts.append(len(asked))
        self.assertEqual(len(set(counts)), 1, counts)

    def test_one_that_was_put_back_is_not_resumed(self) -> None:
        rollout = self.start(halt_after=1, canaries=False, in_wave=1)
        self.end("pan-03")
        self.end("pan-04", "failed")
        self.post(f"rollouts/{rollout.pk}/put-back")
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/resume").json()["title"], "Nothing to resume")
        self.assertNotIn("halted", [item["kind"] for item in round_now()["items"]])

    def test_of_one_that_halted_a_seat_is_put_back_and_the_others_are_resumed(self) -> None:
        rollout = self.start(halt_after=1, canaries=False, in_wave=2)
        self.end("pan-03")
        self.end("pan-04", "failed")
        self.post(f"rollouts/{rollout.pk}/put-back", {"seats": ["pan-03"]})
        self.assertTrue(self.shown(rollout)["can_resume"])
        self.assertIn("halted", [item["kind"] for item in round_now()["items"]])
        self.post(f"rollouts/{rollout.pk}/resume")
        advance_rollout(rollout.pk)
        self.assertEqual(
            set(Leg.objects.filter(rollout=rollout, begun_at__isnull=False, ended_at=None).values_list("wave")), {(2,)}
        )

    def test_limits_of_rooms_and_roles_count_what_other_rollouts_do(self) -> None:
        first = Finding.objects.filter(pk__in=self.findings(), seat__name__in=("pan-03", "pan-04"))
        body = {"findings": list(first.values_list("pk", flat=True)), "terms": {"canaries": False}}
        seen = self.post("rollouts/plan", body).json()["digest"]
        advance_rollout(self.post("rollouts", {**body, "seen": seen}).json()["id"])
        self.assertEqual(self.begun(), ["pan-03", "pan-04"])
        rest = [pk for pk in self.findings() if pk not in body["findings"]]
        for terms, more in (({"at_once": 3}, 1), ({"left_working": 2}, 0)):
            with self.subTest(terms):
                body = {"findings": rest, "terms": {"canaries": False, **terms}}
                seen = self.post("rollouts/plan", body).json()["digest"]
                number = self.post("rollouts", {**body, "seen": seen}).json()["id"]
                advance_rollout(number)
                begun = Leg.objects.filter(rollout=number, begun_at__isnull=False, ended_at=None)
                self.assertEqual(begun.count(), more)
                self.post(f"rollouts/{number}/halt")
                begun.update(ended_at=timezone.now(), state="settled")

    def test_one_seat_is_put_back_and_the_others_go_on(self) -> None:
        rollout = self.start()
        self.end("pan-03")
        self.assertEqual({leg["seat"]: leg["can_put_back"] for leg in self.shown(rollout)["legs"]}["pan-03"], True)
        made = self.post(f"rollouts/{rollout.pk}/put-back", {"seats": ["pan-03"]}).json()["id"]
        self.assertEqual([leg.seat.name for leg in Leg.objects.filter(rollout=made)], ["pan-03"])
        self.assertEqual((self.shown(rollout)["state"], self.begun()), ("running", ["pan-04", "pan-05", "pan-06"]))
        for seats, title in ((["pan-04"], "Nothing to put back"), (["pan-99"], "No such seat")):
            answer = self.post(f"rollouts/{rollout.pk}/put-back", {"seats": seats})
            self.assertEqual(answer.json()["title"], title)

    def test_a_seat_that_stopped_and_was_not_changed_is_tried_again(self) -> None:
        rollout = self.start(canaries=False)
        self.end("pan-03")
        self.end("pan-04", "refused")
        can = {leg["seat"] for leg in self.shown(rollout)["legs"] if leg["can_retry"]}
        self.assertEqual(can, {"pan-04"})
        self.post(f"rollouts/{rollout.pk}/retry", {"seats": ["pan-04"]})
        advance_rollout(rollout.pk)
        self.end("pan-04")
        self.assertEqual(Leg.objects.get(seat__name="pan-04").state, "settled")
        for seats, title in ((["pan-03"], "Not tried again"), (["pan-99"], "No such seat"), ([], "Not as expected")):
            self.assertEqual(self.post(f"rollouts/{rollout.pk}/retry", {"seats": seats}).json()["title"], title)

    def test_a_silent_seat_is_no_canary_and_holds_nobody_up(self) -> None:
        Presence.objects.filter(seat__name="pan-03").update(seen_at=timezone.now() - dt.timedelta(hours=1))
        self.start(in_wave=1)
        self.assertEqual(self.begun(), ["pan-04"])
        self.end("pan-04")
        self.assertEqual(self.begun(), ["pan-03", "pan-05"])

    def test_a_rollout_waits_for_its_hour_and_has_a_deadline(self) -> None:
        late = self.plan(canaries=False, at_once=1, ends=timezone.now() + dt.timedelta(seconds=70))
        self.assertEqual([slot["why"] for slot in late.json()["order"]["without"]], ["1 at once in Pan House"] * 2)
        body = {"findings": self.findings(), "seen": late.json()["digest"]}
        answer = self.post(
            "rollouts", {**body, "terms": {"at_once": 1, "ends": timezone.now() + dt.timedelta(seconds=70)}}
        )
        self.assertEqual(answer.json()["title"], "Not all before the deadline")
        self.assertEqual(self.plan(ends=timezone.now()).json()["title"], "Ends too early")
        self.assertEqual(self.plan(begins="9999-12-31T23:00:00Z").json()["title"], "Begins too late")
        self.assertEqual(Rollout.objects.count(), 0)
        self.start(begins=timezone.now() + dt.timedelta(hours=1), canaries=False)
        self.assertEqual(self.begun(), [])
        feed = self.client.get(self.house.browser().get("/api/v1/calendar").json()["address"]).content.decode()
        self.assertIn("SUMMARY:Rollout starts: Correct Power profile on 4 seats", feed)

    def test_it_begins_before_its_hour_with_a_reason_and_no_wave_overtakes_the_canaries(self) -> None:
        rollout = self.start(begins=timezone.now() + dt.timedelta(hours=1))
        answer = self.shown(rollout)
        self.assertEqual((answer["can_begin_now"], answer["can_go_on"]), (True, False))
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/go-on").json()["title"], "Not its hour")
        self.assertEqual(self.post(f"rollouts/{rollout.pk}/begin", {"why": " "}).status_code, 422)
        answer = self.post(f"rollouts/{rollout.pk}/begin", {"why": "the room is empty"}).json()
        self.assertEqual((answer["can_begin_now"], answer["can_go_on"], answer["behind_canaries"]), (False, True, True))
        advance_rollout(rollout.pk)
        self.assertEqual(self.begun(), ["pan-03"])
        entry = Entry.objects.get(action="begin rollout before its hour")
        self.assertEqual((entry.actor, entry.detail["why"]), ("supervisor", "the room is empty"))
        again = self.post(f"rollouts/{rollout.pk}/begin", {"why": "once more"})
        self.assertEqual(again.json()["title"], "It waits for no hour")

    def test_outside_its_hours_a_rollout_touches_no_seat(self) -> None:
        now = timezone.localtime()
        late, later = (f"{now + dt.timedelta(hours=h):%H}:00" for h in (2, 3))
        rollout = self.start(canaries=False, opens=late, closes=later)
        self.assertEqual(self.begun(), [])
        messages = {leg["message"] for leg in self.shown(rollout)["legs"]}
        self.assertEqual(messages, {f"changes are made from {late} to {later}"})
        Rollout.objects.update(terms={**rollout.terms, "opens": f"{now:%H}:00", "closes": later})
        advance_rollout(rollout.pk)
        self.assertEqual(len(self.begun()), 4)
        self.assertEqual(self.plan(opens="20:00").json()["title"], "Half a window")

    def test_terms_out_of_bounds_are_refused(self) -> None:
        for terms in ({"pause": -1}, {"at_once": "two"}, {"begins": "tonight"}, {"opens": "8 pm"}):
            with self.subTest(terms):
                self.assertEqual(self.plan(**terms).status_code, 422)
