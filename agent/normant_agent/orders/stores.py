"""Moving a store: copied, verified file by file, and only then used."""

import hashlib
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import msgspec

from normant_core.base.errors import NormantError
from normant_core.base.guard import forbidden_path
from normant_core.dialects.native import decode
from normant_core.dialects.preferences import native_of
from normant_core.orders.kinds import MoveStore, Receipt
from normant_core.seat.stores import fit_target, folder_of, has_room, is_own, is_store

from ..care.holding import HELD
from ..errors import HostError, Refused
from ..files import inside, read
from ..journal import Entry
from .preference_files import Wanted, binding_of, written
from .work import Work

_PIECE = 1 << 20  # bytes that are read at once


def move_store(work: Work, order: str, action: MoveStore, entry: Entry | None) -> Receipt:
    """Copy what the folder holds to the one folder on the volume that is the store's, then switch the preference."""
    source, target = folders_of(work, action)
    message = "it was copied before"
    if entry is None or not entry.held:
        work.plugged_in()
        work.closed(order, action.app, action.close_when_idle_seconds)
        size_that_fits(work, action, source)
        work.step(order, "saving")
        message = _copied(work, source, target, order=order)
    done, receipt = written(work, order, switch_of(work, action), work.journal.get(order))
    if receipt.outcome != "done":
        return work.close(done, receipt)
    if action.remove_old:
        done = work.journal.put(msgspec.structs.replace(done, gone=True))
        message = f"{message}; {_removed(source, target)}"
    return work.close(done, msgspec.structs.replace(receipt, message=message))


def switch_of(work: Work, action: MoveStore) -> Wanted:
    """The preference that names the folder, naming the new one."""
    return Wanted(work.file(action.app, action.file), action.app, (action.change,), action.close_when_idle_seconds)


def size_that_fits(work: Work, action: MoveStore, source: Path) -> int:
    """Bytes that the store holds. Raises Refused where they do not go on the volume."""
    size = sum(work.host.size(path) for path in files_of(source))
    if why := has_room(fit_target(work.facts, action.volume), size):
        raise Refused(why)
    return size


def folders_of(work: Work, action: MoveStore) -> tuple[Path, Path]:
    """The real folders of the store, old and new. Raises Refused where one of them is not what an order may name."""
    change = action.change
    if not is_store(change.setting):
        raise Refused(f"{change.setting} is not a store folder")
    try:
        wanted = folder_of(action.app, change.setting, fit_target(work.facts, action.volume))
        binding = binding_of(work.file(action.app, action.file), change.setting)
        source, target = (str(decode(binding, native, work.facts)) for native in (change.expected, change.native))
    except NormantError as why:
        raise Refused(str(why)) from why
    if target != wanted or change.value != wanted:
        raise Refused(f"a store of {action.app} may only lie in {wanted} on {action.volume}, not in {target}")
    old, new = store_at(work, source, action.app), store_at(work, target, action.app)
    if work.journal.holds_in(old):
        raise Refused(f"files of {source} are held for a day after a clean-up: put them back, or move it after that")
    for inner, other in ((old, new), (new, old)):
        if inner == other or inner.is_relative_to(other):
            raise Refused(f"{source} and {target} lie within each other")
    return old, new


def store_at(work: Work, folder: str, app: str) -> Path:
    """The real path of the folder that a preference names, without links. Raises Refused where it is more than a store,
    also where a link on the way leads to a folder that the preference could not name.
    """
    path = work.host.real(folder)
    if path.is_symlink():
        raise Refused(f"{folder} is a link: what it leads to is not touched")
    try:
        real, root = path.resolve(), work.host.real("/").resolve()
    except (OSError, RuntimeError) as fault:
        raise Refused(f"{folder} cannot be followed: links lead in a circle") from fault
    if real != path.absolute():
        leads_to = f"/{real.relative_to(root).as_posix()}" if real.is_relative_to(root) else str(real)
        unfit = forbidden_path(leads_to, app)
        if not is_own(app, leads_to):
            unfit = f"neither it nor the folder that it is in is named {app}"
        if unfit:
            raise Refused(f"{folder} leads to {leads_to}, which is not touched: {unfit}")
    path = real
    if work.host.preference_root.resolve().is_relative_to(path.resolve()):
        raise Refused(f"{folder} holds the applications' preferences as well: it is more than a store")
    if any(folder.rstrip("/") == volume.mount.rstrip("/") for volume in work.facts.volumes or ()):
        raise Refused(f"{folder} is a whole volume, not a store")
    return path


def folder_to_look_into(work: Work, app: str, setting: str) -> Path:
    """Where files of an application lie that are read and not touched. Raises Refused."""
    named = named_folder(work, app, setting)
    if unfit := forbidden_path(named, app):
        raise Refused(f"{named} is not looked into: {unfit}")
    return store_at(work, named, app)


def named_folder(work: Work, app: str, setting: str) -> str:
    """The folder that an application's preference names now. Raises Refused where none does."""
    files = (file for dialect in work.dialects if dialect.app == app for file in dialect.file if not file.many)
    bound = next(((file, bound_to) for file in files if (bound_to := file.bound(setting))), None)
    if bound is None:
        raise Refused(f"no dialect of {app} holds {setting}")
    file, binding = bound
    try:
        native = native_of(file, binding, read(inside(work.host.preference_root, file.path, app))) or ""
        return str(decode(binding, native, work.facts))
    except NormantError as why:
        raise Refused(str(why)) from why


def written_at(path: Path) -> int:
    """When it was written last, in nanoseconds; 0 where it went meanwhile."""
    try:
        return path.stat().st_mtime_ns
    except OSError:
        return 0


def files_of(folder: Path) -> Iterator[Path]:
    """Every file of a store; links are not followed, and not moved, and what is held after a clean-up is none of it."""
    for where, folders, files in os.walk(folder):
        folders[:] = sorted(name for name in folders if name != HELD)
        yield from (path for path in (Path(where) / name for name in sorted(files)) if not path.is_symlink())


def _copied(work: Work, source: Path, target: Path, *, order: str) -> str:
    """Copy beside the target, verify, and rename: the folder is there whole or not at all. What came of it."""
    if not source.is_dir():
        return "no files to copy"
    if target.exists() and any(target.iterdir()):
        return _verified(work, source, target, done="was copied before")
    beside = target.with_name(f".{target.name}.normant-{order}")
    try:
        shutil.rmtree(beside, ignore_errors=True)  # what a crash left of an earlier try
        beside.mkdir(parents=True)
        for path in files_of(source):
            there = beside / path.relative_to(source)
            there.parent.mkdir(parents=True, exist_ok=True)
            with _unnoticed(path, there):
                shutil.copy2(path, there)
        message = _verified(work, source, beside, done="copied and verified")
        if target.exists():
            target.rmdir()
        beside.rename(target)
    except OSError as fault:
        shutil.rmtree(beside, ignore_errors=True)
        raise HostError(f"the store cannot be copied to {target.name}: {fault.strerror}") from fault
    return message


def _verified(work: Work, source: Path, target: Path, *, done: str) -> str:
    """Compare every file by its hash. Raises HostError at the first that differs."""
    count = size = 0
    for path in files_of(source):
        there = target / path.relative_to(source)
        if not there.is_file() or _hash(path) != _hash(there):
            raise HostError(f"{path.name} is not the same in {target.name}: look at the folder and move it by hand")
        count, size = count + 1, size + work.host.size(path)
    return f"{count} files, {size:,} bytes, {done}"


def _removed(source: Path, target: Path) -> str:
    """Remove the old folder's files that are the same in the new one; whatever is not stays."""
    stays = 0
    for path in list(files_of(source)):
        there = target / path.relative_to(source)
        if there.is_file() and _hash(path) == _hash(there):
            path.unlink()
        else:
            stays += 1
    for where, _, _ in os.walk(source, topdown=False):
        if not any(Path(where).iterdir()):
            Path(where).rmdir()
    if stays:
        return f"{stays} files that changed remain in the old folder"
    return "the old folder remains: it contains links" if source.exists() else "the old folder was removed"


def _hash(path: Path) -> bytes:
    digest = hashlib.sha256()
    with _unnoticed(path), path.open("rb") as file:
        while piece := file.read(_PIECE):
            digest.update(piece)
    return digest.digest()


@contextmanager
def _unnoticed(path: Path, *copies: Path) -> Iterator[None]:
    """Read a file so that it counts as used when its application used it last, and its copies as well.

    What nobody used for long is cleared one day: nothing may look used because it was moved.
    """
    before = path.stat()
    yield
    for place in (path, *copies):
        with suppress(OSError):  # a file that belongs to others keeps what the system wrote
            os.utime(place, ns=(before.st_atime_ns, before.st_mtime_ns))
