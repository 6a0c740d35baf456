"""The list of what would go of a store: kept by the agent that made it, named by its SHA-256, read item by item.

One JSON object a line. Paths are as the file system has them: bytes that are no UTF-8 stand as lone surrogates, which
JSON writes as `\\udcNN`, so that every name leads back to its file.
"""

import hashlib
import json
import os
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple, TextIO

from ..errors import HostError
from ..files import digest_of


class ListedItem(NamedTuple):
    """A file by its path below the store: bytes that are free without it, bytes that it holds, seconds of its last use,
    its inode (0 where the system tells none), and nanoseconds of its last change (0 in lists of earlier versions)."""

    path: str
    size: int
    length: int
    used: float
    inode: int
    production: str = ""
    project: str = ""
    changed: int = 0


def write_list(path: Path, items: Iterable[ListedItem]) -> str:
    """Its SHA-256; no file where nothing is listed, and an empty text. Raises HostError."""
    hashed, count = hashlib.sha256(), 0
    beside = path.with_name(f"{path.name}.part")
    try:
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        with beside.open("w", encoding="ascii", newline="\n") as file:
            for item in items:
                line = json.dumps(item._asdict()) + "\n"
                hashed.update(line.encode("ascii"))
                file.write(line)
                count += 1
            file.flush()
            os.fsync(file.fileno())
        if not count:
            beside.unlink()
            return ""
        beside.replace(path)
    except OSError as fault:
        raise HostError(f"the file list cannot be saved: {fault.strerror}") from fault
    return hashed.hexdigest()


@contextmanager
def signed_list(path: Path, digest: str) -> Iterator[TextIO]:
    """The lines of a list, which must be the one of that digest. Raises HostError."""
    if not path.is_file():
        raise HostError("the signed list no longer exists on this seat: create a new plan")
    if digest_of(path) != digest:
        raise HostError("the list on this seat differs from the signed one: no files were deleted, create a new plan")
    with path.open(encoding="ascii") as file:
        yield file


def items_of(file: TextIO) -> Iterator[ListedItem]:
    """Every item, in the order in which they were listed."""
    for line in file:
        yield ListedItem(**json.loads(line))
