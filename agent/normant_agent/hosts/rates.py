"""How fast a volume reads and writes: a short measurement that is bounded in bytes and time, and leaves nothing."""

import os
import random
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from ..errors import HostError

SIZE = 64 * 1024 * 1024  # bytes, at most
CHUNK = 4 * 1024 * 1024
SECONDS = 2.0  # for each direction, at most
SMALL = 16 * 1024  # bytes of a small block
SPARE = 20  # a volume must have that many times SIZE free


@dataclass(frozen=True, slots=True)
class Rates:
    """Bytes per second, rounded to two digits: a survey must not differ by noise."""

    read: int
    write: int


@dataclass(frozen=True, slots=True)
class SmallBlocks:
    """Bytes per second of blocks of SMALL bytes, here and there in a file."""

    read: float
    write: float


def measure(folder: Path, free: int, *, size: int = SIZE) -> Rates:
    """Write and read a file in `folder`. Raises HostError where there is too little room, or it cannot be done.

    The file goes as soon as it is open: whatever happens, nothing stays.
    """
    with _opened(folder, free, size) as handle:
        written, write = _written(handle, size)
        return Rates(_rounded(_read(handle, written)), _rounded(write))


def measure_small(folder: Path, free: int, *, size: int = SIZE) -> SmallBlocks:
    """The same with small blocks, as caches and previews are read. Raises HostError."""
    with _opened(folder, free, size) as handle:
        written, _ = _written(handle, size)
        places = [n * SMALL for n in range(written // SMALL)]
        random.Random(SIZE).shuffle(places)
        return SmallBlocks(_read_small(handle, places), _written_small(handle, places))


@contextmanager
def _opened(folder: Path, free: int, size: int) -> Iterator[int]:
    """A file in the folder that has no name any more. Raises HostError."""
    if free < SPARE * size:
        raise HostError(f"{folder}: too little is free to measure without harm")
    try:
        handle = os.open(folder, os.O_RDWR | os.O_TMPFILE) if hasattr(os, "O_TMPFILE") else _named(folder)
    except OSError as fault:
        raise HostError(f"{folder} takes no file to measure with: {fault.strerror}") from fault
    try:
        yield handle
    except OSError as fault:
        raise HostError(f"{folder} could not be measured: {fault.strerror}") from fault
    finally:
        os.close(handle)


def _named(folder: Path) -> int:
    path = folder / f".normant-rate-{os.getpid()}"
    handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o600)
    path.unlink()
    return handle


def _written(handle: int, size: int) -> tuple[int, float]:
    """Bytes written and bytes a second; what was written is on the disk before the clock stops."""
    chunk, done, begun = os.urandom(CHUNK), 0, time.monotonic()
    while done < size and time.monotonic() - begun < SECONDS:
        done += os.write(handle, chunk[: size - done])
        os.fsync(handle)
    return done, done / max(time.monotonic() - begun, 1e-6)


def _read(handle: int, size: int) -> float:
    os.lseek(handle, 0, os.SEEK_SET)
    if hasattr(os, "posix_fadvise"):
        os.posix_fadvise(handle, 0, 0, os.POSIX_FADV_DONTNEED)  # else memory would be measured
    done, begun = 0, time.monotonic()
    while done < size and time.monotonic() - begun < SECONDS:
        done += len(os.read(handle, CHUNK))
    return done / max(time.monotonic() - begun, 1e-6)


def _read_small(handle: int, places: Sequence[int]) -> float:
    if hasattr(os, "posix_fadvise"):
        os.posix_fadvise(handle, 0, 0, os.POSIX_FADV_DONTNEED)
    done, begun = 0, time.monotonic()
    for place in places:
        os.lseek(handle, place, os.SEEK_SET)
        done += len(os.read(handle, SMALL))
        if time.monotonic() - begun > SECONDS:
            break
    return done / max(time.monotonic() - begun, 1e-6)


def _written_small(handle: int, places: Sequence[int]) -> float:
    block, done, begun = os.urandom(SMALL), 0, time.monotonic()
    for place in places:
        os.lseek(handle, place, os.SEEK_SET)
        done += os.write(handle, block)
        os.fsync(handle)
        if time.monotonic() - begun > SECONDS:
            break
    return done / max(time.monotonic() - begun, 1e-6)


def _rounded(rate: float) -> int:
    digits = len(str(int(rate)))
    return round(int(rate), 2 - digits) if digits > 2 else int(rate)
