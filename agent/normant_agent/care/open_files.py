"""Which files somebody holds open at this moment, as far as the system tells whoever asks."""

import os
import sys
from collections.abc import Iterator
from pathlib import Path

import psutil

from .walk import Ident

OPEN = "open in a program"


def open_files() -> frozenset[Ident]:
    """What identifies each of them. Another user's are among them only where this process may look at theirs."""
    return frozenset(_on_linux() if sys.platform == "linux" else _by_paths())


def _on_linux() -> Iterator[Ident]:
    for process in Path("/proc").iterdir():
        if process.name.isdigit():
            yield from _held(process / "fd")
            yield from _held(process / "map_files")


def _held(folder: Path) -> Iterator[Ident]:
    """Both open files and those that are only mapped stand as links to themselves."""
    try:
        with os.scandir(folder) as entries:
            for entry in entries:
                seen = entry.stat()
                yield seen.st_dev, seen.st_ino
    except OSError:
        return  # it ended meanwhile, or is another user's


def _by_paths() -> Iterator[Ident]:
    for process in psutil.process_iter():
        try:
            paths = [file.path for file in process.open_files()]
        except (psutil.Error, OSError):
            continue
        for path in paths:
            try:
                seen = os.stat(path)  # noqa: PTH116 - beside the others, which have no path
            except OSError:
                continue
            yield seen.st_dev, seen.st_ino
