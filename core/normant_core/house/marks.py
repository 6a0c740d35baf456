"""A mark: which rule made the norm of a reading, and how the reading stands, in one small number.

Three times the place of the rule among those of its setting (0: the strongest) plus the status; -1: no rule speaks.
So the readings of a house are one array of small integers, and this is the only place that takes a mark apart.
"""

from typing import Any

import numpy as np
import numpy.typing as npt

from ..judging.judge import Status

STATUSES: tuple[Status, ...] = ("in-norm", "off-norm", "unread")
IN_NORM, OFF_NORM, UNREAD = range(3)
NO_NORM = -1


def mark_of(place: int, status: Status) -> int:
    """The mark of a reading that stands so by the rule at this place."""
    return len(STATUSES) * place + STATUSES.index(status)


def status_of(mark: int) -> Status:
    """How it stands, for a mark that is not NO_NORM."""
    return STATUSES[mark % len(STATUSES)]


def place_of(mark: int) -> int:
    """Which rule made the norm, for a mark that is not NO_NORM."""
    return mark // len(STATUSES)


def places_of(marks: npt.NDArray[np.int16]) -> npt.NDArray[np.int16]:
    """The same for many; 0 where there is no norm."""
    return np.maximum(marks, 0) // np.int16(len(STATUSES))


def has_status(mark: Any, status: int) -> Any:
    """Whether it stands so (a number of STATUSES); for an array of marks an array. Without a norm it never does."""
    return (mark >= 0) & (mark % len(STATUSES) == status)
