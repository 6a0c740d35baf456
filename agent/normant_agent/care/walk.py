"""Every file below a folder, however deep: links are told and never followed, other volumes are left alone.

A folder is opened by its name in the one above it, never by its whole path: paths may be longer than the system takes,
and a folder that somebody replaces by a link meanwhile leads nowhere. One folder is open at a time.
"""

import os
import stat
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

from ..errors import HostError
from .change_time import changed_ns

LINK, MOUNTED = "a link, never followed", "another volume is mounted here"
LOCKED, NO_FILE = "write-protected", "neither a file nor a folder"
_FLAGS = os.O_RDONLY | getattr(os, "O_DIRECTORY", 0) | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_NOATIME", 0)
_BLOCK = 512  # bytes that `st_blocks` counts by
ANYBODY_WRITES = stat.S_IWUSR | stat.S_IWGRP | stat.S_IWOTH

Ident = tuple[int, int]


class Seen(NamedTuple):
    """A file by its path below the folder: bytes on the disk, seconds since 1970 of its last use, how many names it has
    and what identifies it; `stays` is why nobody may remove it, empty where somebody may. `length` is what it holds,
    `changed` nanoseconds of its last change.
    """

    path: str
    size: int
    used: float
    names: int
    ident: Ident
    stays: str = ""
    length: int = 0
    changed: int = 0


@dataclass(slots=True)
class _Level:
    """A folder on the way down: its path with a slash behind it, and the folders in it that are still to be seen."""

    path: str
    ident: Ident
    folders: list[str]


def walk(folder: Path, *, access_times: bool = True) -> Iterator[Seen]:
    """Every file, in no order. Without `access_times` only writing is use; see `keeps_access_times`.

    What cannot be read is told in its place, as kept. Raises HostError for a folder that is none or a link, and where
    one is moved away under the walk.
    """
    if os.open not in os.supports_dir_fd:
        yield from _walk_by_paths(folder, access_times)
        return
    here = _open(folder)
    if isinstance(here, OSError):
        why = "it is a link: name the folder that it leads to" if folder.is_symlink() else here.strerror
        raise HostError(f"{folder} cannot be scanned: {why}") from here
    top = _Level("", _ident(os.fstat(here)), [])
    levels = [top]
    try:
        yield from _files(here, top, access_times)
        while levels:
            level = levels[-1]
            if not level.folders:
                levels.pop()
                if levels:
                    here = _instead(here, _above(here, levels[-1]))
                continue
            name = level.folders.pop()
            below = _open(name, here)
            if isinstance(below, OSError):
                yield _untold(level.path + name, f"cannot be opened: {below.strerror}")
                continue
            ident = _ident(os.fstat(below))
            if ident[0] != top.ident[0]:
                os.close(below)
                yield _untold(level.path + name, MOUNTED)
                continue
            here = _instead(here, below)
            levels.append(_Level(f"{level.path}{name}/", ident, []))
            yield from _files(here, levels[-1], access_times)
    finally:
        os.close(here)


def _instead(here: int, other: int) -> int:
    os.close(here)
    return other


def _walk_by_paths(folder: Path, access_times: bool) -> Iterator[Seen]:
    """Where folders cannot be opened. Paths of any length are taken by their long form."""
    prefix = "\\\\?\\" if sys.platform == "win32" else ""
    root = f"{prefix}{folder.resolve()}"
    if not Path(root).is_dir():
        raise HostError(f"{folder} cannot be looked through: it is no folder")
    device, waiting = Path(root).stat().st_dev, [""]
    while waiting:
        path = waiting.pop()
        try:
            with os.scandir(f"{root}/{path}") as entries:
                for entry in entries:
                    below = f"{path}{entry.name}"
                    if not entry.is_dir(follow_symlinks=False) or entry.is_symlink():
                        yield _seen(below, entry, access_times)
                    elif entry.stat(follow_symlinks=False).st_dev in (device, 0):
                        waiting.append(f"{below}/")
                    else:
                        yield _untold(below, MOUNTED)
        except OSError as fault:
            yield _untold(path.rstrip("/"), f"cannot be opened: {fault.strerror}")


def _files(here: int, level: _Level, access_times: bool) -> Iterator[Seen]:
    """The files of one folder; its folders are remembered."""
    try:
        with os.scandir(here) as entries:
            for entry in entries:
                if entry.is_dir(follow_symlinks=False):
                    level.folders.append(entry.name)
                else:
                    yield _seen(level.path + entry.name, entry, access_times)
    except OSError as fault:
        yield _untold(level.path.rstrip("/"), f"cannot be opened: {fault.strerror}")


def _seen(path: str, entry: "os.DirEntry[str]", access_times: bool) -> Seen:
    try:
        status = entry.stat(follow_symlinks=False)
        changed = changed_ns(status, Path(entry.path))
    except OSError as fault:
        return _untold(path, f"cannot be read: {fault.strerror}")
    used = max(status.st_mtime, status.st_atime) if access_times else status.st_mtime
    stays = _stays(status.st_mode)
    return Seen(path, bytes_of(status), used, status.st_nlink, _ident(status), stays, status.st_size, changed)


def _stays(mode: int) -> str:
    if stat.S_ISREG(mode):
        return "" if mode & ANYBODY_WRITES else LOCKED
    return LINK if stat.S_ISLNK(mode) else NO_FILE


def bytes_of(status: os.stat_result) -> int:
    """What would be free without it: of a sparse file what it takes on the disk, of a small one what it holds."""
    blocks = getattr(status, "st_blocks", None)
    return status.st_size if blocks is None else min(status.st_size, blocks * _BLOCK)


def _untold(path: str, why: str) -> Seen:
    return Seen(path, 0, 0.0, 1, (0, 0), why)


def _ident(status: os.stat_result) -> Ident:
    return status.st_dev, status.st_ino


def _open(name: str | Path, above: int | None = None) -> int | OSError:
    try:
        return os.open(name, _FLAGS, dir_fd=above)
    except PermissionError:
        try:  # who does not own a folder may not ask to leave its access time alone
            return os.open(name, _FLAGS & ~getattr(os, "O_NOATIME", 0), dir_fd=above)
        except OSError as fault:
            return fault
    except OSError as fault:
        return fault


def _above(here: int, level: _Level) -> int:
    """The folder above, which must be the one that the walk came from."""
    above = os.open("..", os.O_RDONLY, dir_fd=here)
    if _ident(os.fstat(above)) != level.ident:
        os.close(above)
        raise HostError(f"{level.path or 'the folder'} was moved during the scan: scan again")
    return above


def keeps_access_times(folder: Path) -> bool:
    """Whether the file system says when a file was read last: not where it is mounted without that."""
    if sys.platform == "win32":
        return False  # by default it does not, and where it does it is an hour late
    return not os.statvfs(folder).f_flag & getattr(os, "ST_NOATIME", 0)
