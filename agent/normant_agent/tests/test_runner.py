import fcntl
import sys
import warnings
from collections.abc import Callable
from pathlib import Path
from types import FrameType
from typing import Any
from unittest import TestCase

from normant_agent.errors import JournalError, Waiting
from normant_agent.journal import Journal
from normant_agent.orders.runner import Runner
from normant_agent.orders.work import Work
from normant_core.dialects.dialect import parse_dialect
from normant_core.orders.kinds import Change, MoveStore, PutBack, SendFiles, SetPowerProfile, SetPreference, SurveyNow

from .bench import AFTER, BEFORE, CHANGES, EXAMPLES, FILE, Bench, order


def _linked_away(path: Path) -> None:
    path.unlink()
    path.symlink_to("/etc/hostname")


class Corrections(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()

    def run_order(self, action: Any = None, number: str = "a1", *, hours: int = 1) -> tuple[str, str]:
        receipt = self.bench.runner().run(order(action, number, hours=hours))
        return receipt.outcome, receipt.message

    def test_only_the_bytes_of_the_values_change(self) -> None:
        self.assertEqual(self.run_order(), ("done", ""))
        self.assertEqual(self.bench.path.read_bytes(), AFTER)
        self.assertEqual(self.bench.steps, ["checking", "saving", "applying", "reading_back"])
        self.assertEqual(self.bench.open, {"corrow"})

    def test_a_replay_gives_the_first_receipt_and_touches_nothing(self) -> None:
        first = self.bench.runner().run(order())
        self.bench.path.write_bytes(BEFORE)
        self.assertEqual(self.bench.runner().run(order()), first)
        self.assertEqual(self.bench.path.read_bytes(), BEFORE)

    def test_what_the_application_made_of_it_is_told(self) -> None:
        self.bench.clamp = (b"6554", b"8192")
        self.assertEqual(self.run_order(), ("accepted_as", "accepted as 8 GiB, asked for 6.4 GiB"))

    def test_another_value_than_the_plan_saw_is_refused_before_anything_is_closed(self) -> None:
        self.bench.path.write_bytes(BEFORE.replace(b"1536", b"999"))
        outcome, message = self.run_order()
        self.assertEqual(outcome, "refused")
        self.assertIn("the plan has '1536'", message)
        self.assertEqual((self.bench.open, self.bench.steps), ({"corrow"}, []))

    def test_an_editor_at_work_is_waited_for(self) -> None:
        for idle, unsaved, words in ((20, False, "in use"), (9999, True, "unsaved")):
            self.bench.idle, self.bench.unsaved = idle, unsaved
            with self.assertRaisesRegex(Waiting, words):
                self.bench.runner().run(order())
        self.assertEqual((self.bench.path.read_bytes(), self.bench.open), (BEFORE, {"corrow"}))

    def test_a_name_that_stands_for_several_files_is_not_written(self) -> None:
        many = parse_dialect((EXAMPLES / "corrow.dialect.toml").read_text("utf-8").replace(FILE, "corrow/8/*.xml", 1))
        runner = Runner(Work(self.bench, Journal(self.bench.root / "agent"), lambda *_: None, [many]))
        receipt = runner.run(order())
        self.assertEqual((receipt.outcome, self.bench.path.read_bytes()), ("refused", BEFORE))
        self.assertIn("several files", receipt.message)

    def test_files_that_cannot_be_written_are_left_as_they_are(self) -> None:
        spoil: dict[str, Callable[[Path], object]] = {
            "no such file": Path.unlink,
            "line 1": lambda path: path.write_bytes(b"<settings><memory>"),
            "read-only": lambda path: path.chmod(0o444),
            "leads out": _linked_away,
        }
        for words, make in spoil.items():
            with self.subTest(words):
                self.bench = Bench()
                make(self.bench.path)
                held = self.bench.path.read_bytes() if self.bench.path.exists() else None
                outcome, message = self.run_order()
                self.assertEqual(outcome, "failed")
                self.assertIn(words.split()[0], message.lower())
                self.assertEqual(self.bench.path.read_bytes() if held is not None else None, held)
                self.assertEqual(self.bench.open, {"corrow"})

    def test_a_locked_file_is_waited_for(self) -> None:
        with self.bench.path.open("rb+") as other:
            fcntl.flock(other, fcntl.LOCK_EX)
            with self.assertRaisesRegex(Waiting, "locked by another program"):
                self.bench.runner().run(order())

    def test_nothing_but_the_dialects_files_and_settings_is_touched(self) -> None:
        for action in (
            SetPreference("corrow", "passwd", CHANGES),
            SetPreference("glaize", "preferences", CHANGES),
            SetPreference("corrow", "preferences", (Change("audio.input", "a", "b", "b"),)),
        ):
            self.assertEqual(self.run_order(action, str(hash(action)).replace("-", "n"))[0], "refused")

    def test_an_order_whose_time_is_over_is_not_begun(self) -> None:
        self.assertEqual(self.run_order(hours=-1)[0], "expired")
        self.assertEqual(self.bench.path.read_bytes(), BEFORE)

    def test_the_power_profile_is_compared_set_and_read_back(self) -> None:
        self.assertEqual(self.run_order(SetPowerProfile("balanced", "performance")), ("done", ""))
        self.assertEqual(self.bench.profile, "performance")
        self.assertEqual(self.run_order(SetPowerProfile("balanced", "power-saver"), "a2")[0], "refused")
        self.assertEqual(self.run_order(SurveyNow(), "a3"), ("done", ""))

    def test_files_are_sent_from_the_folders_of_the_dialect_alone(self) -> None:
        folder = self.bench.path.parent
        (folder / "other.xml").write_bytes(b"<a/>")
        (folder / "link.xml").symlink_to("/etc/hostname")
        (folder / "deeper").mkdir()
        (folder / "deeper" / "private.txt").write_bytes(b"?")
        (self.bench.preference_root / "elsewhere.txt").write_bytes(b"?")
        receipt = self.bench.runner().run(order(SendFiles("corrow"), "f1"))
        self.assertEqual(receipt.files, {"corrow/8/other.xml": b"<a/>", "corrow/8/preferences.xml": BEFORE})
        self.assertEqual(self.run_order(SendFiles("glaize"), "f2")[0], "refused")
        (folder / "large.bin").write_bytes(b"x" * 2**20)
        self.assertIn("bring the files by hand", self.run_order(SendFiles("corrow"), "f3")[1])


class Meanwhile(TestCase):
    """What others do to the seat between two steps of an order."""

    def setUp(self) -> None:
        self.bench = Bench()

    def written(self, old: bytes, new: bytes) -> Callable[[], object]:
        return lambda: self.bench.path.write_bytes(self.bench.path.read_bytes().replace(old, new))

    def test_what_somebody_writes_at_the_last_moment_is_not_lost(self) -> None:
        self.bench.at["applying"] = self.written(b"software", b"hadrel")
        with self.assertRaisesRegex(Waiting, "at this very moment"):
            self.bench.runner().run(order())
        self.assertEqual(self.bench.path.read_bytes(), BEFORE.replace(b"software", b"hadrel"))
        self.assertEqual(self.bench.runner().run(order()).outcome, "done")
        self.assertEqual(self.bench.path.read_bytes(), AFTER.replace(b"software", b"hadrel"))
        self.assertTrue(self.bench.runner().run(order(PutBack("a1"), "b1")).exact)
        self.assertEqual(self.bench.path.read_bytes(), BEFORE.replace(b"software", b"hadrel"))

    def test_the_very_value_that_somebody_writes_at_the_last_moment_stays(self) -> None:
        self.bench.at["applying"] = self.written(b"1536", b"333")
        with self.assertRaises(Waiting):
            self.bench.runner().run(order())
        self.assertEqual(self.bench.runner().run(order()).outcome, "refused")
        self.assertEqual(self.bench.path.read_bytes(), BEFORE.replace(b"1536", b"333"))
        self.assertEqual(self.bench.open, {"corrow"})

    def test_a_power_profile_that_somebody_chooses_at_the_last_moment_stays(self) -> None:
        chosen = lambda: self.bench.set_system_value("power.profile", "", "power-saver")  # noqa: E731
        self.bench.at["applying"] = chosen
        self.assertEqual(
            self.bench.runner().run(order(SetPowerProfile("balanced", "performance"), "p1")).outcome, "refused"
        )
        self.assertEqual(self.bench.profile, "power-saver")
        self.bench.runner().run(order(SetPowerProfile("power-saver", "performance"), "p2"))
        self.bench.at["applying"] = chosen
        self.assertEqual(self.bench.runner().run(order(PutBack("p2"), "p3")).outcome, "done")
        self.bench.profile = "balanced"
        self.assertEqual(self.bench.runner().run(order(PutBack("p2"), "p4")).outcome, "refused")

    def test_a_file_that_others_write_while_it_is_put_back_is_told(self) -> None:
        self.bench.runner().run(order())
        self.bench.at["reading_back"] = self.written(b"software", b"hadrel")
        receipt = self.bench.runner().run(order(PutBack("a1"), "b1"))
        self.assertEqual((receipt.outcome, receipt.exact), ("done", False))
        self.assertIn("changed by another program", receipt.message)

    def test_without_a_journal_nothing_is_given_up(self) -> None:
        entries = self.bench.root / "agent" / "journal"

        def spoil() -> None:
            entries.rename(entries.with_name("kept"))
            entries.write_bytes(b"")

        for step in ("checking", "reading_back"):
            with self.subTest(step):
                self.bench.at[step] = spoil
                runner = self.bench.runner()
                with self.assertRaisesRegex(JournalError, "cannot keep a journal"):
                    runner.run(order(number=step.replace("_", "-")))
                entries.unlink()
                entries.with_name("kept").rename(entries)
                self.assertEqual(self.bench.runner().run(order(number=step.replace("_", "-"))).outcome, "done")
                self.assertEqual(self.bench.path.read_bytes(), AFTER)
                self.bench.path.write_bytes(BEFORE)
                self.bench.open = {"corrow"}


class PuttingBack(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        self.bench.runner().run(order())

    def put_back(self) -> Any:
        return self.bench.runner().run(order(PutBack("a1"), "b1"))

    def test_the_file_is_restored_byte_for_byte(self) -> None:
        receipt = self.put_back()
        self.assertEqual((receipt.outcome, receipt.exact), ("done", True))
        self.assertEqual(self.bench.path.read_bytes(), BEFORE)

    def test_a_clamped_file_is_restored_byte_for_byte(self) -> None:
        self.bench = Bench()
        self.bench.clamp = (b"6554", b"8192")
        self.bench.runner().run(order())
        self.assertTrue(self.put_back().exact)
        self.assertEqual(self.bench.path.read_bytes(), BEFORE)

    def test_where_somebody_changed_the_file_since_the_single_values_are_restored(self) -> None:
        self.bench.path.write_bytes(AFTER.replace(b"software", b"hadrel").replace(b"13108", b"77"))
        receipt = self.put_back()
        self.assertEqual((receipt.outcome, receipt.exact), ("done", False))
        self.assertEqual([r.outcome for r in receipt.results], ["restored_value", "changed_meanwhile"])
        expected = BEFORE.replace(b"software", b"hadrel").replace(b"256", b"77")
        self.assertEqual(self.bench.path.read_bytes(), expected)

    def test_the_power_profile_too(self) -> None:
        self.bench.runner().run(order(SetPowerProfile("balanced", "performance"), "p1"))
        self.assertEqual(self.bench.runner().run(order(PutBack("p1"), "p2")).outcome, "done")
        self.assertEqual(self.bench.profile, "balanced")

    def test_what_was_never_done_cannot_be_put_back(self) -> None:
        receipt = self.bench.runner().run(order(PutBack("zz"), "b9"))
        self.assertEqual(receipt.outcome, "refused")


class PowerLoss(BaseException):
    """The plug was pulled: nothing of the agent catches it."""


class Crashes(TestCase):
    """The plug is pulled at every line of the agent's code in turn; afterwards the agent starts again."""

    def setUp(self) -> None:
        # What a crash leaves open is the point; Python need not tell of it.
        quiet = warnings.catch_warnings(action="ignore", category=ResourceWarning)
        self.enterContext(quiet)

    def crash_everywhere(self, action: Any, number: str, before: bytes, after: bytes) -> int:
        line = 0
        while True:
            line += 1
            bench = Bench()
            if before != BEFORE:
                bench.runner().run(order())
            self.stored(bench)
            if not self.crashed(bench, action, number, line):
                return line
            held = bench.path.read_bytes()
            self.assertIn(held, (before, after), f"at line {line}")
            again = Bench(bench.root)
            again.open = bench.open
            receipt = again.runner().run(order(action, number))
            self.assertEqual((receipt.outcome, again.path.read_bytes()), ("done", after), f"at line {line}")
            self.assertEqual(again.open, {"corrow"}, f"at line {line}")
            self.assertEqual(list(bench.path.parent.iterdir()), [bench.path], f"left behind at line {line}")
            if isinstance(action, MoveStore):
                moved = bench.real(str(action.change.value))
                names = sorted(p.relative_to(moved.parent).as_posix() for p in moved.parent.rglob("*") if p.is_file())
                self.assertEqual(names, ["source_cache/a.pk", "source_cache/deep/b.pk"], f"at line {line}")

    def stored(self, bench: Bench) -> Path:
        """The folder of a store, with two files in it."""
        folder = bench.real("/home/c")
        (folder / "deep").mkdir(parents=True, exist_ok=True)
        for name in ("a.pk", "deep/b.pk"):
            (folder / name).write_bytes(name.encode())
        return folder

    def crashed(self, bench: Bench, action: Any, number: str, at: int) -> bool:
        runner, seen = bench.runner(), 0

        def trace(frame: FrameType, event: str, _: Any) -> Any:
            nonlocal seen
            if "normant_agent/" not in frame.f_code.co_filename or "/tests/" in frame.f_code.co_filename:
                return None
            if event == "line":
                seen += 1
                if seen == at:
                    raise PowerLoss
            return trace

        sys.settrace(trace)
        try:
            runner.run(order(action, number))
        except PowerLoss:
            return True
        finally:
            sys.settrace(None)
        return False

    def test_a_correction_is_before_or_after_never_between(self) -> None:
        self.assertGreater(self.crash_everywhere(None, "a1", BEFORE, AFTER), 100)

    def test_a_store_is_moved_whole_or_not_at_all(self) -> None:
        aim = "/fast/corrow/source_cache"
        change = Change("store.source_cache.path", "/home/c", aim, aim)
        for remove in (False, True):
            with self.subTest(remove):
                move = MoveStore("corrow", "preferences", change, "v1", remove_old=remove)
                after = BEFORE.replace(b"/home/c", aim.encode())
                self.assertGreater(self.crash_everywhere(move, "m1", BEFORE, after), 100)

    def test_a_putting_back_is_before_or_after_never_between(self) -> None:
        self.assertGreater(self.crash_everywhere(PutBack("a1"), "b1", AFTER, BEFORE), 100)
