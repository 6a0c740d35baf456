"""Judging that a worker does later. Jobs call services; a service asks for a job here, by name."""

import contextlib
from collections.abc import Iterable

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.types import JSONValue

GATHER = 3  # seconds in which findings come together in one notice


def follow_later(edition: int) -> None:
    """Have every seat judged by this edition, once this transaction is committed."""
    app.configure_task("findings.reevaluate").defer(edition=edition)


def tell_musts_later() -> None:
    """Have people told of new *must* findings, some seconds after this transaction: more may come with them."""
    transaction.on_commit(_tell_musts)


def _tell_musts() -> None:
    with contextlib.suppress(AlreadyEnqueued):
        task = app.configure_task("notices.tell_musts", queueing_lock="tell musts", schedule_in={"seconds": GATHER})
        task.defer()


def judge_seats(seats: Iterable[int], by: str = "standard") -> None:
    """Have these seats judged anew, once this transaction is committed."""
    if found := sorted(set(seats)):
        app.configure_task("findings.reevaluate_seats").defer(seats=list[JSONValue](found), by=by)
