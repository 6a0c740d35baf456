"""The state machine of trials: through the API and the agents' door."""

import csv
import datetime as dt
import io
import itertools
import json
from unittest.mock import patch

from django.utils import timezone

from normant.accounts.permissions import Role
from normant.bookings.models import Calendar
from normant.ledger.models import Entry
from normant.orders.models import Order
from normant.rollouts.models import Leg, Rollout
from normant.rollouts.services.advance import MEASURED, advance
from normant.seats.models import Seat
from normant.tests.house import survey
from normant.tests.options import with_options
from normant.trials.jobs import sweep
from normant.trials.models import Run, Trial, TrialSeat
from normant.trials.services.advance_trial import MEETS, OCCUPIED, advance_trial
from normant_core.orders.kinds import SetPreference

from .stage import CHANGE, GIB, NAMES, POOL, TrialStage


class Changes(TrialStage):
    def test_a_difference_is_found_and_said_with_what_it_holds_for(self) -> None:
        trial = self.start()
        self.carry_out(trial, GiB8=0.36)
        shown = self.get(f"trials/{trial.pk}")
        self.assertEqual((shown["state"], shown["on"][0]["state"]), ("ended", "done"))
        self.assertRegex(shown["sentence"], r"^On pan-03, Corrow 8\.3.*: 8 GiB plays 4\d % faster than ")
        (compared,) = shown["comparisons"]
        self.assertEqual((compared["of"], compared["outcome"]), ("8 GiB", "better"))
        self.assertLess(compared["low"], 1.4334)
        self.assertGreater(compared["high"], 1.4334)
        self.assertEqual({run["block"] for run in shown["runs"]}, {*range(1, int(shown["blocks"]) + 1)})
        self.assertEqual(Entry.objects.filter(action="end trial").count(), 1)
        self.assertFalse(Order.objects.waiting().exists())

    def test_a_run_sets_its_condition_from_what_is_there_and_as_it_is_sets_nothing(self) -> None:
        self.start()
        under = {}
        for _ in range(2):
            order = self.waiting()
            assert order
            assert order.run
            under[order.run.condition] = self.action(order).under
            self.measure(order, 40)
        here, there = sorted(under, key=lambda name: "as it is" not in name)
        self.assertEqual((under[here], there), ((), "8 GiB"))
        (change,) = under["8 GiB"]
        assert isinstance(change, SetPreference)
        self.assertEqual([(c.setting, c.expected, c.native) for c in change.changes], [(POOL, "256", "8192")])

    def test_the_first_run_after_a_change_is_thrown_away(self) -> None:
        trial = self.start()
        order = self.waiting()
        assert order
        self.measure(order, 40.0)
        run = self.get(f"trials/{trial.pk}")["runs"][0]
        self.assertEqual((run["thrown"], run["figure"]), ([32.0], 40.0))

    def test_seats_meet_at_every_look(self) -> None:
        trial = self.start(seats=["pan-03", "pan-04"])
        while order := self.waiting("pan-03"):
            self.measure(order, 40)
        self.assertEqual(self.state("pan-03").message, MEETS)
        self.assertEqual(Run.objects.filter(of__seat__name="pan-03").count(), 8)
        self.carry_out(trial, GiB8=0.3)
        self.assertEqual({row.state for row in TrialSeat.objects.all()}, {"done"})

    def test_jobs_that_run_twice_change_nothing(self) -> None:
        trial = self.start()
        for _ in range(3):
            advance_trial(trial.pk)
            sweep()
        self.assertEqual(Order.objects.waiting().count(), 1)
        order = self.waiting()
        assert order
        self.measure(order, 40)
        self.hand_in(order, measured=[1, 1])  # the same receipt once more, with other figures
        self.assertEqual(Run.objects.get(pk=order.run_id).figure, 40)

    def test_a_job_that_was_lost_is_made_up_for(self) -> None:
        self.start()
        order = self.waiting()
        assert order
        with patch("normant.trials.services.receive_run.advance_trial_soon"):
            self.hand_in(order, measured=[30, 40])
        self.assertIsNone(self.waiting())
        sweep()
        self.assertIsNotNone(self.waiting())


class OtherKinds(TrialStage):
    def test_a_choice_compares_all_with_all(self) -> None:
        values = ["2 GiB", "4 GiB", "8 GiB"]
        conditions = [{"sets": [{"setting": POOL, "app": "corrow", "value": value}]} for value in values]
        trial = self.start(kind="choice", conditions=conditions)
        self.carry_out(trial, GiB2=0.0, GiB4=0.2, GiB8=0.4)
        shown = self.get(f"trials/{trial.pk}")
        self.assertEqual(
            {(c["of"], c["outcome"]) for c in shown["comparisons"]}, {("4 GiB", "better"), ("8 GiB", "better")}
        )
        self.assertEqual(shown["title"], "Which Corrow preview pool plays best on pan-03?")

    def test_a_ladder_stops_below_what_pages(self) -> None:
        values = ["1 GiB", "2 GiB", "4 GiB", "8 GiB", "16 GiB"]
        conditions = [{"sets": [{"setting": POOL, "app": "corrow", "value": value}]} for value in values]
        trial = self.start(kind="ladder", conditions=conditions)
        paging = {"every": 0.5, "columns": {"page_ins": [2000, 2100]}, "rest": {"page_ins": 0}}
        for _ in range(200):
            order = self.waiting()
            if order is None:
                break
            assert order.run
            size = int(order.run.condition.split()[0])
            harm = {"samples": [paging]} if size == 16 else {}
            self.measure(order, 30 if size < 4 else 40, **harm)
        shown = self.get(f"trials/{trial.pk}")
        self.assertEqual((shown["state"], shown["smallest"]), ("ended", "4 GiB"))
        self.assertTrue(any(run["harmful"] for run in shown["runs"]))
        self.assertIn("4 GiB is the smallest", shown["sentence"])

    def test_a_ladder_stops_below_what_slows_another_application(self) -> None:
        values = ["1 GiB", "2 GiB", "4 GiB", "8 GiB", "16 GiB"]
        conditions = [{"sets": [{"setting": POOL, "app": "corrow", "value": value}]} for value in values]
        beside = {"job": "render", "app": "verrano"}
        trial = self.start(kind="ladder", conditions=conditions, beside=beside)
        scatter = itertools.cycle((0.99, 1.0, 1.01))
        while (order := self.waiting()) is not None:
            assert order.run
            size = int(order.run.condition.split()[0])
            seconds = 150 * next(scatter) * (1.2 if size == 16 else 1)
            self.measure(order, 30 + size, beside=[seconds, seconds])
        shown = self.get(f"trials/{trial.pk}")
        self.assertEqual((shown["state"], shown["smallest"]), ("ended", "8 GiB"))
        self.assertIn("; from 16 GiB on it slows Verrano exports", shown["sentence"])
        self.assertEqual(shown["beside"], {"job": "render", "app": "verrano", "words": "Verrano exports"})
        self.assertTrue(all(run["beside"] > 100 for run in shown["runs"]))

    def test_an_agent_that_measures_nothing_beside_it_ends_the_seat(self) -> None:
        conditions = [{"sets": [{"setting": POOL, "app": "corrow", "value": f"{n} GiB"}]} for n in (1, 2, 4)]
        trial = self.start(kind="ladder", conditions=conditions, beside={"job": "render", "app": "verrano"})
        order = self.waiting()
        assert order
        self.measure(order, 30)
        (seat,) = self.get(f"trials/{trial.pk}")["on"]
        self.assertEqual((seat["state"], "beside" in seat["message"]), ("stopped", True))

    def test_a_screening_names_what_matters(self) -> None:
        factors = (
            ("power.profile", None, "performance"),
            ("memory.held_back", "corrow", "6 GiB"),
            (POOL, "corrow", "8 GiB"),
        )
        conditions = [{"sets": [{"setting": s, "app": app, "value": v}]} for s, app, v in factors]
        trial = self.start(kind="screening", conditions=conditions)
        while order := self.waiting():
            assert order.run
            self.measure(order, 40 * (1.3 if order.run.condition[2] == "+" else 1) * (1 + order.run.place % 3 / 1000))
        shown = self.get(f"trials/{trial.pk}")
        self.assertEqual(len(shown["runs"]), 8)
        named = [effect["factor"] for effect in shown["effects"] if effect["outcome"] == "better"]
        self.assertEqual(named, ["Corrow preview pool: 8 GiB"])
        table = self.house.client(Role.VIEWER).get(f"/api/v1/trials/{trial.pk}/runs?as=csv").content.decode("utf-8-sig")
        header, *rows = csv.reader(io.StringIO(table))
        self.assertEqual((header[0], header[-1], len(header), len(rows)), ("block", "value", 5, 8))

    def test_devices_are_compared_by_the_same_clip(self) -> None:
        upload = {"name": "Mill, avc", "codec": "avc/8/420", "file": io.BytesIO(b"a clip")}
        clip = self.house.client().post("/api/v1/clips", upload).json()
        devices = [{"device": name} for name in ("cpu", "gpu0", "gpu1")]
        trial = self.start(kind="choice", job="decode", conditions=devices, clip=clip["id"])
        order = self.waiting()
        assert order
        assert order.run
        action = self.action(order)
        self.assertEqual((action.clip, action.device, action.under), (clip["digest"], order.run.condition, ()))
        held = self.house.agent().get(f"/api/v1/agent/clips/{clip['digest']}")
        self.assertEqual(held.content, b"a clip")
        self.assertEqual(self.house.client(Role.VIEWER).get(f"/api/v1/trials/{trial.pk}").json()["clip"], "Mill, avc")
        self.assertEqual(self.house.client().delete(f"/api/v1/clips/{clip['id']}").status_code, 409)


class Ends(TrialStage):
    def test_halted_nothing_more_is_run_and_what_was_set_is_said_to_be_back(self) -> None:
        trial = self.start(seats=["pan-03", "pan-04"])
        order = self.waiting("pan-03")
        assert order
        answer = self.post(f"trials/{trial.pk}/halt", {"why": "The client is early."})
        self.assertEqual((answer.status_code, answer.json()["state"]), (200, "halted"))
        self.assertFalse(Order.objects.waiting().exists())
        self.hand_in(order, measured=[30, 40])
        self.assertEqual(self.state("pan-03").message, "halted; put back, byte for byte")
        self.assertIsNone(Run.objects.get(pk=order.run_id).figure)
        advance_trial(trial.pk)
        self.assertFalse(Order.objects.waiting().exists())
        self.assertEqual(self.post(f"trials/{trial.pk}/halt", {"why": "again"}).status_code, 409)

    def test_a_seat_that_cannot_stops_and_the_others_go_on(self) -> None:
        trial = self.start(seats=["pan-03", "pan-04"])
        order = self.waiting("pan-03")
        assert order
        self.hand_in(order, outcome="failed", message="this seat has no meter")
        advance_trial(trial.pk)
        self.assertEqual((self.state().state, self.state().message), ("stopped", "this seat has no meter"))
        self.carry_out(trial, GiB8=0.3)
        self.assertEqual(self.get(f"trials/{trial.pk}")["comparisons"][0]["seats"], 1)

    def test_with_its_last_seat_a_trial_ends_and_says_why_nothing_is_shown(self) -> None:
        trial = self.start()
        order = self.waiting()
        assert order
        self.hand_in(order, outcome="refused", message="the power profile was changed meanwhile")
        advance_trial(trial.pk)
        shown = self.get(f"trials/{trial.pk}")
        self.assertEqual(shown["state"], "ended")
        self.assertIn("No result: the power profile was changed meanwhile", shown["sentence"])

    def test_a_seat_that_is_retired_takes_its_runs_with_it(self) -> None:
        trial = self.start()
        self.assertEqual(self.post("seats/pan-03/retire", {"reason": "sold"}).status_code, 204)
        advance_trial(trial.pk)
        self.assertEqual(Trial.objects.get().state, "ended")

    def test_a_verdict_grows_old_with_its_application(self) -> None:
        trial = self.start()
        self.carry_out(trial, GiB8=0.36)
        self.assertEqual(self.get("trials")["items"][0]["old"], "")
        newer = survey(minutes=1)
        newer["facts"] = json.loads(json.dumps(newer["facts"]).replace('"8.3', '"8.4'))
        self.house.send(newer)
        self.assertIn("Corrow is 8.4", self.get("trials")["items"][0]["old"])


class OneSeat(TrialStage):
    """One seat, one trial or rollout at a time."""

    def leg(self, seat: str = "pan-03") -> Leg:
        rollout = Rollout.objects.create(title="other", created_by=self.house.people[Role.SUPERVISOR])
        return Leg.objects.create(
            rollout=rollout, seat=Seat.objects.get(name=seat), plan={"seat": seat, "changes": [], "left": []}
        )

    def test_a_trial_waits_for_a_rollout(self) -> None:
        leg = self.leg()
        Leg.objects.filter(pk=leg.pk).update(begun_at=timezone.now(), state="moving")
        trial = self.start()
        self.assertEqual((self.waiting(), self.state().message), (None, OCCUPIED))
        Leg.objects.filter(pk=leg.pk).update(ended_at=timezone.now(), state="settled")
        advance_trial(trial.pk)
        self.assertIsNotNone(self.waiting())

    def test_a_rollout_waits_for_a_trial(self) -> None:
        self.start()
        leg = self.leg()
        advance(leg.rollout_id)
        leg.refresh_from_db()
        self.assertEqual((leg.begun_at, leg.message), (None, MEASURED))

    def test_a_second_trial_waits_for_the_first(self) -> None:
        self.start()
        self.start(job="render")
        self.assertEqual(Order.objects.waiting().count(), 1)
        self.assertEqual(TrialSeat.objects.get(begun_at=None).message, OCCUPIED)

    def test_a_booked_room_is_left_alone(self) -> None:
        now = timezone.now()
        booking = [(now - dt.timedelta(hours=1)).isoformat(), (now + dt.timedelta(hours=2)).isoformat()]
        with patch("normant.trials.services.advance_trial.booked_rooms") as rooms:
            rooms.return_value = {"Pan House": (tuple(map(dt.datetime.fromisoformat, booking)),)}
            self.start()
        self.assertIn("Pan House is booked until", self.state().message)
        self.assertFalse(Calendar.objects.exists())
        sweep()
        self.assertIsNotNone(self.waiting())

    def test_nothing_begins_before_its_hour(self) -> None:
        trial = self.start(begins=(timezone.now() + dt.timedelta(hours=3)).isoformat())
        sweep()
        self.assertIsNone(self.waiting())
        Trial.objects.filter(pk=trial.pk).update(begins=timezone.now() - dt.timedelta(seconds=1))
        sweep()
        self.assertIsNotNone(self.waiting())


class Doors(TrialStage):
    def test_what_no_trial_may_set_is_refused_with_its_reason(self) -> None:
        for setting, app, value, words in (
            ("store.source_cache.path", "corrow", "/fast/x", "cannot be restored automatically"),
            ("driver.version", None, "32", "cannot be restored automatically"),
            ("delivery.ignore_errors", "corrow", True, "cannot be set to"),
            ("power.process_priority", "corrow", "realtime", "cannot be set to"),
            ("memory.no_such", "corrow", 1, "there is no setting"),
            (POOL, "corrow", "very much", "memory.preview_pool"),
            (POOL, None, "8 GiB", "of an application"),
            ("power.profile", "corrow", "balanced", "of the machine"),
        ):
            with self.subTest(setting, value=value):
                wanted = [{"sets": []}, {"sets": [{"setting": setting, "app": app, "value": value}]}]
                self.assertIn(words, self.refused(422, conditions=wanted))

    def test_what_cannot_be_asked_is_refused(self) -> None:
        usual = CHANGE["conditions"]
        assert isinstance(usual, list)
        steps = [{"sets": [{"setting": POOL, "app": "corrow", "value": f"{n} GiB"}]} for n in (1, 2, 4)]
        for fields, words in (
            ({"seats": ["pan-99"]}, "pan-99"),
            ({"job": "decode"}, "select a reference clip"),
            ({"job": "disk"}, "select a volume"),
            ({"clip": 7}, "clips are for decoding"),
            ({"conditions": usual[:1]}, "2 to 2 conditions"),
            ({"conditions": [usual[1], usual[1]]}, "duplicate"),
            ({"kind": "ladder"}, "3 to 64"),
            ({"beside": {"job": "render", "app": "verrano"}}, "by no other trial"),
            ({"kind": "ladder", "conditions": steps, "beside": {"job": "decode"}}, "reference clip"),
        ):
            with self.subTest(words):
                self.assertIn(words, self.refused(422, **fields))
        self.assertEqual(self.post("trials", {**CHANGE, "seats": []}).status_code, 422)
        self.assertEqual(self.post("trials", {**CHANGE, "matters": 1}).status_code, 422)

    def test_a_value_that_a_seat_cannot_have_is_told_before_anything_begins(self) -> None:
        profile = [{"sets": []}, {"sets": [{"setting": "power.profile", "value": "power-saver"}]}]
        bare = survey(seat="pan-04", minutes=1)
        bare["facts"] = {**bare["facts"], "system": {**bare["facts"]["system"], "power_profiles": ["balanced"]}}
        self.house.send(bare, self.tokens["pan-04"])
        look = self.post("trials/look", {**CHANGE, "conditions": profile, "seats": ["pan-03", "pan-04"]}).json()
        self.assertEqual(len(look["unfit"]), 1)
        self.assertIn("pan-04", look["unfit"][0])
        self.assertIn("pan-04", self.refused(422, conditions=profile, seats=["pan-03", "pan-04"]))

    def test_looking_says_what_it_would_take(self) -> None:
        look = self.post("trials/look", CHANGE).json()
        self.assertEqual((look["unfit"], look["closes"]), ([], ["corrow"]))
        self.assertEqual(look["conditions"][1], "8 GiB")
        self.assertIn(", as it is", look["conditions"][0])
        self.assertEqual(look["runs"], 2 * look["expected_blocks"])
        self.assertGreater(look["minutes"], 5)
        typed = [{"sets": []}, {"sets": [{"setting": POOL, "app": "corrow", "value": "8 Gi"}]}]
        self.assertIn(
            "memory.preview_pool cannot be",
            self.post("trials/look", {**CHANGE, "conditions": typed}).json()["unfit"][0],
        )

    def test_what_can_be_tried_is_what_goes_back_by_itself(self) -> None:
        rows = {row["setting"]: row for row in self.get("triable?seat=pan-03&seat=pan-04")["items"]}
        self.assertEqual({*rows}, {"engine.effects", "memory.held_back", POOL, "power.profile"})
        self.assertEqual(
            (rows[POOL]["here"], rows[POOL]["wanted"], rows[POOL]["ordered"]), ("256 MiB", "12.8 GiB", True)
        )
        self.assertIn("performance", rows["power.profile"]["values"])
        self.assertEqual(self.get("triable?seat=pan-99")["items"], [])
        self.house.send(survey(minutes=1, memory__preview_pool=2 * GIB))
        rows = {row["setting"]: row for row in self.get("triable?seat=pan-03&seat=pan-04")["items"]}
        self.assertEqual(rows[POOL]["here"], "")

    def test_what_the_standard_wants_can_be_typed_as_it_is_shown(self) -> None:
        wanted = [{"sets": []}, {"sets": [{"setting": POOL, "app": "corrow", "value": "12.8 GiB"}]}]
        trial = self.start(conditions=wanted)
        self.assertEqual(trial.core_question.conditions[1].sets[0].value, 13_743_895_347)
        self.assertEqual(trial.core_question.conditions[1].name, "12.8 GiB")

    def test_a_real_seat_plays_by_hand_alone(self) -> None:
        body = survey()
        self.house.send({**body, "agent": {**body["agent"], "host": "linux"}})
        answer = self.post("trials", CHANGE)
        self.assertEqual(answer.status_code, 422, answer.content)
        self.assertIn("does not play automatically: choose manual runs", answer.json()["detail"])
        by_hand = {**CHANGE, "by_hand": {"what": "0:10 to 0:40", "frames": 750, "rate": 25}}
        self.assertEqual(self.post("trials", by_hand).status_code, 200)
        [row, *_] = self.get("triable?seat=pan-03")["items"]
        self.assertEqual(row["jobs"], ["decode", "disk"])

    def test_the_same_twice_is_one_trial_and_somebody_else_is_told(self) -> None:
        first = self.start()
        self.assertEqual(self.post("trials", CHANGE).json()["id"], first.pk)
        self.assertEqual(self.post("trials", CHANGE, Role.ADMINISTRATOR).status_code, 409)
        self.assertEqual(Trial.objects.count(), 1)

    def test_a_second_person_is_asked_where_the_house_wants_one(self) -> None:
        with with_options(second_person=True):
            answer = self.post("trials", CHANGE).json()
            self.assertEqual((answer.get("id"), Trial.objects.count()), (None, 0))
            proposal = next(p for p in self.get("proposals")["items"] if p["id"] == answer["proposal"])
            self.assertIn("8 GiB: memory.preview_pool of corrow: 8 GiB", proposal["lines"])
            path, body = f"/api/v1/proposals/{answer['proposal']}/approve", json.dumps({"seen": proposal["seen"]})
            self.assertEqual(self.house.browser().post(path, body, "application/json").status_code, 403)
            approved = self.house.browser(Role.ADMINISTRATOR).post(path, body, "application/json")
            self.assertLess(approved.status_code, 300, approved.content)
        self.assertEqual(Trial.objects.get().created_by.role, Role.SUPERVISOR)

    def test_figures_that_are_none_are_refused_and_another_seat_hands_in_nothing(self) -> None:
        self.start()
        order = self.waiting()
        assert order
        for measured in ([0], [-1], [1e300], ["x"], [None]):
            with self.subTest(measured):
                self.assertEqual(self.hand_in(order, measured=measured).status_code, 422)
        body = json.dumps({"order": str(order.pk), "outcome": "done", "measured": [1, 2]})
        other = self.house.agent(self.tokens["pan-04"])
        path = f"/api/v1/agent/orders/{order.pk}/receipt"
        self.assertEqual(other.post(path, body, "application/json").status_code, 404)
        wide = {"every": 0.5, "columns": {f"c{n}": [1.0] for n in range(25)}}
        self.assertEqual(self.hand_in(order, measured=[1], samples=[wide]).status_code, 422)
        long = {"every": 0.5, "columns": {"processor": [0.1] * 601}}
        self.assertEqual(self.hand_in(order, measured=[1], samples=[long]).status_code, 422)
        self.assertIsNone(Run.objects.get(pk=order.run_id).figure)

    def test_samples_are_kept_with_their_run_and_told_when_asked_for(self) -> None:
        trial = self.start()
        order = self.waiting()
        assert order
        samples = {"every": 0.5, "columns": {"processor": [0.4, None]}, "rest": {"processor": 0.04}}
        self.measure(order, 40, samples=[samples, samples])
        answer = self.get(f"trials/{trial.pk}/runs/{order.run_id}")
        self.assertEqual(answer["proof"], [])  # effects are the processor's here
        self.assertEqual(answer["samples"]["columns"], {"processor": [0.4, None]})
        order.refresh_from_db()
        self.assertNotIn("samples", order.receipt)


class Clips(TrialStage):
    def keep(self, body: bytes = b"a clip", role: Role = Role.SUPERVISOR, **fields: str) -> int:
        upload = {"name": "Mill", "codec": "avc/8/420", **fields, "file": io.BytesIO(body)}
        return self.house.client(role).post("/api/v1/clips", upload).status_code

    def test_a_clip_is_kept_once_and_withdrawn(self) -> None:
        self.assertEqual([self.keep(), self.keep(name="Again"), self.keep(b"other")], [200, 200, 409])
        (clip,) = self.get("clips")["items"]
        self.assertEqual((clip["name"], clip["size"], clip["trials"]), ("Mill", 6, 0))
        self.assertEqual(self.house.client().delete(f"/api/v1/clips/{clip['id']}").status_code, 204)
        self.assertEqual(self.house.agent().get(f"/api/v1/agent/clips/{clip['digest']}").status_code, 404)

    def test_what_is_no_clip_is_refused(self) -> None:
        self.assertEqual(self.keep(b""), 422)
        self.assertEqual(self.keep(codec="../../etc"), 422)
        self.assertEqual(self.keep(name=" "), 422)
        self.assertEqual(self.keep(role=Role.ASSISTANT), 403)
        with patch("normant.trials.services.keep_clip.LIMIT_CLIP", 5):
            self.assertEqual(self.keep(), 413)
        self.assertEqual(self.get("clips")["items"], [])


class Names(TrialStage):
    def test_every_seat_has_runs_of_its_own_and_the_preview_pool_is_named_by_value(self) -> None:
        trial = self.start(seats=list(NAMES))
        self.assertEqual(trial.title, "Does Corrow preview pool at 8 GiB play faster on 4 seats?")
        self.assertEqual(Order.objects.waiting().count(), 4)
        self.assertEqual(trial.core_question.conditions[1].sets[0].value, 8 * GIB)


class Machines(TrialStage):
    """What a machine can do: its memory cut, its decode routes."""

    def test_memory_is_cut_within_what_the_rules_allow(self) -> None:
        cut = self.get("seats/pan-03/memory?frame=3840x2160&bits=16&rate=25")
        self.assertEqual((cut["total"], cut["app"]), (64 * GIB, "corrow"))
        self.assertLessEqual(cut["pool_least"], cut["cut"]["pool"])
        self.assertLessEqual(cut["cut"]["pool"], cut["pool_most"])
        self.assertEqual(cut["pool_because"], "12.8 to 25.6 GiB")
        self.assertEqual((cut["pool_here"], cut["held_back"]), (256 * 2**20, 1536 * 2**20))
        more = self.get("seats/pan-03/memory?workers=18&foreground=8589934592&per_worker=3758096384")
        self.assertGreater(more["cut"]["over"], 0)
        self.assertIn("more than there is", more["cut"]["sentence"])

    def test_what_cannot_be_cut_is_refused(self) -> None:
        client = self.house.client(Role.VIEWER)
        for query, status in (
            ("frame=0x0", 422),
            ("bits=12", 422),
            ("rate=0", 422),
            ("rate=fast", 422),
            ("rate=1e9999", 422),
            ("workers=-1", 422),
            ("held_back=99999999999999999999", 422),
            ("held_back=0&foreground=0&per_worker=0", 200),
        ):
            with self.subTest(query):
                self.assertEqual(client.get(f"/api/v1/seats/pan-03/memory?{query}").status_code, status)
        self.assertEqual(client.get("/api/v1/seats/pan-99/memory").status_code, 404)
        bare = survey(minutes=1)
        bare["facts"] = {**bare["facts"], "memory": {}}
        self.house.send(bare)
        self.assertIn("has not reported", client.get("/api/v1/seats/pan-03/memory").json()["detail"])

    def test_routes_say_who_decodes_and_at_which_measured_rate(self) -> None:
        upload = {"name": "Mill", "codec": "avc/8/420", "file": io.BytesIO(b"a clip")}
        clip = self.house.client().post("/api/v1/clips", upload).json()["id"]
        self.start(kind="choice", job="decode", clip=clip, conditions=[{"device": d} for d in ("cpu", "gpu0")])
        while order := self.waiting():
            assert order.run
            self.measure(order, 240 if order.run.condition == "gpu0" else 60)
        routes = self.get("routes?needed=100")
        self.assertIn("avc/8/420", routes["codecs"])
        row = next(row for row in routes["seats"] if row["seat"] == "pan-03")
        route = row["routes"][routes["codecs"].index("avc/8/420")]
        self.assertEqual(route["rate"] and round(route["rate"]), 240 if route["device"] == "gpu0" else 60)
        self.assertEqual(route["plays"], route["device"] == "gpu0")
        other = next(row for row in routes["seats"] if row["seat"] == "pan-04")
        self.assertIsNone(other["routes"][routes["codecs"].index("avc/8/420")]["rate"])
        group = next(group for group in routes["groups"] if "pan-03" in group["seats"])
        self.assertIn("pan-04", group["seats"])
        shared = group["routes"][routes["codecs"].index("avc/8/420")]
        self.assertEqual((shared["rate"], shared["measured_on"]), (route["rate"], ["pan-03"]))
        self.assertRegex(routes["sentence"], r"^\d of \d+ combinations? (is|are) too slow for 100 fps")


class Evidences(TrialStage):
    """What verdicts say of the rules of the standard in force."""

    def choice(self, setting: str, app: str | None, values: tuple[str, str], faster: str) -> None:
        conditions = [{"sets": [{"setting": setting, "app": app, "value": value}]} for value in values]
        trial = self.start(kind="choice", conditions=conditions)
        while order := self.waiting():
            assert order.run
            self.measure(order, (50 if order.run.condition == faster else 40) * (1 + order.run.block % 3 / 500))
        trial.refresh_from_db()
        self.assertEqual(trial.state, "ended")

    def test_a_rule_that_wants_what_is_faster_is_measured(self) -> None:
        self.choice("power.profile", None, ("balanced", "performance"), "performance")
        (spoken,) = self.get("evidence")["items"]
        self.assertEqual(
            (spoken["grade"], spoken["setting"], spoken["seats"]), ("measured", "power.profile", ["pan-03"])
        )
        self.assertIn("performance plays 1.25 times as fast as balanced", spoken["sentence"])
        self.assertNotIn("verdict", {item["kind"] for item in self.get("round")["items"]})

    def test_a_rule_that_rejects_what_is_faster_is_contradicted_on_the_round(self) -> None:
        self.choice(POOL, "corrow", ("2 GiB", "16 GiB"), "2 GiB")
        (spoken,) = self.get("evidence")["items"]
        self.assertEqual((spoken["grade"], spoken["at"]), ("contradicted", [0, 3]))
        (item,) = [item for item in self.get("round")["items"] if item["kind"] == "verdict"]
        self.assertEqual((item["trial"], item["seats"]), (spoken["trial"], ["pan-03"]))
        self.assertIn("2 GiB plays 1.25 times as fast as 16 GiB, but the standard rejects it", item["words"])

    def test_values_that_a_rule_does_not_tell_apart_say_nothing_of_it(self) -> None:
        self.choice(POOL, "corrow", ("14 GiB", "16 GiB"), "16 GiB")
        self.assertEqual(self.get("evidence")["items"], [])

    def test_what_has_grown_old_says_nothing_any_more(self) -> None:
        self.choice("power.profile", None, ("balanced", "performance"), "performance")
        newer = survey(minutes=1)
        newer["facts"] = json.loads(json.dumps(newer["facts"]).replace('"version": "31.4.2"', '"version": "32.0.1"'))
        self.house.send(newer)
        self.assertEqual(self.get("evidence")["items"], [])


class Delivery(TrialStage):
    def test_a_seat_that_lowers_its_master_says_so_to_its_own_editor(self) -> None:
        answer = self.get("seats/pan-03/ready", Role.EDITOR)
        self.assertEqual((answer["ready"], len(answer["guards"])), (False, 1))
        self.assertIn(
            "Full raw decoding at delivery is off: exports are lowered as well", answer["guards"][0]["sentence"]
        )
        self.assertEqual(self.house.client(Role.EDITOR).get("/api/v1/seats/pan-04/ready").status_code, 404)
