"""Plans of clearing on a seat: looked through, signed by digest, held for a day, put back, or let go."""

import dataclasses
import datetime as dt
import json
import os
from pathlib import Path
from typing import Any
from unittest import TestCase

import msgspec

from normant_agent.care.holding import HELD
from normant_agent.orders.clear_planned import let_go_of_held
from normant_agent.orders.runner import Runner
from normant_core.care.deliveries import DeliveredProject, ProjectOfProduction
from normant_core.dialects.dialect import parse_dialect
from normant_core.orders.clearing import Ended, PlannedStore, StoreAim
from normant_core.orders.kinds import ClearPlanned, PlanClearing, PutBack, Receipt, SendList
from normant_core.seat.facts import Facts, Volume

from .bench import NOW, TEXT, Bench, Died, order

STORES = """
[[file.binding]]
setting = "store.renders.path"
at = "/settings/folders/renders"
kind = "path"

[[file.binding]]
setting = "store.exports.path"
at = "/settings/folders/exports"
kind = "path"

[[store]]
kind = "source_cache"
setting = "store.source_cache.path"
leave = ["*.db"]

[[store]]
kind = "renders"
setting = "store.renders.path"
belongs = "^(?P<production>[^/]+)/(?P<project>[^/]+)/"

[[store]]
kind = "temporary"
setting = "store.exports.path"
only = '[.]part$'
"""
BINDINGS, _, TOLD = STORES.partition("[[store]]")
FIRST, SECOND, *REST = TEXT.split("[[file]]")  # the file of the preferences comes first, templates after it
DIALECT = parse_dialect("[[file]]".join((FIRST, SECOND + BINDINGS, *REST)) + "\n[[store]]" + TOLD)
FOLDERS = {"cache": "/fast/corrow/cache", "renders": "/fast/corrow/renders", "exports": "/fast/corrow/exports"}
ENDED = (Ended("Salt Ledger", NOW - dt.timedelta(days=200)),)
DELIVERIES = (DeliveredProject("Salt Ledger", "one", "corrow"),)


NO_ROOM = Facts(volumes=(Volume("v1", "/fast", capacity=10**9, free=10**7),))


class Case(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        self.bench.dialects = [DIALECT]
        text = "".join(f"<{name}>{folder}</{name}>" for name, folder in FOLDERS.items())
        self.bench.path.write_text(f"<settings><folders>{text}</folders></settings>", "utf-8")
        self.numbers = iter(range(1000))
        for folder in FOLDERS.values():
            self.bench.real(folder).mkdir(parents=True)

    def put(self, name: str, size: int = 10, days: float = 100, store: str = "cache") -> Path:
        path = self.bench.real(FOLDERS[store]) / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(bytes(size))
        used = (self.bench.clock - dt.timedelta(days=days)).timestamp()
        os.utime(path, (used, used))
        return path

    def run_order(self, action: Any, number: str = "") -> Receipt:
        return self.bench.runner().run(order(action, number or f"o{next(self.numbers)}"))

    def planned(self, *aims: StoreAim, number: str = "p1", **how: Any) -> tuple[PlannedStore, ...]:
        action = PlanClearing(aims or (StoreAim("corrow", "source_cache"),), self.bench.clock, **how)
        receipt = self.run_order(action, number)
        self.assertEqual(receipt.outcome, "done", receipt)
        return receipt.planned

    def clear(self, store: PlannedStore, plan: str = "p1", number: str = "c1", **how: Any) -> Receipt:
        kind: Any = store.kind
        action = ClearPlanned(plan, store.app, kind, store.folder, store.digest, **how)
        return self.run_order(action, number)

    def left(self, store: str = "cache") -> set[str]:
        folder = self.bench.real(FOLDERS[store])
        return {path.relative_to(folder).as_posix() for path in folder.rglob("*") if path.is_file()}


class Plans(Case):
    def test_what_may_go_is_listed_and_what_stays_is_told_by_its_reason(self) -> None:
        self.put("a.pk")
        self.put("new.pk", days=3)
        self.put("index.db")
        self.put("twice.pk").with_name("again.pk").hardlink_to(self.bench.real(FOLDERS["cache"]) / "twice.pk")
        (self.bench.real(FOLDERS["cache"]) / "out").symlink_to(self.bench.preference_root)
        with self.put("open.pk").open("rb"):
            [store] = self.planned()
        self.assertEqual((store.items, store.going, store.going_size, store.trouble), (7, 1, 10, ""))
        whys = {reason.why: reason.items for reason in store.reasons}
        self.assertEqual(
            whys,
            {
                "used within 60 days": 1,
                "kept by the application next to its files": 1,
                "has another hard link: deleting it would free nothing": 2,
                "a link, never followed": 1,
                "open in a program": 1,
            },
        )
        self.assertEqual((store.volume, store.at_once, len(self.left())), ("v1", False, 6))

    def test_renders_go_of_delivered_projects_whose_production_ended(self) -> None:
        for name in ("salt_ledger/one/a.mkv", "salt_ledger/two/a.mkv", "lamps/one/a.mkv", "loose.mkv"):
            self.put(name, store="renders")
        [store] = self.planned(StoreAim("corrow", "renders"), ended=ENDED, deliveries=DELIVERIES)
        self.assertEqual((store.going, store.productions), (1, ("salt_ledger",)))
        self.assertEqual(store.rests_on, (ProjectOfProduction("Salt Ledger", "one"),))
        whys = {reason.why for reason in store.reasons}
        self.assertIn("two has no delivered export", whys)
        self.assertIn("its production lamps has not been marked as ended", whys)
        ended = (Ended("Salt Ledger", self.bench.clock - dt.timedelta(days=10)),)
        [store] = self.planned(StoreAim("corrow", "renders"), ended=ended, deliveries=DELIVERIES, number="p2")
        self.assertIn("its production salt_ledger ended within 60 days", {reason.why for reason in store.reasons})

    def test_a_delivery_of_one_production_keeps_the_same_name_of_another(self) -> None:
        self.put("harbour/one/a.mkv", store="renders")
        self.put("salt_ledger/one/a.mkv", store="renders")
        both = (*ENDED, Ended("Harbour", ENDED[0].at))
        [store] = self.planned(StoreAim("corrow", "renders"), ended=both, deliveries=DELIVERIES)
        self.clear(store)
        self.assertEqual({name for name in self.left("renders") if "held" not in name}, {"harbour/one/a.mkv"})

    def test_deliveries_of_another_application_and_names_of_projects_alone_release_nothing(self) -> None:
        self.put("salt_ledger/one/a.mkv", store="renders")
        others = tuple(msgspec.structs.replace(row, app="tamsel") for row in DELIVERIES)
        cases: list[dict[str, Any]] = [{"deliveries": others}, {"delivered": ("one",)}]
        for number, how in enumerate(cases):
            [store] = self.planned(StoreAim("corrow", "renders"), ended=ENDED, number=f"p{number}", **how)
            self.assertEqual(store.going, 0)

    def test_of_exports_only_what_is_temporary(self) -> None:
        self.put("film.mkv", store="exports")
        self.put("film.mkv.part", store="exports")
        [store] = self.planned(StoreAim("corrow", "temporary"))
        self.assertEqual((store.items, store.going), (1, 1))
        [store] = self.planned(StoreAim("corrow", "exports"), number="p2")
        self.assertEqual((store.digest, store.trouble), ("", "exports are never deleted"))

    def test_a_store_within_another_stays_and_one_that_is_two_is_refused(self) -> None:
        text = self.bench.path.read_text("utf-8").replace(FOLDERS["renders"], FOLDERS["cache"] + "/renders")
        self.bench.path.write_text(text, "utf-8")
        self.put("renders/x.mkv")
        self.put("a.pk")
        [store] = self.planned()
        self.assertEqual(store.going, 1)
        self.assertEqual([r.why for r in store.reasons], ["belongs to another store that lies in this one"])
        self.bench.path.write_text(text.replace("/cache/renders", "/cache"), "utf-8")
        [store] = self.planned(number="p2")
        self.assertIn("is the renders of corrow as well", store.trouble)

    def test_a_target_is_reached_with_what_costs_least_first(self) -> None:
        self.bench.facts = Facts(volumes=(Volume("v1", "/fast", capacity=1000, free=985),))
        for name in ("salt_ledger/one/a.mkv", "salt_ledger/one/b.mkv"):
            self.put(name, days=300, store="renders")
        self.put("a.pk", days=90)
        aims = StoreAim("corrow", "renders"), StoreAim("corrow", "source_cache")
        cache, renders = self.planned(*aims, ended=ENDED, deliveries=DELIVERIES, free=1000)
        self.assertEqual((cache.kind, cache.going, renders.going), ("source_cache", 1, 1))
        [cache] = self.planned(StoreAim("corrow", "source_cache", quota=4), number="p2")
        self.assertEqual(cache.going, 1)
        [cache] = self.planned(StoreAim("corrow", "source_cache", quota=10), number="p3")
        self.assertEqual(cache.going, 0)

    def test_no_more_goes_at_once_than_may_of_all_stores_together(self) -> None:
        for name in ("salt_ledger/one/a.mkv", "salt_ledger/one/b.mkv"):
            self.put(name, days=300, store="renders")
        self.put("a.pk", days=90)
        aims = StoreAim("corrow", "renders"), StoreAim("corrow", "source_cache")
        cache, renders = self.planned(*aims, ended=ENDED, deliveries=DELIVERIES, most=25)
        self.assertEqual((cache.going_size, renders.going_size), (10, 10))
        self.assertIn("limit for one run reached", [reason.why for reason in renders.reasons])

    def test_a_clock_that_is_off_is_refused(self) -> None:
        for hours in (-1, 3):
            as_of = self.bench.clock - dt.timedelta(hours=hours)
            receipt = self.run_order(PlanClearing((StoreAim("corrow", "source_cache"),), as_of))
            self.assertEqual(receipt.outcome, "refused")
            self.assertIn("clock", receipt.message)

    def test_what_no_dialect_tells_of_and_what_the_application_clears_itself_stays(self) -> None:
        [store] = self.planned(StoreAim("corrow", "backups"))
        self.assertIn("does not tell what its backups are", store.trouble)
        by_app = msgspec.structs.replace(DIALECT.store[0], cleared_by="application")
        self.bench.dialects = [msgspec.structs.replace(DIALECT, store=(by_app,))]
        [store] = self.planned(number="p2")
        self.assertIn("the application must clean them up", store.trouble)

    def test_the_systems_temporary_folder(self) -> None:
        folder = self.bench.real(self.bench.system_folder("temporary"))
        folder.mkdir(parents=True)
        (folder / "x").write_bytes(b"x")
        os.utime(folder / "x", (1, 1))
        [store] = self.planned(StoreAim("", "temporary"))
        self.assertEqual(store.going, 1)
        self.assertEqual(self.clear(store).cleared and self.left(), set())

    def test_a_list_is_handed_in_by_parts(self) -> None:
        parts = list[bytes]()
        self.put("a.pk")
        os.rename(self.put("b.pk"), os.fsencode(self.bench.real(FOLDERS["cache"])) + b"/\xff\nb.pk")  # noqa: PTH104
        [store] = self.planned()
        work = handing_in(self.bench, parts)
        receipt = Runner(work).run(order(SendList("p1", store.digest), "s1"))
        self.assertEqual((receipt.outcome, receipt.message), ("done", "1 parts"))
        paths = [json.loads(line)["path"] for line in b"".join(parts).splitlines()]
        self.assertEqual({*paths}, {"a.pk", "\udcff\nb.pk"})


def handing_in(bench: Bench, parts: list[bytes]) -> Any:
    """The bench's work, whose house takes parts of lists."""
    work = bench.work()
    return dataclasses.replace(work, hand_in=lambda order, number, piece: parts.append(piece))


class Clears(Case):
    def setUp(self) -> None:
        super().setUp()
        for number in range(3):
            self.put(f"deep/{number}.pk", 10 + number)
        [self.store] = self.planned()

    def test_what_was_signed_is_held_for_a_day_and_then_gone(self) -> None:
        receipt = self.clear(self.store)
        assert receipt.cleared and receipt.cleared.held_until
        self.assertEqual((receipt.cleared.items, receipt.cleared.size), (3, 33))
        self.assertEqual({name.split("/")[0] for name in self.left()}, {HELD})
        let_go_of_held(self.bench, self.bench.journal)
        self.assertEqual(len(self.left()), 3)
        self.assertEqual(self.planned(number="p2")[0].items, 0)
        self.bench.clock = receipt.cleared.held_until + dt.timedelta(minutes=1)
        let_go_of_held(self.bench, self.bench.journal)
        self.assertEqual(self.left(), set())
        self.assertFalse((self.bench.real(FOLDERS["cache"]) / HELD).exists())
        self.bench.clock = NOW
        self.assertIn("does not come back", self.run_order(PutBack("c1")).message)

    def test_put_back_to_where_it_lay_and_never_over_another(self) -> None:
        self.clear(self.store)
        (self.bench.real(FOLDERS["cache"]) / "deep").rmdir()
        self.put("deep/1.pk", 99)
        receipt = self.run_order(PutBack("c1"))
        self.assertEqual(receipt.outcome, "failed")
        self.assertIn("1.pk is there again", receipt.message)
        self.assertEqual({p for p in self.left() if p.startswith("deep")}, {"deep/0.pk", "deep/1.pk", "deep/2.pk"})
        (self.bench.real(FOLDERS["cache"]) / "deep/1.pk").unlink()
        self.assertEqual(self.run_order(PutBack("c1"), "b2").outcome, "done")
        self.assertEqual(self.left(), {"deep/0.pk", "deep/1.pk", "deep/2.pk"})

    def test_what_is_begun_is_ended_where_it_was_and_what_is_given_up_goes_back(self) -> None:
        self.bench.at["applying"] = lambda: (_ for _ in ()).throw(Died())
        with self.assertRaises(Died):
            self.clear(self.store)
        text = self.bench.path.read_text("utf-8").replace(FOLDERS["cache"], "/fast/corrow/elsewhere")
        self.bench.path.write_text(text, "utf-8")  # somebody lets the store lie elsewhere meanwhile
        receipt = self.clear(self.store)
        assert receipt.cleared
        self.assertEqual((receipt.cleared.items, len(self.left())), (3, 3))
        entry = self.bench.journal.get("c1")
        assert entry
        given_up = msgspec.structs.replace(entry, cleared=None, receipt=Receipt("c1", "failed"))
        self.bench.journal.put(given_up)
        let_go_of_held(self.bench, self.bench.journal)
        self.assertEqual(self.left(), {"deep/0.pk", "deep/1.pk", "deep/2.pk"})
        self.assertEqual(self.bench.journal.holding(), [])

    def test_what_is_to_be_held_goes_at_once_for_nobody(self) -> None:
        receipt = self.clear(self.store, at_once=True)
        self.assertEqual((receipt.outcome, len(self.left())), ("refused", 3))
        self.assertIn("has no such list", receipt.message)
        receipt = self.clear(msgspec.structs.replace(self.store, folder=FOLDERS["exports"]), number="c2")
        self.assertEqual((receipt.outcome, len(self.left())), ("refused", 3))

    def test_at_once_where_there_is_no_room(self) -> None:
        self.bench.facts = NO_ROOM
        [store] = self.planned(number="p2")
        receipt = self.clear(store, "p2", at_once=True)
        assert receipt.cleared
        self.assertEqual((receipt.cleared.items, receipt.cleared.held_until, self.left()), (3, None, set()))
        self.assertIn("removed", receipt.message)

    def test_what_changed_since_stays_and_is_told(self) -> None:
        folder = self.bench.real(FOLDERS["cache"]) / "deep"
        self.put("deep/0.pk", 10, days=0)
        (folder / "1.pk").unlink()
        (folder / "1.pk").symlink_to(self.bench.path)
        again = folder / "2.pk"
        times = again.stat()
        again.rename(folder / "other")
        again.write_bytes(bytes(12))
        os.utime(again, ns=(times.st_atime_ns, times.st_mtime_ns))  # another file with the same size and times
        receipt = self.clear(self.store)
        assert receipt.cleared
        self.assertEqual(receipt.cleared.items, 0)
        self.assertEqual(sum(reason.items for reason in receipt.cleared.reasons), 3)
        self.assertEqual(self.left(), {"deep/0.pk", "deep/1.pk", "deep/2.pk", "deep/other"})

    def test_another_list_than_the_signed_one_moves_nothing(self) -> None:
        path = self.bench.journal.list_of("p1", self.store.digest)
        path.write_text(path.read_text("ascii").replace("0.pk", "../../x"), "ascii")
        receipt = self.clear(self.store)
        self.assertEqual((receipt.outcome, len(self.left())), ("failed", 3))
        self.assertIn("differs from the signed one", receipt.message)
        self.assertEqual(self.clear(self.store, "p9", "c2").outcome, "refused")
        self.assertEqual(self.bench.open, {"corrow"})

    def test_killed_at_any_moment_it_ends_with_each_item_gone_once(self) -> None:
        for at_once in (False, True):
            moment = 0
            while True:
                moment += 1
                case = Clears("test_put_back_to_where_it_lay_and_never_over_another")
                case.setUp()
                if at_once:
                    case.bench.facts = NO_ROOM
                    [case.store] = case.planned(number="p2")
                plan = "p2" if at_once else "p1"
                case.bench.moments, case.bench.dies_at = 0, moment
                died = False
                try:
                    case.clear(case.store, plan, at_once=at_once)
                except Died:
                    died = True
                case.bench.dies_at = 0
                receipt = case.clear(case.store, plan, at_once=at_once)
                assert receipt.cleared, receipt
                with self.subTest(at_once=at_once, moment=moment):
                    self.assertEqual((receipt.cleared.items, receipt.cleared.size), (3, 33))
                    self.assertEqual(len(case.left()), 0 if at_once else 3)
                    self.assertEqual(case.bench.open, {"corrow"})
                if not died:
                    break
            self.assertGreater(moment, 5)
