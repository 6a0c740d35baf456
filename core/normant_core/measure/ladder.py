"""The smallest value of an ordered setting that is as good as the best: a price is paid for every step above it.

Values are tried by halving against the largest that does no harm: speed is taken to rise with the value until it is
flat. A value is good within 3 % of that one. Far from the edge two blocks decide; near it a few more.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .distributions import student_quantile
from .estimates import LEAST, MATTERS, of_seat

MOST = 8  # blocks of one value; then the nearer side is taken
_SIDE = 0.9  # how sure a decision before that is, on its side


@dataclass(frozen=True, slots=True)
class Rung:
    """What to run next: a block of value number `tried` and number `best` (equal: `tried` alone, to see its harm).

    `best` is the number to compare with: the first one as long as it is not known which values do harm. Where nothing
    is left to run, `smallest` is the answer; None where even the first value does harm.
    """

    tried: int | None
    best: int | None
    smallest: int | None


def next_rung(
    count: int, blocks: Mapping[int, Sequence[float]], harmful: Mapping[int, bool], *, beside: bool = False
) -> Rung:
    """What a ladder of `count` values, the cheapest first, needs next.

    `blocks` holds for each number that was tried how much faster it was than the best (natural logarithms), block by
    block; `harmful` whether a number's run paged in, or made another application's job slower. That is seen in blocks
    with the first value, where such a job is run `beside`.
    """
    best, unsure = _largest_harmless(count, harmful)
    if unsure is not None:
        return Rung(unsure, 0 if beside else unsure, None)
    if best is None:
        return Rung(None, None, None)
    low, high = -1, best  # below low all are bad, from high on all are good
    while high - low > 1:
        middle = (low + high) // 2
        good = is_good(blocks.get(middle, ()))
        if good is None:
            return Rung(middle, best, None)
        low, high = (low, middle) if good else (middle, high)
    return Rung(None, best, high)


def _largest_harmless(count: int, harmful: Mapping[int, bool]) -> tuple[int | None, int | None]:
    """The largest number that does no harm, and the number to try where that is not known yet."""
    low, high = -1, count  # up to low none does harm, from high on all do
    middle = count - 1  # most ladders do none at all: the top first
    while high - low > 1:
        if middle not in harmful:
            return None, middle
        low, high = (low, middle) if harmful[middle] else (middle, high)
        middle = (low + high) // 2
    return (low if low >= 0 else None), None


def is_good(differences: Sequence[float]) -> bool | None:
    """Whether a value is within 3 % of the best; None where more blocks are needed to say so."""
    if len(differences) < LEAST:
        return None
    single, edge = of_seat(differences), -math.log(MATTERS)
    width = student_quantile(single.freedom, _SIDE) * single.error
    if len(differences) < MOST and single.log - width < edge < single.log + width:
        return None
    return single.log >= edge
