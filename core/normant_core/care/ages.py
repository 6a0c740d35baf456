"""Bytes of a store by how long nobody used them."""

import datetime as dt
from bisect import bisect_right
from itertools import accumulate

from ..seat.survey import UnusedShare

AGES = (7, 30, 60, 90, 180)  # days for which what nobody used is counted


class AgeTally:
    """Bytes of a store by how long nobody used them: for each of AGES those that are at least so old."""

    def __init__(self, now: dt.datetime) -> None:
        self._limits = [(now - dt.timedelta(days=days)).timestamp() for days in reversed(AGES)]
        self._sizes = [0] * (len(AGES) + 1)  # older than the first limit, then than the second; the last: used lately

    def take(self, used: float, size: int) -> None:
        """A file's bytes; `used` in seconds since 1970, 0 where nobody knows: that counts as used lately."""
        self._sizes[bisect_right(self._limits, used) if used > 0 else -1] += size

    def shares(self) -> tuple[UnusedShare, ...]:
        """The shortest age first."""
        until = accumulate(self._sizes[:-1])
        return tuple(UnusedShare(days, size) for days, size in zip(reversed(AGES), until, strict=True))[::-1]
