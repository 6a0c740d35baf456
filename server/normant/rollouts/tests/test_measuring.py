"""Canaries that are measured before and after their change: through the API and the agents' door."""

import json
from typing import Any

from normant.orders.models import Order
from normant.rollouts.jobs import advance_rollout
from normant.rollouts.models import Leg, Rollout
from normant.rollouts.services.issue_leg import RUNS
from normant.rollouts.services.stop import halt
from normant.tests.house import survey
from normant_core.orders.kinds import Measure, parse_order

from .test_waves import Stage

FAST, SLOW = (10.0, 24.0, 24.1, 23.9, 24.0), (10.0, 20.0, 20.1, 19.9, 20.0)


class Measuring(Stage):
    def begun_on(self, **terms: Any) -> tuple[Rollout, str]:
        """A rollout whose canaries play first, and the first canary."""
        rollout = self.start(measure="play", **terms)
        return rollout, Leg.objects.filter(rollout=rollout, wave=0).order_by("seat__name").first().seat.name  # type: ignore[union-attr]

    def waiting(self, seat: str) -> Order:
        order: Order = Order.objects.waiting().get(seat__name=seat)
        return order

    def measured(self, seat: str, runs: tuple[float, ...], **fields: Any) -> None:
        order = self.waiting(seat)
        self.assertEqual(parse_order(bytes(order.body)).action, Measure("play", RUNS))
        body = {"order": str(order.pk), "outcome": "done", "measured": runs, **fields}
        path = f"/api/v1/agent/orders/{order.pk}/receipt"
        self.house.agent(self.tokens[seat]).post(path, json.dumps(body), "application/json")

    def changed(self, seat: str) -> None:
        order = self.waiting(seat)
        self.assertEqual(order.kind, "set_power_profile")
        self.hand_in(order, "done")
        self.house.send(survey(seat=seat, power__profile="performance"), self.tokens[seat])

    def test_a_canary_is_measured_changed_and_measured_again(self) -> None:
        rollout, seat = self.begun_on()
        self.measured(seat, SLOW)
        self.changed(seat)
        leg = Leg.objects.get(rollout=rollout, seat__name=seat)
        self.assertEqual((leg.state, leg.ended_at), ("moving", None))
        self.measured(seat, FAST)
        leg.refresh_from_db()
        self.assertEqual(leg.state, "settled")
        self.assertIn("plays 1.20 times faster", leg.message)
        self.assertEqual(leg.measured["before"], list(SLOW))
        advance_rollout(rollout.pk)
        self.assertEqual(Rollout.objects.get(pk=rollout.pk).state, "running")
        others = Order.objects.waiting().exclude(seat__name=seat)
        self.assertEqual({order.kind for order in others.filter(leg__wave=1)} - {"set_power_profile"}, set())

    def test_one_that_became_worse_halts_the_rest_and_says_so(self) -> None:
        rollout, seat = self.begun_on()
        self.measured(seat, FAST)
        self.changed(seat)
        self.measured(seat, SLOW)
        advance_rollout(rollout.pk)
        rollout.refresh_from_db()
        self.assertEqual(rollout.state, "halted")
        self.assertIn(f"{seat} plays 1.20 times slower", rollout.reason)
        self.assertEqual(Leg.objects.filter(rollout=rollout, state="halted").count(), 3)
        self.post(f"rollouts/{rollout.pk}/resume")
        advance_rollout(rollout.pk)
        self.assertEqual(Rollout.objects.get(pk=rollout.pk).state, "running")

    def test_halted_before_its_change_nothing_of_it_is_changed(self) -> None:
        rollout, seat = self.begun_on()
        order = self.waiting(seat)
        Leg.objects.filter(rollout=rollout, seat__name=seat).update(state="moving", step="checking")
        halt(rollout, "test")
        self.measured(seat, SLOW)
        leg = Leg.objects.get(rollout=rollout, seat__name=seat)
        self.assertEqual((leg.state, leg.orders.exclude(pk=order.pk).count()), ("halted", 0))

    def test_a_measurement_that_comes_after_the_halt_is_nothing_that_was_written(self) -> None:
        rollout, seat = self.begun_on()
        order = self.waiting(seat)
        halt(rollout, "test")
        self.hand_in(order, "done")
        leg = Leg.objects.get(rollout=rollout, seat__name=seat)
        self.assertEqual((leg.state, leg.message), ("halted", "halted before anything was changed"))
        self.assertFalse(self.shown(rollout)["can_put_back"])

    def test_without_a_meter_the_change_goes_on_and_says_so(self) -> None:
        rollout, seat = self.begun_on()
        self.measured(seat, (), outcome="failed", message="this seat has no meter")
        self.changed(seat)
        leg = Leg.objects.get(rollout=rollout, seat__name=seat)
        self.assertEqual((leg.state, leg.message), ("settled", "not measured: this seat has no meter"))

    def test_put_back_restores_the_change_alone(self) -> None:
        rollout, seat = self.begun_on()
        self.measured(seat, SLOW)
        self.changed(seat)
        self.measured(seat, FAST)
        number = self.post(f"rollouts/{rollout.pk}/put-back", {"seats": [seat]}).json()["id"]
        advance_rollout(number)
        self.assertEqual([o.kind for o in Order.objects.filter(leg__rollout=number)], ["put_back"])

    def test_the_report_holds_the_runs(self) -> None:
        rollout, seat = self.begun_on()
        self.measured(seat, FAST)
        self.changed(seat)
        self.measured(seat, SLOW)
        advance_rollout(rollout.pk)
        report = self.house.client().get(f"/api/v1/rollouts/{rollout.pk}/report?form=json").json()
        [measured] = [seat_row["measured"] for seat_row in report["seats"] if seat_row["seat"] == seat]
        self.assertEqual((measured["outcome"], measured["after"]), ("worse", list(SLOW)))
