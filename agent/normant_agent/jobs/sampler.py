"""What the machine does during a run, twice a second: shares of what is busy, clocks, memory, disks.

What a system does not tell without a maker's own library has no column. Processes are looked up once: to look through
all of them twice a second would cost what is to be measured.
"""

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

import psutil

from normant_core.orders import samples as column
from normant_core.orders.samples import Samples, gathered

T = TypeVar("T")
EVERY = 0.5  # seconds
LONGEST = 6 * 3600  # seconds of one run
_REST = 2  # samples before the run
_CARDS = Path("/sys/class/drm")
_SPARE = 4096  # bytes that a figure of a system's own file has at most


class Taker:
    """Takes samples of this machine: the first call begins to count."""

    def __init__(self, apps: tuple[str, ...] = (), cards: Path = _CARDS) -> None:
        self._cards = _gpu_files(cards)
        self._apps = {app: _processes(app) for app in apps}
        self._before = self._counters()
        psutil.cpu_percent(None)

    def take(self) -> dict[str, float]:
        """Every figure that the system tells now; rates since the last call."""
        (then, earlier), self._before = self._before, self._counters()
        now, later = self._before
        seconds = max(now - then, 1e-3)
        rates = {name: max(0.0, later[name] - earlier[name]) / seconds for name in later if name in earlier}
        made = {column.PROCESSOR: psutil.cpu_percent(None) / 100, **rates}
        memory = psutil.virtual_memory()
        made[column.MEMORY] = float(memory.total - memory.available)
        if frequency := _quietly(psutil.cpu_freq):
            made[column.CLOCK] = float(frequency.current)
        if warmest := max(_temperatures(), default=None):
            made[column.TEMPERATURE] = warmest
        for name, (path, scale) in self._cards.items():
            if (figure := _figure(path)) is not None:
                made[name] = figure * scale
        for app, processes in self._apps.items():
            busy = [share for process in processes if (share := _busy(process)) is not None]
            if busy:
                made[f"{column.APP}{app}"] = sum(busy) / 100 / (psutil.cpu_count() or 1)
        return made

    def _counters(self) -> tuple[float, dict[str, float]]:
        counters = dict[str, float]()
        if disks := _quietly(psutil.disk_io_counters):
            counters[column.DISK_READ], counters[column.DISK_WRITE] = float(disks.read_bytes), float(disks.write_bytes)
        if (pages := _pages_in()) is not None:
            counters[column.PAGE_INS] = pages
        return time.monotonic(), counters


class Sampling:
    """The samples of a run; whole once its block has ended."""

    def __init__(self) -> None:
        self.taken = list[dict[str, float]]()
        self.rest = dict[str, float]()

    @property
    def samples(self) -> Samples:
        """As columns."""
        return gathered(self.taken, EVERY, self.rest)


@contextmanager
def sampling(take: Callable[[], dict[str, float]], every: float = EVERY) -> Iterator[Sampling]:
    """Take samples at rest, then in a thread beside what the block does, until it ends."""
    made, stop = Sampling(), threading.Event()
    at_rest = list[dict[str, float]]()
    for _ in range(_REST):
        time.sleep(every)
        at_rest.append(take())
    made.rest = {name: min(sample[name] for sample in at_rest if name in sample) for name in at_rest[-1]}

    def work() -> None:
        begun = time.monotonic()
        while not stop.wait(every) and time.monotonic() - begun < LONGEST:
            made.taken.append(take())

    thread = threading.Thread(target=work, name="sampler", daemon=True)
    thread.start()
    try:
        yield made
    finally:
        stop.set()
        thread.join()
        if not made.taken:
            made.taken.append(take())  # a run shorter than one distance


def _gpu_files(cards: Path) -> dict[str, tuple[Path, float]]:
    """Where Linux tells how busy a GPU is, in percent, and bytes of its memory that are used."""
    files = dict[str, tuple[Path, float]]()
    folders = sorted(path for path in cards.glob("card*") if path.name[4:].isdigit()) if cards.is_dir() else []
    for number, card in enumerate(folders):
        for name, file, scale in ((column.GPU, "gpu_busy_percent", 0.01), (column.GPU_MEMORY, "mem_info_vram_used", 1)):
            if (path := card / "device" / file).exists():
                files[f"{name}gpu{number}"] = (path, scale)
    return files


def _figure(path: Path) -> float | None:
    try:
        with path.open("rb") as file:
            return float(file.read(_SPARE))
    except (OSError, ValueError):
        return None


def _pages_in() -> float | None:
    """Pages fetched back from swap since the machine started; None where the system counts none."""
    try:
        with Path("/proc/vmstat").open(encoding="ascii") as file:
            return next((float(line.split()[1]) for line in file if line.startswith("pswpin ")), None)
    except OSError:
        return None


def _temperatures() -> Iterator[float]:
    sensors = getattr(psutil, "sensors_temperatures", dict)
    for heads in (_quietly(sensors) or {}).values():
        yield from (head.current for head in heads if 0 < head.current < 150)


def _processes(app: str) -> list[psutil.Process]:
    named = [process for process in psutil.process_iter(["name"]) if app in str(process.info["name"] or "").lower()]
    for process in named:
        _busy(process)  # the first answer counts from nothing
    return named


def _busy(process: psutil.Process) -> float | None:
    try:
        return float(process.cpu_percent(None))
    except psutil.Error:
        return None


def _quietly(ask: Callable[[], T]) -> T | None:
    """What a system tells, None where it does not."""
    try:
        return ask()
    except (OSError, RuntimeError, NotImplementedError, psutil.Error):
        return None
