"""Plans of clearing through the API and the agents' door."""

import datetime as dt
import gzip
import json
from typing import Any
from unittest.mock import patch

from django.utils import timezone

from normant.accounts.permissions import Role
from normant.clearings.models import Clearing, ListPart, SeatClearing, StoreClearing
from normant.clearings.services import advance_clearing as advancing
from normant.clearings.services import begin_clearing
from normant.clearings.services.advance_clearing import advance_clearing
from normant.clearings.services.keep_list import forget_lists
from normant.deliveries.models import Delivery, EndedProduction
from normant.house.services.leave_floor import retire_seat
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.proposals.models import Proposal
from normant.seats.models import Seat
from normant.tests.options import with_options
from normant.timelines.models import Costs

from .stage import CACHE, DIGEST, Case

CLEARED = {"items": 3, "size": 3000, "reasons": []}


class Plans(Case):
    def test_what_is_made_again_at_a_price_says_how_much_picture_that_is(self) -> None:
        size = 270 * 10**9
        number = self.planned({**CACHE, "kind": "renders", "size": size, "going_size": size})
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
        self.assertIn("3 items, 3 kB would go. They are held for a day", plan["sentence"])
        self.assertFalse(Order.objects.filter(kind="clear_planned").exists())
        self.assertEqual(self.sign(number).status_code, 204)
        advance_clearing(number)
        action = self.action("clear_planned")
        self.assertEqual((action.digest, action.folder, action.store), (DIGEST, CACHE["folder"], "source_cache"))
        until = timezone.now() + dt.timedelta(days=1)
        self.hand_in(self.order("clear_planned"), cleared={**CLEARED, "held_until": until.isoformat()})
        advance_clearing(number)
        plan = self.plan(number)
        self.assertEqual((plan["state"], plan["freed"], plan["held"]), ("ended", 3000, 3000))
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
        self.assertEqual(title, "Clear source cache on pan-03 waits to be signed")
        self.assertIn("3 items, 3 kB would go", words)
        self.sign(number)
        self.assertEqual(of_clearing(), [])
        self.post(f"clearings/{number}/halt", {"why": "wrong lists"})
        self.assertEqual(of_clearing(), [("Clear source cache on pan-03 has halted", "wrong lists.")])

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
            ("Nothing to look through", {"kinds": ["renders"]}),
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
        number = self.planned(least, {"app": "corrow", "kind": "renders", "trouble": "x"})
        self.assertEqual((self.plan(number)["oldest"], self.plan(number)["going"]), (None, 1))
        self.assertEqual(len(self.get(f"clearings/{number}/stores").json()["items"]), 2)

    def test_a_seat_that_promises_without_a_list_promises_nothing(self) -> None:
        number = self.planned({**CACHE, "digest": ""})
        self.assertEqual(self.plan(number)["promised"], 0)

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
        self.assertEqual(states["pan-04"], ("stopped", "did not answer within the hour"))

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
        approved = self.post(f"proposals/{proposal}/approve", {"seen": seen}, Role.ADMINISTRATOR)
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
            cleared={"items": 0, "size": 0, "reasons": [{"why": "is not there any more", "items": 3, "size": 3000}]},
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
        self.hand_in(self.order("put_back"), message="everything that was held lies where it lay")
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
    def test_a_delivery_that_is_withdrawn_stops_what_rests_on_it(self) -> None:
        user = self.house.people[Role.SUPERVISOR]
        delivery = Delivery.objects.create(
            project="one",
            file="one.mkv",
            digest=DIGEST,
            size=1,
            finished_at=timezone.now(),
            proposed_by="x",
            signed_by=user,
            signed_at=timezone.now(),
        )
        EndedProduction.objects.create(name="Old Show", key="oldshow", ended_at=timezone.now(), ended_by=user)
        number = self.planned({**CACHE, "projects": ["one"]})
        action = self.action("plan_clearing")
        self.assertEqual((action.delivered, [e.production for e in action.ended]), (("one",), ["Old Show"]))
        self.sign(number)
        answer = self.post(f"deliveries/{delivery.pk}/withdraw", {"reason": "wrong reel"})
        self.assertEqual(answer.json()["state"], "withdrawn")
        advance_clearing(number)
        self.assertFalse(Order.objects.filter(kind="clear_planned").exists())
        self.assertIn("taken back", SeatClearing.objects.get(clearing=number).message)

    def test_withdrawn_while_its_order_waits_the_order_goes(self) -> None:
        user = self.house.people[Role.SUPERVISOR]
        delivery = Delivery.objects.create(
            project="one",
            file="one.mkv",
            digest=DIGEST,
            size=1,
            finished_at=timezone.now(),
            proposed_by="x",
            signed_by=user,
            signed_at=timezone.now(),
        )
        number = self.planned({**CACHE, "projects": ["one"]})
        self.sign(number)
        advance_clearing(number)
        self.post(f"deliveries/{delivery.pk}/withdraw", {"reason": "wrong reel"})
        advance_clearing(number)
        self.assertFalse(Order.objects.waiting().filter(kind="clear_planned").exists())


class Lists(Case):
    def part(self, order: Order, number: int, *items: Any) -> Any:
        body = b"".join(json.dumps(item).encode() + b"\n" for item in items)
        return self.house.agent().post(
            f"/api/v1/agent/orders/{order.pk}/list/{number}",
            gzip.compress(body),
            "application/x-ndjson",
            headers={"Content-Encoding": "gzip"},
        )

    def items(self, number: int, query: str = "") -> Any:
        return self.get(f"clearings/{number}/seats/pan-03/stores/0/items{query}").json()

    def test_a_list_is_asked_for_searched_sorted_and_taken_away(self) -> None:
        number = self.planned()
        self.assertEqual(self.items(number)["state"], "none")
        path = f"clearings/{number}/seats/pan-03/stores/0/list"
        order = self.post(path).json()["order"]
        self.assertEqual(self.post(path).json()["order"], order)
        self.assertEqual(self.items(number)["state"], "asked")
        made = [{"path": f"a/{n}.pk", "size": n, "used": 1.7e9 + n, "production": "", "project": "p"} for n in range(5)]
        sent = self.order("send_list")
        self.assertEqual(self.part(sent, 1, *made[3:], {"path": 1}, 7, {"path": "x", "size": "y"}).status_code, 204)
        self.assertEqual(self.part(sent, 0, *made[:2]).status_code, 204)
        self.assertEqual(self.part(sent, 0, *made[:3], {**made[0], "path": "b/\udcff"}).status_code, 204)
        self.hand_in(sent, message="2 parts")
        self.assertEqual(self.part(sent, 2, *made).status_code, 404)
        whole = self.items(number)
        self.assertEqual((whole["state"], whole["total"]), ("whole", 6))
        self.assertEqual(
            [i["path"] for i in self.items(number, "?sort=size&limit=2&search=A/")["items"]], ["a/4.pk", "a/3.pk"]
        )
        self.assertEqual(self.items(number, "?search=\\xff")["matching"], 1)
        lines = b"".join(self.get(f"clearings/{number}/seats/pan-03/stores/0/items.ndjson").streaming_content)
        self.assertEqual(len(lines.splitlines()), 6)
        ListPart.objects.update(kept_at=timezone.now() - dt.timedelta(days=2))
        self.assertEqual(forget_lists(), 2)
        self.assertEqual(self.items(number)["state"], "none")

    def test_nobody_hands_in_what_was_not_asked_for(self) -> None:
        number = self.planned()
        plan = self.order("plan_clearing")
        self.assertEqual(self.part(plan, 0).status_code, 404)
        self.post(f"clearings/{number}/seats/pan-03/stores/0/list")
        self.assertEqual(self.part(self.order("send_list"), 300).status_code, 413)
        other = self.second("pan-04")
        path = f"/api/v1/agent/orders/{self.order('send_list').pk}/list/0"
        self.assertEqual(self.house.agent(other).post(path, b"", "application/x-ndjson").status_code, 404)
        self.assertFalse(ListPart.objects.exists())

    def test_a_store_of_which_nothing_goes_has_no_list(self) -> None:
        number = self.planned({**CACHE, "going": 0, "digest": ""})
        self.assertEqual(
            self.post(f"clearings/{number}/seats/pan-03/stores/0/list").json()["title"], "Nothing is listed"
        )
        self.assertEqual(self.post(f"clearings/{number}/seats/pan-03/stores/9/list").status_code, 404)
        self.assertEqual(StoreClearing.objects.count(), 1)
