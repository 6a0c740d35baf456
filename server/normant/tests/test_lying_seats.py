"""Whatever a seat tells of whatever it was asked, within the shape of the message: no answer and no page fails."""

import gzip
import json
import uuid
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any, TypeVar, get_args
from unittest.mock import patch

import msgspec
from django.db import models, transaction
from django.test import Client
from django.utils import timezone

from normant.accounts.permissions import Role
from normant.clearings import jobs as clearing_jobs
from normant.clearings.models import Clearing, FileList, SeatClearing, StoreClearing
from normant.clearings.services import receive_clearing
from normant.clearings.tests.stage import Case, seat_survey
from normant.findings.models import Finding
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant.orders.services.sign import sign_waiting
from normant.orders.sweeps import SweepFault
from normant.projects import jobs as project_jobs
from normant.rollouts import jobs as rollout_jobs
from normant.rollouts.models import Leg, Rehearsal, Rollout
from normant.standing_care.jobs import take_turns
from normant.trials import jobs as trial_jobs
from normant.trials.models import Run, Trial, TrialSeat
from normant.trials.services.advance_trial import advance_trial
from normant.trials.tests.stage import CHANGE
from normant_core.orders.clearing import Deleted, Finished, ListedFile
from normant_core.orders.kinds import ORDER_KINDS, Action, Progress, Receipt, Refusal
from normant_core.seat.facts import Facts
from normant_core.seat.survey import Survey

from .extremes import DEEPEST_LISTS, LARGEST, NUL, SMALLEST, WIDEST, Manner
from .pages import assert_pages_answer

PLAIN = replace(LARGEST, moment="2026-11-30T12:00:00Z")
Row = TypeVar("Row", bound=models.Model)
# What each owner of orders has its seats asked; of all others nobody is the owner.
ASKED_BY = {
    "leg": (
        *("set_preference", "set_power_profile", "set_priority", "set_gpu_preference", "move_store"),
        *("install_driver", "place_template", "put_back", "measure"),
    ),
    "run": ("measure", "hold_condition", "end_hold"),
    "clearing": ("plan_clearing", "clear_planned", "send_list", "put_back"),
    "rehearsal": ("rehearse",),
}
PACKED = {"Content-Encoding": "gzip"}
ALONE = (
    *("ask_close", "ask_restart", "list_store", "clear_store", "inspect_export", "check_projects"),
    *("survey_now", "send_files"),
)


class LyingSeat(Case):
    """pan-03 in the midst of everything that a house asks of its seats."""

    def setUp(self) -> None:
        self.numbers = {"deliveries": [self.delivered().pk]}
        self.answers = dict[str, list[int]]()

    def send(self, path: str, body: Any, **how: Any) -> int:
        """What the agents' door answers; never that something failed."""
        content = body if isinstance(body, bytes) else json.dumps(body).encode()
        agent = Client(headers={"Authorization": f"Bearer {self.house.token}"}, raise_request_exception=False)
        with transaction.atomic():
            answer = agent.post(f"/api/v1/agent/{path}", content, "application/json", headers=how or None)
            transaction.set_rollback(answer.status_code >= 400)  # as without the transaction around a test
        self.assertLess(answer.status_code, 500, f"{path}: {content[:200]!r}: {answer.content[:300]!r}")
        self.answers.setdefault(path.rpartition("/")[2], []).append(answer.status_code)
        return int(answer.status_code)

    def ask(self, kind: str, **owner: models.Model) -> Order:
        """An order of that kind, whatever it says."""
        action = next(each for each in get_args(Action) if each.__struct_config__.tag == kind)
        order = issue_order(self.house.seat, msgspec.convert(LARGEST.value(action), action), **owner)
        sign_waiting()
        return order

    def answer(self, order: Order, manner: Manner) -> None:
        """Where it stands, then each field of the receipt alone, then all of them, as far as they are taken."""
        whole = manner.value(Receipt) | {"order": str(order.pk)}
        self.send(f"orders/{order.pk}/progress", manner.value(Progress))
        if self.send(f"orders/{order.pk}/receipt", whole | {"outcome": "done"}) == 204:
            return
        for name, value in whole.items():
            least = {"order": str(order.pk), "outcome": "done"}
            Order.objects.filter(pk=order.pk).update(receipt=None, received_at=None)
            self.send(f"orders/{order.pk}/receipt", least | {name: value})

    def owners(self) -> dict[str, Callable[[], models.Model]]:
        """Who asks for orders: a new one of each each time, as its service makes it."""
        trial = Trial.objects.get(pk=self.post("trials", CHANGE).json()["id"])
        advance_trial(trial.pk)
        findings = list(Finding.objects.open().filter(seat__name="pan-03").values_list("pk", flat=True))
        seen = self.post("rollouts/plan", {"findings": findings}).json()["digest"]
        rollout = Rollout.objects.get(pk=self.post("rollouts", {"findings": findings, "seen": seen}).json()["id"])
        rollout_jobs.advance_rollout(rollout.pk)
        leg = Leg.objects.get(rollout=rollout)
        rehearsal = Rehearsal(digest="ab" * 32, made_by=self.house.people[Role.SUPERVISOR])
        return {
            "leg": lambda: _copy(leg, rollout=_copy(rollout, seen=uuid.uuid4().hex), begun_at=None),
            "run": partial(self.run_of, trial),
            "clearing": lambda: SeatClearing.objects.get(clearing=self.planned()),
            "looking": lambda: SeatClearing.objects.get(clearing=self.begun()),
            "rehearsal": lambda: _copy(rehearsal),
        }

    def run_of(self, trial: Trial) -> Run:
        seat = TrialSeat.objects.get(trial=trial)
        run = Run.objects.filter(of=seat).first()
        assert run
        other = _copy(seat, trial=_copy(trial, seen=uuid.uuid4().hex), begun_at=None)
        return _copy(run, of=other)


class EveryMessage(LyingSeat):
    def test_every_kind_of_order_has_an_owner_here(self) -> None:
        kinds = {kind for owned in ASKED_BY.values() for kind in owned} | set(ALONE)
        self.assertEqual(kinds, set(ORDER_KINDS))

    def test_the_largest_values(self) -> None:
        self.lie(LARGEST)

    def test_the_smallest_values(self) -> None:
        self.lie(SMALLEST)

    def test_the_longest_lists(self) -> None:
        self.lie(WIDEST)

    def test_the_longest_lists_within_lists(self) -> None:
        self.lie(DEEPEST_LISTS)

    def test_texts_that_the_database_cannot_keep(self) -> None:
        self.lie(NUL)

    def lie(self, manner: Manner) -> None:
        """Answer everything in that manner, where it is late already or early still."""
        with timezone.override("Pacific/Honolulu" if manner.is_small else "Pacific/Auckland"):
            self.answer_everything(manner)

    def answer_everything(self, manner: Manner) -> None:
        with patch.object(receive_clearing, "_is_as_asked", return_value=True):
            self.lie_of_orders(manner)
        self.lie_of_surveys(manner)
        for path, kind in (("exports", Finished), ("refusals", Refusal)):
            self.send(path, manner.value(kind))
            for name, value in manner.value(kind).items():
                self.send(path, {**PLAIN.value(kind), name: value})
        self.numbers["clearings"] = list(Clearing.objects.values_list("pk", flat=True))
        self.numbers["rollouts"] = list(Rollout.objects.values_list("pk", flat=True))
        self.numbers["trials"] = list(Trial.objects.values_list("pk", flat=True))
        for go_on in (clearing_jobs.sweep, rollout_jobs.sweep, trial_jobs.sweep, project_jobs.sweep, take_turns):
            go_on()
        self.assertEqual([fault.message for fault in SweepFault.objects.all()], [])
        assert_pages_answer(self, self.numbers)
        self.assertEqual(set(Order.objects.exclude(receipt=None).values_list("kind", flat=True)), set(ORDER_KINDS))
        if manner is not NUL:
            for door, answers in self.answers.items():
                self.assertTrue(any(answer < 300 for answer in answers), f"{door} took nothing: {set(answers)}")

    def lie_of_orders(self, manner: Manner) -> None:
        owners = self.owners()
        for name, kinds in ASKED_BY.items():
            for kind in kinds:
                owner = owners["looking" if kind == "plan_clearing" else name]()
                order = self.ask(kind, **{name: owner})
                if kind == "send_list":
                    FileList.objects.create(store=StoreClearing.objects.get(of=owner), order=order)
                    for number in range(2):
                        self.send(f"orders/{order.pk}/list/{number}", _lines(manner), **PACKED)
                self.answer(order, manner)
                if kind == "clear_planned":
                    self.send(f"orders/{order.pk}/deleted", manner.value(Deleted))
        for kind in ALONE:
            self.answer(self.ask(kind), manner)

    def lie_of_surveys(self, manner: Manner) -> None:
        """Each part of a survey alone in one that is else as it should be, and each fact alone."""
        sound = replace(manner, known={"setting": "memory.preview_pool", "app": "corrow", "value": 2**30})
        whole = sound.value(Survey)
        for name in ("taken_at", "agent", "readings", "stores", "activity", "errors"):
            self.send("survey", {**self.plain_survey(), name: whole[name]})
        facts = sound.value(Facts)
        for name, value in facts.items():
            self.send("survey", {**self.plain_survey(), "facts": {**self.plain_survey()["facts"], name: value}})
        self.send("survey", {**self.plain_survey(), "facts": facts})

    def plain_survey(self) -> dict[str, Any]:
        return {**seat_survey(), "taken_at": timezone.now().isoformat()}


def _lines(manner: Manner) -> bytes:
    """A part of a list, as a seat packs it."""
    return gzip.compress(b"%s\n" % json.dumps(manner.value(ListedFile)).encode())


def _copy(row: Row, **other: Any) -> Row:
    """Another row like it."""
    made = type(row)(
        **{field.attname: getattr(row, field.attname) for field in row._meta.fields if not field.primary_key}
    )
    for name, value in other.items():
        setattr(made, name, value)
    made.save()
    return made
