"""The rounder size that people would type in place of one that was worked out: 13 GiB for 12.8 GiB."""

from fractions import Fraction

from ..base.quantities import IEC, UNITS
from ..judging.norms import Norm

# So far from the size worked out a rounder one may lie: one of 12.8 GiB is 13 GiB, not 14 or 16.
_NEAR = Fraction(8, 100)
# Multiples of the unit that are looked at, the coarsest first.
_STEPS = [Fraction(512, 2**halved) for halved in range(12)]


def rounder_size(size: int, norm: Norm) -> int | None:
    """The roundest size in bytes near `size` that the norm takes as well; None where `size` is round or there is none.

    Round is a whole number of the unit that a size is shown in, the rounder the larger the power of two that divides
    it: memory and disks are sold so, and people type so.
    """
    unit = next((UNITS[name][1] for name in IEC if size >= UNITS[name][1]), 1)
    if size % unit == 0:
        return None
    fits = (_nearest(size, int(step * unit), norm) for step in _STEPS)
    return next(filter(None, fits), None)


def _nearest(size: int, grain: int, norm: Norm) -> int | None:
    """The multiple of a grain that is nearest to `size`, of those that are near enough and that the norm takes."""
    below = size // grain * grain
    fit = [near for near in (below, below + grain) if _is_near(near, size) and _takes(norm, near)]
    return min(fit, key=lambda near: abs(near - size), default=None)


def _is_near(candidate: int, size: int) -> bool:
    return candidate > 0 and abs(candidate - size) <= _NEAR * size


def _takes(norm: Norm, candidate: int) -> bool:
    """Whether a size lies within the norm's bounds; norms without bounds take none but their own."""
    bounds = [bound for bound in norm.values if isinstance(bound, int | float)]
    match norm.check, bounds:
        case "at_least", [low]:
            return candidate >= low
        case "at_most", [high]:
            return candidate <= high
        case "between", [low, high]:
            return low <= candidate <= high
    return False
