"""Comparing measurements: runs of one job in two conditions, and what they show.

Welch's interval of a ratio of geometric means: B. L. Welch, "The generalization of Student's problem when several
different population variances are involved", Biometrika 34 (1947), on logarithms of the runs.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, variance
from typing import Literal

from scipy.special import stdtrit

from ..orders.kinds import Job

Outcome = Literal["better", "worse", "no difference shown", "too few runs"]
LEAST = 2  # runs of each condition, besides the first
MATTERS = 1.03  # a smaller change is none, however sure it is
_SURE = 0.975  # of each side of a 95 % interval


@dataclass(frozen=True, slots=True)
class Comparison:
    """How many times as fast after as before, with the bounds of its 95 % interval; 1 where nothing can be said."""

    ratio: float
    low: float
    high: float
    outcome: Outcome
    sentence: str


def compare(job: Job, before: Sequence[float], after: Sequence[float]) -> Comparison:
    """What runs show: frames per second or seconds, all above 0; the first of each condition is thrown away."""
    first, second = ([math.log(run) for run in runs[1:]] for runs in (before, after))
    if missing := max(0, LEAST - min(len(first), len(second))):
        sentence = f"too few runs: {missing} more of each"
        return Comparison(1, 1, 1, "too few runs", sentence)
    apart, width = fmean(second) - fmean(first), _width(first, second)
    if job == "render":
        apart = -apart
    ratio, low, high = (math.exp(value) for value in (apart, apart - width, apart + width))
    outcome = _outcome(ratio, low, high)
    return Comparison(ratio, low, high, outcome, _sentence(job, outcome, (ratio, low, high)))


def _width(first: Sequence[float], second: Sequence[float]) -> float:
    """Half of the interval of the difference of means."""
    errors = [variance(runs) / len(runs) for runs in (first, second)]
    if not (whole := sum(errors)):
        return 0
    freedom = whole**2 / sum(e**2 / (len(runs) - 1) for e, runs in zip(errors, (first, second), strict=True))
    return float(stdtrit(freedom, _SURE)) * math.sqrt(whole)


def _outcome(ratio: float, low: float, high: float) -> Outcome:
    if low > 1 and ratio >= MATTERS:
        return "better"
    if high < 1 and ratio <= 1 / MATTERS:
        return "worse"
    return "no difference shown"


def _sentence(job: Job, outcome: Outcome, interval: tuple[float, float, float]) -> str:
    verb = f"{job}s"
    if outcome == "better":
        return "{} {:.2f} times faster, {:.2f} to {:.2f}".format(verb, *interval)
    if outcome == "worse":
        ratio, low, high = interval
        return f"{verb} {1 / ratio:.2f} times slower, {1 / high:.2f} to {1 / low:.2f}"
    return "{} {:.3f} times as fast ({:.3f} to {:.3f}): no difference shown".format(verb, *interval)
