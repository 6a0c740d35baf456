"""Judging that a worker does later. Jobs call services; a service asks for a job here, by name."""

from collections.abc import Iterable

from procrastinate.contrib.django import app
from procrastinate.types import JSONValue


def follow_later(edition: int) -> None:
    """Have every seat judged by this edition, once this transaction is committed."""
    app.configure_task("findings.reevaluate").defer(edition=edition)


def judge_seats(seats: Iterable[int], by: str = "standard") -> None:
    """Have these seats judged anew, once this transaction is committed."""
    if found := sorted(set(seats)):
        app.configure_task("findings.reevaluate_seats").defer(seats=list[JSONValue](found), by=by)
