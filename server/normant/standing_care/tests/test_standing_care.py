"""Standing care: it waits for a person the first time, runs by itself within its limits, halts, and is stopped."""

import datetime as dt
from typing import Any
from unittest.mock import patch

from django.utils import timezone

from normant.accounts.models import User
from normant.accounts.permissions import Role
from normant.clearings.models import Clearing, SeatClearing
from normant.clearings.services.advance_clearing import CLOSED, advance_clearing
from normant.clearings.tests.stage import CACHE, Case
from normant.findings.services.publish import publish
from normant.ledger.models import Entry
from normant.notices.models import Choice, SentNotice
from normant.notices.services.tell import send_digests
from normant.orders.models import Order
from normant.seats.models import Presence
from normant.standards.models import Edition
from normant.standing_care import agreed
from normant.standing_care.jobs import take_turns
from normant.standing_care.models import StoppedCare, Turn
from normant.standing_care.services.take_turns import begin_turns
from normant.tests.house import STANDARD

CARE = """
[[layer]]
name = "Care of cutting rooms"
when = "seat.role == 'offline'"
[[layer.care]]
name = "Old caches"
kinds = ["source_cache"]
unused_days = 30
each = "day"
opens = "{opens:%H:%M}"
closes = "{closes:%H:%M}"
most = "5 kB"
because = "disks fill"
"""


class Standing(Case):
    """The worked standard with one sentence whose hours hold this moment."""

    def setUp(self) -> None:
        self.publish(self.text())

    def text(self, **fields: str) -> str:
        now = timezone.localtime()
        hour = dt.timedelta(hours=1)
        made = CARE.format(opens=now - hour, closes=now + hour)
        for before, after in fields.items():
            made = made.replace(before, after)
        return STANDARD + made

    def publish(self, text: str) -> None:
        publish(text, base=Edition.objects.count(), note="", user=None)

    def care(self) -> Any:
        [care] = self.get("standing-care").json()["items"]
        return care

    def looked(self, size: int = 3000) -> Clearing:
        """A turn begins, and its seat answers."""
        take_turns()
        self.hand_in(self.order("plan_clearing"), planned=[{**CACHE, "going_size": size}])
        take_turns()
        turn = Turn.objects.latest("pk")
        assert turn.clearing
        return turn.clearing

    def cleared(self, clearing: Clearing, items: int = 3) -> None:
        advance_clearing(clearing.pk)
        self.hand_in(self.order("clear_planned"), cleared={"items": items, "size": 1000 * items, "reasons": []})
        advance_clearing(clearing.pk)
        clearing.refresh_from_db()

    def agree(self) -> Clearing:
        clearing = self.looked()
        self.assertEqual(self.sign(clearing.pk).status_code, 204)
        self.cleared(clearing)
        return clearing

    def another_day(self) -> None:
        for turn in Turn.objects.order_by("opens"):
            turn.opens -= dt.timedelta(days=1)
            turn.save()

    def round_items(self) -> list[tuple[str, str]]:
        items = self.get("round").json()["items"]
        return [(item["title"], item["words"]) for item in items if item["kind"] in ("care", "clearing")]


class Turns(Standing):
    def test_the_first_time_a_person_agrees_and_then_it_runs_by_itself(self) -> None:
        self.assertEqual((self.care()["state"], self.care()["seats"]), ("new", 1))
        clearing = self.looked()
        action = self.action("plan_clearing")
        self.assertEqual((action.most, action.stores[0].unused_days), (5000, 30))
        self.assertEqual((clearing.state, self.care()["state"]), ("planned", "waits"))
        [(title, words)] = self.round_items()
        self.assertEqual(title, "Automatic clean-up: Old caches needs a signature")
        self.assertIn("has not been approved yet", words)
        self.assertEqual(self.sign(clearing.pk).status_code, 204)
        self.cleared(clearing)
        self.assertEqual((self.care()["state"], self.care()["agreed_by"]), ("agreed", "supervisor"))
        self.assertEqual(self.round_items()[0][0], "Automatic clean-up freed 3 kB on pan-03")

        self.another_day()
        second = self.looked(4500)
        self.assertEqual((second.state, second.signed_by, second.created_by), ("running", None, None))
        plan = self.plan(second.pk)
        self.assertEqual((plan["signed_by"], plan["created_by"]), ("standing care", "standing care"))
        self.cleared(second)
        self.assertEqual(second.state, "ended")
        [last, first] = self.care()["turns"]
        self.assertEqual((last["by_itself"], last["cleared"], first["by_itself"]), (True, 3000, False))

    def test_what_grows_by_half_waits_for_a_person_again(self) -> None:
        self.agree()
        self.another_day()
        grown = self.looked(4501)
        self.assertEqual(grown.state, "planned")
        self.assertIn("more than 50 % above", self.care()["turns"][0]["problem"])
        self.another_day()
        self.looked(4500)
        self.assertEqual(Clearing.objects.get(pk=grown.pk).state, "dropped")  # a newer plan takes its place

    def test_one_that_changes_while_its_seats_look_does_not_go_by_itself(self) -> None:
        self.agree()
        self.another_day()
        take_turns()
        self.publish(self.text(**{"5 kB": "6 kB"}))
        self.hand_in(self.order("plan_clearing"), planned=[CACHE])
        take_turns()
        self.assertIn("stopped or changed", self.care()["turns"][0]["problem"])

    def test_a_seat_that_promises_more_than_it_may_take_raises_nothing(self) -> None:
        self.sign(self.looked(10**11).pk)
        self.assertEqual(self.care()["agreed_size"], 5000)

    def test_another_sentence_is_agreed_to_anew_and_another_reason_is_not(self) -> None:
        self.agree()
        for change, state in (({"disks fill": "they are large"}, "running"), ({"5 kB": "6 kB"}, "planned")):
            with self.subTest(change):
                self.another_day()
                self.publish(self.text(**change))
                clearing = self.looked()
                self.assertEqual(clearing.state, state)
                if state == "running":
                    self.cleared(clearing)

    def test_a_turn_stands_once_and_begins_with_its_plan_or_not_at_all(self) -> None:
        take_turns()
        take_turns()
        self.assertEqual((Turn.objects.count(), Clearing.objects.count()), (1, 1))
        Turn.objects.all().delete()
        Clearing.objects.all().delete()
        with patch("normant.standing_care.services.take_turns.tell", side_effect=RuntimeError):
            self.assertRaises(RuntimeError, begin_turns)
        self.assertEqual((Turn.objects.count(), Clearing.objects.count()), (0, 0))
        self.assertEqual(self.round_items(), [])

    def test_nothing_begins_outside_its_hours_or_beside_a_plan_that_is_not_over(self) -> None:
        now = timezone.localtime()
        with patch.object(timezone, "localtime", return_value=now + dt.timedelta(hours=2)):
            begin_turns()
        self.assertFalse(Turn.objects.exists())
        clearing = self.looked()
        self.sign(clearing.pk)
        self.another_day()
        take_turns()
        self.assertIn(f"its clean-up {clearing.pk} is running", self.care()["turns"][0]["problem"])
        self.assertEqual(self.round_items()[0][0], "Automatic clean-up: Old caches not started")
        sal = User.objects.get(username="supervisor")
        Choice.objects.create(user=sal, mail="sal@brinehouse.example", digest=True, digest_hour=0)
        Presence.objects.update(unjudged_since=None)
        self.assertEqual(send_digests(), 1)
        self.assertIn(f"its clean-up {clearing.pk} is running", SentNotice.objects.get().text.lower())

    def test_nothing_may_go_is_no_trouble_and_nobody_to_ask_is(self) -> None:
        take_turns()
        self.hand_in(self.order("plan_clearing"), planned=[{**CACHE, "digest": "", "going": 0, "going_size": 0}])
        take_turns()
        self.assertEqual((self.care()["turns"][0]["state"], self.round_items()), ("dropped", []))
        self.another_day()
        for change, turns in (({"'offline'": "'sound'"}, 1), ({'"source_cache"': '"proxies"'}, 2)):
            with self.subTest(change):
                self.publish(self.text(**change))
                take_turns()
                self.assertEqual(Turn.objects.count(), turns)
        [(title, words)] = self.round_items()
        self.assertEqual(title, "Automatic clean-up: Old caches not started")
        self.assertIn("none of these seats has a store of these types", words)

    def test_who_answers_after_its_hours_waits_and_who_has_not_cleared_by_then_stays(self) -> None:
        self.agree()
        self.another_day()
        running = self.looked()
        Clearing.objects.filter(pk=running.pk).update(closes=timezone.now())
        advance_clearing(running.pk)
        self.assertEqual(SeatClearing.objects.get(clearing=running).message, CLOSED)
        self.assertFalse(Order.objects.filter(kind="clear_planned", clearing__clearing=running).exists())
        self.another_day()
        take_turns()
        Turn.objects.filter(decided_at=None).update(closes=timezone.now())
        self.hand_in(self.order("plan_clearing"), planned=[CACHE])
        take_turns()
        self.assertIn("time window ended", self.care()["turns"][0]["problem"])

    def test_the_first_thing_that_is_not_as_listed_halts_it(self) -> None:
        self.agree()
        self.another_day()
        clearing = self.looked()
        self.cleared(clearing, items=2)
        self.assertEqual(clearing.state, "halted")
        self.assertIn("1 of 3 items were not as they had been listed", self.round_items()[0][1])


class Doors(Standing):
    def test_it_is_stopped_and_goes_on(self) -> None:
        clearing = self.looked()
        self.sign(clearing.pk)
        stop = {"name": "Old caches", "why": "the audit"}
        self.assertEqual(self.post("standing-care/stop", stop).status_code, 204)
        self.assertEqual(Clearing.objects.get().state, "halted")
        self.assertEqual(self.post("standing-care/stop", stop).status_code, 409)
        self.assertEqual(
            (self.care()["state"], self.care()["why"], self.care()["next"]), ("stopped", "the audit", None)
        )
        self.another_day()
        take_turns()
        self.assertEqual(Turn.objects.count(), 1)
        self.assertEqual(self.post("standing-care/resume", {"name": "Old caches"}).status_code, 204)
        self.assertEqual(self.post("standing-care/resume", {"name": "Old caches"}).status_code, 409)
        self.assertFalse(StoppedCare.objects.exists())
        acts = set(Entry.objects.values_list("action", flat=True))
        self.assertLessEqual({"stop standing care", "resume standing care"}, acts)

    def test_what_waits_is_given_up_when_it_is_stopped(self) -> None:
        clearing = self.looked()
        self.post("standing-care/stop", {"name": "Old caches", "why": "no"})
        clearing.refresh_from_db()
        self.assertEqual(clearing.state, "dropped")

    def test_its_impact_is_seen_before_it_is_published_and_its_seats_may_look(self) -> None:
        text = self.text(**{"Old caches": "Older caches"})
        [impact] = self.post("standing-care/impact", {"text": text}).json()["items"]
        self.assertEqual((impact["name"], impact["seats"], impact["is_agreed"]), ("Older caches", 1, False))
        number = self.post("standing-care/look", {"text": text, "name": "Older caches"}).json()["id"]
        self.assertEqual(self.plan(number)["title"], "Preview of Older caches")
        self.assertFalse(Turn.objects.exists())
        self.assertEqual(self.post("standing-care/look", {"text": text, "name": "x"}).status_code, 422)
        self.assertEqual(self.post("standing-care/impact", {"text": "[["}).status_code, 422)

    def test_who_may(self) -> None:
        self.agree()
        bodies: dict[str, Any] = {
            "stop": {"name": "Old caches", "why": "x"},
            "resume": {"name": "Old caches"},
            "look": {"text": self.text(), "name": "Old caches"},
        }
        for role in Role:
            for path, body in bodies.items():
                with self.subTest(role=role, path=path):
                    may = role in (Role.SUPERVISOR, Role.ADMINISTRATOR)
                    self.assertEqual(self.post(f"standing-care/{path}", body, role).status_code == 403, not may)
        for path, body in bodies.items():
            self.assertEqual(self.client.post(f"/api/v1/standing-care/{path}", body).status_code, 401)
        self.assertEqual(self.post("standing-care/stop", {"name": "None", "why": "x"}).status_code, 404)

    def test_what_it_agreed_to_is_what_people_signed(self) -> None:
        self.agree()
        self.another_day()
        self.cleared(self.looked(4500))
        turn = Turn.objects.earliest("opens")
        self.assertEqual([agreed.promised_by(t) for t in agreed.agreed_turns(turn.name, turn.meaning)], [3000])
