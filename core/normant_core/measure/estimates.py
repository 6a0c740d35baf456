"""How much faster one condition is than another, and how sure that is, from differences within blocks.

One seat: the mean of its differences, with Student's interval. Several: random effects by R. DerSimonian and N. Laird,
"Meta-analysis in clinical trials", Controlled Clinical Trials 7 (1986), with the interval of J. Hartung and G. Knapp,
"A refined method for the meta-analysis of controlled clinical trials with binary outcome", Statistics in Medicine 20
(2001), and of K. Sidik and J. N. Jonkman (2002), without truncation.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import fmean, stdev
from typing import Literal

from .distributions import student_cdf, student_quantile

Outcome = Literal["better", "worse", "no difference shown", "too few runs"]
MATTERS = 1.03  # a smaller difference is none, however sure it is
LEAST = 2  # blocks from which a seat has an error of its own
USUAL = 0.05  # one in twenty intervals may miss
_TWICE = 2
_ONE_DECIMAL_BELOW = 10  # percent
_LARGEST = 700  # of a logarithm whose number a computer holds
_SURE = 1e-9  # of an error of nothing: a seat that always measures alike weighs this much at most


@dataclass(frozen=True, slots=True)
class Estimate:
    """A difference of natural logarithms, its standard error, and the degrees of freedom that this rests on."""

    log: float
    error: float
    freedom: int
    seats: int = 1
    blocks: int = 0

    @property
    def ratio(self) -> float:
        """How many times as fast."""
        return math.exp(self.log)

    def interval(self, alpha: float = USUAL) -> tuple[float, float]:
        """Bounds of the ratio that miss the truth in a share `alpha` of cases."""
        width = student_quantile(self.freedom, 1 - alpha / 2) * self.error
        return _ratio(self.log - width), _ratio(self.log + width)

    @property
    def chance(self) -> float:
        """How often a difference at least as large would be seen where there is none (two sides)."""
        if not self.error:
            return 0.0 if self.log else 1.0
        return 2 * student_cdf(self.freedom, -abs(self.log) / self.error)


def _ratio(log: float) -> float:
    """Of a logarithm; infinite where no number is as large: two seats alone may say nothing at all."""
    return math.exp(log) if log < _LARGEST else math.inf


def estimate(by_seat: Mapping[str, Sequence[float]]) -> Estimate | None:
    """Of the differences within the blocks of each seat; None where no seat has two blocks.

    A seat of one block says nothing of its own error: it is left out.
    """
    single = [of_seat(blocks) for blocks in by_seat.values() if len(blocks) >= LEAST]
    return pooled(single) if len(single) > 1 else next(iter(single), None)


def of_seat(blocks: Sequence[float]) -> Estimate:
    """The mean of a seat's differences; at least two."""
    return Estimate(fmean(blocks), stdev(blocks) / math.sqrt(len(blocks)), len(blocks) - 1, 1, len(blocks))


def pooled(estimates: Sequence[Estimate]) -> Estimate:
    """Random effects over seats, at least two, each a replicate that may differ from the others in truth."""
    logs = [single.log for single in estimates]
    errors = [max(single.error, _SURE) ** 2 for single in estimates]
    between = _between(logs, errors)
    weights = [1 / (error + between) for error in errors]
    whole, freedom = sum(weights), len(logs) - 1
    mean = sum(weight * log for weight, log in zip(weights, logs, strict=True)) / whole
    spread = sum(weight * (log - mean) ** 2 for weight, log in zip(weights, logs, strict=True))
    error = math.sqrt(spread / (freedom * whole))
    return Estimate(mean, error, freedom, len(logs), sum(single.blocks for single in estimates))


def scatter(logs: Sequence[float], errors: Sequence[float]) -> float:
    """Cochran's Q: how far estimates with these squared errors lie apart."""
    weights = [1 / error for error in errors]
    mean = sum(weight * log for weight, log in zip(weights, logs, strict=True)) / sum(weights)
    return sum(weight * (log - mean) ** 2 for weight, log in zip(weights, logs, strict=True))


def _between(logs: Sequence[float], errors: Sequence[float]) -> float:
    """The variance between seats, by the method of moments; at least 0."""
    weights = [1 / error for error in errors]
    scale = sum(weights) - sum(weight**2 for weight in weights) / sum(weights)
    return max(0.0, (scatter(logs, errors) - (len(logs) - 1)) / scale) if scale > 0 else 0.0


def holm(chances: Sequence[float]) -> list[float]:
    """Chances made larger for how many are looked at: S. Holm, "A simple sequentially rejective multiple test
    procedure", Scandinavian Journal of Statistics 6 (1979)."""
    order = sorted(range(len(chances)), key=chances.__getitem__)
    adjusted, worst = [0.0] * len(chances), 0.0
    for rank, place in enumerate(order):
        worst = max(worst, min(1.0, chances[place] * (len(chances) - rank)))
        adjusted[place] = worst
    return adjusted


def speed_words(ratio: float, low: float, high: float, than: str = "") -> str:
    """Return a ratio of speeds and its interval in words.

    `10 % faster than A (8 to 12 %)`, `5.0 % slower (4.0 to 6.0 %)`; from twice as fast on, where a percentage is hard
    to picture, `2.49 times as fast as A (2.42 to 2.56)`.
    """
    if ratio >= _TWICE or not math.isfinite(high):
        return f"{ratio:.2f} times as fast{f' as {than}' if than else ''} ({low:.2f} to {high:.2f})"
    sign = 1 if ratio >= 1 else -1
    least, most = sorted(100 * sign * (bound - 1) for bound in (low, high))
    middle = abs(100 * (ratio - 1))
    digits = 1 if max(middle, abs(least), abs(most)) < _ONE_DECIMAL_BELOW else 0
    word = f"{'faster' if sign > 0 else 'slower'}{f' than {than}' if than else ''}"
    return f"{middle:.{digits}f} % {word} ({least:.{digits}f} to {most:.{digits}f} %)"
