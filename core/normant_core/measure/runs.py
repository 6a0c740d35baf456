"""Runs of one job on seats, in blocks that have every condition once, and the table that holds them."""

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from ..base.errors import DocumentError, Fault
from ..base.tables import check_columns, filled_rows, number_fault
from ..orders.kinds import Job

SECONDS: frozenset[Job] = frozenset(("render",))  # jobs whose figure is seconds: fewer are better
COLUMNS = ("seat", "block", "condition", "value")
LIMIT_RUNS = 100_000
LIMIT_CONDITIONS = 32
LIMIT_NAME = 200  # characters of a cell


@dataclass(frozen=True, slots=True)
class Run:
    """One run: seconds of a render, frames or bytes per second of every other job; always above 0."""

    seat: str
    block: str
    condition: str
    value: float


def speed(job: Job, value: float) -> float:
    """The natural logarithm of how fast a run was, so that more is better for every job."""
    return -math.log(value) if job in SECONDS else math.log(value)


def differences(job: Job, runs: Iterable[Run], of: str, against: str) -> dict[str, list[float]]:
    """By seat, how much faster (in logarithms) `of` was than `against`, for each block that has both."""
    speeds = {(run.seat, run.block, run.condition): speed(job, run.value) for run in runs}
    by_seat = dict[str, list[float]]()
    for (seat, block, condition), here in speeds.items():
        there = speeds.get((seat, block, against))
        if condition == of and there is not None:
            by_seat.setdefault(seat, []).append(here - there)
    return by_seat


def read_runs(table: Sequence[Sequence[str]], source: str = "") -> list[Run]:
    """The runs of a table whose first row names its columns: `seat`, `block`, `condition`, `value`, in any order.

    Raises DocumentError, with the line of every fault, for other columns, for values that are not above 0, and for
    blocks that lack a condition or have one twice.
    """
    names, rows = filled_rows(table)
    check_columns(names, COLUMNS, source)
    if len(rows) > LIMIT_RUNS:
        raise DocumentError(source, [Fault(f"there are {len(rows):,} runs", expected=f"at most {LIMIT_RUNS:,}")])
    if faults := [wrong for line, row in rows.items() if (wrong := next(_row_faults(line, row, names), None))]:
        raise DocumentError(source, faults)
    runs = {line: _run(dict(zip(names, row, strict=True))) for line, row in rows.items()}
    if faults := list(_block_faults(runs)):
        raise DocumentError(source, faults)
    return list(runs.values())


def _run(cells: Mapping[str, str]) -> Run:
    return Run(cells["seat"], cells["block"], cells["condition"], float(cells["value"]))


def _row_faults(line: int, row: Sequence[str], names: Sequence[str]) -> Iterator[Fault]:
    if len(row) != len(names):
        yield Fault(f"the row has {len(row)} cells", line=line, expected=f"{len(names)}, as many as the first row")
        return
    for column, (name, cell) in enumerate(zip(names, row, strict=True), 1):
        message, expected = number_fault(cell) if name == "value" else _name_fault(name, cell)
        if message:
            yield Fault(message, line=line, column=column, expected=expected)


def _name_fault(column: str, cell: str) -> tuple[str, str]:
    """What is wrong with a name, and what was expected; empty where nothing is."""
    if not cell:
        return f"the {column} is missing", "a name"
    if len(cell) > LIMIT_NAME:
        return f"the {column} has {len(cell)} characters", f"at most {LIMIT_NAME}"
    return "", ""


def _block_faults(runs: Mapping[int, Run]) -> Iterator[Fault]:
    """Blocks that have not every condition just once, by the line of their first run, or of the second of one."""
    conditions = list(dict.fromkeys(run.condition for run in runs.values()))
    if not runs:
        yield Fault("the table holds no run", line=1, expected="a row for each run")
    elif len(conditions) > LIMIT_CONDITIONS:
        yield Fault(f"there are {len(conditions)} conditions", expected=f"at most {LIMIT_CONDITIONS}")
    else:
        yield from _uneven_blocks(runs, conditions)


def _uneven_blocks(runs: Mapping[int, Run], conditions: Sequence[str]) -> Iterator[Fault]:
    blocks: dict[tuple[str, str], dict[str, int]] = defaultdict(dict)  # the line of each condition
    for line, run in runs.items():
        block = blocks[run.seat, run.block]
        if run.condition in block:
            message = f"block {run.block} of {run.seat} has {run.condition} twice"
            yield Fault(message, line=line, expected=f"once, as on line {block[run.condition]}")
        block.setdefault(run.condition, line)
    for (seat, name), block in blocks.items():
        if lacking := [condition for condition in conditions if condition not in block]:
            message = f"block {name} of {seat} lacks {', '.join(lacking)}"
            yield Fault(message, line=min(block.values()), expected="every condition once in each block")
