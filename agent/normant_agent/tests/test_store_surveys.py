"""Stores are counted once a day, a little at a time."""

import datetime as dt
import os
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

from normant_agent import store_surveys
from normant_agent.care.holding import HELD
from normant_agent.store_surveys import StoreSurveys
from normant_core.seat.survey import ProductionShare, ProjectShare, Store

from .bench import NOW, Bench
from .test_clearing_plans import DIALECT, FOLDERS


class Counts(TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        self.bench.dialects = [DIALECT]
        text = "".join(f"<{name}>{folder}</{name}>" for name, folder in FOLDERS.items())
        self.bench.path.write_text(f"<settings><folders>{text}</folders></settings>", "utf-8")
        self.folder = self.bench.real(FOLDERS["cache"])
        for number in range(6):
            self.put(f"deep/{number}.pk", days=100 if number < 4 else 1)
        self.state = self.bench.root / "agent"
        self.state.mkdir(exist_ok=True)
        self.surveys = StoreSurveys(self.state)
        patcher = patch.object(store_surveys, "_step_back")  # this thread is the tests' own
        patcher.start()
        self.addCleanup(patcher.stop)

    def put(self, name: str, size: int = 10, days: float = 100) -> Path:
        path, used = self.folder / name, (NOW - dt.timedelta(days=days)).timestamp()
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(bytes(size))
        os.utime(path, (used, used))
        return path

    def cache(self, surveys: StoreSurveys | None = None) -> Store | None:
        known = (surveys or self.surveys).known()
        return next((store for store in known if store.path == FOLDERS["cache"]), None)

    def test_bytes_items_and_what_nobody_used(self) -> None:
        self.put("twice.pk", 7).with_name("again.pk").hardlink_to(self.folder / "twice.pk")
        self.put(f"{HELD}/c1/1", 500)
        self.surveys.go_on(self.bench.work(), 60)
        store = self.cache()
        assert store and store.oldest
        self.assertEqual((store.purpose, store.app, store.volume), ("source_cache", "corrow", "v1"))
        self.assertEqual((store.size, store.items, store.unused), (67, 8, 47))
        self.assertEqual((NOW - store.oldest).days, 100)
        self.assertEqual(
            [(s.days, s.size) for s in store.unused_for], [(7, 47), (30, 47), (60, 47), (90, 47), (180, 0)]
        )
        self.assertEqual({known.purpose for known in self.surveys.known()}, {"source_cache", "renders", "exports"})

    def test_what_is_whose_production_by_the_paths_that_its_dialect_tells(self) -> None:
        self.folder = self.bench.real(FOLDERS["renders"])
        for name, size in (("salt_ledger/one/a.mkv", 30), ("salt_ledger/two/b.mkv", 20), ("mill/one/c.mkv", 9)):
            self.put(name, size)
        self.put("loose.mkv", 500)
        with patch.object(store_surveys, "MOST_PRODUCTIONS", 1), patch.object(store_surveys, "MOST_PROJECTS", 2):
            self.surveys.go_on(self.bench.work(), 60)
        shares = {store.purpose: store.productions for store in self.surveys.known()}
        self.assertEqual(shares["renders"], (ProductionShare("salt_ledger", 50),))
        self.assertEqual(shares["source_cache"], ())
        projects = {store.purpose: store.projects for store in self.surveys.known()}
        self.assertEqual(
            projects["renders"], (ProjectShare("salt_ledger", "one", 30), ProjectShare("salt_ledger", "two", 20))
        )
        self.assertEqual(projects["source_cache"], ())

    def test_a_walk_goes_on_where_it_was_and_tells_nothing_before_its_end(self) -> None:
        self.surveys.go_on(self.bench.work(), 60)
        self.bench.clock += dt.timedelta(days=2)
        for number in range(30):
            self.put(f"more/{number}.pk")
        with (
            patch.object(store_surveys, "LOOK", 1),
            patch("normant_agent.store_surveys.time.monotonic", side_effect=_ticks()),
        ):
            self.surveys.go_on(self.bench.work(), 3)
            store = self.cache()
            assert store
            self.assertEqual(store.items, 6)
            for _ in range(40):
                self.surveys.go_on(self.bench.work(), 3)
        store = self.cache()
        assert store
        self.assertEqual((store.items, store.size), (36, 360))

    def test_once_a_day_and_what_was_counted_outlives_the_agent(self) -> None:
        self.surveys.go_on(self.bench.work(), 60)
        self.put("new.pk")
        self.surveys.go_on(self.bench.work(), 60)
        again = StoreSurveys(self.state)
        for surveys in (self.surveys, again):
            store = self.cache(surveys)
            assert store
            self.assertEqual(store.items, 6)
        self.bench.clock += dt.timedelta(days=1, minutes=1)
        again.go_on(self.bench.work(), 60)
        store = self.cache(again)
        assert store
        self.assertEqual(store.items, 7)
        (self.state / "stores.json").write_bytes(b"{")
        self.assertEqual(StoreSurveys(self.state).known(), ())

    def test_a_store_that_no_preference_names_any_more_is_not_told(self) -> None:
        self.surveys.go_on(self.bench.work(), 60)
        text = self.bench.path.read_text("utf-8").replace(FOLDERS["cache"], "/fast/corrow/other")
        self.bench.path.write_text(text, "utf-8")
        self.surveys.go_on(self.bench.work(), 60)
        self.assertIsNone(self.cache())
        self.assertIn("/fast/corrow/other", {store.path for store in self.surveys.known()})


def _ticks() -> Iterator[float]:
    """A clock on which each look is a second later."""
    now = 0.0
    while True:
        now += 1.0
        yield now
