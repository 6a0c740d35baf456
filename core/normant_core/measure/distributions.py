"""Student's t and the normal distribution, from SciPy.

SciPy takes half a second and 30 MB to import: it is imported when the first probability is computed, so that servers,
agents and commands that compute none start without it.
"""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt


def student_cdf(freedom: int, value: float) -> float:
    """Return the probability that a Student statistic with `freedom` degrees of freedom is at most `value`."""
    from scipy.special import stdtr  # noqa: PLC0415 (heavy: see above)

    return float(stdtr(freedom, value))


def student_quantile(freedom: int, probability: float) -> float:
    """Return the value that a Student statistic with `freedom` degrees of freedom exceeds with 1 - `probability`."""
    from scipy.special import stdtrit  # noqa: PLC0415 (heavy: see above)

    return float(stdtrit(freedom, probability))


def normal_cdf(values: "npt.NDArray[np.float64]") -> "npt.NDArray[np.float64]":
    """Return for each value the probability that a standard normal statistic is at most as large; same shape."""
    from scipy.special import ndtr  # noqa: PLC0415 (heavy: see above)

    probabilities: npt.NDArray[np.float64] = ndtr(values)
    return probabilities


def normal_probability(value: float) -> float:
    """Return the probability that a standard normal statistic is at most `value`."""
    from scipy.special import ndtr  # noqa: PLC0415 (heavy: see above)

    return float(ndtr(value))


def normal_quantile(probability: float) -> float:
    """Return the value that a standard normal statistic exceeds with 1 - `probability`."""
    from scipy.special import ndtri  # noqa: PLC0415 (heavy: see above)

    return float(ndtri(probability))
