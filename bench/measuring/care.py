"""Looking through stores, and saying when they fill: beside what the system's own tool takes, and what really came."""

import datetime as dt
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import numpy.typing as npt

from normant_agent.care.walk import walk
from normant_core.care.forecast import Size, forecast
from normant_core.care.placement import PlacedStore, place
from normant_core.seat.facts import Volume
from normant_core.seat.stores import PURPOSES

from ..measure import Figure

FILES, FOLDERS = 1_000_000, 500
WALKED, MEMORY = 3.0, 100.0  # times `find`, and MB
SEATS, PLACED = 400, 50.0  # milliseconds
STORES, COVERED, WEEKDAYS, SEEN = 1_000, 0.90, 5, 14
GB = 1e9
Days = npt.NDArray[np.float64]
_WALK = "import sys; from bench.measuring.care import walk_here; walk_here(sys.argv[1])"


def care(_seats: int) -> list[Figure]:
    """The bars of the care of disks."""
    return [_placing(), *_forecasts(), *_walking()]


def _placing() -> Figure:
    """Random seats of ten stores and eight volumes."""
    draw, took = np.random.default_rng(3), list[float]()
    for _ in range(SEATS):
        volumes = [
            Volume(
                f"v{n}",
                f"/v{n}",
                kind=str(draw.choice(["nvme", "ssd", "hdd", "network"])),
                capacity=int(4e12),
                free=int(draw.uniform(0, 3.5e12)),
                system=n == 0,
                removable=bool(draw.random() < 0.1),
                attached=bool(draw.random() < 0.95),
                read_rate=int(draw.uniform(1e8, 5e9)),
            )
            for n in range(8)
        ]
        stores = [
            PlacedStore(f"s{n}", str(draw.choice([*PURPOSES, "exports"])), size, size, f"v{draw.integers(8)}")
            for n, size in enumerate(draw.integers(1, int(8e11), 10).tolist())
        ]
        begun = time.perf_counter()
        place(stores, volumes)
        took.append(time.perf_counter() - begun)
    late = float(np.percentile(took, 99)) * 1000
    return Figure.paced("place", late, "ms", f"p99 of {SEATS} seats of 10 stores on 8 volumes", PLACED)


def _walking() -> list[Figure]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for number in range(FOLDERS):
            below = folder / f"{number:04d}"
            below.mkdir()
            for item in range(FILES // FOLDERS):
                (below / f"{item:06d}.exr").touch()
        find = ("find", name, "-type", "f", "-printf", r"%P %b %s %T@ %A@ %n %i\n")
        listed = min(_seconds(find) for _ in range(2))
        made = [subprocess.run((sys.executable, "-c", _WALK, name), capture_output=True, check=True) for _ in range(2)]
        figures = [[float(word) for word in run.stdout.split()] for run in made]
    seconds, memory = min(row[0] for row in figures), max(row[1] for row in figures)
    note = f"of find -printf, {FILES:,} files, warm"
    return [
        Figure.at_most("walk", seconds, "s", note, seconds / listed, WALKED),
        Figure(
            "walk",
            memory,
            "MB",
            "at most, of the whole process",
            memory / MEMORY,
            f"under {MEMORY:g} MB",
            memory < MEMORY,
        ),
    ]


def _seconds(command: tuple[str, ...]) -> float:
    begun = time.perf_counter()
    subprocess.run(command, stdout=subprocess.DEVNULL, check=True)
    return time.perf_counter() - begun


def walk_here(name: str) -> None:
    """In a process of its own: seconds and most megabytes on standard output."""
    begun = time.perf_counter()
    count = sum(1 for seen in walk(Path(name)) if not seen.stays)
    took = time.perf_counter() - begun
    assert count == FILES // FOLDERS * FOLDERS, count
    print(took, _most_memory())


def _most_memory() -> float:
    """Megabytes that this program held at most; what the system's own figure says begins with whoever started it."""
    lines = Path("/proc/self/status").read_text("utf-8").splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith("VmHWM:")) / 1024


def _forecasts() -> list[Figure]:
    """Stores that grow on working days alone, some days more, are cleared now and then, and are read with noise."""
    draw = np.random.default_rng(17)
    held, ours, plain = 0, list[float](), list[float]()
    for _ in range(STORES):
        sizes, seen, limit = _store(draw)
        made = forecast(seen, int(limit))
        begin = seen[-1].moment
        full = _full(sizes[SEEN - 1 :], limit)
        assert made.between and made.between[0]
        first, last = ((moment - begin).total_seconds() / 86_400 if moment else np.inf for moment in made.between)
        held += first <= full <= last
        ours.append(last - first)
        plain.append(_least_squares([float(size.size) for size in seen], limit))
    share, width, other = held / STORES, float(np.median(ours)), float(np.median(plain))
    note = f"of {STORES:,} stores fill between the two days"
    return [
        Figure("forecast", 100 * share, "%", note, share / COVERED, f"at least {COVERED:.0%}", share >= COVERED),
        Figure.at_most("forecast", width, "d", f"wide, of plain least squares' {other:.1f} d", width / other, 1),
    ]


def _store(draw: np.random.Generator) -> tuple[Days, list[Size], float]:
    """Its true sizes day by day, what was read of the first two weeks, and its limit."""
    speed, days, shift = draw.uniform(2, 20) * GB, 160, int(draw.integers(7))
    works = np.array([7 / WEEKDAYS if (day + shift) % 7 < WEEKDAYS else 0.0 for day in range(days)])
    grown = speed * works * draw.lognormal(-0.045, 0.3, days)
    sizes = draw.uniform(50, 300) * GB + np.concatenate([[0.0], np.cumsum(grown)])
    cleared = draw.choice(np.arange(1, SEEN - 1), size=int(draw.integers(0, 3)), replace=False)
    for day in np.sort(cleared):
        sizes[day:] -= draw.uniform(0.1, 0.5) * sizes[day]
    read = np.maximum(0, sizes[:SEEN] + draw.normal(0, 0.1 * speed, SEEN))
    begin = dt.datetime(2026, 10, 20, tzinfo=dt.UTC)
    seen = [
        Size(begin + dt.timedelta(days=day), int(size), "cleared" if day in cleared else "")
        for day, size in enumerate(read)
    ]
    return sizes, seen, float(sizes[SEEN - 1] + speed * draw.uniform(3, 30))


def _full(sizes: Days, limit: float) -> float:
    """Days until it really is full, from the first of these."""
    day = int(np.flatnonzero(sizes >= limit)[0])
    return day - 1 + float((limit - sizes[day - 1]) / (sizes[day] - sizes[day - 1]))


def _least_squares(sizes: list[float], limit: float) -> float:
    """How wide the days of a straight line's 95 % lie apart, which knows of no clearing."""
    days, count = np.arange(len(sizes)), len(sizes)
    (slope, base) = np.polyfit(days, sizes, 1)
    left = np.asarray(sizes) - (base + slope * days)
    width = 2.179 * float(np.sqrt((left @ left) / (count - 2) / ((days - days.mean()) ** 2).sum()))
    room = limit - sizes[-1]
    return room / (slope - width) - room / (slope + width) if slope > width else float("inf")
