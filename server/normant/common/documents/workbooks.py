"""XLSX workbooks in and out."""

import io
import zipfile
import zlib
from collections.abc import Iterable, Sequence
from itertools import islice

from openpyxl import Workbook, load_workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.utils.exceptions import InvalidFileException

from ..problems import Problem

LIMIT_UNPACKED = 16 * 1024 * 1024
LIMIT_PARTS = 500
LONGEST_CELL = 32_767  # characters, as spreadsheets have it
Cell = str | int | float
# What openpyxl, and what unpacks for it, raise over files that are none.
NOT_A_WORKBOOK = (
    *(zipfile.BadZipFile, zlib.error, InvalidFileException, NotImplementedError, RuntimeError, EOFError, OSError),
    *(LookupError, ValueError, TypeError, AttributeError, ArithmeticError, SyntaxError),
)


def read_workbook(raw: bytes, most_rows: int, most_columns: int) -> list[list[str]]:
    """Return the cells of the first sheet as text, at most so many. Raises Problem for what is no workbook."""
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as packed:
            parts = packed.infolist()
            if len(parts) > LIMIT_PARTS or sum(part.file_size for part in parts) > LIMIT_UNPACKED:
                raise Problem(413, "Too large", f"the workbook unpacks to more than {LIMIT_UNPACKED:,} bytes")
        book = load_workbook(io.BytesIO(raw), read_only=True, data_only=True)
        if not book.worksheets:
            raise Problem(422, "No table", "the workbook has no sheet")
        rows = book.worksheets[0].iter_rows(max_row=most_rows, max_col=most_columns, values_only=True)
        table = [[_of_workbook(cell)[:LONGEST_CELL] for cell in row] for row in islice(rows, most_rows)]
        return _trimmed(table)
    except NOT_A_WORKBOOK as fault:
        raise Problem(422, "No table", f"the XLSX workbook cannot be read: {fault}") from fault


def as_workbook(table: Iterable[Sequence[Cell]]) -> bytes:
    """Return the rows as an XLSX workbook of one sheet; no text in it is a formula."""
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
