"""Canaries that are measured before their change: through the API and the agents' door."""

import json
from typing import Any
from unittest.mock import patch

import msgspec

from normant.orders.models import Order
from normant.rollouts.jobs import advance_rollout
from normant.rollouts.models import Leg, Rollout
from normant.rollouts.services.measuring import BLOCKS
from normant.rollouts.services.stop import halt
from normant.tests.house import survey
from normant_core.orders.kinds import InstallDriver, Measure, SetPowerProfile, parse_order

from .test_waves import Stage


class Measuring(Stage):
    def begun_on(self, **terms: Any) -> tuple[Rollout, str]:
        """A rollout whose canaries play first, and the first canary."""
        rollout = self.start(measure="play", **terms)
        return rollout, Leg.objects.filter(rollout=rollout, wave=0).order_by("seat__name").first().seat.name  # type: ignore[union-attr]

    def waiting(self, seat: str) -> Order:
        order: Order = Order.objects.waiting().get(seat__name=seat)
        return order

    def measured(self, seat: str, as_it_was: float, changed: float, **fields: Any) -> list[Measure]:
        """The seat's agent makes every run; a little apart from each other."""
        orders = list(Order.objects.waiting().filter(seat__name=seat, kind="measure").order_by("place"))
        actions = list[Measure]()
        for order in orders:
            action = parse_order(bytes(order.body)).action
            assert isinstance(action, Measure)
            figure = (changed if action.under else as_it_was) * (1 + order.place % 3 / 500)
            body = {"order": str(order.pk), "outcome": "done", "measured": [figure * 0.8, figure], **fields}
            path = f"/api/v1/agent/orders/{order.pk}/receipt"
            self.house.agent(self.tokens[seat]).post(path, json.dumps(body), "application/json")
            actions.append(action)
        return actions

    def changed(self, seat: str) -> None:
        order = self.waiting(seat)
        self.assertEqual(order.kind, "set_power_profile")
        self.hand_in(order, "done")
        self.house.send(survey(seat=seat, power__profile="performance"), self.tokens[seat])

    def test_a_canary_is_measured_in_blocks_and_then_changed(self) -> None:
        rollout, seat = self.begun_on()
        actions = self.measured(seat, 20.0, 24.0)
        self.assertEqual(len(actions), 2 * BLOCKS)
        for block in range(BLOCKS):
            self.assertEqual(
                [bool(a.under) for a in sorted(actions[2 * block :][:2], key=lambda a: len(a.under))], [False, True]
            )
        self.assertEqual({a.under for a in actions if a.under}, {(SetPowerProfile("balanced", "performance"),)})
        self.changed(seat)
        leg = Leg.objects.get(rollout=rollout, seat__name=seat)
        self.assertEqual(leg.state, "settled")
        self.assertIn("plays 20 % faster (", leg.message)
        self.assertEqual(len(leg.measured["before"]), BLOCKS)
        advance_rollout(rollout.pk)
        self.assertEqual(Rollout.objects.get(pk=rollout.pk).state, "running")
        others = Order.objects.waiting().exclude(seat__name=seat)
        self.assertEqual({order.kind for order in others.filter(leg__wave=1)} - {"set_power_profile"}, set())

    def test_one_that_would_become_worse_is_not_changed_and_halts_the_rest(self) -> None:
        rollout, seat = self.begun_on()
        self.measured(seat, 24.0, 20.0)
        advance_rollout(rollout.pk)
        rollout.refresh_from_db()
        self.assertEqual(rollout.state, "halted")
        self.assertRegex(rollout.reason, rf"{seat} plays 17 % slower .*no files were changed")
        self.assertEqual(Leg.objects.filter(rollout=rollout, state="halted").count(), 3)
        self.assertEqual({order.kind for order in Order.objects.filter(seat__name=seat)}, {"measure"})
        self.post(f"rollouts/{rollout.pk}/resume")
        advance_rollout(rollout.pk)
        self.assertEqual(Rollout.objects.get(pk=rollout.pk).state, "running")

    def test_of_runs_that_are_alike_nothing_is_made(self) -> None:
        rollout, seat = self.begun_on()
        self.measured(seat, 24.0, 24.2)
        self.changed(seat)
        self.assertIn("no difference shown", Leg.objects.get(rollout=rollout, seat__name=seat).message)

    def test_halted_before_its_change_nothing_of_it_is_changed(self) -> None:
        rollout, seat = self.begun_on()
        Leg.objects.filter(rollout=rollout, seat__name=seat).update(state="moving", step="checking")
        halt(rollout, "test")
        self.measured(seat, 20.0, 24.0)
        leg = Leg.objects.get(rollout=rollout, seat__name=seat)
        self.assertEqual((leg.state, leg.orders.exclude(kind="measure").count()), ("halted", 0))

    def test_a_measurement_that_comes_after_the_halt_is_nothing_that_was_written(self) -> None:
        rollout, seat = self.begun_on()
        order = Order.objects.waiting().filter(seat__name=seat)[0]
        halt(rollout, "test")
        self.hand_in(order, "done")
        leg = Leg.objects.get(rollout=rollout, seat__name=seat)
        self.assertEqual((leg.state, leg.message), ("halted", "halted before any change"))
        self.assertFalse(self.shown(rollout)["can_put_back"])

    def test_without_a_meter_the_change_goes_on_and_says_so(self) -> None:
        rollout, seat = self.begun_on()
        self.measured(seat, 1, 1, outcome="failed", measured=[], message="this seat has no meter")
        self.changed(seat)
        leg = Leg.objects.get(rollout=rollout, seat__name=seat)
        self.assertEqual((leg.state, leg.message), ("settled", "not measured: this seat has no meter"))

    def test_what_does_not_go_back_by_itself_is_changed_without_runs_and_says_so(self) -> None:
        with patch("normant.rollouts.services.measuring.settable", return_value=()):
            rollout, seat = self.begun_on()
        self.changed(seat)
        leg = Leg.objects.get(rollout=rollout, seat__name=seat)
        self.assertEqual(leg.message, "not measured: Power profile cannot be restored automatically")

    def test_what_stays_is_left_out_of_the_runs_and_that_is_said(self) -> None:
        rollout, seat = self.begun_on()
        leg = Leg.objects.get(rollout=rollout, seat__name=seat)
        driver = InstallDriver("gpu0", "31.4.2", "32.0.1", "0" * 64, 3)
        moved = msgspec.to_builtins(driver)
        leg.plan["changes"].append({**leg.plan["changes"][0], "setting": "driver.version", "driver": moved})
        leg.save()
        actions = self.measured(seat, 20.0, 24.0)
        self.assertEqual({len(action.under) for action in actions}, {0, 1})
        leg.refresh_from_db()
        self.assertIn("% faster", leg.measured["sentence"])
        self.assertIn(", without Driver version, which cannot be restored automatically", leg.measured["sentence"])

    def test_put_back_restores_the_change_alone(self) -> None:
        rollout, seat = self.begun_on()
        self.measured(seat, 20.0, 24.0)
        self.changed(seat)
        number = self.post(f"rollouts/{rollout.pk}/put-back", {"seats": [seat]}).json()["id"]
        advance_rollout(number)
        self.assertEqual([o.kind for o in Order.objects.filter(leg__rollout=number)], ["put_back"])

    def test_the_report_holds_the_runs(self) -> None:
        rollout, seat = self.begun_on()
        self.measured(seat, 24.0, 20.0)
        advance_rollout(rollout.pk)
        report = self.house.client().get(f"/api/v1/rollouts/{rollout.pk}/report?form=json").json()
        [measured] = [seat_row["measured"] for seat_row in report["seats"] if seat_row["seat"] == seat]
        self.assertEqual((measured["outcome"], len(measured["after"])), ("worse", BLOCKS))
