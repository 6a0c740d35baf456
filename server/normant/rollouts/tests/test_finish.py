"""A rollout ends with its last leg, also where the last two end at the same instant."""

import threading
from unittest import TestCase as PlainTestCase

from django.db import connection, transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.rollouts.jobs import sweep
from normant.rollouts.models import Leg, Rollout
from normant.rollouts.services.advance import end
from normant.seats.models import Seat
from normant.tests.served import served

from .test_waves import NAMES, Stage


def at_once() -> str:
    """The state of a rollout whose two legs end in two transactions, the second begun before the first is committed."""
    user = User.objects.get(role="supervisor")
    rollout = Rollout.objects.create(title="two", kind="correct", state="running", created_by=user)
    seats = [Seat.objects.create(name=f"end-{number}") for number in range(2)]
    plan = {"seat": "", "changes": [], "left": [], "closes": []}
    legs = [
        Leg.objects.create(rollout=rollout, seat=seat, state="moving", begun_at=timezone.now(), plan=plan)
        for seat in seats
    ]
    first_ended, second_begun = threading.Event(), threading.Event()

    def first() -> None:
        with transaction.atomic():
            end(legs[0], "settled")
            first_ended.set()
            second_begun.wait(10)
        connection.close()

    def second() -> None:
        first_ended.wait(10)
        threading.Timer(0.5, second_begun.set).start()
        with transaction.atomic():
            end(legs[1], "settled")
        connection.close()

    threads = [threading.Thread(target=what) for what in (first, second)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return Rollout.objects.get(pk=rollout.pk).state


class AtOnce(PlainTestCase):
    def test_two_last_legs_end_it(self) -> None:
        output = served().python("from normant.rollouts.tests.test_finish import at_once; print(at_once())")
        self.assertEqual(output.split()[-1], "finished")


class Stuck(Stage):
    def test_one_that_an_earlier_version_left_running_is_ended(self) -> None:
        rollout = self.start(canaries=False)
        for name in NAMES:
            self.end(name)
        for leg in Leg.objects.filter(rollout=rollout, ended_at=None):
            end(leg, "settled")
        Rollout.objects.filter(pk=rollout.pk).update(state="running", ended_at=None)
        sweep()
        rollout.refresh_from_db()
        self.assertEqual((rollout.state, rollout.ended_at is None), ("finished", False))
