"""A machine on a bench: real files in a folder, an application that may be open, busy, or clamp what it reads."""

import datetime as dt
import os
import tempfile
from collections.abc import Callable, Iterable, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from normant_agent.care.held_record import HeldFile, HeldRecord
from normant_agent.care.place import ItemPlace
from normant_agent.errors import HostError
from normant_agent.files import write_atomically
from normant_agent.hosts.host import Answer, Asked, Measured, Question, Seen
from normant_agent.jobs.sampler import Sampling, sampling
from normant_agent.journal import Journal
from normant_agent.orders.measuring.held import Holding
from normant_agent.orders.runner import Runner
from normant_agent.orders.work import Work
from normant_core.dialects.dialect import Dialect, parse_dialect
from normant_core.orders.kinds import Change, Order, Progress, SetPreference
from normant_core.orders.samples import Samples
from normant_core.seat.facts import Application, Facts, Volume
from normant_core.seat.survey import Activity, Reading

EXAMPLES = Path(__file__).resolve().parents[3] / "docs" / "examples"
TEXT = (EXAMPLES / "corrow.dialect.toml").read_text("utf-8")
DIALECT = parse_dialect(TEXT)
FILE = "corrow/8/preferences.xml"
BEFORE = (
    b"<settings>\r\n <render device='software'/>\r\n <memory><spare>1536</spare><!-- MiB --><preview>256</preview>"
    b"</memory>\r\n <folders><cache limit=''>/home/c</cache></folders>\r\n</settings>\r\n"
)
AFTER = BEFORE.replace(b"1536", b"6554").replace(b"256", b"13108")
CHANGES = (
    Change("memory.held_back", "1536", "6554", 6554 * 2**20),
    Change("memory.preview_pool", "256", "13108", 13108 * 2**20),
)
FACTS = Facts(
    volumes=(
        Volume("v0", "/", capacity=10**9, free=10**8, system=True, attached=True, writable=True),
        Volume("v1", "/fast", capacity=10**9, free=10**9, system=False, attached=True, writable=True),
    )
)
NOW = dt.datetime(2026, 3, 3, 7, 12, tzinfo=dt.UTC)


class Died(BaseException):
    """The end of the agent's process."""


class MortalJournal(Journal):
    """The agent's memory, whose process may end at each of its writes."""

    def __init__(self, folder: Path, bench: "Bench") -> None:
        self._bench = bench
        super().__init__(folder)

    def _write(self, path: Path, content: bytes) -> None:
        self._bench.live()
        super()._write(path, content)
        self._bench.live()

    def held_record(self, order: str) -> HeldRecord:
        record = super().held_record(order)
        return MortalRecord(record.path, bench=self._bench)

    def forget(self, order: str) -> None:
        self._bench.live()
        super().forget(order)

    def end_trial(self) -> None:
        self._bench.live()
        super().end_trial()


@dataclass(slots=True)
class MortalRecord(HeldRecord):
    """A record during whose lines the agent's process may end: before a line, and after it was written."""

    bench: "Bench | None" = None

    def add(self, held: HeldFile) -> None:
        assert self.bench
        self.bench.live()
        HeldRecord.add(self, held)
        self.bench.live()


class Bench:
    """The host; `clamp` rewrites the file's bytes when the application opens."""

    name, grain, tells_stores = "bench", 1, False

    def __init__(self, root: Path | None = None) -> None:
        self.root = root or Path(tempfile.mkdtemp(prefix="normant-bench-"))
        self.preference_root = self.root / "preferences"
        self.path = self.preference_root / FILE
        self.path.parent.mkdir(parents=True, exist_ok=True)
        if root is None:
            self.path.write_bytes(BEFORE)
        self.open, self.clock, self.boots = {"corrow"}, NOW, 0
        self.system = {("power.profile", ""): "balanced", ("power.process_priority", "corrow"): "normal"}
        self.driver, self.installed, self.held = "32.0.1", list[str](), dict[str, bytes]()
        self.asked: list[Question] = []
        self.fetched: list[str] = []
        self.answers: list[Answer] = []
        self.measured: list[tuple[Asked, bytes, str]] = []  # with the file and the power profile at that moment
        self.while_measuring: Callable[[Bench], object] = lambda _: None
        self.idle, self.unsaved, self.free = 5400, False, 10**6
        self.facts, self.dialects = FACTS, [DIALECT]
        self.meter: list[float] = []
        self.holding = Holding()  # of this process: another one knows nothing of it
        self.moments, self.dies_at = 0, 0
        self.on_battery, self.no_driver = False, ""
        self.removing: Callable[[Path], object] = lambda path: None
        self.clamp: tuple[bytes, bytes] | None = None
        self.steps: list[str] = []
        self.at: dict[str, Callable[[], object]] = {}  # what happens when a step is told, once

    def runner(self) -> Runner:
        """An agent that has just started."""
        return Runner(self.work())

    def work(self) -> Work:
        """What it works with."""
        return Work(self, self.journal, self._report, self.dialects, self.facts, self.fetch, holding=self.holding)

    @property
    def journal(self) -> Journal:
        """Its memory, as it is on the disk."""
        return MortalJournal(self.root / "agent", self)

    def live(self) -> None:
        """One moment more of the agent's process, which may be its last: the dead do nothing at all."""
        self.moments += 1
        if self.dies_at and self.moments >= self.dies_at:
            raise Died

    def fetch(self, what: str, sha256: str, path: Path, most: int) -> None:
        self.fetched.append(sha256)
        path.write_bytes(self.held[sha256])

    @property
    def profile(self) -> str:
        return self.system["power.profile", ""]

    @profile.setter
    def profile(self, profile: str) -> None:
        self.system["power.profile", ""] = profile

    def _report(self, order: str, progress: Progress) -> None:
        self.steps.append(progress.step)
        self.at.pop(progress.step, lambda: None)()

    def now(self) -> dt.datetime:
        return self.clock

    def see(self, dialects: Sequence[Dialect]) -> Seen:
        facts = Facts(applications=(Application("corrow", "8.3.1", running="corrow" in self.open),))
        return Seen(facts, (Reading("power.profile", self.system["power.profile", ""]),), (), ())

    def activity(self) -> Activity:
        return Activity(self.idle, False, self.unsaved, self.on_battery)

    def fingerprint(self, paths: Iterable[Path]) -> object:
        return tuple(path.stat().st_mtime_ns for path in paths if path.exists())

    def is_running(self, app: str) -> bool:
        return app in self.open

    def close(self, app: str) -> None:
        self.live()
        self.open.discard(app)

    def reopen(self, app: str) -> None:
        self.live()
        self.open.add(app)
        if self.clamp:
            self.path.write_bytes(self.path.read_bytes().replace(*self.clamp))

    def write(self, path: Path, content: bytes, *, mark: str) -> None:
        self.live()
        write_atomically(path, content, mark=mark)
        self.live()

    def system_value(self, setting: str, app: str) -> str:
        return self.system[setting, app]

    def set_system_value(self, setting: str, app: str, value: str) -> None:
        self.live()
        self.system[setting, app] = value
        self.live()

    def check_room(self, path: Path, size: int) -> None:
        if size > self.free:
            raise HostError(f"{size} bytes do not go beside {path.name}")

    def driver_version(self, gpu: str) -> str:
        return self.driver

    def check_driver(self, gpu: str) -> None:
        if self.no_driver:
            raise HostError(self.no_driver)

    def install_driver(self, gpu: str, package: Path) -> None:
        self.installed.append(package.read_bytes().decode())

    def size(self, path: Path, status: os.stat_result | None = None) -> int:
        return (status or path.stat()).st_size

    def system_folder(self, kind: str) -> str:
        return f"/system/{kind}"

    def remove(self, place: ItemPlace) -> None:
        self.live()
        self.removing(place.path)
        place.unlink()

    def measure(self, asked: Asked) -> Measured:
        self.live()
        self.while_measuring(self)
        self.measured.append((asked, self.path.read_bytes(), self.system["power.profile", ""]))
        if not self.meter:
            raise HostError("this seat has no meter")
        return Measured(self.meter.pop(0), Samples(0.5, {"processor": (0.5, 0.6)}))

    def sampling(self, apps: tuple[str, ...]) -> AbstractContextManager[Sampling]:
        return sampling(lambda: {"processor": 0.7}, every=0.01)

    def real(self, path: str) -> Path:
        return self.root / "disks" / path.lstrip("/")

    def ask(self, question: Question) -> Answer:
        self.asked.append(question)
        return self.answers.pop(0) if self.answers else ""

    def booted_at(self) -> str:
        return str(self.boots)

    def restart(self) -> None:
        self.boots += 1
        self.driver = self.installed[-1] if self.installed else self.driver
        self.open.clear()


def order(action: Any = None, number: str = "a1", *, hours: int = 1) -> Order:
    """An order of the house's; without an action, the two changes."""
    return Order(
        number, "pan-03", NOW + dt.timedelta(hours=hours), action or SetPreference("corrow", "preferences", CHANGES)
    )
