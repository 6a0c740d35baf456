import io
import zipfile
from unittest import TestCase

from openpyxl import Workbook

from normant.common.documents.tables import LIMIT_COLUMNS, LIMIT_ROWS, read_table
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
