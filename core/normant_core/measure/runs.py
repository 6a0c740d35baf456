"""Runs of one job on seats, in blocks that have every condition once, and the table that holds them."""

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from ..base.errors import DocumentError, Fault

Job = Literal["decode", "disk", "render", "play"]
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
    rows = [(number, [cell.strip() for cell in row]) for number, row in enumerate(table, 1)]
    filled = [(number, row) for number, row in rows if any(row)]
    check_columns([row for _, row in filled[:1]], COLUMNS, source)
    if len(filled) - 1 > LIMIT_RUNS:
        raise DocumentError(source, [Fault(f"there are {len(filled) - 1:,} runs", expected=f"at most {LIMIT_RUNS:,}")])
    names = filled[0][1]
    runs, faults = dict[int, Run](), list[Fault]()
    for number, row in filled[1:]:
        cells = dict(zip(names, row, strict=False))
        if wrong := next(_row_faults(number, row, cells, names), None):
            faults.append(wrong)
        else:
            runs[number] = Run(cells["seat"], cells["block"], cells["condition"], float(cells["value"]))
    if faults := faults or list(_block_faults(runs)):
        raise DocumentError(source, faults)
    return list(runs.values())


def check_columns(heading: Sequence[Sequence[str]], expected: Sequence[str], source: str) -> None:
    """Raises DocumentError where the row of names is not there, or does not name exactly these columns, each once."""
    names, wanted = (heading[0] if heading else []), ", ".join(expected)
    faults = [
        Fault(f"unknown column {name!r}" if name not in expected else f"the column {name!r} stands twice", line=1,
              column=place, expected=wanted)
        for place, name in enumerate(names, 1)
        if name not in expected or name in names[: place - 1]
    ]  # fmt: skip
    faults += [Fault(f"there is no column {name!r}", line=1, expected=wanted) for name in expected if name not in names]
    if faults:
        raise DocumentError(source, faults)


def number_fault(text: str) -> str:
    """Why a text is no figure of a run; empty where it is one."""
    try:
        value = float(text)
    except ValueError:
        return f"{text[:40]!r} is no number" if text else "the value is missing"
    if math.isfinite(value) and value > 0:
        return ""
    return f"{text[:40]} is no figure of a run"


def _row_faults(line: int, row: Sequence[str], cells: Mapping[str, str], names: Sequence[str]) -> Iterator[Fault]:
    if len(row) != len(names):
        yield Fault(f"the row has {len(row)} cells", line=line, expected=f"{len(names)}, as many as the first row")
        return
    for name in COLUMNS[:-1]:
        column = names.index(name) + 1
        if not cells[name]:
            yield Fault(f"the {name} is missing", line=line, column=column, expected="a name")
        elif len(cells[name]) > LIMIT_NAME:
            yield Fault(f"the {name} has {len(cells[name])} characters", line=line, column=column,
                        expected=f"at most {LIMIT_NAME}")  # fmt: skip
    if why := number_fault(cells["value"]):
        yield Fault(why, line=line, column=names.index("value") + 1, expected="a number above 0, and below infinity")


def _block_faults(runs: Mapping[int, Run]) -> Iterator[Fault]:
    """Blocks that have not every condition just once, by the line of their first run, or of the second of one."""
    conditions = list(dict.fromkeys(run.condition for run in runs.values()))
    if not runs:
        yield Fault("the table holds no run", line=1, expected="a row for each run")
    if len(conditions) > LIMIT_CONDITIONS:
        yield Fault(f"there are {len(conditions)} conditions", expected=f"at most {LIMIT_CONDITIONS}")
        return
    blocks: dict[tuple[str, str], dict[str, int]] = defaultdict(dict)
    for line, run in runs.items():
        block = blocks[run.seat, run.block]
        if run.condition in block:
            yield Fault(f"block {run.block} of {run.seat} has {run.condition} twice", line=line,
                        expected=f"once, as on line {block[run.condition]}")  # fmt: skip
        block.setdefault(run.condition, line)
    for (seat, name), block in blocks.items():
        if lacking := [condition for condition in conditions if condition not in block]:
            yield Fault(f"block {name} of {seat} lacks {', '.join(lacking)}", line=min(block.values()),
                        expected="every condition once in each block")  # fmt: skip
