"""Rules that seats contradict and do well: the standard may be wrong, or the seats are lucky."""

import datetime as dt
from collections import Counter, defaultdict
from collections.abc import Collection, Mapping

import msgspec

from ..base.wording import listed
from ..seat.survey import Key
from ..standard.rule import Rule
from .verdicts import Standing

PROVEN = dt.timedelta(days=14)  # so long off norm, with nothing else to be found: it does no harm that shows
NAMED = 6
_SERIOUS = ("must", "should")


class Contradicted(msgspec.Struct, frozen=True):
    """A rule, by its layer and its place in that as the text has them, and the seats that do well against it."""

    at: tuple[int, int]
    seats: tuple[str, ...]
    since: dt.datetime  # the shortest time of them

    @property
    def sentence(self) -> str:
        """`pan-02 and rake-05 do well without it: nothing else is off norm there since 9 Nov.`"""
        more = len(self.seats) - NAMED
        names_shown = [*self.seats[:NAMED], *([f"{more:,} more"] if more > 0 else [])]
        verb = "do" if len(self.seats) > 1 else "does"
        since = f"off this norm since {self.since:%-d %b} at least"
        return f"{listed(names_shown)} {verb} well against it: {since}, and nothing else is."


def contradicted(
    standing: Standing, opened: Mapping[tuple[str, Key], dt.datetime], heard: Collection[str], now: dt.datetime
) -> list[Contradicted]:
    """Rules by the order of the text, with seats that have been off norm by them alone for two weeks.

    `opened` is when each finding began, `heard` the seats whose agent is there: of others nobody knows how they do.
    A seat does well when nothing else that should or must be so is off norm on it.
    """
    off = _off_norm(standing)
    serious = Counter(row for _, row, rule in off if rule.text.severity in _SERIOUS)
    seats: dict[tuple[int, int], dict[str, dt.datetime]] = defaultdict(dict)
    for key, row, rule in off:
        if not rule.path or serious[row] > (rule.text.severity in _SERIOUS):
            continue
        name = standing.house.rows[row].seat.name
        since = opened.get((name, key), now) if name in heard else now
        if now - since >= PROVEN:
            seats[_place(rule)][name] = since
    return [Contradicted(at, tuple(sorted(names)), max(names.values())) for at, names in sorted(seats.items())]


def _off_norm(standing: Standing) -> list[tuple[Key, int, Rule]]:
    """Every reading that is off norm: its key, the row of its seat, and the rule by which."""
    return [
        (outcome.case.key, row, outcome.case.rule(mark))
        for outcome in standing.with_status()
        for row, mark in outcome.pairs()
    ]


def _place(rule: Rule) -> tuple[int, int]:
    return int(rule.path[1]), int(rule.path[3])
