"""An item of a store in the folder that holds it: a link that is put in the way meanwhile leads nobody astray."""

import errno
import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from ..errors import HostError
from .walk import ANYBODY_WRITES, Ident

_FOLDER = os.O_RDONLY | getattr(os, "O_DIRECTORY", 0) | getattr(os, "O_NOFOLLOW", 0)
_PASSED = _FOLDER | getattr(os, "O_PATH", 0)  # one that is only passed through need not be readable
_OTHERS_WRITE = 0o022
_NO_SECOND_NAME = (errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK)  # a volume that knows no hard links
_BY_FOLDER = {os.open, os.stat, os.unlink} <= os.supports_dir_fd


@dataclass(frozen=True, slots=True)
class ItemPlace:
    """A name in a folder that is open; `folder` is None where the system opens no folders, and paths have to serve."""

    path: Path
    folder: int | None

    def is_on_volume_of(self, store: Path) -> bool:
        """Whether it is on the same volume as its store; the number of a volume is another one after a restart."""
        if self.folder is None:
            return self.path.parent.stat().st_dev == store.stat().st_dev
        return os.fstat(self.folder).st_dev == store.stat().st_dev

    def status(self) -> os.stat_result | None:
        """Of what bears the name, not of what a link leads to; None where nothing does. Raises HostError."""
        try:
            if self.folder is None:
                return self.path.lstat()
            return os.stat(self.path.name, dir_fd=self.folder, follow_symlinks=False)
        except FileNotFoundError:
            return None
        except OSError as fault:
            raise HostError(f"{self.path.name} cannot be read: {fault.strerror}") from fault

    def move(self, other: "ItemPlace") -> None:
        """Let what bears this name bear another, in a folder of the same volume. Raises HostError."""
        try:
            if self.folder is None or other.folder is None:
                self.path.rename(other.path)
            else:
                os.rename(self.path.name, other.path.name, src_dir_fd=self.folder, dst_dir_fd=other.folder)
        except OSError as fault:
            raise HostError(f"{self.path.name} cannot be moved: {fault.strerror}") from fault

    def move_back(self, other: "ItemPlace") -> None:
        """As `move`, but never over anything that bears the other name. Raises HostError."""
        try:
            if self.folder is None or other.folder is None:
                os.link(self.path, other.path)
            else:
                names = self.path.name, other.path.name
                os.link(*names, src_dir_fd=self.folder, dst_dir_fd=other.folder, follow_symlinks=False)
        except FileExistsError as fault:
            raise HostError(f"{other.path.name} is there again: another file has its name") from fault
        except OSError as fault:
            if fault.errno not in _NO_SECOND_NAME or other.status() is not None:
                raise HostError(f"{self.path.name} cannot be moved: {fault.strerror}") from fault
            self.move(other)
        else:
            self.unlink()

    def unlink(self) -> None:
        """Raises HostError with the system's reason."""
        try:
            if self.folder is None:
                self.path.unlink()
            else:
                os.unlink(self.path.name, dir_fd=self.folder)
        except OSError as fault:
            raise HostError(f"{self.path.name} cannot be removed: {fault.strerror}") from fault


@contextmanager
def item_place(store: Path, item: str, *, make: bool = False, private: bool = False) -> Iterator[ItemPlace | None]:
    """Where an item of a store lies, by its path below it; None where a folder on the way no longer exists.

    `store` is a real path, without links. With `make`, folders below it that are not there are made. With `private`
    nobody else may write to them. Raises HostError where a folder on the way is a link, cannot be opened, or is not
    private though it has to be.
    """
    path = store / item
    if not _BY_FOLDER:
        if make:
            path.parent.mkdir(parents=True, exist_ok=True)
        yield ItemPlace(path, None) if path.parent.is_dir() else None
        return
    folder = _opened_by_folder(store)
    try:
        for name in PurePosixPath(item).parent.parts:
            if folder is None:
                break
            if make:
                _make(name, folder, 0o700 if private else 0o755)
            below = _opened(name, folder)
            os.close(folder)
            folder = below
            if private and folder is not None:
                _check_private(name, os.fstat(folder))
        yield None if folder is None else ItemPlace(path, folder)
    finally:
        if folder is not None:
            os.close(folder)


def _check_private(name: str, status: os.stat_result) -> None:
    if status.st_uid != os.geteuid():
        raise HostError(f"{name} belongs to another user: no files are moved there")
    if status.st_mode & _OTHERS_WRITE:
        raise HostError(f"other users can write to {name}: no files are moved there")


def _opened_by_folder(store: Path) -> int | None:
    """The store's folder, opened folder by folder from the root: a link on the way, put there meanwhile, is refused."""
    *on_the_way, last = (store.anchor, *store.relative_to(store.anchor).parts)
    above: int | None = None
    try:
        for name in on_the_way:
            below = _opened(name, above, _PASSED)
            if above is not None:
                os.close(above)
            above = below
            if above is None:
                return None
        return _opened(last, above)
    finally:
        if above is not None:
            os.close(above)


def _make(name: str, above: int, mode: int) -> None:
    try:
        with suppress(FileExistsError):
            os.mkdir(name, mode=mode, dir_fd=above)
    except OSError as fault:
        raise HostError(f"{name} cannot be made again: {fault.strerror}") from fault


def _opened(name: str, above: int | None, flags: int = _FOLDER) -> int | None:
    try:
        return os.open(name, flags, dir_fd=above)
    except FileNotFoundError:
        return None
    except OSError as fault:
        raise HostError(f"{name} is no folder of the store any more: {fault.strerror}") from fault


def why_it_stays(status: os.stat_result, held: frozenset[Ident]) -> str:
    """Why what is there may not go, whatever was listed; empty where it may."""
    if not stat.S_ISREG(status.st_mode):
        return "is a link or no longer a file"
    if status.st_nlink > 1:
        return "has another hard link: deleting it would free nothing"
    if not status.st_mode & ANYBODY_WRITES:
        return "is write-protected"
    return "is open in a program" if (status.st_dev, status.st_ino) in held else ""
