import csv
import io
import zipfile
from itertools import chain
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook

from normant.common.documents.tables import LIMIT_COLUMNS, LIMIT_ROWS, read_table, written
from normant.common.problems import Problem


def workbook(rows: int, columns: int) -> bytes:
    """An XLSX file of that size."""
    book, out = Workbook(write_only=True), io.BytesIO()
    sheet = book.create_sheet()
    for _ in range(rows):
        sheet.append(["x"] * columns)
    book.save(out)
    return out.getvalue()


class Bounds(TestCase):
    def test_a_table_that_is_larger_is_refused_and_not_taken_by_half(self) -> None:
        for name, raw in {
            "rows of CSV": b"a,b\n" * (LIMIT_ROWS + 1),
            "columns of CSV": b"a," * (LIMIT_COLUMNS + 1),
            "rows of XLSX": workbook(LIMIT_ROWS + 1, 1),
            "columns of XLSX": workbook(2, LIMIT_COLUMNS + 1),
        }.items():
            with self.subTest(name), self.assertRaises(Problem) as refused:
                read_table(raw)
            self.assertEqual(refused.exception.status, 413)

    def test_the_largest_is_read_whole(self) -> None:
        self.assertEqual(len(read_table(b"a,b\n" * LIMIT_ROWS)), LIMIT_ROWS)
        self.assertEqual(len(read_table(workbook(300, LIMIT_COLUMNS))), 300)

    def test_what_is_no_workbook_is_told(self) -> None:
        whole = workbook(3, 3)
        spoiled = bytearray(whole)
        spoiled[spoiled.rindex(b"PK\x01\x02") + 8] = 1  # encrypted
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as packed:
            packed.writestr("xl/workbook.xml", "<a" * 100)
        for raw in (b"PK", whole[:200], whole[:-40], bytes(spoiled), out.getvalue()):
            with self.subTest(raw[:8]), self.assertRaises(Problem) as refused:
                read_table(raw)
            self.assertEqual(refused.exception.status, 422)


class Formulas(TestCase):
    """A cell that a spreadsheet would run, whichever sign it takes for the end of a cell."""

    def cells(self, text: str, delimiter: str) -> list[str]:
        """What a spreadsheet reads from a table with that text."""
        raw = written([{"a": "x", "b": text, "c": "y"}], "csv").decode("utf-8-sig")
        return list(chain.from_iterable(csv.reader(io.StringIO(raw, newline=""), delimiter=delimiter)))

    @given(st.text("ab'\"=+-@,;\t\r\n 1"), st.sampled_from(",;\t"))
    def test_no_cell_begins_as_a_formula(self, text: str, delimiter: str) -> None:
        for cell in self.cells(text, delimiter):
            self.assertNotRegex(cell, r"^[=+\-@]")

    def test_one_behind_a_semicolon_or_a_line_break_is_defused(self) -> None:
        for text in ("a;=1+1", "a\t@x", "a\n-1", "=1", "a;'=1", 'a;"=1', '"";"=1'):
            with self.subTest(text):
                self.assertIn("'", self.cells(text, ",")[4])
                for delimiter in ",;\t":
                    self.assertNotRegex("\n".join(self.cells(text, delimiter)), r"(?m)^[=+\-@]")
        self.assertEqual(self.cells("a;b = c", ",")[4], "a;b = c")

    @given(st.text("ab'\"=+-@;\t\n 1", max_size=12))
    def test_our_own_table_is_read_as_it_was(self, text: str) -> None:
        self.assertEqual(read_table(written([{"a": "x", "b": text}], "csv"))[1][1], text)
