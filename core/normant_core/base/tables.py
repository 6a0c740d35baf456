"""Tables that people bring: rows by their lines, columns by their names, figures that are above 0."""

import math
from collections.abc import Iterator, Mapping, Sequence

from .errors import DocumentError, Fault

FIGURE = "a number above 0, and below infinity"


def filled_rows(table: Sequence[Sequence[str]]) -> tuple[list[str], Mapping[int, list[str]]]:
    """The names of the columns, and the rows below them by their lines (from 1); empty rows are left out."""
    stripped = ((line, [cell.strip() for cell in row]) for line, row in enumerate(table, 1))
    rows = {line: row for line, row in stripped if any(row)}
    return (rows.pop(min(rows)) if rows else []), rows


def check_columns(names: Sequence[str], expected: Sequence[str], source: str) -> None:
    """Raises DocumentError where a table does not name exactly these columns, each once."""
    faults = [*_strange_columns(names, expected), *_absent_columns(names, expected)]
    if faults:
        raise DocumentError(source, faults)


def _strange_columns(names: Sequence[str], expected: Sequence[str]) -> Iterator[Fault]:
    for column, name in enumerate(names, 1):
        if name not in expected:
            yield Fault(f"unknown column {name!r}", line=1, column=column, expected=", ".join(expected))
        elif name in names[: column - 1]:
            yield Fault(f"the column {name!r} stands twice", line=1, column=column, expected="each column once")


def _absent_columns(names: Sequence[str], expected: Sequence[str]) -> Iterator[Fault]:
    absent = [name for name in expected if name not in names]
    return (Fault(f"there is no column {name!r}", line=1, expected=", ".join(expected)) for name in absent)


def number_fault(text: str) -> tuple[str, str]:
    """Why a text is no figure of a run, and what was expected; empty where it is one."""
    try:
        value = float(text)
    except ValueError:
        return (f"{text[:40]!r} is no number" if text else "the value is missing"), FIGURE
    return ("", "") if math.isfinite(value) and value > 0 else (f"{text[:40]} is no figure of a run", FIGURE)
