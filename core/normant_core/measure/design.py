"""In which order the runs of a trial are made: blocks of conditions, and fractional factorials with their fold-over.

Two levels, resolution III, then the same with every sign turned round, so that main effects are free of what two
settings do together: G. E. P. Box, J. S. Hunter and W. G. Hunter, "Statistics for Experimenters" (2005), chapter 6.
Orders are drawn from the trial's seed by a hash, so that every machine draws the same.
"""

import hashlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from math import prod
from typing import TypeVar

from ..base.errors import NormantError

T = TypeVar("T")
LEAST_FACTORS, MOST_FACTORS = 2, 15
MOST_CONDITIONS = 8
MOST_BLOCKS = 200


class DesignError(NormantError):
    """A trial that cannot be laid out as asked."""


@dataclass(frozen=True, slots=True)
class FactorialRun:
    """One run of a screening: its block, and the level (-1 or 1) of each factor."""

    block: str
    levels: Mapping[str, int]


def blocks(conditions: Sequence[str], count: int, *, seed: int = 0, restarting: bool = False) -> list[list[str]]:
    """`count` blocks that have each condition once, in an order drawn from the seed.

    Where setting a condition restarts something, a block begins with the condition that the last one ended with: that
    saves a restart for each block, and two conditions then go there and back, so that what drifts hits both alike.
    """
    _check(conditions, 2, MOST_CONDITIONS, "condition")
    if not 1 <= count <= MOST_BLOCKS:
        raise DesignError(f"{count} blocks: expected 1 to {MOST_BLOCKS}")
    made = list[list[str]]()
    for number in range(count):
        order = drawn(conditions, f"{seed}/{number}")
        if restarting and made:
            order.remove(made[-1][-1])
            order.insert(0, made[-1][-1])
        made.append(order)
    return made


def restarts(orders: Sequence[Sequence[str]]) -> int:
    """How often a condition is set in these blocks: once for each run that has another than the run before."""
    runs = [condition for order in orders for condition in order]
    return sum(before != condition for before, condition in zip(["", *runs], runs, strict=False))


def factorial(factors: Sequence[str], *, fold: bool = True, seed: int | None = None) -> list[FactorialRun]:
    """The runs that show which of 2 to 15 factors matter; without a seed in standard order.

    Four runs for up to three factors, eight for up to seven, sixteen for up to fifteen; as many again with the
    fold-over, which is a block of its own. Without the fold-over an effect cannot be told from what two others do
    together.
    """
    _check(factors, LEAST_FACTORS, MOST_FACTORS, "factor")
    base = [FactorialRun("1", levels) for levels in _standard_order(factors)]
    turned = [FactorialRun("2", {name: -level for name, level in run.levels.items()}) for run in base]
    if seed is not None:
        base, turned = drawn(base, f"{seed}/1"), drawn(turned, f"{seed}/2")
    return [*base, *(turned if fold else ())]


def _standard_order(factors: Sequence[str]) -> Iterator[dict[str, int]]:
    """The first factors as a full factorial whose first changes fastest; the others as products of those."""
    basic = next(size for size in (2, 3, 4) if len(factors) < 1 << size)
    words = [word for length in range(2, basic + 1) for word in combinations(range(basic), length)]
    for number in range(1 << basic):
        levels = [2 * (number >> place & 1) - 1 for place in range(basic)]
        made = [*levels, *(prod(map(levels.__getitem__, word)) for word in words)]
        yield dict(zip(factors, made, strict=False))


def drawn(items: Sequence[T], seed: str) -> list[T]:
    """All items in an order that follows from the seed alone."""
    digests = [hashlib.sha256(f"{seed}/{place}".encode()).digest() for place in range(len(items))]
    return [items[place] for place in sorted(range(len(items)), key=digests.__getitem__)]


def _check(names: Sequence[str], least: int, most: int, noun: str) -> None:
    if not least <= len(names) <= most:
        raise DesignError(f"{len(names)} {noun}s: expected {least} to {most}")
    if not all(names):
        raise DesignError(f"a {noun} needs a name")
    if twice := next((name for name in names if names.count(name) > 1), ""):
        raise DesignError(f"duplicate {noun} {twice}")
