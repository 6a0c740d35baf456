"""Verdicts on many seats at once: seats that are alike are judged and explained once."""

from collections.abc import Iterable, Iterator

import numpy as np

from normant_core.house.columns import House
from normant_core.house.explain import Telling
from normant_core.house.marks import IN_NORM, NO_NORM, has_status
from normant_core.house.verdicts import Standing
from normant_core.judging.judge import Judge, Verdict, View
from normant_core.standard.rule import Standard


def check_house(standard: Standard, views: Iterable[View], *, every: bool) -> Iterator[tuple[str, list[Verdict]]]:
    """Yield (seat, verdicts) in the order of the views; without `every` what is in norm is left out."""
    telling = Telling(Standing(House(views), Judge(standard)), ())
    house = telling.standing.house
    verdicts: list[list[Verdict]] = [[] for _ in range(len(house))]
    for case in telling.standing.cases.values():
        marks = case.kinds.marks()
        rows = np.flatnonzero((marks != NO_NORM) & (every | ~has_status(marks, IN_NORM))).tolist()
        for row, line in zip(rows, telling.verdicts(case, rows), strict=True):
            verdicts[row].append(line.verdict)
    for seat, of_seat in zip(house.rows, verdicts, strict=True):
        yield seat.seat.name, of_seat
