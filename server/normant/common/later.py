"""Jobs that services ask for, by name: a service never imports a job."""

import contextlib

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.types import JSONValue


def after_commit(task: str, *, once: str = "", seconds: int = 0, **what: JSONValue) -> None:
    """Have a worker run a job once this transaction is committed; with `once`, unless one of that name waits.

    In a worker, jobs go by a connection of their own: one that was asked for sooner could run before there is anything
    to see. What asks is killed between the two now and then; so each such job has a sweep that finds what it left.
    """
    delay = {"seconds": seconds} if seconds else None

    def ask() -> None:
        with contextlib.suppress(AlreadyEnqueued):
            app.configure_task(task, queueing_lock=once or None, schedule_in=delay).defer(**what)

    transaction.on_commit(ask)
