"""Clearing a store: what nobody used is listed, and what a person signed is removed, file by file."""

import datetime as dt
import os
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import msgspec

from normant_core.base.guard import forbidden_path
from normant_core.base.wording import counted
from normant_core.orders.kinds import (
    LIMIT_ITEM_PATH,
    LIMIT_ITEMS,
    ClearStore,
    Item,
    Listed,
    ListStore,
    Receipt,
    Result,
)
from normant_core.seat.stores import is_clearable, is_own

from ..care.open_files import open_files
from ..care.place import item_place, why_it_stays
from ..care.walk import Ident, walk
from ..errors import HostError, Refused
from ..journal import Entry
from .stores import named_folder, store_at
from .work import Work

AT_ONCE = 100  # items that are removed before it is looked again which files are open
GONE = "no longer exists"


def list_store(work: Work, order: str, action: ListStore) -> Receipt:
    """What nobody used for that long, the largest first."""
    folder, path = _store_of(work, action)
    items = list(_items(work, path)) if path.is_dir() else []
    until = work.host.now() - dt.timedelta(days=action.unused_days)
    unused = sorted((item for item in items if item.used_at < until), key=lambda item: (-item.size, item.path))
    size, unused_size = (sum(item.size for item in some) for some in (items, unused))
    listed = Listed(folder, tuple(unused[:LIMIT_ITEMS]), len(items), size, len(unused), unused_size)
    return work.close(Entry(order), Receipt(order, "done", listed=listed))


def clear_store(work: Work, order: str, action: ClearStore, entry: Entry | None) -> Receipt:
    """Remove what still is as it was listed; what was used, changed or taken away since is told."""
    folder, path = _store_of(work, action)
    if folder != action.folder:
        raise Refused(f"the store has moved: the listed files were in {action.folder}, the store is in {folder}")
    for item in action.items:
        _check_within(path, item)
    again = entry is not None and entry.gone  # it was begun before a crash: what no longer exists, it removed
    if not again:
        work.step(order, "checking")
        work.closed(order, action.app, action.close_when_idle_seconds)
        begun = work.journal.get(order) or Entry(order)
        entry = work.journal.put(msgspec.structs.replace(begun, app=action.app, gone=True))
    work.step(order, "applying")
    removed, stay, held = list[Item](), list[str](), frozenset[Ident]()
    for number, item in enumerate(action.items):
        if number % AT_ONCE == 0:
            held = open_files()
        try:
            why = _remove(work, path, item, held=held)
        except HostError as fault:
            why = str(fault)
        if not why or (why == GONE and again):
            removed.append(item)
        else:
            stay.append(why if Path(item.path).name in why else f"{item.path} {why}")
    return _result_of(work, order, action.setting, removed=removed, stay=stay)


def _remove(work: Work, store: Path, item: Item, *, held: frozenset[Ident]) -> str:
    """Remove it where it still is what was listed; why it stays, empty where it went. Raises HostError."""
    with item_place(store, item.path) as place:
        status = place.status() if place else None
        if place is None or status is None:
            return GONE
        if why := why_it_stays(status, held):
            return why
        if work.host.size(place.path, status) != item.size or _used(status) > item.used_at:
            return "used since"
        work.host.remove(place)
        return ""


def _result_of(work: Work, order: str, setting: str, *, removed: list[Item], stay: list[str]) -> Receipt:
    work.step(order, "reading_back")
    entry = work.journal.get(order) or Entry(order)
    if entry.reopen:
        work.host.reopen(entry.app)
    count = counted(len(removed), "file")
    message = f"{count}, {sum(item.size for item in removed):,} bytes, removed"
    if stay:
        message += (
            f"; {len(stay):,} not: {', '.join(stay[:3])}{f' and {len(stay) - 3:,} more' if len(stay) > 3 else ''}"
        )
    result = Result(setting, "done" if removed else "failed", message=message)
    receipt = Receipt(order, "done" if removed else "failed", (result,), message)
    return work.close(msgspec.structs.replace(entry, reopen=False), receipt)


def _store_of(work: Work, action: ListStore | ClearStore) -> tuple[str, Path]:
    """The store's folder as its preference names it now, and where it lies. Raises Refused where none is cleared."""
    app, setting = action.app, action.setting
    if not is_clearable(setting):
        raise Refused(f"{setting} is not a store that its application recreates: no files were deleted")
    folder = named_folder(work, app, setting)
    if not is_own(app, folder):
        raise Refused(f"{folder} may hold more than a store: neither it nor the folder that it is in is named {app}")
    if unfit := forbidden_path(folder, app):
        raise Refused(f"{folder} is not touched: {unfit}")
    return folder, store_at(work, folder, app)


def _items(work: Work, store: Path) -> Iterator[Item]:
    """What an order can name: files of one name, which nobody holds open or locked, whose path is short text."""
    held = open_files()
    for seen in walk(store):
        nameable = len(seen.path) <= LIMIT_ITEM_PATH and seen.path.isprintable()
        if nameable and not seen.stays and seen.names == 1 and seen.ident not in held:
            used = dt.datetime.fromtimestamp(int(seen.used), dt.UTC)
            with suppress(HostError, FileNotFoundError):  # it went meanwhile
                yield Item(seen.path, work.host.size(store / seen.path), used)


def _used(status: os.stat_result) -> dt.datetime:
    return dt.datetime.fromtimestamp(int(max(status.st_mtime, status.st_atime)), dt.UTC)


def _check_within(store: Path, item: Item) -> None:
    """Raises Refused for an order that names anything but a file under the folder."""
    path = store / item.path
    real = path.resolve().is_relative_to(store.resolve())
    if ".." in Path(item.path).parts or not real or path.is_symlink() or path.is_dir():
        raise Refused(f"{item.path} is not a file of the store: no files were deleted")
