"""Clearing a store: what nobody used is listed, and what a person signed is removed, file by file."""

import datetime as dt
from pathlib import Path

import msgspec

from normant_core.base.guard import forbidden_path
from normant_core.base.wording import counted_in_figures
from normant_core.orders.kinds import LIMIT_ITEMS, Clearing, ClearStore, Item, Listed, ListStore, Receipt, Result
from normant_core.seat.stores import is_clearable, is_own

from ..errors import HostError, Refused
from ..journal import Entry
from .stores import files_of, named_folder, store_at
from .work import Work


def list_store(work: Work, order: str, action: ListStore) -> Receipt:
    """What nobody used for that long, the largest first."""
    folder, path = _store_of(work, action)
    items = [_item(work, path, file) for file in files_of(path)] if path.is_dir() else []
    until = work.host.now() - dt.timedelta(days=action.unused_days)
    unused = sorted((item for item in items if item.used_at < until), key=lambda item: (-item.size, item.path))
    size, unused_size = (sum(item.size for item in some) for some in (items, unused))
    listed = Listed(folder, tuple(unused[:LIMIT_ITEMS]), len(items), size, len(unused), unused_size)
    return work.close(Entry(order), Receipt(order, "done", listed=listed))


def clear_store(work: Work, order: str, action: ClearStore, entry: Entry | None) -> Receipt:
    """Remove what still is as it was listed; what was used, changed or taken away since is told."""
    folder, path = _store_of(work, action)
    if folder != action.folder:
        raise Refused(f"the store was moved meanwhile: what was listed lay in {action.folder}, it lies in {folder}")
    files = [(_within(path, item), item) for item in action.items]
    again = entry is not None and entry.gone  # it was begun before a crash: what is not there any more, it removed
    if not again:
        work.step(order, "checking")
        work.closed(order, action.app, action.close_when_idle_seconds)
        begun = work.journal.get(order) or Entry(order)
        entry = work.journal.put(msgspec.structs.replace(begun, app=action.app, gone=True))
    work.step(order, "applying")
    removed, stay = list[Item](), list[str]()
    for file, item in files:
        try:
            if file.exists() and not _same(_item(work, path, file), item):
                stay.append(f"{item.path} was used since")
            elif file.exists():
                work.host.remove(file)
                removed.append(item)
            elif again:
                removed.append(item)
            else:
                stay.append(f"{item.path} is not there any more")
        except HostError as fault:
            stay.append(str(fault))
    return _result_of(work, order, action.setting, removed=removed, stay=stay)


def _result_of(work: Work, order: str, setting: str, *, removed: list[Item], stay: list[str]) -> Receipt:
    work.step(order, "reading_back")
    entry = work.journal.get(order) or Entry(order)
    if entry.reopen:
        work.host.reopen(entry.app)
    count = counted_in_figures(len(removed), "file")
    message = f"{count}, {sum(item.size for item in removed):,} bytes, removed"
    if stay:
        message += (
            f"; {len(stay):,} not: {', '.join(stay[:3])}{f' and {len(stay) - 3:,} more' if len(stay) > 3 else ''}"
        )
    result = Result(setting, "done" if removed else "failed", message=message)
    receipt = Receipt(order, "done" if removed else "failed", (result,), message)
    return work.close(msgspec.structs.replace(entry, reopen=False), receipt)


def _store_of(work: Work, action: Clearing) -> tuple[str, Path]:
    """The store's folder as its preference names it now, and where it lies. Raises Refused where none is cleared."""
    app, setting = action.app, action.setting
    if not is_clearable(setting):
        raise Refused(f"{setting} names no store that its application makes again: nothing of it is removed")
    folder = named_folder(work, app, setting)
    if not is_own(app, folder):
        raise Refused(f"{folder} may hold more than a store: neither it nor the folder that it is in is named {app}")
    if unfit := forbidden_path(folder, app):
        raise Refused(f"{folder} is not touched: {unfit}")
    return folder, store_at(work, folder)


def _item(work: Work, folder: Path, file: Path) -> Item:
    try:
        seen = file.stat()
    except OSError as fault:
        raise HostError(f"{file.name} cannot be looked at: {fault.strerror}") from fault
    used = dt.datetime.fromtimestamp(int(max(seen.st_mtime, seen.st_atime)), dt.UTC)
    return Item(file.relative_to(folder).as_posix(), work.host.size(file), used)


def _same(here: Item, listed: Item) -> bool:
    return here.size == listed.size and here.used_at <= listed.used_at


def _within(folder: Path, item: Item) -> Path:
    """The file, under the folder and no link. Raises Refused for an order that names anything else."""
    path = folder / item.path
    real = path.resolve().is_relative_to(folder.resolve())
    if ".." in Path(item.path).parts or not real or path.is_symlink() or path.is_dir():
        raise Refused(f"{item.path} is no file of the store: nothing was removed")
    return path
