"""Tables in and out: CSV and XLSX. What a spreadsheet would run as a formula is written as text."""

import csv
import datetime as dt
import io
import re
from collections.abc import Iterable, Mapping, Sequence
from itertools import islice
from typing import Any

import orjson

from ..as_json import as_json
from ..problems import Problem

LIMIT_BYTES = 8 * 1024 * 1024
LIMIT_ROWS = 20_001
LIMIT_COLUMNS = 50
LONGEST_CELL = 32_767  # characters, as spreadsheets have it
# Where a spreadsheet begins a cell: at the start of ours, and, where its own separator is a semicolon or a tab, within
# ours as well: quotation marks protect nothing there, and a line break begins a row.
_CELL = r"(?:^|(?<=[;\t\r\n]))"
_FORMULA = re.compile(_CELL + r"(?=['\"]*[=+\-@\t\r])")
_DEFUSED = re.compile(_CELL + r"'(?=['\"]*[=+\-@\t\r])")
_UNSAYABLE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]|[\ud800-\udfff]")
TYPES = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "json": "application/json",
}
Cell = str | int | float


def read_table(raw: bytes) -> list[list[str]]:
    """Rows of cells as text, of an XLSX workbook's first sheet or of CSV in UTF-8 or Latin-1. Raises Problem."""
    if len(raw) > LIMIT_BYTES:
        raise Problem(413, "Too large", f"a table has at most {LIMIT_BYTES:,} bytes")
    if raw.startswith(b"PK"):
        from .workbooks import read_workbook  # noqa: PLC0415 (imports openpyxl, which most never need)

        table = read_workbook(raw, LIMIT_ROWS + 1, LIMIT_COLUMNS + 1)
        _check_size(table)
        return table
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = raw.decode("latin-1")
    if "\0" in text:
        raise Problem(422, "No table", "the file is neither CSV nor an XLSX workbook")
    first = text.partition("\n")[0]
    delimiter = max(",;\t", key=first.count)
    try:
        reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
        rows = [row[: LIMIT_COLUMNS + 1] for row in islice(reader, LIMIT_ROWS + 1)]
    except csv.Error as fault:
        raise Problem(422, "No table", f"the CSV cannot be read: {fault}") from fault
    _check_size(rows)
    return [[_as_it_was(cell) for cell in row] for row in rows]


def _check_size(rows: Sequence[Sequence[Any]]) -> None:
    """Raises Problem for a table beyond what is read: it is not taken in by half."""
    if len(rows) > LIMIT_ROWS or any(len(row) > LIMIT_COLUMNS for row in rows):
        raise Problem(413, "Too large", f"a table has at most {LIMIT_ROWS - 1:,} rows of {LIMIT_COLUMNS} columns")


def written(items: Sequence[Mapping[str, Any]], kind: str) -> bytes:
    """The items as a table of that kind; parts of parts get a column each, lists one cell."""
    if kind == "json":
        return as_json({"items": items, "total": len(items)}, orjson.OPT_INDENT_2)
    rows = [_flat(item) for item in items]
    names = list(dict.fromkeys(name for row in rows for name in row))
    table: list[Sequence[Cell]] = [names, *([_cell(row.get(name)) for name in names] for row in rows)]
    if kind == "csv":
        return _as_csv(table)
    from .workbooks import as_workbook  # noqa: PLC0415 (imports openpyxl, which most never need)

    return as_workbook(table)


def _as_csv(table: Iterable[Sequence[Cell]]) -> bytes:
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    for row in table:
        writer.writerow([_FORMULA.sub("'", cell) if isinstance(cell, str) else cell for cell in row])
    return b"\xef\xbb\xbf" + out.getvalue().encode()


def _flat(value: Mapping[str, Any], lead: str = "") -> dict[str, Any]:
    flat = dict[str, Any]()
    for name, part in value.items():
        if isinstance(part, Mapping):
            flat.update(_flat(part, f"{lead}{name}."))
        else:
            flat[f"{lead}{name}"] = part
    return flat


def _cell(value: Any) -> Cell:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | float):
        return value if abs(value) < 2**53 else str(value)
    if isinstance(value, dt.datetime):
        return value.isoformat()
    if isinstance(value, list):
        plain = all(isinstance(part, str | int | float) for part in value)
        value = ", ".join(map(str, value)) if plain else as_json(value).decode()
    return _UNSAYABLE.sub("\ufffd", str(value))[:LONGEST_CELL]


def _as_it_was(cell: str) -> str:
    """Return a cell as it was before `written` put an apostrophe before each formula."""
    return _DEFUSED.sub("", cell)
