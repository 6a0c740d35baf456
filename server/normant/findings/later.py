"""Judging that a worker does later."""

from collections.abc import Iterable

from procrastinate.types import JSONValue

from normant.common.later import after_commit

GATHER = 3  # seconds in which findings come together in one notice


def follow_later(edition: int) -> None:
    """Have every seat judged by this edition."""
    after_commit("findings.reevaluate", edition=edition)


def tell_musts_later() -> None:
    """Have people told of new *must* findings, some seconds later: more may come with them."""
    after_commit("notices.tell_musts", once="tell musts", seconds=GATHER)


def judge_seats(seats: Iterable[int], by: str = "standard") -> None:
    """Have these seats judged anew."""
    if names := sorted(set(seats)):
        after_commit("findings.reevaluate_seats", seats=list[JSONValue](names), by=by)
