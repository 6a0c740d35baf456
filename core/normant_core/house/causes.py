"""The causes of drift in a whole house, by columns: findings that one change explains."""

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..base.quantities import Value
from ..catalogue.settings import catalogue
from ..judging.groups import cause_title, weight_of
from ..seat.survey import Key
from .marks import OFF_NORM, has_status
from .verdicts import Case, Standing

Rows = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Cause:
    """Seats (rows of the house) with the same reading of the same setting, off norm by the same rule."""

    case: Case
    mark: int
    reading: Value
    rows: Rows
    title: str
    weight: float


def causes(standing: Standing, waived: Mapping[Key, Collection[int]]) -> list[Cause]:
    """The most useful first; rows that are waived are left out."""
    causes_found = [
        cause for case in standing.cases.values() for cause in _causes_of(standing, case, waived.get(case.key, ()))
    ]
    return sorted(causes_found, key=lambda cause: (-cause.weight, cause.title))


def _causes_of(standing: Standing, case: Case, waived: Collection[int]) -> Iterator[Cause]:
    house, kinds = standing.house, case.kinds
    column = house.readings[case.key]
    groups: dict[tuple[int, int], int] = {}
    of_number = np.full(len(kinds.table), -1)
    for number, (mark, row) in enumerate(zip(kinds.table, kinds.tuples.sample, strict=True)):
        if has_status(mark, OFF_NORM) and row >= 0:
            of_number[number] = groups.setdefault((column.codes[row], mark), len(groups))
    if not groups:
        return
    of_row = of_number[kinds.tuples.view()]
    if waived:
        of_row[[*waived]] = -1
    for (code, mark), group in groups.items():
        rows = np.flatnonzero(of_row == group)
        if len(rows):
            yield _cause(standing, case, mark, column.values[code], rows)


def _cause(standing: Standing, case: Case, mark: int, reading: Value, rows: Rows) -> Cause:
    setting = catalogue()[case.key[0]]
    seats = [standing.house.rows[row].seat.name for row in rows[:1].tolist()]
    title = cause_title(case.key, f"is {setting.show(reading)}", seats, len(rows))
    weight = weight_of(setting, case.rule(mark).text.severity, len(rows))
    return Cause(case, mark, reading, rows, title, weight)
