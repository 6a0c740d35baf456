"""Surveys that could not be handed in: kept on disk, in their order, until the server can be reached."""

import hashlib
from collections.abc import Iterator
from pathlib import Path

import msgspec

from normant_core.seat.survey import Survey

from .files import write_atomically

KEPT = 2000  # surveys; a seat that changed more often than that while it was offline forgets the oldest


class Spool:
    """A folder of the agent's own, one file for each survey that told something new."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder / "spool"
        self._folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        self._last = b""

    def __bool__(self) -> bool:
        """Whether anything waits."""
        return bool(self._paths())

    def keep(self, survey: Survey) -> None:
        """Keep it, unless it tells what the one before told."""
        digest = hashlib.sha256(survey.content()).digest()
        if digest == self._last and self._paths():
            return
        self._last = digest
        number = max((int(path.stem) for path in self._paths()), default=0) + 1  # a clock may be put back
        write_atomically(self._folder / f"{number:08d}.json", msgspec.json.encode(survey))
        for old in self._paths()[:-KEPT]:
            old.unlink()

    def waiting(self) -> Iterator[tuple[Path, Survey]]:
        """What was kept, oldest first; a file that a crash left half is forgotten."""
        for path in self._paths():
            try:
                yield path, msgspec.json.decode(path.read_bytes(), type=Survey)
            except msgspec.DecodeError:
                path.unlink()

    def forget(self, path: Path) -> None:
        """It was handed in, or refused for good."""
        path.unlink(missing_ok=True)

    def _paths(self) -> list[Path]:
        return sorted(self._folder.glob("*.json"))
