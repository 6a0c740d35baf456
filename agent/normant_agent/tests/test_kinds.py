"""Orders beyond preference files: the system's values, stores, and questions to whoever sits there."""

import datetime as dt
import os
from pathlib import Path
from typing import Any
from unittest import TestCase

from normant_agent.errors import Waiting
from normant_agent.files import digest
from normant_core.base.errors import DocumentError
from normant_core.orders.kinds import (
    AskClose,
    AskRestart,
    Change,
    InstallDriver,
    MoveStore,
    PutBack,
    Rehearse,
    SetGpuPreference,
    SetPowerProfile,
    SetPreference,
    SetPriority,
    parse_order,
)
from normant_core.seat.facts import Facts, Volume

from .bench import BEFORE, CHANGES, Bench, order

STORE = "store.source_cache.path"


class Case(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()

    def run_order(self, action: Any, number: str = "a1") -> Any:
        return self.bench.runner().run(order(action, number))


class System(Case):
    def test_the_priority_of_an_application_is_compared_set_read_back_and_put_back(self) -> None:
        self.assertEqual(self.run_order(SetPriority("corrow", "normal", "above")).outcome, "done")
        self.assertEqual(self.bench.system["power.process_priority", "corrow"], "above")
        self.assertEqual(self.bench.open, {"corrow"})
        refused = self.run_order(SetPriority("corrow", "normal", "high"), "a2")
        self.assertIn("Corrow process priority has changed since the plan was made", refused.message)
        self.assertEqual(self.run_order(PutBack("a1"), "b1").outcome, "done")
        self.assertEqual(self.bench.system["power.process_priority", "corrow"], "normal")

    def test_the_systems_choice_of_gpu_closes_the_application_and_opens_it_again(self) -> None:
        self.bench.system["engine.system_preference", "corrow"] = "auto"
        self.bench.idle = 5
        with self.assertRaisesRegex(Waiting, "is in use"):
            self.run_order(SetGpuPreference("corrow", "auto", "performance"))
        self.bench.answers = ["agreed"]
        self.assertEqual(self.run_order(SetGpuPreference("corrow", "auto", "performance")).outcome, "done")
        self.assertEqual(self.bench.open, {"corrow"})

    def test_realtime_is_no_order(self) -> None:
        with self.assertRaises(DocumentError):
            parse_order(
                b'{"id":"1","seat":"a","expires":"2026-01-01T00:00:00Z",'
                b'"action":{"kind":"set_priority","app":"corrow","expected":"normal","priority":"realtime"}}'
            )


class Stores(Case):
    def setUp(self) -> None:
        super().setUp()
        self.old = self.bench.real("/home/c")
        for name, content in (("a.pk", b"peaks"), ("deep/b.pk", b"more" * 999)):
            (self.old / name).parent.mkdir(parents=True, exist_ok=True)
            (self.old / name).write_bytes(content)

    def move(self, number: str = "m1", *, to: str = "/fast/corrow/source_cache", **how: Any) -> Any:
        return self.run_order(MoveStore("corrow", "preferences", Change(STORE, "/home/c", to, to), "v1", **how), number)

    def content(self, folder: str) -> dict[str, bytes]:
        root = self.bench.real(folder)
        return {p.relative_to(root).as_posix(): p.read_bytes() for p in root.rglob("*") if p.is_file()}

    def test_it_is_copied_verified_and_used_and_the_old_one_stays(self) -> None:
        receipt = self.move()
        self.assertEqual((receipt.outcome, receipt.message), ("done", "2 files, 4,001 bytes, copied and verified"))
        self.assertEqual(self.content("/fast/corrow/source_cache"), self.content("/home/c"))
        self.assertIn(b"/fast/corrow/source_cache", self.bench.path.read_bytes())
        self.assertEqual(self.bench.open, {"corrow"})
        self.assertTrue(self.run_order(PutBack("m1"), "b1").exact)
        self.assertEqual(self.bench.path.read_bytes(), BEFORE)

    def test_what_was_moved_was_not_used(self) -> None:
        files = [path for path in self.old.rglob("*") if path.is_file()]
        for path in files:
            os.utime(path, (1_700_000_000, 1_700_000_000))
        self.move()
        moved = [p for p in self.bench.real("/fast/corrow/source_cache").rglob("*") if p.is_file()]
        self.assertEqual({p.stat().st_atime for p in (*files, *moved)}, {1_700_000_000})

    def test_told_to_it_removes_the_old_one_and_says_that_this_cannot_be_put_back(self) -> None:
        before = self.content("/home/c")
        self.assertIn("the old folder was removed", self.move(remove_old=True).message)
        self.assertEqual((self.old.exists(), self.content("/fast/corrow/source_cache")), (False, before))
        self.assertIn("move it again", self.run_order(PutBack("m1"), "b1").message)

    def test_without_room_nothing_is_touched(self) -> None:
        self.bench.facts = Facts(volumes=(Volume("v1", "/fast", capacity=10_000, free=4000),))
        self.assertIn("do not go on v1: 4,000 are free", self.move().message)
        self.assertEqual((self.bench.path.read_bytes(), self.bench.open), (BEFORE, {"corrow"}))
        self.assertFalse(self.bench.real("/fast").exists())

    def test_only_the_one_folder_of_the_store_is_an_aim(self) -> None:
        for aim in ("/fast/corrow", "/fast/corrow/source_cache/../../..", "/FAST/corrow/source_cache", "//host/share"):
            with self.subTest(aim):
                receipt = self.move(digest(aim.encode())[:8], to=aim)
                self.assertEqual(receipt.outcome, "refused")
                self.assertIn("may only lie in /fast/corrow/source_cache", receipt.message)
        self.assertEqual(self.bench.path.read_bytes(), BEFORE)

    def test_a_folder_that_holds_something_else_is_not_taken(self) -> None:
        taken = self.bench.real("/fast/corrow/source_cache")
        taken.mkdir(parents=True)
        (taken / "a.pk").write_bytes(b"others")
        receipt = self.move()
        self.assertEqual((receipt.outcome, self.bench.path.read_bytes()), ("failed", BEFORE))
        self.assertIn("a.pk is not the same", receipt.message)

    def test_what_is_more_than_a_store_is_not_moved(self) -> None:
        self.bench.real = lambda path: self.bench.root if path == "/home/c" else Path("/nowhere") / path[1:]  # type: ignore[method-assign]
        self.assertIn("more than a store", self.move().message)

    def test_a_folder_that_is_a_link_is_not_moved(self) -> None:
        elsewhere = self.old.rename(self.old.with_name("elsewhere"))
        self.old.symlink_to(elsewhere)
        self.assertIn("is a link", self.move(remove_old=True).message)
        self.assertTrue((elsewhere / "a.pk").exists())

    def test_links_lead_nothing_away(self) -> None:
        (self.old / "out.pk").symlink_to("/etc/hostname")
        self.move(remove_old=True)
        self.assertNotIn("out.pk", self.content("/fast/corrow/source_cache"))
        self.assertTrue((self.old / "out.pk").is_symlink())

    def test_an_old_folder_that_stays_for_its_links_is_told(self) -> None:
        (self.old / "out.pk").symlink_to("/etc/hostname")
        message = self.move(remove_old=True).message
        self.assertIn("the old folder remains: it contains links", message)
        self.assertNotIn("was removed", message)

    def test_a_move_that_was_cut_off_begins_anew_and_leaves_nothing(self) -> None:
        beside = self.bench.real("/fast/corrow/.source_cache.normant-m1")
        beside.mkdir(parents=True)
        (beside / "half").write_bytes(b"?")
        self.assertEqual(self.move().outcome, "done")
        self.assertEqual([p.name for p in self.bench.real("/fast/corrow").iterdir()], ["source_cache"])


class Drivers(Case):
    def setUp(self) -> None:
        super().setUp()
        self.bench.answers = ["agreed", "agreed", "agreed"]
        self.new, self.old = (digest(version) for version in (b"31.4.2", b"32.0.1"))
        self.bench.held = {self.new: b"31.4.2", self.old: b"32.0.1"}

    def action(self, **how: Any) -> InstallDriver:
        return InstallDriver("gpu0", "32.0.1", "31.4.2", self.new, 6, **{"older": self.old, **how})

    def through(self, action: Any, number: str = "d1") -> Any:
        """Until the machine has started again."""
        with self.assertRaisesRegex(Waiting, "restarts"):
            self.run_order(action, number)
        return self.run_order(action, number)

    def test_it_is_fetched_verified_installed_started_again_and_read_back(self) -> None:
        self.assertEqual(self.through(self.action()).outcome, "done")
        self.assertEqual((self.bench.driver, self.bench.installed), ("31.4.2", ["31.4.2"]))
        self.assertEqual(self.bench.steps[:4], ["checking", "saving", "applying", "restart"])

    def test_a_host_that_cannot_is_asked_before_anything_is_fetched(self) -> None:
        self.bench.no_driver = "this machine takes no drivers"
        self.assertIn("takes no drivers", self.run_order(self.action()).message)
        self.assertEqual((self.bench.fetched, self.bench.asked, self.bench.installed), ([], [], []))

    def test_the_older_one_is_at_hand_also_when_the_house_is_away(self) -> None:
        self.through(self.action())
        self.bench.held = {}
        self.assertEqual(self.through(PutBack("d1"), "b1").outcome, "done")
        self.assertEqual(self.bench.driver, "32.0.1")

    def test_where_the_house_holds_no_older_one_a_person_is_needed(self) -> None:
        self.through(self.action(older=""))
        self.assertIn("install it manually", self.run_order(PutBack("d1"), "b1").message)

    def test_what_is_not_what_was_named_is_not_installed(self) -> None:
        self.bench.held[self.new] = b"something else"
        receipt = self.run_order(self.action(), "d1")
        self.assertEqual((receipt.outcome, self.bench.installed), ("failed", []))

    def test_another_driver_than_the_plan_saw_stays(self) -> None:
        self.bench.driver = "30.1"
        self.assertIn(
            "the driver has changed since the plan was made: the plan has 32.0.1, the seat 30.1",
            self.run_order(self.action(), "d1").message,
        )

    def test_it_waits_for_leave_to_start_again_and_is_installed_once(self) -> None:
        self.bench.answers = []
        for _ in range(3):
            with self.assertRaisesRegex(Waiting, "waiting for an answer"):
                self.run_order(self.action(), "d1")
        self.assertEqual((self.bench.installed, self.bench.boots), (["31.4.2"], 0))

    def test_once_installed_it_is_on_its_way_and_no_more_waiting(self) -> None:
        self.bench.answers = []
        with self.assertRaises(Waiting) as waiting:
            self.run_order(self.action(), "d1")
        self.assertEqual(waiting.exception.step, "restart")


class Rehearsals(Case):
    def setUp(self) -> None:
        super().setUp()
        self.bench.system["power.profile", ""] = "balanced"
        to = "/fast/corrow/source_cache"
        self.actions = (
            SetPowerProfile("balanced", "performance"),
            SetPreference("corrow", "preferences", CHANGES),
            MoveStore("corrow", "preferences", Change(STORE, "/home/c", to, to), "v1"),
            InstallDriver("gpu0", "32.0.1", "31.4.2", "a" * 64, 6),
        )

    def rehearsed(self) -> list[tuple[str, str]]:
        before = dict(self.bench.system)
        receipt = self.run_order(Rehearse(self.actions), "r1")
        self.assertEqual(receipt.outcome, "done")
        self.assertEqual((self.bench.path.read_bytes(), self.bench.open), (BEFORE, {"corrow"}))
        self.assertEqual((self.bench.system, self.bench.installed, self.bench.asked), (before, [], []))
        self.assertFalse(self.bench.real("/fast").exists())
        return [(result.setting, result.outcome) for result in receipt.results]

    def test_everything_is_looked_at_and_nothing_touched(self) -> None:
        self.assertEqual(
            self.rehearsed(),
            [
                ("power.profile", "would_do"),
                ("memory.held_back", "would_do"),
                ("memory.preview_pool", "would_do"),
                (STORE, "would_do"),
                ("driver.version", "would_do"),
            ],
        )

    def test_what_an_order_would_wait_for_or_refuse_is_told(self) -> None:
        self.bench.unsaved = True
        self.bench.system["power.profile", ""] = "performance"
        self.bench.driver = "30.0"
        self.assertEqual(
            self.rehearsed(),
            [
                ("power.profile", "holds_it"),
                ("memory.held_back", "waits"),
                ("memory.preview_pool", "waits"),
                (STORE, "waits"),
                ("driver.version", "refused"),
            ],
        )

    def test_without_room_for_the_copies_it_would_fail(self) -> None:
        self.bench.free = 100
        self.assertEqual({outcome for setting, outcome in self.rehearsed() if setting.startswith("memory")}, {"failed"})


class People(Case):
    def test_an_editor_is_asked_and_may_put_it_off_within_limits(self) -> None:
        self.bench.answers = ["later", "later", "later"]
        for _ in range(2):
            with self.assertRaisesRegex(Waiting, "postponed"):
                self.run_order(AskClose("corrow", "It leaks.", put_off=1))
        self.assertEqual([(q.text, q.may_put_off) for q in self.bench.asked], [("Close Corrow? It leaks.", True)])
        self.bench.clock += dt.timedelta(minutes=16)
        with self.assertRaisesRegex(Waiting, "waiting for an answer"):
            self.run_order(AskClose("corrow", "It leaks.", put_off=1))
        self.assertFalse(self.bench.asked[-1].may_put_off)
        self.assertEqual(self.bench.open, {"corrow"})

    def test_agreed_it_is_closed_and_stays_so(self) -> None:
        self.bench.answers = ["agreed"]
        self.assertEqual(self.run_order(AskClose("corrow")).message, "Corrow is closed")
        self.assertEqual(self.bench.open, set())

    def test_unsaved_work_is_never_closed(self) -> None:
        self.bench.answers, self.bench.unsaved = ["agreed"], True
        for action in (AskClose("corrow"), AskRestart()):
            with self.assertRaisesRegex(Waiting, "unsaved work"):
                self.run_order(action, type(action).__name__)
        self.assertEqual((self.bench.open, self.bench.asked), ({"corrow"}, []))

    def test_a_machine_starts_again_with_leave_and_the_order_ends_once_it_has(self) -> None:
        with self.assertRaisesRegex(Waiting, "waiting for an answer"):
            self.run_order(AskRestart("A driver was installed."))
        self.bench.answers = ["agreed"]
        with self.assertRaisesRegex(Waiting, "restarts"):
            self.run_order(AskRestart("A driver was installed."))
        self.assertEqual((self.run_order(AskRestart()).outcome, self.bench.boots), ("done", 1))
        self.assertIn("restart", self.bench.steps)

    def test_where_nobody_is_there_and_nothing_is_open_it_starts_again_by_itself_once(self) -> None:
        self.bench.open.clear()
        self.bench.restart = lambda: self.bench.steps.append("asked the system")  # type: ignore[method-assign]
        for _ in range(3):
            with self.assertRaisesRegex(Waiting, "restarts"):
                self.run_order(AskRestart())
        self.assertEqual(self.bench.steps.count("asked the system"), 1)
