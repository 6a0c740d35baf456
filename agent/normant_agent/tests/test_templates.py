"""The house's template in the place of the seat's own."""

from typing import Any
from unittest import TestCase

from normant_agent.errors import DoorError, Waiting
from normant_agent.files import digest
from normant_core.dialects.dialect import parse_dialect
from normant_core.orders.kinds import Change, PlaceTemplate, PutBack, Receipt, Rehearse

from .bench import Bench, order

PATH = "corrow/templates/house.json"
OWN = b'{"engine": "soft", "rate": "24", "bins": ["rushes"]}'
HOUSE = b'{"engine": "hard",\r\n "rate": "25", "bins": ["day", "cuts"]}\r\n'
ENGINE = Change("project.engine", "soft", "hard", "hadrel")
DIALECT = parse_dialect("""
format = "normant-dialect/1"
app = "corrow"
versions = ">=8"

[[file]]
name = "template"
path = "corrow/templates/*.json"
format = "json"

[[file.binding]]
setting = "project.engine"
at = "/engine"
values = { soft = "cpu", hard = "hadrel" }
""")


class Templates(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        self.bench.dialects = [DIALECT]
        self.bench.held = {digest(HOUSE): HOUSE}
        self.path = self.bench.preference_root / PATH
        self.path.parent.mkdir(parents=True)
        self.path.write_bytes(OWN)

    def place(self, number: str = "t1", *, change: Change = ENGINE, **how: Any) -> Receipt:
        fields = {"path": PATH, "template": digest(HOUSE), **how}
        return self.bench.runner().run(order(PlaceTemplate("corrow", "template", changes=(change,), **fields), number))

    def test_it_is_placed_whole_read_back_and_put_back_to_the_byte(self) -> None:
        receipt = self.place()
        self.assertEqual((receipt.outcome, receipt.results[0].value), ("done", "hadrel"))
        self.assertEqual(self.path.read_bytes(), HOUSE)
        self.assertEqual(self.bench.open, {"corrow"})
        back = self.bench.runner().run(order(PutBack("t1"), "b1"))
        self.assertEqual((back.outcome, back.exact, self.path.read_bytes()), ("done", True, OWN))

    def test_placed_again_it_writes_nothing_and_closes_nothing(self) -> None:
        self.path.write_bytes(HOUSE)
        self.bench.idle = 5
        self.assertEqual(self.place().outcome, "done")

    def test_what_was_changed_meanwhile_stays(self) -> None:
        for content, reason in (
            (OWN.replace(b"soft", b"none"), "has changed since the plan was made: the plan has 'soft'"),
            (b"{", "line 1, column 2"),
        ):
            with self.subTest(content):
                self.path.write_bytes(content)
                receipt = self.place(digest(content)[:8])
                self.assertIn(receipt.outcome, ("refused", "failed"))
                self.assertIn(reason, receipt.message)
                self.assertEqual(self.path.read_bytes(), content)

    def test_what_came_is_verified_and_says_what_the_order_says(self) -> None:
        self.bench.held = {digest(HOUSE): OWN}
        self.assertIn("nothing was done with it", self.place().message)
        self.bench.held = {digest(HOUSE): HOUSE}
        other = Change("project.engine", "soft", "open", "opencl")
        self.assertIn("the template says 'hard' of project.engine", self.place("t2", change=other).message)
        self.assertEqual(self.path.read_bytes(), OWN)

    def test_while_the_house_is_away_the_order_waits(self) -> None:
        def away(what: str, sha256: str, path: object, most: int) -> None:
            raise DoorError("nobody answers")

        self.bench.fetch = away  # type: ignore[method-assign]
        with self.assertRaisesRegex(Waiting, "the house cannot be asked"):
            self.place()

    def test_only_files_that_the_dialect_stands_for_are_replaced(self) -> None:
        outside = self.bench.preference_root.parent / "outside.json"
        outside.write_bytes(OWN)
        (self.path.parent / "linked.json").symlink_to(outside)
        for number, path in enumerate(
            ("corrow/templates/../../../outside.json", "corrow/other/house.json", "corrow/templates/linked.json",
             "CORROW/templates/house.json", "//host/share/house.json", "corrow/templates/sub/house.json"),
        ):  # fmt: skip
            with self.subTest(path):
                self.assertIn(self.place(f"x{number}", path=path).outcome, ("refused", "failed"))
        self.assertEqual((self.path.read_bytes(), outside.read_bytes()), (OWN, OWN))

    def test_values_written_since_come_back_singly(self) -> None:
        self.place()
        self.path.write_bytes(HOUSE.replace(b"cuts", b"mine"))
        back = self.bench.runner().run(order(PutBack("t1"), "b1"))
        self.assertEqual((back.exact, back.results[0].outcome), (False, "restored_value"))
        self.assertEqual(self.path.read_bytes(), HOUSE.replace(b"cuts", b"mine").replace(b"hard", b"soft"))

    def test_a_rehearsal_says_that_the_whole_file_would_be_replaced(self) -> None:
        inner = PlaceTemplate("corrow", "template", PATH, (ENGINE,), digest(HOUSE))
        [result] = self.bench.runner().run(order(Rehearse((inner,)), "r1")).results
        self.assertEqual((result.outcome, result.after), ("would_do", "hard"))
        self.assertIn("the whole file would be replaced after a backup; Corrow would be closed", result.message)
        self.assertEqual(self.path.read_bytes(), OWN)
