"""Files that are either the old ones or the new ones, whatever happens in between."""

import contextlib
import hashlib
import os
import shutil
import sys
from pathlib import Path

from .errors import HostError, Waiting

if sys.platform != "win32":
    import fcntl


def digest(content: bytes) -> str:
    """SHA-256 in hexadecimal."""
    return hashlib.sha256(content).hexdigest()


def write_atomically(path: Path, content: bytes, *, mark: str = "new") -> None:
    """Replace the file in one step: a temporary file beside it, synchronised, then renamed over it.

    Mode and owner stay. `mark` names the temporary file, so that a crash leaves at most one of each.
    """
    temporary = path.with_name(f".{path.name}.normant-{mark}")
    try:
        with temporary.open("wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        if path.exists():
            _same_owner_and_mode(path, temporary)
        temporary.replace(path)
    except OSError as fault:
        with contextlib.suppress(OSError):
            temporary.unlink()
        raise HostError(f"{path.name} cannot be written: {fault.strerror}") from fault
    synchronise(path.parent)


def _same_owner_and_mode(path: Path, temporary: Path) -> None:
    shutil.copymode(path, temporary)
    if sys.platform == "win32":
        return
    there = path.stat()
    if (there.st_uid, there.st_gid) != (os.geteuid(), os.getegid()):
        os.chown(temporary, there.st_uid, there.st_gid)


def synchronise(folder: Path) -> None:
    """Make a rename in the folder outlast a loss of power; Windows does that by itself."""
    if sys.platform == "win32":
        return
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def read(path: Path) -> bytes:
    """The file's bytes. Raises HostError with the system's reason."""
    try:
        return path.read_bytes()
    except OSError as fault:
        raise HostError(f"{path.name} cannot be read: {fault.strerror}") from fault


def inside(root: Path, relative: str) -> Path:
    """The path under `root`. Raises HostError where it, or a link on its way, leads out of it."""
    path = root / relative
    if not path.resolve().is_relative_to(root.resolve()):
        raise HostError(f"{relative} leads out of the preference root")
    return path


def free_to_write(path: Path) -> None:
    """Raises HostError where the file is read-only (which root would not notice), Waiting where it is locked."""
    if not path.stat().st_mode & 0o222:
        raise HostError(f"{path.name} is read-only")
    if sys.platform == "win32":
        return  # a file that is held open refuses the rename, and says so
    with path.open("rb") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_SH | fcntl.LOCK_NB)
        except BlockingIOError as fault:
            raise Waiting(f"{path.name} is locked by another program; waiting until it lets go") from fault
