"""Judging that a worker does later. Jobs call services; a service asks for a job here, by name."""

from collections.abc import Iterable

from procrastinate.contrib.django import app
from procrastinate.types import JSONValue


def judge_seats(seats: Iterable[int], by: str = "standard") -> None:
    """Have these seats judged anew, once this transaction is committed."""
    if found := sorted(set(seats)):
        app.configure_task("findings.reevaluate_seats").defer(seats=list[JSONValue](found), by=by)
