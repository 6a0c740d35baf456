"""A timeline as it is kept: everything that is due, from when to when, called by the source or the effect it is."""

from collections.abc import Iterable
from fractions import Fraction
from typing import Literal

import msgspec

from .timeline import Placed, Work


class LaidWork(msgspec.Struct, frozen=True):
    """One thing to decode or to draw; `speed` is exact, `"n/d"`."""

    kind: Literal["decode", "effects"]
    name: str
    speed: str = "1"


class Laid(msgspec.Struct, frozen=True):
    """A whole timeline: its rate in frames per second and its end in seconds, both exact (`"n/d"`).

    `rows` say which of `works` is due from when to when. `left` says what could not be placed, and why.
    """

    rate: str
    end: str
    works: tuple[LaidWork, ...]
    rows: tuple[tuple[int, str, str], ...]
    left: tuple[str, ...] = ()

    def placed(self) -> list[Placed]:
        """What is due, as it is counted."""
        works = [Work(work.kind, work.name, Fraction(work.speed)) for work in self.works]
        return [Placed(works[work], Fraction(start), Fraction(end)) for work, start, end in self.rows]


def laid(rate: Fraction, end: Fraction, placed: Iterable[Placed], left: Iterable[str]) -> Laid:
    """To be kept."""
    rows, numbers = list[tuple[int, str, str]](), dict[Work, int]()
    for part in placed:
        number = numbers.setdefault(part.work, len(numbers))
        rows.append((number, str(part.start), str(part.end)))
    works = tuple(LaidWork(work.kind, work.name, str(work.speed)) for work in numbers)
    return Laid(str(rate), str(end), works, tuple(rows), tuple(left))
