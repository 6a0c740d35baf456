"""Plans of clearing through the API and the agents' door."""

import datetime as dt
import json
from typing import Any
from unittest.mock import patch

from django.utils import timezone

from normant.accounts.permissions import Role
from normant.clearings.models import Clearing, SeatClearing
from normant.clearings.services import advance_clearing as advancing
from normant.clearings.services import begin_clearing
from normant.clearings.services.advance_clearing import advance_clearing
from normant.clearings.services.put_back_lost import put_back_lost
from normant.deliveries.models import EndedProduction
from normant.house.services.leave_floor import retire_seat
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.proposals.models import Proposal
from normant.rollouts.models import Leg
from normant.rollouts.services.advance import advance as advance_rollout
from normant.seats.models import Seat
from normant.tests.options import with_options
from normant.timelines.models import Costs
from normant.trials.models import TrialSeat
from normant.trials.services.advance_trial import advance_trial
from normant_core.care.deliveries import DeliveredProject
from normant_core.seat.survey import MOST_PROJECTS

from .stage import CACHE, DIGEST, RENDERS, Case, seat_survey

CLEARED = {"items": 3, "size": 3000, "reasons": []}


class Plans(Case):
    def test_what_is_made_again_at_a_price_says_how_much_picture_that_is(self) -> None:
        size = 270 * 10**9
        number = self.planned({**RENDERS, "size": size, "going_size": size}, kinds=["renders"])
        (kind,) = self.plan(number)["kinds"]
        self.assertEqual((kind["making"], kind["again"]), ("made again at a price", "3 h of picture"))
        Costs.objects.create(text='format = "normant-effects/1"\n[ahead]\nmbits = 100\n', kept_by="sal")
        self.assertEqual(self.plan(number)["kinds"][0]["again"], "6 h of picture")

    def test_a_plan_is_read_in_numbers_signed_and_carried_out(self) -> None:
        number = self.begun(unused_days=30)
        self.assertEqual(self.plan(number)["state"], "looking")
        action = self.action("plan_clearing")
        self.assertEqual([(a.app, a.kind, a.unused_days) for a in action.stores], [("corrow", "source_cache", 30)])
        self.hand_in(self.order("plan_clearing"), planned=[CACHE])
        plan = self.plan(number)
        self.assertEqual((plan["state"], plan["going"], plan["promised"]), ("planned", 3, 3000))
        self.assertEqual(plan["stays"], [{"why": "used within 60 days", "items": 6, "size": 6000}])
        self.assertEqual((plan["kinds"][0]["making"], plan["kinds"][0]["again"]), ("made again", ""))
        self.assertIn("3 files (3 kB) will be held for 24 hours", plan["sentence"])
        self.assertFalse(Order.objects.filter(kind="clear_planned").exists())
        self.assertEqual(self.sign(number).status_code, 204)
        advance_clearing(number)
        action = self.action("clear_planned")
        self.assertEqual((action.digest, action.folder, action.store), (DIGEST, CACHE["folder"], "source_cache"))
        until = timezone.now() + dt.timedelta(days=1)
        self.hand_in(self.order("clear_planned"), cleared={**CLEARED, "held_until": until.isoformat()})
        advance_clearing(number)
        plan = self.plan(number)
        self.assertEqual((plan["state"], plan["cleared"], plan["held"]), ("ended", 3000, 3000))
        [store] = self.get(f"clearings/{number}/stores").json()["items"]
        self.assertEqual((store["cleared"]["items"], store["seat"]), (3, "pan-03"))
        acts = set(Entry.objects.values_list("action", flat=True))
        self.assertLessEqual({"plan clearing", "plan_clearing", "sign clearing", "clear_planned", "end clearing"}, acts)
        self.assertEqual(Entry.objects.get(action="end clearing").detail["promised"], 3000)

    def test_the_round_says_what_waits_to_be_signed_and_what_has_halted(self) -> None:
        def of_clearing() -> list[tuple[str, str]]:
            items = self.get("round").json()["items"]
            return [(item["title"], item["words"]) for item in items if item["kind"] == "clearing"]

        number = self.planned()
        [(title, words)] = of_clearing()
        self.assertEqual(title, "Clean up source cache on pan-03 waits to be signed")
        self.assertIn("3 files (3 kB) will be held", words)
        self.sign(number)
        self.assertEqual(of_clearing(), [])
        self.post(f"clearings/{number}/halt", {"why": "wrong lists"})
        self.assertEqual(of_clearing(), [("Clean up source cache on pan-03 has halted", "wrong lists.")])

    def test_what_was_read_is_what_is_signed_and_once(self) -> None:
        number = self.planned()
        self.assertEqual(self.sign(number, "0" * 32).json()["title"], "Changed meanwhile")
        self.assertEqual(self.sign(number).status_code, 204)
        self.assertEqual(self.sign(number).json()["title"], "Not to be signed")
        old = self.planned()
        Clearing.objects.filter(pk=old).update(created_at=timezone.now() - dt.timedelta(hours=49))
        self.assertEqual(self.sign(old).json()["title"], "Too old")

    def test_who_may(self) -> None:
        number = self.planned()
        body = {"kinds": ["source_cache"]}
        paths = [("clearings", body), (f"clearings/{number}/sign", {"seen": self.plan(number)["seen"]})]
        paths += [
            (f"clearings/{number}/{act}", {"why": "x"}) for act in ("halt", "resume", "drop", "leave-out", "put-back")
        ]
        for role in (Role.VIEWER, Role.EDITOR, Role.ASSISTANT):
            for path, given in paths:
                with self.subTest(role=role, path=path):
                    self.assertEqual(self.post(path, given, role).status_code, 403)
        self.assertEqual(self.get(f"clearings/{number}", Role.EDITOR).status_code, 403)
        self.assertEqual(self.get(f"clearings/{number}", Role.VIEWER).status_code, 200)

    def test_what_cannot_be_planned_says_why(self) -> None:
        for title, body in (
            ("No such seat", {"kinds": ["source_cache"], "seats": ["pan-99"]}),
            ("No such seat", {"kinds": ["source_cache"], "room": "Nowhere"}),
            ("Nothing to look through", {"kinds": ["proxies"]}),
        ):
            with self.subTest(title):
                answer = self.post("clearings", body)
                self.assertEqual((answer.status_code, answer.json()["title"]), (422, title))
        for body in (
            {"kinds": ["exports"]},
            {"kinds": []},
            {"kinds": ["bin"], "free": "-1 GB"},
            {"kinds": ["bin"], "free": "99999 PiB"},
            {"kinds": ["bin"], "quota": "much"},
            {"kinds": ["bin"], "unused_days": 0},
        ):
            self.assertEqual(self.post("clearings", body).status_code, 422)
        with patch.object(begin_clearing, "MOST_SEATS", 0):
            self.assertEqual(self.post("clearings", {"kinds": ["source_cache"]}).json()["title"], "Too many seats")
        self.assertFalse(Clearing.objects.exists())
        empty = self.planned({**CACHE, "going": 0, "going_size": 0, "digest": ""})
        self.assertEqual(self.sign(empty).json()["title"], "Nothing to remove")

    def test_a_seat_that_tells_as_little_as_it_may_is_read_all_the_same(self) -> None:
        least = {"app": "", "kind": "bin", "digest": DIGEST, "going": 1}
        number = self.planned(least, {"app": "corrow", "kind": "renders", "trouble": "x"}, kinds=["bin", "renders"])
        self.assertEqual((self.plan(number)["oldest"], self.plan(number)["going"]), (None, 1))
        self.assertEqual(len(self.get(f"clearings/{number}/stores").json()["items"]), 2)

    def test_a_seat_that_promises_without_a_list_promises_nothing(self) -> None:
        number = self.planned({**CACHE, "digest": ""})
        self.assertEqual(self.plan(number)["promised"], 0)

    def test_what_is_more_than_its_volume_holds_is_marked_and_counts_in_no_sum(self) -> None:
        number = self.planned(CACHE, {**RENDERS, "size": 2**50, "going_size": 2**50}, kinds=["source_cache", "renders"])
        stores = self.get(f"clearings/{number}/stores").json()["items"]
        self.assertEqual({s["kind"]: s["is_implausible"] for s in stores}, {"source_cache": False, "renders": True})
        plan = self.plan(number)
        self.assertEqual((plan["promised"], [row["promised"] for row in plan["on"]]), (3000, [3000]))
        self.assertEqual(
            {kind["kind"]: kind["going_size"] for kind in plan["kinds"]}, {"source_cache": 3000, "renders": 0}
        )
        self.assertEqual(self.get("clearings").json()["items"][0]["promised"], 3000)

    def test_a_seat_that_does_not_answer_is_left_out(self) -> None:
        self.second("pan-04")
        number = self.begun()
        self.hand_in(self.order("plan_clearing"), planned=[CACHE])
        advance_clearing(number)
        self.assertEqual(self.plan(number)["state"], "looking")
        Clearing.objects.filter(pk=number).update(created_at=timezone.now() - dt.timedelta(hours=2))
        advance_clearing(number)
        plan = self.plan(number)
        states = {row["seat"]: (row["state"], row["message"]) for row in plan["on"]}
        self.assertEqual(plan["state"], "planned")
        self.assertEqual(states["pan-04"], ("stopped", "did not answer within 1 hour"))

    def test_somebody_goes_on_without_a_seat_that_is_silent(self) -> None:
        self.second("pan-04")
        number = self.begun()
        self.hand_in(self.order("plan_clearing"), planned=[CACHE])
        self.assertEqual(self.post(f"clearings/{number}/leave-out").status_code, 204)
        self.assertEqual(self.plan(number)["state"], "planned")
        self.assertFalse(Order.objects.waiting().filter(kind="plan_clearing").exists())
        self.assertEqual(self.post(f"clearings/{number}/leave-out").json()["title"], "Nobody to wait for")

    @with_options(second_person=True)
    def test_a_second_person_signs_where_the_house_asks_for_one(self) -> None:
        number = self.planned()
        answer = self.sign(number)
        self.assertEqual((answer.status_code, self.plan(number)["state"]), (202, "planned"))
        proposal = answer.json()["proposal"]
        seen = Proposal.objects.get(pk=proposal).seen
        approved = self.house.browser(Role.ADMINISTRATOR).post(
            f"/api/v1/proposals/{proposal}/approve", json.dumps({"seen": seen}), "application/json"
        )
        self.assertLess(approved.status_code, 300, approved.content)
        self.assertEqual(self.plan(number)["state"], "running")


class CarriedOut(Case):
    def running(self) -> int:
        number = self.planned()
        self.sign(number)
        advance_clearing(number)
        return number

    def test_one_seat_goes_first_and_the_others_when_it_is_done(self) -> None:
        token = self.second("pan-04")
        number = self.begun()
        self.hand_in(self.order("plan_clearing"), planned=[CACHE])
        self.hand_in(self.order("plan_clearing", "pan-04"), token, planned=[CACHE])
        self.sign(number)
        for _ in range(2):
            advance_clearing(number)
        self.assertEqual(Order.objects.filter(kind="clear_planned").count(), 1)
        self.hand_in(self.order("clear_planned"), cleared=CLEARED)
        advance_clearing(number)
        self.assertEqual(self.action("clear_planned", "pan-04").digest, DIGEST)

    def test_it_halts_where_things_are_not_as_listed_and_goes_on_when_somebody_says_so(self) -> None:
        token = self.second("pan-04")
        many = {**CACHE, "going": 1000}
        number = self.begun()
        self.hand_in(self.order("plan_clearing"), planned=[many])
        self.hand_in(self.order("plan_clearing", "pan-04"), token, planned=[many])
        self.sign(number)
        advance_clearing(number)
        self.hand_in(self.order("clear_planned"), cleared={**CLEARED, "items": 700})
        advance_clearing(number)
        plan = self.plan(number)
        self.assertEqual(
            (plan["state"], plan["reason"]),
            ("halted", "on pan-03, 300 of 1,000 items were not as they had been listed"),
        )
        self.assertEqual(self.post(f"clearings/{number}/resume").status_code, 204)
        advance_clearing(number)
        self.assertEqual(self.action("clear_planned", "pan-04").digest, DIGEST)

    def test_halted_nothing_more_goes_and_what_went_meanwhile_is_told(self) -> None:
        number = self.running()
        order = self.order("clear_planned")
        self.assertEqual(self.post(f"clearings/{number}/halt", {"why": "wrong lists"}).status_code, 204)
        order.refresh_from_db()
        self.assertIsNotNone(order.withdrawn_at)
        self.hand_in(order, cleared=CLEARED)
        self.assertEqual(self.plan(number)["freed"], 3000)
        self.assertEqual(self.post(f"clearings/{number}/drop").status_code, 204)
        self.assertEqual(self.plan(number)["state"], "ended")

    def test_resumed_while_a_seat_was_at_it_the_first_receipt_counts(self) -> None:
        number = self.running()
        first = self.order("clear_planned")
        self.post(f"clearings/{number}/halt", {"why": "a moment"})
        self.post(f"clearings/{number}/resume")
        advance_clearing(number)
        second = self.order("clear_planned")
        self.assertNotEqual(first.pk, second.pk)
        self.hand_in(first, cleared=CLEARED)
        self.hand_in(
            second,
            cleared={"items": 0, "size": 0, "reasons": [{"why": "no longer exists", "items": 3, "size": 3000}]},
        )
        advance_clearing(number)
        plan = self.plan(number)
        self.assertEqual((plan["state"], plan["freed"]), ("ended", 3000))

    def test_what_is_held_is_put_back_once(self) -> None:
        number = self.running()
        until = (timezone.now() + dt.timedelta(days=1)).isoformat()
        self.hand_in(self.order("clear_planned"), cleared={**CLEARED, "held_until": until})
        advance_clearing(number)
        self.assertEqual(self.post(f"clearings/{number}/put-back").status_code, 204)
        self.assertEqual(self.post(f"clearings/{number}/put-back").json()["title"], "Nothing to put back")
        self.assertEqual(self.action("put_back").order, str(self.order("clear_planned").pk))
        self.hand_in(self.order("put_back"), message="all held files were put back")
        self.assertEqual(self.plan(number)["held"], 0)
        self.assertEqual(self.post(f"clearings/{number}/put-back").json()["title"], "Nothing to put back")

    def test_a_seat_with_something_else_at_work_waits(self) -> None:
        number = self.planned()
        self.sign(number)
        with patch.object(advancing, "why_booked", return_value="Pan House is booked until Mon 18:00"):
            advance_clearing(number)
        self.assertFalse(Order.objects.filter(kind="clear_planned").exists())
        self.assertEqual(self.plan(number)["on"][0]["message"], "Pan House is booked until Mon 18:00")
        Clearing.objects.filter(pk=number).update(begins=timezone.now() + dt.timedelta(hours=1))
        advance_clearing(number)
        self.assertFalse(Order.objects.filter(kind="clear_planned").exists())

    def test_rollouts_and_trials_wait_until_a_seat_is_cleaned_up_or_has_put_back(self) -> None:
        number = self.planned()
        self.sign(number)
        advance_clearing(number)
        ids = [finding["id"] for finding in self.get("findings").json()["items"]]
        plan = self.post("rollouts/plan", {"findings": ids}).json()
        self.assertIn("waiting for a clean-up", str(plan["seats"][0]["in_the_way"]))
        rollout = self.post("rollouts", {"findings": ids, "seen": plan["digest"]}).json()["id"]
        advance_rollout(rollout)
        leg = Leg.objects.get(rollout=rollout)
        self.assertEqual((leg.begun_at, leg.message), (None, "waiting for a clean-up on this seat"))
        pool = {"setting": "memory.preview_pool", "app": "corrow", "value": "8 GiB"}
        trial = {"kind": "change", "job": "play", "conditions": [{}, {"sets": [pool]}], "seats": ["pan-03"]}
        trial_number = self.post("trials", trial).json()["id"]
        advance_trial(trial_number)
        on = TrialSeat.objects.get(trial=trial_number)
        self.assertEqual((on.begun_at, on.message), (None, "waiting for a clean-up on this seat"))
        until = (timezone.now() + dt.timedelta(hours=20)).isoformat()
        self.hand_in(self.order("clear_planned"), cleared={**CLEARED, "held_until": until})
        self.post(f"clearings/{number}/put-back")
        advance_rollout(rollout)
        leg.refresh_from_db()
        self.assertIsNone(leg.begun_at)
        self.hand_in(self.order("put_back"))
        advance_rollout(rollout)
        leg.refresh_from_db()
        self.assertIsNotNone(leg.begun_at)

    def test_a_retired_seat_leaves_the_plan(self) -> None:
        number = self.running()
        retire_seat(Seat.objects.get(name="pan-03"), "test", reason="gone")
        advance_clearing(number)
        self.assertEqual(self.plan(number)["state"], "ended")
        self.assertFalse(Order.objects.waiting().filter(kind="clear_planned").exists())

    def test_advancing_twice_and_a_receipt_twice_do_it_once(self) -> None:
        number = self.running()
        advance_clearing(number)
        self.assertEqual(Order.objects.filter(kind="clear_planned").count(), 1)
        for size in (3000, 9):
            self.hand_in(self.order("clear_planned"), cleared={**CLEARED, "size": size})
        self.assertEqual(self.plan(number)["freed"], 3000)

    def test_a_seat_that_fails_says_why_and_two_halt_the_plan(self) -> None:
        token = self.second("pan-04")
        number = self.begun()
        self.hand_in(self.order("plan_clearing"), planned=[CACHE])
        self.hand_in(self.order("plan_clearing", "pan-04"), token, planned=[CACHE])
        self.sign(number)
        advance_clearing(number)
        self.hand_in(self.order("clear_planned"), outcome="refused", message="the store was moved meanwhile")
        self.assertEqual(self.plan(number)["on"][0]["message"], "the store was moved meanwhile")
        advance_clearing(number)
        self.hand_in(self.order("clear_planned", "pan-04"), token, outcome="failed", message="x")
        advance_clearing(number)
        self.assertIn(self.plan(number)["state"], ("halted", "ended"))


class Released(Case):
    """Plans that rest on a delivery and on the end of a production."""

    def setUp(self) -> None:
        self.delivery = self.delivered()

    def renders(self) -> int:
        """A plan whose list rests on that delivery."""
        return self.planned(RENDERS, kinds=["renders"])

    def cleared(self) -> int:
        """A plan whose files its seat holds."""
        number = self.renders()
        self.sign(number)
        advance_clearing(number)
        until = (timezone.now() + dt.timedelta(hours=20)).isoformat()
        self.hand_in(self.order("clear_planned"), cleared={**CLEARED, "held_until": until})
        return number

    def withdraw(self) -> None:
        answer = self.post(f"deliveries/{self.delivery.pk}/withdraw", {"reason": "wrong reel"})
        self.assertEqual(answer.json()["state"], "withdrawn")

    def put_back_item(self) -> Any:
        items = self.get("round").json()["items"]
        return next((item for item in items if item["kind"] == "put_back"), None)

    def test_an_order_carries_the_deliveries_of_which_its_seat_has_files(self) -> None:
        self.delivered(project="two", digest="11" * 32)
        self.delivered(production="Harbour", digest="22" * 32)
        self.delivered(project_app="tamsel", digest="33" * 32)
        user = self.house.people[Role.SUPERVISOR]
        EndedProduction.objects.create(name="Harbour", key="harbour", ended_at=timezone.now(), ended_by=user)
        self.renders()
        action = self.action("plan_clearing")
        self.assertEqual(action.deliveries, (DeliveredProject("Old Show", "one", "corrow"),))
        self.assertEqual(([row.production for row in action.ended], action.delivered), (["Old Show"], ()))

    def test_no_deliveries_go_to_a_seat_that_is_asked_for_its_caches(self) -> None:
        self.begun()
        self.assertEqual(self.action("plan_clearing").deliveries, ())

    def test_all_deliveries_of_an_application_go_where_a_seat_has_more_projects_than_it_tells(self) -> None:
        whole = seat_survey()
        names = [{"production": "x", "project": f"p{number}", "size": 1} for number in range(MOST_PROJECTS)]
        self.house.send({**whole, "stores": [{**whole["stores"][0], "projects": names}]})
        self.begun(kinds=["renders"])
        self.assertEqual([row.project for row in self.action("plan_clearing").deliveries], ["one"])

    def test_agents_that_look_deliveries_up_by_name_are_not_asked_for_renders(self) -> None:
        self.house.send(seat_survey(version="0.7.0"))
        answer = self.post("clearings", {"kinds": ["renders"]})
        self.assertEqual(answer.json()["title"], "Nothing to look through")
        number = self.begun(kinds=["renders", "source_cache"])
        self.assertEqual([aim.kind for aim in self.action("plan_clearing").stores], ["source_cache"])
        [store] = self.get(f"clearings/{number}/stores").json()["items"]
        self.assertEqual((store["kind"], store["going"]), ("renders", 0))
        self.assertIn("its agent is 0.7.0: renders and backups need 0.8.0", store["trouble"])

    def test_a_seat_that_tells_no_version_keeps_no_other_from_being_asked(self) -> None:
        self.second("pan-04")
        for version in ("", "garbage", "9" * 400):
            self.house.send(seat_survey(version=version))
            number = self.begun(kinds=["renders"])
            states = {row["seat"]: row["state"] for row in self.plan(number)["on"]}
            self.assertEqual(states, {"pan-03": "stopped", "pan-04": "looking"}, version)

    def test_a_delivery_that_is_withdrawn_stops_the_seats_that_rest_on_it(self) -> None:
        number = self.renders()
        self.sign(number)
        self.withdraw()
        advance_clearing(number)
        self.assertFalse(Order.objects.filter(kind="clear_planned").exists())
        message = SeatClearing.objects.get(clearing=number).message
        self.assertEqual(message, "the delivery of one of Old Show was withdrawn. Create a new plan")

    def test_an_order_is_withdrawn_with_its_delivery(self) -> None:
        number = self.renders()
        self.sign(number)
        advance_clearing(number)
        self.withdraw()
        advance_clearing(number)
        self.assertFalse(Order.objects.waiting().filter(kind="clear_planned").exists())

    def test_a_list_that_does_not_tell_its_deliveries_is_not_cleared(self) -> None:
        number = self.planned({**RENDERS, "rests_on": [], "projects": ["one"]}, kinds=["renders"])
        self.sign(number)
        advance_clearing(number)
        self.assertFalse(Order.objects.filter(kind="clear_planned").exists())

    def test_a_delivery_of_another_production_keeps_no_list_alive(self) -> None:
        number = self.renders()
        self.sign(number)
        self.delivered(production="Harbour", digest="22" * 32)
        self.withdraw()
        advance_clearing(number)
        self.assertFalse(Order.objects.filter(kind="clear_planned").exists())

    def test_files_are_put_back_once_when_their_delivery_is_withdrawn_and_the_round_says_so(self) -> None:
        number = self.cleared()
        self.assertEqual((put_back_lost(), self.put_back_item()), (0, None))
        self.withdraw()
        self.assertEqual((put_back_lost(), put_back_lost()), (1, 0))
        order = self.order("put_back")
        self.assertEqual(self.action("put_back").order, str(self.order("clear_planned").pk))
        item = self.put_back_item()
        self.assertEqual((item["title"], item["clearing"]), ("Renders on pan-03 are being put back", number))
        self.assertEqual(item["words"], "The delivery of one of Old Show was withdrawn.")
        self.hand_in(order)
        self.assertEqual(self.put_back_item()["title"], "Renders on pan-03 were put back")
        self.assertEqual(put_back_lost(), 0)

    def test_files_are_put_back_when_their_production_goes_on(self) -> None:
        self.cleared()
        EndedProduction.objects.all().delete()
        self.assertEqual(put_back_lost(), 1)
        self.assertIn("Old Show is live again", self.put_back_item()["words"])

    def test_a_seat_that_cannot_put_files_back_says_so_on_the_round(self) -> None:
        self.cleared()
        self.withdraw()
        put_back_lost()
        self.hand_in(self.order("put_back"), outcome="failed", message="2 items are not there any more")
        self.assertEqual(self.put_back_item()["title"], "Renders on pan-03 could not all be put back")

    def test_files_that_a_person_has_put_back_are_left_alone(self) -> None:
        number = self.cleared()
        self.post(f"clearings/{number}/put-back")
        self.withdraw()
        self.assertEqual(put_back_lost(), 0)

    def test_an_answer_for_stores_that_were_not_asked_for_stops_the_seat(self) -> None:
        for stores in ([CACHE, CACHE], [{**CACHE, "kind": "scratch"}], [{**CACHE, "app": "tamsel"}], []):
            number = self.planned(*stores or ({"app": "x", "kind": "bin"},))
            self.assertEqual((self.plan(number)["going"], self.sign(number).status_code), (0, 422), stores)
            self.assertIn("the wrong stores", SeatClearing.objects.get(clearing=number).message)


class Figured(Case):
    """Bytes that are held for a day, and bytes that are free."""

    def cleared(self, **more: Any) -> int:
        number = self.planned()
        self.sign(number)
        advance_clearing(number)
        until = (timezone.now() + dt.timedelta(hours=20)).isoformat()
        self.hand_in(self.order("clear_planned"), cleared={**CLEARED, "held_until": until, "is_reported": True, **more})
        advance_clearing(number)
        return number

    def report(self, token: str = "", **more: Any) -> Any:
        body = {"at": "2026-03-04T07:00:00Z", "items": 2, "size": 2000, "returned": 1, **more}
        path = f"/api/v1/agent/orders/{self.order('clear_planned').pk}/deleted"
        return self.house.agent(token).post(path, json.dumps(body), "application/json")

    def figures(self, number: int) -> list[int]:
        plan = self.plan(number)
        return [plan[name] for name in ("promised", "cleared", "held", "freed")]

    def test_what_is_held_is_free_when_its_seat_says_so(self) -> None:
        number = self.cleared()
        self.assertEqual(self.figures(number), [3000, 3000, 3000, 0])
        self.assertIn("Held (can be put back): 3 kB. Freed: 0 B.", self.plan(number)["sentence"])
        for _ in range(2):
            self.assertEqual(self.report().status_code, 204)
        self.assertEqual(self.figures(number), [3000, 3000, 0, 2000])
        self.assertIn("1 file changed while held and put back", self.plan(number)["sentence"])
        [row] = self.get("clearings").json()["items"]
        self.assertEqual((row["held"], row["freed"]), (0, 2000))
        self.assertEqual(Entry.objects.filter(action="delete held files").count(), 1)

    def test_what_was_put_back_is_neither(self) -> None:
        number = self.cleared()
        self.post(f"clearings/{number}/put-back")
        self.hand_in(self.order("put_back"))
        self.assertEqual(self.figures(number), [3000, 3000, 0, 0])
        self.assertTrue(self.plan(number)["sentence"].endswith("Put back: 3 kB."))

    def test_what_went_at_once_is_free(self) -> None:
        self.assertEqual(self.figures(self.cleared(held_until=None)), [3000, 3000, 0, 3000])

    def test_what_an_earlier_agent_holds_is_free_when_its_day_is_over(self) -> None:
        past = (timezone.now() - dt.timedelta(hours=1)).isoformat()
        self.assertEqual(self.figures(self.cleared(is_reported=False)), [3000, 3000, 3000, 0])
        self.assertEqual(self.figures(self.cleared(is_reported=False, held_until=past)), [3000, 3000, 0, 3000])
        self.assertEqual(self.figures(self.cleared(held_until=past)), [3000, 3000, 3000, 0])

    def test_a_seat_reports_what_it_cleared_itself_and_no_more_than_it_promised(self) -> None:
        number = self.cleared()
        other = self.second("pan-04")
        self.assertEqual(self.report(other).status_code, 404)
        self.assertEqual(self.report(size=1 << 53).status_code, 422)
        self.assertEqual(self.report(size=(1 << 53) - 1).status_code, 204)
        self.assertEqual(self.figures(number), [3000, 3000, 0, 3000])
        path = f"/api/v1/agent/orders/{self.order('plan_clearing').pk}/deleted"
        body = json.dumps({"at": timezone.now().isoformat()})
        self.assertEqual(self.house.agent().post(path, body, "application/json").status_code, 404)
        self.assertEqual(self.house.client().post(path, body, "application/json").status_code, 401)
