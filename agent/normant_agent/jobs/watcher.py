"""Exports that begin and end while a run is made by hand: each is timed from its first byte to its last.

A file counts that was not there when the watch began, or that was written anew since. It is finished when it has not
grown for a while and no process holds it open, as far as the system tells.
"""

import hashlib
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from ..care.open_files import open_files
from ..errors import HostError
from ..media_library import codec_of

EVERY, QUIET = 0.25, 4.0  # seconds between looks, and without growth
CALM = 20  # times as long as a look takes it rests: so much of a core may not be missed
MOST = 20  # exports of one run
HASHED = 1 << 30  # bytes up to which a file's hash is taken
_LEAST = 1e-3  # seconds
_PIECE = 1 << 20


@dataclass(frozen=True, slots=True)
class Exported:
    """A finished export: seconds from its first byte to its last, and what it is."""

    seconds: float
    words: str


@dataclass(slots=True)
class _Growing:
    """A file as it was seen last: bytes, when they were written, when the first were, and since when it is quiet."""

    size: int
    written: float
    begun: float
    quiet: float


@dataclass(slots=True)
class ExportWatch:
    """Looks at a folder again and again; `finished` are those that came to an end, in their order."""

    folder: Path
    finished: list[Exported] = field(default_factory=list)
    _before: dict[Path, float] = field(default_factory=dict)
    _growing: dict[Path, _Growing] = field(default_factory=dict)
    _since: float = 0.0
    _ending: float = 0.0  # seconds that reading finished files took within a look

    @contextmanager
    def watching(self) -> Iterator[None]:
        """In a thread beside what the block does."""
        self._since = time.time()
        self._before = {path: written for path, _, written in self._files()}
        stop = threading.Event()

        def work() -> None:
            pause = EVERY
            while not stop.wait(pause):
                begun, self._ending = time.monotonic(), 0.0
                self.look(begun)
                looked = time.monotonic() - begun - self._ending
                pause = max(EVERY, CALM * looked)  # a folder with very many files is looked at less

        thread = threading.Thread(target=work, name="exports", daemon=True)
        thread.start()
        try:
            yield
        finally:
            stop.set()
            thread.join()
            self._look_once_more()

    def _look_once_more(self) -> None:
        """Whoever says that all are finished says so before a file was quiet for long enough: it is given its while."""
        self.look(time.monotonic())
        if self._growing:
            time.sleep(QUIET)
            self.look(time.monotonic())

    def look(self, now: float) -> None:
        """Once; `now` is `time.monotonic`."""
        for path, size, written in self._files():
            seen = self._growing.get(path)
            if seen is None:
                if size and self._before.get(path) != written:
                    self._growing[path] = _Growing(size, written, self._begun(path, written), now)
            elif (size, written) != (seen.size, seen.written):
                seen.size, seen.written, seen.quiet = size, written, now
            elif now - seen.quiet >= QUIET and len(self.finished) < MOST:
                self._end(path, seen, now)

    def _begun(self, path: Path, written: float) -> float:
        """When its first byte came. A look may come late, but a folder says when the last name was put into it."""
        if path in self._before:
            return written  # its name was there: it is written over
        try:
            named = path.parent.stat().st_mtime
        except OSError:
            return written
        return min(written, named) if named >= self._since else written

    def _end(self, path: Path, seen: _Growing, now: float) -> None:
        """It is finished, unless somebody holds it open: then it is looked at after another while."""
        if _is_open(path):
            seen.quiet = now
            return
        self._before[path] = seen.written
        del self._growing[path]
        begun = time.monotonic()
        self.finished.append(Exported(max(_LEAST, seen.written - seen.begun), _words(path, seen.size)))
        self._ending += time.monotonic() - begun

    def _files(self) -> Iterator[tuple[Path, int, float]]:
        """Path, bytes, and when it was written last; what goes meanwhile is not there."""
        for path in sorted(self.folder.glob("**/*")):
            try:
                if path.is_file() and not path.is_symlink():
                    seen = path.stat()
                    yield path, seen.st_size, seen.st_mtime
            except OSError:
                continue


def _is_open(path: Path) -> bool:
    """Whether a process of this machine that may be looked at holds it open; what is gone nobody does."""
    try:
        seen = path.stat()
    except OSError:
        return False
    return (seen.st_dev, seen.st_ino) in open_files()


def _words(path: Path, size: int) -> str:
    """`reel.mov, 146,295 bytes, avc/8/420, SHA-256 9f…`"""
    parts = [path.name, f"{size:,} bytes"]
    try:
        parts.append(codec_of(path))
    except HostError:
        parts.append("not readable as picture")
    if size <= HASHED:
        made = hashlib.sha256()
        with path.open("rb") as file:
            while piece := file.read(_PIECE):
                made.update(piece)
        parts.append(f"SHA-256 {made.hexdigest()}")
    return ", ".join(parts)
