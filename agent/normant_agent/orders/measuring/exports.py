"""Looking into a finished export: decoded by a process of its own, while the seat goes on to be watched."""

import time
from pathlib import Path, PurePosixPath

import msgspec

from normant_core.orders.exports import LIMIT_FLAWS, LIMIT_OTHERS, LIMIT_PATH, LIMIT_TEXT, Deliverable, Flaw, Inspected
from normant_core.orders.kinds import InspectExport, Receipt

from ...errors import HostError, Refused, Waiting
from ...jobs import child
from ...journal import Entry
from ..stores import files_of, folder_to_look_into, written_at
from ..work import Work
from .meter import check_free

SETTING = "store.exports.path"
GROWS = 2.0  # seconds between two looks at a file that may not be finished
SPARE = 10  # seconds that its process has beyond what decoding may take


class Found(msgspec.Struct, frozen=True):
    """What the process says of a file."""

    deliverable: Deliverable
    decoded: int
    flaws: tuple[Flaw, ...]


def inspect_export(work: Work, order: str, action: InspectExport) -> Receipt:
    """Decode it, and tell what is wrong. Raises Waiting while somebody is at work, or while it grows."""
    check_free(work, "to look into an export")
    folder = exports_of(work, action.app)
    files = sorted(files_of(folder), key=written_at, reverse=True)
    path = _asked(folder, files, action.file)
    name = path.relative_to(folder).as_posix()
    before = _state(path)
    time.sleep(GROWS)
    if _state(path) != before:
        raise Waiting(f"{name} is still being written; waiting")
    wanted = msgspec.json.encode(action.specification).decode()
    work.step(order, "checking")
    made = child.run_for("inspect", str(path), wanted, str(action.seconds), kind=Found, seconds=action.seconds + SPARE)
    if _state(path) != before:
        raise HostError(f"{name} was written again while it was looked into: ask once more")
    others = tuple(other.relative_to(folder).as_posix()[:LIMIT_PATH] for other in files if other != path)
    inspected = Inspected(
        name,
        before[0],
        made.deliverable,
        made.decoded,
        tuple(msgspec.structs.replace(flaw, message=flaw.message[:LIMIT_TEXT]) for flaw in made.flaws[:LIMIT_FLAWS]),
        max(0, len(made.flaws) - LIMIT_FLAWS),
        others[:LIMIT_OTHERS],
    )
    return work.close(Entry(order), Receipt(order, "done", inspected=inspected))


def exports_of(work: Work, app: str) -> Path:
    """Where an application writes its exports. Raises Refused."""
    return folder_to_look_into(work, app, SETTING)


def _asked(folder: Path, files: list[Path], name: str) -> Path:
    """The file that was asked for, one of those in the folder and no link. Raises Refused."""
    if not files:
        raise Refused(f"no exports in {folder.name}")
    if not name:
        return files[0]
    wanted = PurePosixPath(name)
    asked_for = next((path for path in files if PurePosixPath(path.relative_to(folder).as_posix()) == wanted), None)
    if asked_for is None:
        raise Refused(f"{name} is none of the exports: the newest is {files[0].relative_to(folder).as_posix()}")
    return asked_for


def _state(path: Path) -> tuple[int, int, int]:
    """Bytes, when it was written, and which file it is. Raises HostError where it is gone."""
    try:
        seen = path.stat(follow_symlinks=False)
    except OSError as fault:
        raise HostError(f"{path.name} is not there any more: {fault.strerror}") from fault
    return seen.st_size, seen.st_mtime_ns, seen.st_ino
