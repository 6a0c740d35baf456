"""Tables in and out: CSV and XLSX. What a spreadsheet would run as a formula is written as text."""

import csv
import datetime as dt
import io
import re
import zipfile
import zlib
from collections.abc import Iterable, Mapping, Sequence
from itertools import islice
from typing import Any

import orjson
from openpyxl import Workbook, load_workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.utils.exceptions import InvalidFileException

from ..problems import Problem

LIMIT_BYTES = 8 * 1024 * 1024
LIMIT_UNPACKED = 16 * 1024 * 1024
LIMIT_PARTS = 500
LIMIT_ROWS = 20_001
LIMIT_COLUMNS = 50
LONGEST_CELL = 32_767  # characters, as spreadsheets have it
_FORMULA = re.compile(r"^[=+\-@\t\r]")
_UNSAYABLE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]|[\ud800-\udfff]")
TYPES = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "json": "application/json",
}
Cell = str | int | float
# What openpyxl, and what unpacks for it, raise over files that are none.
NOT_A_WORKBOOK = (
    *(zipfile.BadZipFile, zlib.error, InvalidFileException, NotImplementedError, RuntimeError, EOFError, OSError),
    *(LookupError, ValueError, TypeError, AttributeError, ArithmeticError, SyntaxError),
)


def read_table(raw: bytes) -> list[list[str]]:
    """Rows of cells as text, of an XLSX workbook's first sheet or of CSV in UTF-8 or Latin-1. Raises Problem."""
    if len(raw) > LIMIT_BYTES:
        raise Problem(413, "Too large", f"a table has at most {LIMIT_BYTES:,} bytes")
    if raw.startswith(b"PK"):
        return _read_workbook(raw)
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
        return orjson.dumps({"items": items, "total": len(items)}, default=str, option=orjson.OPT_INDENT_2)
    rows = [_flat(item) for item in items]
    names = list(dict.fromkeys(name for row in rows for name in row))
    table: list[Sequence[Cell]] = [names, *([_cell(row.get(name)) for name in names] for row in rows)]
    return _as_csv(table) if kind == "csv" else _as_workbook(table)


def _as_csv(table: Iterable[Sequence[Cell]]) -> bytes:
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    for row in table:
        writer.writerow([f"'{cell}" if isinstance(cell, str) and _FORMULA.match(cell) else cell for cell in row])
    return b"\xef\xbb\xbf" + out.getvalue().encode()


def _as_workbook(table: Iterable[Sequence[Cell]]) -> bytes:
    book = Workbook(write_only=True)
    sheet = book.create_sheet("Normant")
    for row in table:
        cells = [WriteOnlyCell(sheet, value) for value in row]
        for cell, value in zip(cells, row, strict=True):
            if isinstance(value, str):
                cell.data_type = "s"  # else a text that begins with = is a formula
        sheet.append(cells)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


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
        value = ", ".join(map(str, value)) if plain else orjson.dumps(value, default=str).decode()
    return _UNSAYABLE.sub("\ufffd", str(value))[:LONGEST_CELL]


def _as_it_was(cell: str) -> str:
    """A cell that was defused on its way out."""
    return cell[1:] if cell.startswith("'") and _FORMULA.match(cell[1:]) else cell


def _read_workbook(raw: bytes) -> list[list[str]]:
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as packed:
            parts = packed.infolist()
            if len(parts) > LIMIT_PARTS or sum(part.file_size for part in parts) > LIMIT_UNPACKED:
                raise Problem(413, "Too large", f"the workbook unpacks to more than {LIMIT_UNPACKED:,} bytes")
        book = load_workbook(io.BytesIO(raw), read_only=True, data_only=True)
        if not book.worksheets:
            raise Problem(422, "No table", "the workbook has no sheet")
        rows = book.worksheets[0].iter_rows(max_row=LIMIT_ROWS + 1, max_col=LIMIT_COLUMNS + 1, values_only=True)
        table = [[_of_workbook(cell)[:LONGEST_CELL] for cell in row] for row in islice(rows, LIMIT_ROWS + 1)]
        table = _trimmed(table)
        _check_size(table)
        return table
    except NOT_A_WORKBOOK as fault:
        raise Problem(422, "No table", f"the XLSX workbook cannot be read: {fault}") from fault


def _trimmed(rows: list[list[str]]) -> list[list[str]]:
    """Without the empty columns at the right, which a sheet has as many of as anybody ever touched."""
    width = max((place for row in rows for place, cell in enumerate(row, 1) if cell), default=0)
    return [row[:width] for row in rows]


def _of_workbook(cell: object) -> str:
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, float) and cell.is_integer():
        return str(int(cell))
    return str(cell)
