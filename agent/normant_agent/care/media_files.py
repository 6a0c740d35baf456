"""How the media of a project are on this machine."""

import os
from collections.abc import Callable
from pathlib import Path
from urllib.parse import unquote, urlsplit

from normant_core.care.projects import MediaFile
from normant_core.seat.facts import Facts

from .walk import bytes_of

Look = Callable[[str], MediaFile | None]


def looking(facts: Facts, base: Path, storage: Path | None, root: Path | None = None) -> Look:
    """What `check_project` asks of each path. Those that are not whole count from `base`; `root` is what the paths of
    this machine stand under, where that is not the system's own."""
    within = root.resolve() if root else None
    belongs = storage.resolve() if storage else None

    def look(text: str) -> MediaFile | None:
        written = Path(_plain(text))
        path = root / written.relative_to(written.anchor) if root and written.is_absolute() else base / written
        try:
            status, real = path.stat(), path.resolve()
            if not path.is_file():
                return None
        except (OSError, ValueError, RuntimeError):
            return None
        named = f"/{real.relative_to(within).as_posix()}" if within and real.is_relative_to(within) else str(real)
        volume = facts.volume_of(named)
        return MediaFile(
            bytes_of(status),
            (status.st_dev, status.st_ino),
            bool(volume and volume.system),
            bool(volume and volume.removable),
            belongs is None or real.is_relative_to(belongs),
        )

    return look


def _plain(text: str) -> str:
    """A path as projects write it: also as an address of a file."""
    parts = urlsplit(text) if text.startswith("file:") else None
    return unquote(parts.path) if parts else text.replace("\\", os.sep)
