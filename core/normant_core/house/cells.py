"""The grid of drift: one byte for each setting on each seat, so that a whole house is small enough to be sent at once.

Bits 0 to 2: no norm, in norm, unread, waived, off norm. Bit 3: what a *must* rule wants. Bits 4 to 7: the distance, 0
without direction, else 1 to 15 for -7 to 7 octaves.
"""

from collections.abc import Collection

import numpy as np
import numpy.typing as npt

from .marks import NO_NORM, OFF_NORM, has_status, status_of
from .verdicts import Case

Cells = npt.NDArray[np.uint8]
BLANK, IN_NORM, UNREAD, WAIVED, OFF = range(5)
MUST = 8
FARTHEST = 7
_STATUS = {"in-norm": IN_NORM, "unread": UNREAD, "off-norm": OFF}


def cells(case: Case, waived: Collection[int] = ()) -> Cells:
    """A byte for each seat, in the order of the house; `waived` are the rows that somebody accepted."""
    kinds = case.kinds
    table = np.array([cell(case, number) for number in range(len(kinds.table))], dtype=np.uint8)
    codes = table[kinds.tuples.view()]
    if waived:
        rows = np.array([*waived])
        codes[rows] = (codes[rows] & ~np.uint8(7)) | WAIVED
    return codes


def cell(case: Case, number: int) -> int:
    """The byte of the seats of a number."""
    mark = case.kinds.table[number]
    if mark == NO_NORM:
        return BLANK
    must = MUST if case.rule(mark).text.severity == "must" else 0
    far = case.kinds.distances[number] if has_status(mark, OFF_NORM) else None
    return _STATUS[status_of(mark)] | must | distance_code(far) << 4


def distance_code(distance: float | None) -> int:
    """0 without direction, else 1 to 15."""
    return 0 if not distance else round(max(-FARTHEST, min(FARTHEST, distance))) + FARTHEST + 1
