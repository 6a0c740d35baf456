from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from normant_core.seat.facts import Cpu, Facts, Gpu, Memory
from normant_core.seat.register import COLUMNS, proposed_classes, read_register

HEAD = ["seat", "role", "room", "production"]
FAULTS: list[tuple[list[list[str]], tuple[int, int, str]]] = [
    ([[]], (1, 1, "the table is empty")),
    ([["name", "role"]], (1, 1, "unknown column 'name'")),
    ([["seat", "roll"]], (1, 2, "unknown column 'roll'")),
    ([["role"]], (1, 1, "there is no column 'seat'")),
    ([["seat", "seat"]], (1, 2, "is listed twice")),
    ([HEAD, ["pan-01", "ofline"]], (2, 2, "unknown role 'ofline'")),
    ([HEAD, ["pan-01"], [""], ["pan-01"]], (4, 1, "pan-01 stands in row 2 already")),
    ([HEAD, ["pan 01"]], (2, 1, "not a valid seat name")),
    ([HEAD, ["", "comp"]], (2, 1, "names no seat")),
    ([HEAD, ["a", "comp", "x" * 81]], (2, 3, "the cell has 81 characters")),
    ([HEAD, ["a", "comp", "b", "c", "d"]], (2, 5, "the row has 5 cells")),
    ([HEAD, ["a", "comp", "b\x00"]], (2, 3, "control characters")),
]


class Register(TestCase):
    def test_faults_are_told_by_row_and_column(self) -> None:
        for table, (row, column, words) in FAULTS:
            with self.subTest(words):
                fault = read_register(table)[1][0]
                self.assertEqual((fault.line, fault.column), (row, column), fault)
                self.assertIn(words, fault.message)

    def test_a_near_name_is_suggested(self) -> None:
        self.assertEqual(read_register([["seat", "roll"]])[1][0].expected, "role")
        self.assertEqual(read_register([HEAD, ["a", "finish"]])[1][0].expected, "one of finishing")

    def test_lines_hold_the_columns_that_the_table_has(self) -> None:
        lines, faults = read_register([["Seat", "Tags", "Hardware class"], [" pan-01 ", "UHD; loud,UHD", "tall"], []])
        self.assertEqual(faults, [])
        self.assertEqual(
            [(n.seat, n.tags, n.columns["hardware_class"], "room" in n.columns) for n in lines],
            [("pan-01", ["UHD", "loud"], "tall", False)],
        )

    @given(st.lists(st.lists(st.text(max_size=12), max_size=7), max_size=5))
    def test_any_table_is_read_or_refused(self, table: list[list[str]]) -> None:
        lines, faults = read_register([list(COLUMNS), *table])
        self.assertTrue(faults or all(line.seat for line in lines))


class Classes(TestCase):
    TALL = Facts(cpu=Cpu(cores=12), memory=Memory(64 * 2**30), gpus=(Gpu("g", "Hadrel H60", enabled=True),))
    SMALL = Facts(cpu=Cpu(cores=6), memory=Memory(16 * 2**30 - 4096), gpus=(Gpu("g", "Hadrel H40", enabled=True),))

    def test_likeness_proposes_the_class_of_those_alike(self) -> None:
        seats = {
            "a": (self.TALL, "tall"),
            "b": (self.TALL, ""),
            "c": (self.SMALL, ""),
            "d": (self.TALL, "tall"),
            "e": (self.TALL, "short"),
        }
        self.assertEqual(
            proposed_classes(seats), {"a": "tall", "b": "tall", "d": "tall", "e": "tall", "c": "16 GiB, Hadrel H40"}
        )
