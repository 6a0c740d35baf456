"""Looking at a trial before it is over, and paying for it.

Alpha is spent as K. K. G. Lan and D. L. DeMets have it ("Discrete sequential boundaries for clinical trials",
Biometrika 70, 1983), by the function that comes near the bounds of O'Brien and Fleming: little at first, nearly all at
the end. Bounds follow from integrating the statistic's density from look to look (P. Armitage, C. K. McPherson and
B. C. Rowe, "Repeated significance tests on accumulating data", JRSS A 132, 1969). They are chances of a normal
statistic; few blocks are held to the same chance by Student's.
"""

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from .distributions import normal_cdf, normal_probability, normal_quantile

Curve = npt.NDArray[np.float64]
# Of the one in twenty that is allowed: Student's statistics of few blocks hang together less from look to look than
# normal ones, so that bounds for those would let through a little more than was meant.
SPENT = 0.04
LOOKS = (4, 6, 8, 10, 12, 14, 16)  # numbers of blocks at which a trial is looked at
_GRID = 801  # points of the density between the bounds
_WIDEST = 8.0  # deviations beyond which nothing is left to spend


def spent(share: float, alpha: float = SPENT) -> float:
    """How much of alpha may be used up when this share of the largest number of blocks is there."""
    return 2 * normal_probability(normal_quantile(alpha / 2) / math.sqrt(share))


@lru_cache(maxsize=64)
def chances(looks: Sequence[int] = LOOKS, alpha: float = SPENT) -> tuple[float, ...]:
    """For each look, the chance (two sides) at which a difference is shown there; `looks` rise, the last is the end."""
    made, density, grid, before, used = list[float](), np.ones(1), np.zeros(1), 0.0, 0.0
    for look in looks:
        share = look / looks[-1]
        step = math.sqrt(share - before)
        budget = spent(share, alpha) - used
        bound = _bound(density, grid, step, budget)
        made.append(2 * normal_probability(-bound / math.sqrt(share)))
        fine = np.linspace(-bound, bound, _GRID)
        kernel = np.exp(-0.5 * ((fine[:, None] - grid[None, :]) / step) ** 2) / (step * math.sqrt(2 * math.pi))
        weights = density if len(grid) == 1 else density * (grid[1] - grid[0])
        density, grid, before = kernel @ weights, fine, share
        used += budget
    return tuple(made)


def _bound(density: Curve, grid: Curve, step: float, budget: float) -> float:
    """How far the sum has to have gone so that just this chance crosses here, having crossed nowhere before."""
    weights = density if len(grid) == 1 else density * (grid[1] - grid[0])

    def crossing(bound: float) -> float:
        return float(weights @ (normal_cdf((grid - bound) / step) + normal_cdf((-bound - grid) / step)))

    low, high = 0.0, _WIDEST
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if crossing(middle) > budget else (low, middle)
    return high


def expected_blocks(scatter: float, matters: float, looks: Sequence[int] = LOOKS, power: float = 0.9) -> int:
    """The first look at which a ratio of `matters` would probably be shown, for runs that scatter so (of logarithms).

    The last one where none would.
    """
    apart = abs(math.log(matters)) / (math.sqrt(2) * scatter) if scatter else math.inf
    for look, chance in zip(looks, chances(tuple(looks)), strict=True):
        if apart * math.sqrt(look) + normal_quantile(chance / 2) >= normal_quantile(power):
            return look
    return looks[-1]
