"""Cutting a machine's memory: workers and preview pool that keep every bound, do not over-commit, and preview most."""

import re
from dataclasses import dataclass, replace
from fractions import Fraction

from ...base.errors import NormantError
from ...base.quantities import Dimension, show
from ...base.wording import counted

CHANNELS = 4
BYTES_OF_BITS = {8: 1, 16: 2, 32: 4}  # of one channel


class CutError(NormantError):
    """What was asked cannot be cut."""


@dataclass(frozen=True, slots=True)
class Frame:
    """A frame of a preview: pixels, and bits of each channel (8, 16 or 32)."""

    width: int
    height: int
    bits: int

    @property
    def size(self) -> int:
        """Bytes."""
        return self.width * self.height * CHANNELS * BYTES_OF_BITS[self.bits]


@dataclass(frozen=True, slots=True)
class Wanted:
    """What memory has to do, in bytes; `pool_least` and `pool_most` are what rules allow, `workers` None: as many as
    cost the preview nothing."""

    total: int
    held_back: int
    foreground: int
    per_worker: int
    cores: int
    reserved: int
    pool_least: int
    pool_most: int
    frame: Frame
    rate: Fraction
    workers: int | None = None


@dataclass(frozen=True, slots=True)
class Cut:
    """Workers and preview pool (bytes) with what they come to; `over` is what is missing where even the least of both
    does not fit, `next_costs` how many frames of preview one more worker would cost (None where there is no core)."""

    workers: int
    pool: int
    frames: int
    seconds: float
    left: int
    over: int
    next_costs: int | None
    sentence: str


def most_workers(wanted: Wanted) -> int:
    """As many as cores and memory hold beside the system and what is in front, at least none."""
    free = wanted.total - wanted.held_back - wanted.foreground
    by_memory = free // wanted.per_worker if wanted.per_worker else wanted.cores
    return max(0, min(wanted.cores - wanted.reserved, by_memory))


def cut(wanted: Wanted) -> Cut:
    """The largest preview pool beside the workers that are wanted, or beside as many as cost it nothing."""
    most = most_workers(wanted)
    free = wanted.total - wanted.held_back - wanted.foreground
    if wanted.workers is None:
        spare = max(0, free - wanted.pool_most)
        workers = min(most, spare // wanted.per_worker if wanted.per_worker else most)
    else:
        workers = wanted.workers
    pool = _pool(wanted, workers)
    over = max(0, workers * wanted.per_worker + pool - free)
    more = wanted.frame.size and pool // wanted.frame.size - _pool(wanted, workers + 1) // wanted.frame.size
    has_core = workers + 1 <= wanted.cores - wanted.reserved
    made = Cut(
        workers,
        pool,
        pool // wanted.frame.size,
        float(pool // wanted.frame.size / wanted.rate),
        max(0, free - workers * wanted.per_worker - pool),
        over,
        more if has_core else None,
        "",
    )
    return replace(made, sentence=_sentence(wanted, made))


def _pool(wanted: Wanted, workers: int) -> int:
    """What is left for the preview, within what rules allow."""
    left = wanted.total - wanted.held_back - wanted.foreground - workers * wanted.per_worker
    return max(wanted.pool_least, min(wanted.pool_most, left))


def _sentence(wanted: Wanted, made: Cut) -> str:
    """`11 workers and a preview pool of 38.4 GiB: 621 frames, 24.8 s. 1 more worker costs 32 frames.`"""
    pool = show(made.pool, Dimension.BYTES)
    crew = counted(made.workers, "worker")
    parts = [f"{crew} and a preview pool of {pool}: {made.frames:,} frames, {made.seconds:.1f} s."]
    if made.over:
        parts.append(f"That is {show(made.over, Dimension.BYTES)} more than there is.")
    elif made.next_costs is None:
        parts.append("No core is free for another worker.")
    elif made.next_costs:
        parts.append(f"1 more worker costs {made.next_costs:,} frames.")
    else:
        parts.append("1 more worker costs no frames.")
    return " ".join(parts)


def read_frame(text: str, bits: int) -> Frame:
    """A frame from `3840x2160`. Raises CutError."""
    sides = re.fullmatch(r"([1-9][0-9]{0,4})x([1-9][0-9]{0,4})", text.lower())
    if not sides:
        raise CutError(f"{text[:40]!r} is no frame size: expected pixels such as 3840x2160")
    if bits not in BYTES_OF_BITS:
        raise CutError(f"{bits} bits: expected {', '.join(map(str, BYTES_OF_BITS))} of each channel")
    return Frame(int(sides[1]), int(sides[2]), bits)
