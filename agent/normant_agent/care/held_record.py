"""What an order has moved into its holding folder: a line for each file, written as it is moved.

Only files that stand here are deleted, and only as they were when they were moved. The numbers are those of the lines
of the order's list, in their order, so that list and record are read beside each other, a line at a time.
"""

import json
import os
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO, NamedTuple

from ..errors import HostError
from ..files import write_atomically
from .item_list import ListedItem

RETURNS = 0  # `changed` of a file that was changed in the moment in which it was moved: it is put back, never deleted


class HeldFile(NamedTuple):
    """A file that was moved: its number in the list, its inode, and when it was changed last (nanoseconds of its ctime,
    which the move itself sets)."""

    number: int
    inode: int
    changed: int


class Settled(NamedTuple):
    """Files of which it is known what became of them: deleted, with their bytes, put back, or lost."""

    deleted: int = 0
    size: int = 0
    returned: int = 0
    lost: int = 0


@dataclass(slots=True)
class HeldRecord:
    """The record of one order. `store` is the inode of the store's folder at that time."""

    path: Path
    _file: BinaryIO | None = None

    @property
    def is_there(self) -> bool:
        """Whether one was begun: agents before 0.8.0 kept none, and left an empty file in its place."""
        try:
            return self.path.stat().st_size > 0
        except FileNotFoundError:
            return False

    def begin(self, store: int) -> None:
        """Open it for lines. The first one names the store, unless an earlier attempt wrote it. Raises HostError."""
        try:
            is_new = not self.is_there
            self._file = self.path.open("ab", buffering=0)
            if is_new:
                self._write({"store": store})
                self.sync()
        except OSError as fault:
            raise HostError(f"the record of what is held cannot be written: {fault.strerror}") from fault

    def add(self, held: HeldFile) -> None:
        """Raises HostError."""
        try:
            self._write(held)
        except OSError as fault:
            raise HostError(f"the record of what is held cannot be written: {fault.strerror}") from fault

    def _write(self, line: object) -> None:
        assert self._file, "a record is begun before lines are added"
        self._file.write(json.dumps(line).encode() + b"\n")

    def sync(self) -> None:
        """Write it through to the disk."""
        if self._file:
            os.fsync(self._file.fileno())

    def end(self) -> None:
        """No more lines are added."""
        if self._file:
            self.sync()
            self._file.close()
            self._file = None

    def store(self) -> int:
        """The inode of the store's folder. Raises HostError where the record cannot be read."""
        return int(self._head()["store"])

    def settled(self) -> Settled:
        """What became of files that do not stand here any more. Raises HostError."""
        return Settled(*self._head().get("settled", ()))

    def _head(self) -> dict[str, Any]:
        head = next(self._lines(), None)
        if not isinstance(head, dict):
            raise HostError("the record of what is held cannot be read: it does not name its store")
        return head

    def files(self) -> Iterator[HeldFile]:
        """Every file, in the order of their numbers. A line that was cut off by the end of the agent is none."""
        lines = self._lines()
        next(lines, None)
        for line in lines:
            yield HeldFile(*line)

    def _lines(self) -> Iterator[Any]:
        try:
            with self.path.open("rb") as file:
                for line in file:
                    if line.endswith(b"\n"):
                        yield json.loads(line)
        except (OSError, ValueError) as fault:
            raise HostError(f"the record of what is held cannot be read: {fault}") from fault

    def keep_only(self, files: Iterable[HeldFile], settled: Settled) -> None:
        """Replace it by a record of these files, and of what became of the others. Raises HostError."""
        lines = ({"store": self.store(), "settled": settled}, *files)
        write_atomically(self.path, b"".join(json.dumps(line).encode() + b"\n" for line in lines))


def with_items(files: Iterable[HeldFile], items: Iterable[ListedItem]) -> Iterator[tuple[HeldFile, ListedItem]]:
    """Each file of a record with its item of the list. Raises HostError where the list has no such line."""
    numbered = enumerate(items, 1)
    number, item = 0, None
    for held in files:
        while number < held.number:
            number, item = next(numbered, (held.number, None))
        if item is None or number != held.number:
            raise HostError("the record of what is held does not fit its list")
        yield held, item
