"""What is on the disks of a simulated machine: stores, projects and exports are what the scenario says of them."""

import datetime as dt
import stat
import tempfile
import threading
from functools import partial
from pathlib import Path
from unittest import TestCase

import av
from hypothesis import given
from hypothesis import strategies as st

from normant_core.care.project_file import read_project
from normant_core.care.projects import CheckedProject, MediaFile, check_project
from normant_core.dialects.dialect import parse_dialect
from normant_core.seat.facts import Facts, Volume
from normant_core.seat.survey import Activity, ProductionShare, Store
from normant_core.tests.waiting import until
from normant_standin import scenario
from normant_standin.exporting import FRAMES, HEIGHT, WIDTH, write_export
from normant_standin.host import StandInHost
from normant_standin.machine import GRAIN, Machine
from normant_standin.projects import DESK, ProjectText, write_project
from normant_standin.scenario import HardwareClass, Scenario, SeatText, StoreFiles

DEMO = Path(__file__).parents[3] / "demo" / "brinehouse"
CORROW = parse_dialect((DEMO / "dialects" / "corrow.dialect.toml").read_text("utf-8"))
COUNTS = st.integers(0, 6)
# Each item that is there `twice` is another one of a file that is used.
PROJECTS = st.builds(
    partial(ProjectText, "/p/one.corrow", "/media", 6, size=10),
    twice=COUNTS, missing=COUNTS, at_desk=COUNTS, unused=COUNTS, odd=COUNTS,
)  # fmt: skip
GRAINS = st.integers(0, 3000)


class OnDisks(TestCase):
    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)


def checked(disks: Path, text: ProjectText) -> CheckedProject:
    """The project as an agent checks it."""

    def look(path: str) -> MediaFile | None:
        file = disks / path.lstrip("/")
        if not file.exists():
            return None
        status = file.stat()
        return MediaFile(status.st_size, (status.st_dev, status.st_ino), system=path.startswith(DESK))

    with (disks / text.path.lstrip("/")).open("rb") as file:
        return check_project(read_project(file, text.path, CORROW.project[0]), look)


class Projects(TestCase):
    @given(PROJECTS)
    def test_a_check_finds_exactly_the_disorder_that_the_scenario_asks_for(self, text: ProjectText) -> None:
        with tempfile.TemporaryDirectory() as disks:
            write_project(Path(disks), text)
            result = checked(Path(disks), text)
        shown = text.used + text.missing + text.at_desk + text.odd
        self.assertEqual((result.used, result.items), (shown, shown + text.twice + text.unused))
        self.assertEqual((result.missing, result.duplicates), (text.missing, text.twice))
        files = text.used + text.at_desk + text.unused + text.odd
        self.assertEqual((result.size, result.unused), (10 * files, 10 * text.unused))
        troubles = {trouble.trouble for trouble in result.troubles}
        self.assertEqual("misplaced" in troubles, bool(text.at_desk))
        self.assertEqual("missing" in troubles, bool(text.missing))


class Files(OnDisks):
    def build(self, *files: StoreFiles, stores: tuple[Store, ...] = ()) -> StandInHost:
        volumes = (Volume("v0", "/", free=10**12, system=True), Volume("v1", "/fast", free=10**12))
        known = Scenario({"plain": HardwareClass(Facts(volumes=volumes), {})}, ())
        seat = SeatText("one", "plain", (), files=files, stores=stores)
        scenario.build(known, seat, self.folder, templates=DEMO / "preferences")
        return StandInHost(self.folder)

    def test_a_link_and_locked_files_are_what_they_are_called(self) -> None:
        renders = StoreFiles("renders", "corrow", "v1", "/fast/renders", "reel/one", 3, 9 * GRAIN, 80, locked=True)
        linked = StoreFiles("renders", "corrow", "v1", "/fast/renders", "reel/two", 0, 0, 0, leads_to="/fast/kept")
        host = self.build(renders, linked)
        files = sorted(host.real("/fast/renders/reel/one").iterdir())
        self.assertEqual([stat.S_IMODE(file.stat().st_mode) for file in files], [0o444] * 3)
        self.assertTrue(host.real("/fast/renders/reel/two").is_symlink())
        [store] = Machine.load(self.folder).stores
        self.assertEqual((store.size, store.items, store.unused), (9 * GRAIN, 3, 9 * GRAIN))
        self.assertEqual(store.productions, (ProductionShare("reel", 9 * GRAIN),))

    def test_the_ages_of_files_are_those_that_a_survey_tells(self) -> None:
        files = [
            StoreFiles("renders", "corrow", "v1", "/fast/renders", f"reel/{days}", 2, 4 * GRAIN, days)
            for days in (3, 40, 200)
        ]
        [store] = self.build(*files).see(()).stores
        self.assertEqual(
            {share.days: share.size // GRAIN for share in store.unused_for}, {7: 8, 30: 8, 60: 4, 90: 4, 180: 4}
        )

    def test_a_spoiled_export_differs_from_its_clip_in_one_place_only(self) -> None:
        clip = min((DEMO / "clips").glob("*.m*"), key=lambda path: path.stat().st_size).name
        known = Scenario({"plain": HardwareClass(Facts(volumes=()), {})}, ())
        exports = (scenario.Export("/out/good.mkv", clip), scenario.Export("/out/bad.mkv", clip, spoiled=0.5))
        seat = SeatText("one", "plain", (), exports=exports)
        scenario.build(known, seat, self.folder, templates=DEMO / "preferences")
        good, bad = ((self.folder / "disks/out" / name).read_bytes() for name in ("good.mkv", "bad.mkv"))
        self.assertEqual(good, (DEMO / "clips" / clip).read_bytes())
        half = len(good) // 2
        self.assertEqual((len(bad), bad[:half]), (len(good), good[:half]))
        self.assertNotEqual(bad, good)
        self.assertEqual(bad[half + scenario.SPOILED :], good[half + scenario.SPOILED :])


class Freed(TestCase):
    @given(st.lists(st.tuples(st.sampled_from(["reel", "pilot", ""]), GRAINS), max_size=8), GRAINS, GRAINS, GRAINS)
    def test_what_is_removed_becomes_free_and_nothing_falls_below_zero(
        self, removed: list[tuple[str, int]], reel: int, pilot: int, unused: int
    ) -> None:
        whole = reel + pilot
        store = Store(
            "renders", "/fast/renders", "corrow", "v1", size=whole, items=10, unused=min(unused, whole),
            productions=(ProductionShare("reel", reel), ProductionShare("pilot", pilot)),
        )  # fmt: skip
        other = Store("backups", "/fast/backups", "corrow", "v1", size=5, items=1)
        facts = Facts(volumes=(Volume("v1", "/fast", free=100), Volume("v2", "/slow", free=7)))
        machine = Machine(facts, "balanced", [], (store, other), Activity())
        for production, size in removed:
            machine.frees(machine.stores[0], size, production)
        left, untouched = machine.stores
        together = sum(size for _, size in removed)
        self.assertEqual(left.size, max(0, whole - together) if whole else 0)
        self.assertGreaterEqual(min(left.items or 0, left.unused or 0, *(s.size for s in left.productions)), 0)
        self.assertLessEqual(left.items or 0, 10)
        self.assertEqual([v.free for v in machine.facts.volumes or ()], [100 + together, 7])
        self.assertEqual(untouched, other)


class Exports(OnDisks):
    def test_an_export_is_a_second_of_picture(self) -> None:
        path = self.folder / "reel.mkv"
        write_export(path, 0)
        with av.open(str(path)) as container:
            frames = [frame.to_ndarray(format="rgb24") for frame in container.decode(video=0)]
        self.assertEqual(len(frames), FRAMES)
        self.assertEqual(frames[0].shape, (HEIGHT, WIDTH, 3))
        self.assertFalse((frames[0] == frames[-1]).all())  # the bar wanders
        self.assertEqual([path.name for path in self.folder.iterdir()], ["reel.mkv"])

    def test_its_bytes_come_bit_by_bit(self) -> None:
        path, sizes = self.folder / "reel.mkv", set[int]()
        writing = threading.Thread(target=write_export, args=(path, 2))
        writing.start()

        def written() -> bool:
            sizes.add(path.stat().st_size if path.exists() else 0)
            return not writing.is_alive()

        until(written)
        self.assertGreater(len(sizes), 3)
        self.assertEqual(max(sizes), path.stat().st_size)


class Clock(OnDisks):
    def test_it_stands_where_it_stopped_and_is_behind_from_there(self) -> None:
        stopped = dt.datetime(2028, 2, 29, 23, 59, 59, tzinfo=dt.UTC)
        machine = Machine(Facts(), "balanced", [], (), Activity(), clock_behind_seconds=60, clock_stands_at=stopped)
        machine.save(self.folder)
        self.assertEqual(StandInHost(self.folder).now(), stopped - dt.timedelta(minutes=1))
