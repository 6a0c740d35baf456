"""What is held of a store for a day: deleted as it was moved, put back where anything changed, and never anything else."""

import datetime as dt
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from unittest import skipIf
from unittest.mock import patch

from normant_agent.care.holding import HELD
from normant_agent.care.place import ItemPlace
from normant_agent.orders.clear_planned import let_go_of_held
from normant_core.orders.clearing import Cleared, Deleted
from normant_core.orders.kinds import Change, MoveStore, PutBack
from normant_core.seat.facts import Facts, Volume

from .bench import Died
from .test_clearing_plans import FOLDERS, Case

DAY = dt.timedelta(days=1, minutes=1)


@contextmanager
def moving(before: Callable[[Path], object], after: Callable[[Path], object] = lambda _: None) -> Iterator[None]:
    """Something happens just before a file is moved into the holding folder, and just after."""
    move = ItemPlace.move

    def moved(place: ItemPlace, other: ItemPlace) -> None:
        before(place.path)
        move(place, other)
        after(place.path)

    with patch.object(ItemPlace, "move", moved):
        yield


def rewrite(path: Path, content: bytes) -> None:
    """Write other bytes of the same length, and set the times back."""
    times = path.stat()
    path.write_bytes(content)
    os.utime(path, ns=(times.st_atime_ns, times.st_mtime_ns))


class HoldingCase(Case):
    def setUp(self) -> None:
        super().setUp()
        for number in range(3):
            self.put(f"deep/{number}.pk", 10 + number)
        [self.store] = self.planned()
        self.root = self.bench.real(FOLDERS["cache"])

    def cleared(self) -> Cleared:
        receipt = self.clear(self.store)
        assert receipt.cleared, receipt
        return receipt.cleared

    def held(self, number: int) -> Path:
        return self.root / HELD / "c1" / str(number)

    def number_of(self, name: str) -> int:
        """The number of a file in the order's list."""
        lines = self.bench.journal.list_of("p1", self.store.digest).read_text("ascii").splitlines()
        return next(number for number, line in enumerate(lines, 1) if name in line)

    def a_day_later(self) -> Deleted | None:
        self.bench.clock += DAY
        let_go_of_held(self.bench, self.bench.journal)
        reports = dict(self.bench.journal.unreported())
        return reports.get("c1")


class Deletions(HoldingCase):
    def test_are_told_with_their_bytes_until_the_house_knows(self) -> None:
        self.assertTrue(self.cleared().is_reported)
        deleted = self.a_day_later()
        assert deleted
        self.assertEqual((deleted.items, deleted.size, deleted.returned, deleted.staying), (3, 33, 0, 0))
        self.assertEqual((self.left(), self.bench.journal.holding()), (set(), []))
        self.bench.journal.reported("c1")
        self.assertEqual(list(self.bench.journal.unreported()), [])

    def test_leave_what_a_program_wrote_after_the_move(self) -> None:
        with (self.root / "deep/1.pk").open("r+b", buffering=0) as program:
            with patch("normant_agent.orders.clear_planned.open_files", frozenset):  # it opened the file after the look
                self.assertEqual(self.cleared().items, 3)
            program.write(b"work")
        held = self.held(self.number_of("1.pk"))
        os.utime(held, (1, 1))  # its times are set back: the time of the change cannot be
        deleted = self.a_day_later()
        assert deleted
        self.assertEqual((deleted.items, deleted.returned), (2, 1))
        self.assertEqual(self.left(), {"deep/1.pk"})
        self.assertTrue((self.root / "deep/1.pk").read_bytes().startswith(b"work"))

    def test_leave_what_is_open_when_the_day_is_over(self) -> None:
        self.cleared()
        with self.held(1).open("rb"):
            deleted = self.a_day_later()
        assert deleted
        self.assertEqual((deleted.items, deleted.returned, len(self.left())), (2, 1, 1))

    def test_leave_a_file_that_has_another_name_by_now(self) -> None:
        self.cleared()
        (self.root / "kept.pk").hardlink_to(self.held(1))
        deleted = self.a_day_later()
        assert deleted
        self.assertEqual((deleted.items, deleted.returned), (2, 1))

    def test_take_nothing_that_somebody_put_beside(self) -> None:
        self.cleared()
        beside = self.root / HELD / "c1" / "notes.txt"
        beside.write_text("mine")
        deleted = self.a_day_later()
        assert deleted
        self.assertEqual((deleted.items, deleted.unrecorded, beside.read_text()), (3, 1, "mine"))

    def test_take_nothing_where_the_store_is_another_folder_by_now(self) -> None:
        self.cleared()
        self.root.rename(self.root.with_name("moved"))
        other = self.root / HELD / "c1" / "1"
        other.parent.mkdir(parents=True)
        other.write_bytes(b"another")
        self.assertIsNone(self.a_day_later())
        self.assertEqual(other.read_bytes(), b"another")
        self.assertEqual(len(self.bench.journal.holding()), 1)

    def test_follow_no_link_that_took_the_place_of_a_folder(self) -> None:
        self.cleared()
        elsewhere = self.bench.root / "elsewhere"
        self.root.parent.rename(elsewhere)
        self.root.parent.symlink_to(elsewhere)
        self.assertIsNone(self.a_day_later())
        self.assertEqual(len(list((elsewhere / self.root.name / HELD / "c1").iterdir())), 3)

    def test_swap_of_a_held_file_is_no_deletion(self) -> None:
        self.cleared()
        self.held(1).unlink()
        self.held(1).write_bytes(b"another file")
        deleted = self.a_day_later()
        assert deleted
        self.assertEqual((deleted.items, deleted.returned), (2, 1))

    def test_cut_off_at_any_moment_count_each_file_once(self) -> None:
        for moment in range(1, 40):
            case = Deletions("test_are_told_with_their_bytes_until_the_house_knows")
            case.setUp()
            case.cleared()
            with (case.root / "kept.pk").open("wb"):
                (case.root / "kept.pk").unlink()
                (case.root / "kept.pk").hardlink_to(case.held(3))  # one of them is put back
            case.bench.clock += DAY
            case.bench.moments, case.bench.dies_at = 0, moment
            died = False
            try:
                let_go_of_held(case.bench, case.bench.journal)
            except Died:
                died = True
            case.bench.dies_at = 0
            let_go_of_held(case.bench, case.bench.journal)
            deleted = dict(case.bench.journal.unreported())["c1"]
            with self.subTest(moment=moment):
                self.assertEqual((deleted.items, deleted.returned, deleted.lost), (2, 1, 0))
                self.assertEqual(len(case.left()), 2)
            if not died:
                break
        self.assertGreater(moment, 3)


class Moves(HoldingCase):
    def test_leave_a_file_that_was_rewritten_with_its_times_set_back(self) -> None:
        rewrite(self.root / "deep/1.pk", b"x" * 11)
        self.assertEqual(self.cleared().items, 2)
        self.assertIn("deep/1.pk", self.left())

    def test_leave_a_file_whose_place_another_one_took(self) -> None:
        path = self.root / "deep/1.pk"
        times = path.stat()
        path.rename(path.with_name("away"))
        path.write_bytes(bytes(11))
        os.utime(path, ns=(times.st_atime_ns, times.st_mtime_ns))
        self.assertEqual(self.cleared().items, 2)

    def test_hold_and_return_a_file_that_changed_in_the_moment_of_its_move(self) -> None:
        path, written = self.root / "deep/1.pk", b"the latest work"

        def change(moved: Path) -> None:
            if moved.name == "1.pk":
                moved.write_bytes(written)

        def take_name(moved: Path) -> None:
            if moved.name == "1.pk":
                path.write_bytes(b"another")

        with moving(change, take_name):
            cleared = self.cleared()
        self.assertEqual(cleared.items, 2)
        self.assertIn("when its name is free", cleared.reasons[0].why)
        deleted = self.a_day_later()
        assert deleted
        self.assertEqual((deleted.items, deleted.returned, deleted.staying), (2, 0, 1))
        self.assertIn("is there again", deleted.reasons[0].why)
        self.assertEqual(self.held(self.number_of("1.pk")).read_bytes(), written)
        path.unlink()
        deleted = self.a_day_later()
        assert deleted
        self.assertEqual((deleted.items, deleted.returned, deleted.staying), (2, 1, 0))
        self.assertEqual((path.read_bytes(), self.bench.journal.holding()), (written, []))

    def test_return_at_once_what_changed_in_the_moment_of_its_move(self) -> None:
        with moving(lambda moved: moved.name == "1.pk" and moved.write_bytes(b"the latest work")):
            self.assertEqual(self.cleared().items, 2)
        self.assertEqual((self.root / "deep/1.pk").read_bytes(), b"the latest work")

    def test_are_not_made_where_others_may_write_to_the_holding_folder(self) -> None:
        (self.root / HELD).mkdir()
        (self.root / HELD).chmod(0o777)
        receipt = self.clear(self.store)
        self.assertEqual((receipt.outcome, len(self.left())), ("failed", 3))
        self.assertIn("other users can write to .normant-held", receipt.message)
        self.assertEqual(self.bench.open, {"corrow"})

    @skipIf(os.geteuid() != 0, "only root gives a folder to somebody else")
    def test_are_not_made_where_the_holding_folder_is_somebody_elses(self) -> None:
        (self.root / HELD / "c1").mkdir(parents=True)
        os.chown(self.root / HELD / "c1", 12_345, 12_345)
        receipt = self.clear(self.store)
        self.assertEqual((receipt.outcome, len(self.left())), ("failed", 3))
        self.assertIn("belongs to another user", receipt.message)

    def test_follow_no_link_that_was_put_in_the_way_meanwhile(self) -> None:
        self.bench.at["applying"] = lambda: (_ for _ in ()).throw(Died())
        with self.assertRaises(Died):
            self.clear(self.store)
        elsewhere = self.bench.root / "elsewhere"
        self.root.parent.rename(elsewhere)
        self.root.parent.symlink_to(elsewhere)
        receipt = self.clear(self.store)
        self.assertEqual(receipt.outcome, "failed")
        self.assertEqual(len(list((elsewhere / self.root.name / "deep").iterdir())), 3)


class Ways(HoldingCase):
    """Links on the way to a store."""

    def planned_through(self, real: str) -> str:
        """Why nothing is planned where the store's parent is a link to a folder of that name."""
        target = self.bench.root / "disks" / real
        target.parent.mkdir(parents=True, exist_ok=True)
        self.root.parent.rename(target)
        self.root.parent.symlink_to(target)
        return self.planned(number="p2")[0].trouble

    def test_a_link_to_a_folder_that_is_not_the_applications_is_refused(self) -> None:
        self.assertIn("which is not touched", self.planned_through("home/somebody"))

    def test_a_link_to_a_folder_of_the_application_is_followed(self) -> None:
        self.assertEqual(self.planned_through("large/corrow"), "")


class PutsBack(HoldingCase):
    def test_say_what_is_lost(self) -> None:
        self.cleared()
        self.held(1).unlink()
        receipt = self.run_order(PutBack("c1"))
        self.assertEqual(receipt.outcome, "failed")
        self.assertIn("1 file is lost: neither held nor in its place", receipt.message)
        self.assertEqual(len(self.left()), 2)

    def test_say_that_all_is_lost_where_the_holding_folder_was_removed(self) -> None:
        self.cleared()
        for path in (self.root / HELD / "c1").iterdir():
            path.unlink()
        (self.root / HELD / "c1").rmdir()
        receipt = self.run_order(PutBack("c1"))
        self.assertEqual(receipt.outcome, "failed")
        self.assertIn("3 files are lost", receipt.message)

    def test_count_what_somebody_moved_back_by_hand(self) -> None:
        self.cleared()
        number = self.number_of("2.pk")
        self.held(number).rename(self.root / "deep/2.pk")
        receipt = self.run_order(PutBack("c1"))
        self.assertEqual((receipt.outcome, len(self.left())), ("done", 3))


class EarlierAgents(HoldingCase):
    """What an agent holds that kept no record is finished, or put back where it changed."""

    def setUp(self) -> None:
        super().setUp()
        self.cleared()
        self.bench.journal.held_record("c1").path.write_bytes(b"")

    def test_files_as_they_were_listed_are_deleted(self) -> None:
        deleted = self.a_day_later()
        assert deleted
        self.assertEqual((deleted.items, self.left(), self.bench.journal.holding()), (3, set(), []))

    def test_changed_files_are_put_back(self) -> None:
        self.held(1).write_bytes(b"changed")
        deleted = self.a_day_later()
        assert deleted
        self.assertEqual((deleted.items, deleted.returned, len(self.left())), (2, 1, 1))

    def test_all_are_put_back_for_a_person(self) -> None:
        self.assertEqual(self.run_order(PutBack("c1")).outcome, "done")
        self.assertEqual(self.left(), {"deep/0.pk", "deep/1.pk", "deep/2.pk"})


class MovesOfStores(HoldingCase):
    def move(self) -> MoveStore:
        self.bench.facts = Facts(volumes=(*(self.bench.facts.volumes or ()), Volume("v2", "/large", capacity=10**9, free=10**9, attached=True, writable=True)))  # fmt: skip
        change = Change("store.source_cache.path", FOLDERS["cache"], "/large/corrow/source_cache", "/large/corrow/source_cache")  # fmt: skip
        return MoveStore("corrow", "preferences", change, "v2")

    def test_wait_while_files_of_the_store_are_held(self) -> None:
        self.cleared()
        receipt = self.run_order(self.move())
        self.assertEqual(receipt.outcome, "refused")
        self.assertIn("are held for a day after a clean-up", receipt.message)

    def test_leave_a_holding_folder_where_it_is(self) -> None:
        left = self.root / HELD / "c9" / "1"
        left.parent.mkdir(parents=True)
        left.write_bytes(b"x")
        receipt = self.run_order(self.move())
        self.assertEqual(receipt.outcome, "done", receipt)
        target = self.bench.real("/large/corrow/source_cache")
        self.assertEqual(sorted(path.name for path in target.iterdir()), ["deep"])
