"""Files that are either the old ones or the new ones, whatever happens in between."""

import contextlib
import errno
import hashlib
import os
import sys
from pathlib import Path

from normant_core.base.guard import forbidden_path, is_secret_store

from .errors import HostError, Waiting

if sys.platform != "win32":
    import fcntl

_ACCESS_LIST = "system.posix_acl_access"
_MOST_BESIDE = 5_000  # entries of a folder that are looked at
_PIECE = 1 << 20


def digest(content: bytes) -> str:
    """SHA-256 in hexadecimal."""
    return hashlib.sha256(content).hexdigest()


def digest_of(path: Path) -> str:
    """SHA-256 of a file of any size, in hexadecimal. Raises HostError."""
    hashed = hashlib.sha256()
    try:
        with path.open("rb") as file:
            while piece := file.read(_PIECE):
                hashed.update(piece)
    except OSError as fault:
        raise HostError(f"{path.name} cannot be read: {fault.strerror}") from fault
    return hashed.hexdigest()


def write_atomically(path: Path, content: bytes, *, mark: str = "new") -> None:
    """Replace the file in one step: a temporary file beside it, synchronised, then renamed over it.

    Mode, owner, access list and extended attributes stay; a link stays one, and what it leads to is written. Until the
    bytes are whole nobody else may read them. `mark` names the temporary file, so that a crash leaves at most one of
    each; whatever stands in its place is removed, not followed.
    """
    target = Path(os.path.realpath(path)) if path.is_symlink() else path
    temporary = target.with_name(f".{target.name}.normant-{mark}")
    try:
        with contextlib.suppress(FileNotFoundError):
            temporary.unlink()
        with os.fdopen(os.open(temporary, _fresh(), 0o600), "wb") as file:
            file.write(content)
            if target.exists():
                _made_alike(target, file.fileno())
            file.flush()
            os.fsync(file.fileno())
        temporary.replace(target)
    except OSError as fault:
        with contextlib.suppress(OSError):
            temporary.unlink()
        raise HostError(f"{path.name} cannot be written: {fault.strerror}") from fault
    synchronise(target.parent)


def _fresh() -> int:
    """How a file is opened that must not be there, nor be a link."""
    return os.O_WRONLY | os.O_CREAT | os.O_EXCL | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_BINARY", 0)


def _made_alike(there: Path, fresh: int) -> None:
    """Owner first, for a change of owner takes rights away; then who may what, of which the mode is a part."""
    seen = there.stat()
    if sys.platform == "win32":
        return
    if (seen.st_uid, seen.st_gid) != (os.geteuid(), os.getegid()):
        os.fchown(fresh, seen.st_uid, seen.st_gid)
    listed = _attributes_copied(there, fresh)
    if not listed:  # with an access list the group's bits are its mask, and it has set them
        os.fchmod(fresh, seen.st_mode & 0o7777)


def _attributes_copied(there: Path, fresh: int) -> bool:
    """Copy what the file system keeps beside a file; whether an access list was among it."""
    if not hasattr(os, "listxattr"):
        return False
    names = _listed(there)
    for name in names:
        try:
            os.setxattr(fresh, name, os.getxattr(there, name))
        except OSError as fault:
            # What a system guards by itself it sets by itself; an access list or somebody's own must not get lost.
            if name == _ACCESS_LIST or name.startswith("user.") or fault.errno not in (errno.EPERM, errno.ENOTSUP):
                raise
    return _ACCESS_LIST in names


def _listed(path: Path) -> list[str]:
    try:
        return os.listxattr(path)
    except OSError as fault:
        if fault.errno == errno.ENOTSUP:
            return []
        raise


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


def inside(root: Path, relative: str, app: str = "") -> Path:
    """The path under `root`. Raises HostError where it, or a link on its way, leads out of it, or to where programs
    start or secrets lie: whoever named it."""
    path, real = root / relative, root.resolve()
    end = path.resolve()
    if not end.is_relative_to(real):
        raise HostError(f"{relative} leads out of the preference root")
    for name in (relative, end.relative_to(real).as_posix()):
        if why := forbidden_path(name, app):
            raise HostError(f"{relative} is not touched: {why}")
    if end.parent != real and (secret := _secret_beside(end)):
        raise HostError(f"{relative} is not touched: beside it lies {secret}, which is called like a secret")
    return path


def _secret_beside(path: Path) -> str:
    """The name of a file in the same folder that holds secrets, empty where there is none."""
    try:
        with os.scandir(path.parent) as entries:
            names = [entry.name for _, entry in zip(range(_MOST_BESIDE), entries, strict=False)]
    except OSError:
        return ""
    return next(filter(is_secret_store, names), "")


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
