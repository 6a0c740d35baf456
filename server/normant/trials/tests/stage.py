"""A house with four seats on which trials are made, through the API and the agents' door."""

import json
import math
import zlib
from typing import Any

from django.test import TestCase
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.orders.models import Order
from normant.tests.house import House, survey
from normant.trials.models import Run, Trial, TrialSeat
from normant.trials.services.advance_trial import advance_trial
from normant_core.orders.kinds import Measure, parse_order

POOL, GIB = "memory.preview_pool", 2**30
NAMES = ("pan-03", "pan-04", "pan-05", "pan-06")
CHANGE = {
    "kind": "change",
    "job": "play",
    "conditions": [{"sets": []}, {"sets": [{"setting": POOL, "app": "corrow", "value": "8 GiB"}]}],
    "seats": ["pan-03"],
}


class TrialStage(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.house = House()
        cls.tokens = {"pan-03": cls.house.token, **{name: cls.house.enrolled(name)[1] for name in NAMES[1:]}}
        for name in NAMES:
            cls.house.send(survey(seat=name, minutes=-10), cls.tokens[name])

    def post(self, path: str, body: Any = None, role: Role = Role.SUPERVISOR) -> Any:
        return self.house.client(role).post(f"/api/v1/{path}", json.dumps(body or {}, default=str), "application/json")

    def get(self, path: str, role: Role = Role.VIEWER) -> Any:
        return self.house.client(role).get(f"/api/v1/{path}").json()

    def start(self, **fields: Any) -> Trial:
        answer = self.post("trials", {**CHANGE, **fields})
        self.assertEqual(answer.status_code, 200, answer.content)
        trial = Trial.objects.get(pk=answer.json()["id"])
        advance_trial(trial.pk)
        return trial

    def refused(self, status: int, **fields: Any) -> str:
        """Why it is not started; nothing is there then."""
        answer = self.post("trials", {**CHANGE, **fields})
        self.assertEqual(answer.status_code, status, answer.content)
        self.assertFalse(Trial.objects.exists())
        return str(answer.json()["detail"])

    def waiting(self, seat: str = "pan-03") -> Order | None:
        return Order.objects.waiting().filter(seat__name=seat).first()

    def action(self, order: Order) -> Measure:
        action = parse_order(bytes(order.body)).action
        assert isinstance(action, Measure)
        return action

    def hand_in(self, order: Order, **fields: Any) -> Any:
        """The receipt of the seat's agent."""
        body = {"order": str(order.pk), "outcome": "done", "at": timezone.now().isoformat(), **fields}
        agent = self.house.agent(self.tokens[order.seat.name])
        return agent.post(f"/api/v1/agent/orders/{order.pk}/receipt", json.dumps(body), "application/json")

    def measure(self, order: Order, figure: float, **fields: Any) -> None:
        answer = self.hand_in(order, measured=[figure * 0.8, figure], **fields)
        self.assertEqual(answer.status_code, 204, answer.content)
        assert order.run
        advance_trial(order.run.of.trial_id)

    def carry_out(self, trial: Trial, *, runs: int = 1000, **truth: float) -> None:
        """Up to so many runs of every seat, with how much faster (as logarithms) each name that contains one is."""
        for _ in range(runs):
            orders = list(Order.objects.waiting().filter(run__of__trial=trial).select_related("run", "seat"))
            if not orders:
                return
            for order in orders:
                assert order.run
                self.measure(order, 40 * math.exp(speed_of(order.run, truth) + scatter(order.run)))

    def state(self, seat: str = "pan-03") -> TrialSeat:
        return TrialSeat.objects.get(seat__name=seat)


def speed_of(run: Run, truth: dict[str, float]) -> float:
    """Of a run's condition; `GiB8` stands for `8 GiB`."""
    return sum(value for name, value in truth.items() if name.replace("GiB", "") + " GiB" == run.condition)


def scatter(run: Run) -> float:
    """One part in a hundred, by the place of the run alone."""
    return (zlib.crc32(f"{run.of.seat.name}/{run.block}/{run.place}".encode()) % 2001 - 1000) / 100_000
