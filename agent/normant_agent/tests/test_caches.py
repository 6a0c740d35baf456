"""Clearing a store: listed, signed, and looked at again file by file."""

import datetime as dt
import os
from pathlib import Path
from typing import Any
from unittest import TestCase

from normant_agent.errors import HostError, Waiting
from normant_core.orders.kinds import ClearStore, Item, Listed, ListStore, PutBack, Receipt

from .bench import BEFORE, NOW, Bench, order

STORE, FOLDER = "store.source_cache.path", "/home/corrow/cache"


class Case(TestCase):
    """Three files: two that nobody used for 40 and 90 days, and one of yesterday."""

    def setUp(self) -> None:
        self.bench = Bench()
        self.bench.path.write_bytes(BEFORE.replace(b"/home/c", FOLDER.encode()))
        self.folder = self.bench.real(FOLDER)
        for name, size, days in (("a.pk", 5, 40), ("deep/b.pk", 9, 90), ("c.pk", 70, 1)):
            self.put(name, size, days)

    def put(self, name: str, size: int, days: float) -> Path:
        path, used = self.folder / name, (NOW - dt.timedelta(days=days)).timestamp()
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(bytes(size))
        os.utime(path, (used, used))
        return path

    def run_order(self, action: Any, number: str) -> Receipt:
        return self.bench.runner().run(order(action, number))

    def listed(self, setting: str = STORE, days: int = 30, number: str = "l1") -> Listed:
        receipt = self.run_order(ListStore("corrow", setting, days), number)
        assert receipt.listed, receipt
        return receipt.listed

    def clear(self, *items: Item, number: str = "c1", folder: str = FOLDER) -> Receipt:
        return self.run_order(ClearStore("corrow", STORE, folder, items or self.listed().items), number)

    def left(self) -> set[str]:
        return {path.relative_to(self.folder).as_posix() for path in self.folder.rglob("*") if path.is_file()}


class Lists(Case):
    def test_what_nobody_used_is_listed_the_largest_first_and_nothing_is_touched(self) -> None:
        listing = self.listed()
        self.assertEqual([item.path for item in listing.items], ["deep/b.pk", "a.pk"])
        self.assertEqual((listing.folder, listing.count, listing.size), (FOLDER, 3, 84))
        self.assertEqual((listing.unused, listing.unused_size), (2, 14))
        self.assertEqual(self.listed(days=60, number="l2").unused, 1)
        self.assertEqual((len(self.left()), self.bench.open), (3, {"corrow"}))

    def test_links_are_neither_listed_nor_followed(self) -> None:
        (self.folder / "link.pk").symlink_to(self.bench.path)
        (self.folder / "linked").symlink_to(self.bench.preference_root)
        self.assertEqual(self.listed().count, 3)

    def test_a_store_that_is_not_there_is_empty(self) -> None:
        self.bench.path.write_bytes(BEFORE.replace(b"/home/c", b"/elsewhere/corrow/cache"))
        self.assertEqual(self.listed().count, 0)


class Clears(Case):
    def test_what_was_signed_goes_and_the_application_opens_again(self) -> None:
        receipt = self.clear()
        self.assertEqual((receipt.outcome, receipt.message), ("done", "2 files, 14 bytes, removed"))
        self.assertEqual((self.left(), self.bench.open), ({"c.pk"}, {"corrow"}))
        self.assertIn("cannot be put back", self.run_order(PutBack("c1"), "b1").message)

    def test_what_was_used_or_changed_or_taken_since_stays_and_is_told(self) -> None:
        self.put("old.pk", 3, 50)
        listed = self.listed().items
        self.put("a.pk", 5, 0)
        self.put("deep/b.pk", 8, 90)
        (self.folder / "old.pk").unlink()
        self.put("last.pk", 3, 40)
        receipt = self.clear(*listed, *(item for item in self.listed(number="l3").items if item.path == "last.pk"))
        self.assertIn("1 file, 3 bytes, removed; 3 not", receipt.message)
        for reason in ("deep/b.pk used since", "a.pk used since", "old.pk no longer exists"):
            self.assertIn(reason, receipt.message)
        self.assertEqual(self.left(), {"a.pk", "deep/b.pk", "c.pk"})

    def test_what_is_open_shared_locked_or_has_no_name_that_travels_is_not_listed(self) -> None:
        os.link(self.put("shared.pk", 4, 80), self.folder / "twin.pk")
        self.put("locked.pk", 4, 80).chmod(0o444)
        self.put(os.fsdecode(b"bad\xff.pk"), 4, 80)
        self.put("line\nfeed.pk", 4, 80)
        self.put("d" * 240 + "/" + "f" * 240, 4, 80)
        with self.put("open.pk", 4, 80).open("rb"):
            listing = self.listed()
        self.assertEqual([item.path for item in listing.items], ["deep/b.pk", "a.pk"])

    def test_what_became_open_or_shared_since_stays(self) -> None:
        listed = self.listed().items
        os.link(self.folder / "deep" / "b.pk", self.folder / "other.pk")
        with (self.folder / "a.pk").open("rb"):
            message = self.clear(*listed).message
        self.assertIn("a.pk is open in a program", message)
        self.assertIn("deep/b.pk has another hard link", message)
        self.assertEqual(self.left(), {"a.pk", "c.pk", "deep/b.pk", "other.pk"})

    def test_a_folder_that_becomes_a_link_while_files_go_leads_nowhere(self) -> None:
        """Between the check of the whole order and the removal of a file: what is outside the store stays."""
        outside = self.bench.real("/precious")
        outside.mkdir(parents=True)
        self.put("deep/a2.pk", 5, 40)
        listed = sorted(self.listed().items, key=lambda item: item.path)
        for item in listed:
            twin = outside / Path(item.path).name
            twin.write_bytes(bytes(item.size))
            os.utime(twin, (item.used_at.timestamp(),) * 2)

        def swap(path: Path) -> None:
            if path.name == "a.pk":
                (self.folder / "deep").rename(self.folder / "away")
                (self.folder / "deep").symlink_to(outside)

        self.bench.removing = swap
        message = self.clear(*listed).message
        self.assertIn("deep is no folder of the store any more", message)
        self.assertEqual({path.name for path in outside.iterdir()}, {"a.pk", "a2.pk", "b.pk"})
        self.assertEqual({path.name for path in (self.folder / "away").iterdir()}, {"a2.pk", "b.pk"})

    def test_while_the_editor_works_in_the_application_nothing_goes(self) -> None:
        self.bench.idle = 5
        with self.assertRaisesRegex(Waiting, "is in use"):
            self.clear()
        self.assertEqual(len(self.left()), 3)

    def test_after_a_crash_in_the_middle_it_ends_as_if_there_had_been_none(self) -> None:
        def crash(path: Path) -> None:
            if path.name == "a.pk":
                raise RuntimeError

        listed = self.listed().items
        self.bench.removing = crash
        with self.assertRaises(RuntimeError):
            self.clear(*listed)
        self.assertEqual(self.left(), {"a.pk", "c.pk"})
        self.bench.removing = lambda path: None
        self.assertEqual(self.clear(*listed).message, "2 files, 14 bytes, removed")
        self.assertEqual((self.left(), self.bench.open), ({"c.pk"}, {"corrow"}))

    def test_one_that_the_system_keeps_stops_none_of_the_others(self) -> None:
        def keeps(path: Path) -> None:
            if path.name == "b.pk":
                raise HostError("b.pk cannot be removed: it is open")

        self.bench.removing = keeps
        self.assertIn("1 file, 5 bytes, removed; 1 not: b.pk cannot be removed", self.clear().message)

    def test_a_path_that_leads_out_removes_nothing_at_all(self) -> None:
        self.put("deep/in.pk", 1, 90)
        (self.folder / "link.pk").symlink_to(self.bench.path)
        (self.folder / "linked").symlink_to(self.bench.path.parent)
        good = self.listed().items
        used = NOW - dt.timedelta(days=40)
        for number, path in enumerate(
            ("../c", "/etc/passwd", "deep/../../x", "link.pk", "linked/preferences.xml", "deep", str(self.bench.path))
        ):
            with self.subTest(path):
                receipt = self.clear(*good, Item(path, 1, used), number=f"x{number}")
                self.assertEqual(receipt.outcome, "refused")
                self.assertIn("is not a file of the store: no files were deleted", receipt.message)
        self.assertEqual((len(self.left() - {"link.pk"}), self.bench.open), (4, {"corrow"}))

    def test_only_what_the_application_makes_again_in_a_folder_of_its_own(self) -> None:
        some = (Item("a.pk", 5, NOW),)
        message = self.run_order(ClearStore("corrow", "store.backups.path", FOLDER, some), "n1").message
        self.assertIn("is not a store that its application recreates", message)
        self.assertIn(
            "the store has moved: the listed files were in /home/other",
            self.clear(*some, number="n2", folder="/home/other").message,
        )
        for number, folder in enumerate(("/home/edit", "/", "/corrow/..")):
            with self.subTest(folder):
                self.bench.path.write_bytes(BEFORE.replace(b"/home/c", folder.encode()))
                receipt = self.clear(*some, number=f"o{number}", folder=folder)
                self.assertEqual(receipt.outcome, "refused", receipt.message)
