"""The causes of drift in a whole house, by columns: findings that one change explains."""

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..base.quantities import Value
from ..catalogue.settings import catalogue
from ..judging.groups import Wants, cause_title, rule_of_cause, weight_of
from ..seat.survey import Key
from .marks import OFF_NORM, has_status
from .verdicts import Case, Standing

Rows = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Cause:
    """Seats (rows of the house) with the same reading of the same setting, off norm for the same cause."""

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
    column = standing.house.readings[case.key]
    of_number, groups = _groups(standing, case, column.codes)
    if not groups:
        return
    of_row = of_number[case.kinds.tuples.view()]
    if waived:
        of_row[[*waived]] = -1
    for group, (code, mark) in enumerate(groups):
        rows = np.flatnonzero(of_row == group)
        if len(rows):
            yield _cause(standing, case, mark, column.values[code], rows)


def _groups(standing: Standing, case: Case, codes: Sequence[int]) -> tuple[Rows, list[tuple[int, int]]]:
    """The group of each kind of row, -1 where it is in norm, and of each group the code of its reading and a mark."""
    layers, groups = standing.judge.standard.layers, dict[tuple[int, Wants], tuple[int, int, int]]()
    of_number = np.full(len(case.kinds.table), -1)
    for number, (mark, row) in enumerate(zip(case.kinds.table, case.kinds.tuples.sample, strict=True)):
        if has_status(mark, OFF_NORM) and row >= 0:
            rule, code = case.rule(mark), int(codes[row])
            key = (code, rule_of_cause(rule, layers[rule.layer].name))
            of_number[number] = groups.setdefault(key, (len(groups), code, mark))[0]
    return of_number, [(code, mark) for _, code, mark in groups.values()]


def _cause(standing: Standing, case: Case, mark: int, reading: Value, rows: Rows) -> Cause:
    setting = catalogue()[case.key[0]]
    seats = [standing.house.rows[row].seat.name for row in rows[:1].tolist()]
    title = cause_title(case.key, f"is {setting.show(reading)}", seats, len(rows))
    weight = weight_of(setting, case.rule(mark).text.severity, len(rows))
    return Cause(case, mark, reading, rows, title, weight)
