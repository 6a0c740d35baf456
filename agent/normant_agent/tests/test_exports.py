"""Looking into an export by order: the newest or a named one, whole or not, and what it never does."""

from pathlib import Path
from typing import Any
from unittest import TestCase, mock

from normant_agent.errors import Waiting
from normant_agent.orders.measuring import exports
from normant_core.dialects.dialect import parse_dialect
from normant_core.orders.exports import Specification
from normant_core.orders.kinds import InspectExport, PutBack, Receipt

from .bench import BEFORE, TEXT, Bench, order
from .test_media import export

FOLDER = "/home/corrow/out"
ENDING = 400  # bytes that a damaged file has lost


class Exports(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        self.bench.dialects = [parse_dialect(TEXT.replace("store.source_cache.path", "store.exports.path"))]
        self.bench.path.write_bytes(BEFORE.replace(b"/home/c", FOLDER.encode()))
        self.folder = self.bench.real(FOLDER)
        self.folder.mkdir(parents=True)
        export(self.folder / "old.mkv", range(5))
        self.path = export(self.folder / "reel.mkv", [*range(6), *[6] * 8, *range(7, 12)])
        waits = mock.patch.object(exports, "GROWS", 0.01)
        waits.start()
        self.addCleanup(waits.stop)

    def inspected(self, file: str = "", number: str = "x1", **more: Any) -> Receipt:
        return self.bench.runner().run(order(InspectExport("corrow", file, **more), number))

    def assert_refused(self, receipt: Receipt, why: str) -> None:
        self.assertEqual(receipt.outcome, "refused", receipt.message)
        self.assertIn(why, receipt.message)

    def test_the_newest_is_decoded_and_what_is_wrong_with_it_is_said(self) -> None:
        receipt = self.inspected()
        assert receipt.inspected, receipt
        inspected = receipt.inspected
        self.assertEqual(
            (inspected.file, inspected.size, inspected.decoded), ("reel.mkv", self.path.stat().st_size, 19)
        )
        self.assertEqual(
            [(flaw.kind, flaw.at, flaw.frames) for flaw in inspected.flaws], [("frozen", "00:00:00:06", 8)]
        )
        self.assertEqual((inspected.deliverable.codec, inspected.others), ("ffv1", ("old.mkv",)))
        self.assertEqual(self.inspected(), receipt)
        self.assertIn("made no changes", self.bench.runner().run(order(PutBack("x1"), "b1")).message)
        self.assertEqual(self.bench.open, {"corrow"})

    def test_a_named_one_is_held_against_what_it_has_to_be(self) -> None:
        wanted = Specification("normant-deliverable/1", width=1920)
        inspected = self.inspected("old.mkv", specification=wanted).inspected
        assert inspected
        self.assertEqual([flaw.message for flaw in inspected.flaws], ["the width is 96, expected 1920"])

    def test_a_file_that_ends_early_or_is_none(self) -> None:
        self.path.write_bytes(self.path.read_bytes()[:-ENDING])
        inspected = self.inspected().inspected
        assert inspected
        self.assertTrue(inspected.flaws)
        (self.folder / "none.mkv").write_text("nothing of the kind")
        receipt = self.inspected("none.mkv", "x2")
        self.assertEqual(receipt.outcome, "failed")
        self.assertIn("cannot be read as picture and sound", receipt.message)

    def test_what_lies_elsewhere_or_is_a_link_is_not_looked_into(self) -> None:
        (self.folder / "link.mkv").symlink_to(self.bench.path)
        outside = export(self.bench.root / "out.mkv", range(3))
        for number, name in enumerate(("link.mkv", "../out.mkv", str(outside), "sub/../reel.mkv/..", "no.mkv", ".")):
            with self.subTest(name):
                self.assert_refused(self.inspected(name, f"y{number}"), "none of the exports")

    def test_a_folder_that_is_a_link_a_volume_or_a_place_of_secrets(self) -> None:
        for number, (folder, why) in enumerate((("/fast", "a whole volume"), ("/home/.ssh/out", "hidden"))):
            self.bench.path.write_bytes(BEFORE.replace(b"/home/c", folder.encode()))
            self.assert_refused(self.inspected("", f"z{number}"), why)
        linked = self.bench.real("/home/linked")
        linked.symlink_to(self.bench.preference_root)
        self.bench.path.write_bytes(BEFORE.replace(b"/home/c", b"/home/linked"))
        self.assert_refused(self.inspected("", "z9"), "is a link")

    def test_an_application_without_a_store_of_exports_and_an_empty_store(self) -> None:
        for path in self.folder.iterdir():
            path.unlink()
        self.assert_refused(self.inspected(), "no exports in")
        self.bench.dialects = [parse_dialect(TEXT)]
        self.assert_refused(self.inspected("", "x2"), "no dialect of corrow holds store.exports.path")

    def test_it_waits_while_somebody_is_at_work_and_while_the_file_grows(self) -> None:
        self.bench.idle = 20
        with self.assertRaisesRegex(Waiting, "waiting until the machine has been idle"):
            self.inspected()
        self.bench.idle = 5400
        with mock.patch("time.sleep", lambda _: self._grow()), self.assertRaisesRegex(Waiting, "still being written"):
            self.inspected()

    def test_one_that_is_written_again_meanwhile_is_not_said_to_be_whole(self) -> None:
        self.bench.at["checking"] = self._grow
        receipt = self.inspected()
        self.assertEqual((receipt.outcome, receipt.inspected), ("failed", None))
        self.assertIn("written again", receipt.message)

    def test_one_that_is_moved_meanwhile(self) -> None:
        self.bench.at["checking"] = lambda: self.path.rename(Path(f"{self.path}.old"))
        self.assertEqual(self.inspected().outcome, "failed")

    def test_it_is_bounded_in_time(self) -> None:
        with mock.patch.object(exports, "SPARE", -0.95):  # its process is ended before it has even begun
            receipt = self.inspected(seconds=1)
        self.assertEqual(receipt.outcome, "failed")
        self.assertIn("took too long", receipt.message)

    def _grow(self) -> None:
        with self.path.open("ab") as file:
            file.write(b"more")
