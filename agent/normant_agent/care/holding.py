"""What was cleared lies in a folder beside the items of its store, on the same volume, until it is deleted or put back.

A file gets there by another name alone, so that it takes no time and no room. It is looked at once more there, where
nobody else looks for it, and written into the record of its order. What was used in the moment before it was moved goes
back to its place. What is not in the record is never deleted.
"""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from normant_core.orders.clearing import MOST_REASONS

from ..errors import HostError
from ..hosts.host import Host
from .change_time import changed_ns
from .held_record import RETURNS, HeldFile, HeldRecord, Settled
from .item_list import ListedItem
from .place import ItemPlace, item_place, why_it_stays
from .walk import Ident, bytes_of

HELD = ".normant-held"  # in a store's folder; in it a folder for each order
GONE = "no longer exists"
USED = "used or changed since it was listed"
CHANGED = "changed since it was moved, or open in a program"


@dataclass(slots=True)
class Fate:
    """What became of the files that an order held: so many were deleted or put back, some stay held or are lost."""

    deleted: int = 0
    size: int = 0
    returned: int = 0
    lost: int = 0
    staying: list[HeldFile] = field(default_factory=list)
    reasons: dict[str, int] = field(default_factory=dict)

    def settled(self, before: Settled) -> Settled:
        """Together with what was known before."""
        counts = (self.deleted, self.size, self.returned, self.lost)
        return Settled(*(sum(pair) for pair in zip(before, counts, strict=True)))

    def stay(self, held: HeldFile, why: str) -> None:
        """A file that cannot be put back."""
        self.staying.append(held)
        if why in self.reasons or len(self.reasons) < MOST_REASONS:
            self.reasons[why] = self.reasons.get(why, 0) + 1


@dataclass(frozen=True, slots=True)
class HoldingFolder:
    """Where an order holds what it cleared of a store; files bear the number of their line in its list."""

    host: Host
    store: Path
    order: str
    record: HeldRecord

    @contextmanager
    def _place(self, number: int) -> Iterator[ItemPlace]:
        with item_place(self.store, f"{HELD}/{self.order}/{number}", make=True, private=True) as place:
            if place is None:
                raise HostError(f"there is no folder in {self.store.name} where items can be held")
            yield place

    def check_store(self) -> None:
        """Raises HostError where the store's folder is another one than that from which files were moved."""
        with item_place(self.store, "x") as place:
            if place is None:
                raise HostError(f"{self.store.name} no longer exists")
            inode = (place.path.parent.stat() if place.folder is None else os.fstat(place.folder)).st_ino
        if inode != self.record.store():
            raise HostError(f"{self.store.name} is not the folder from which the files were moved")

    def check(self) -> None:
        """Raises HostError where nothing can be held in this store, before anybody's application is closed for it."""
        with self._place(0):
            pass

    @contextmanager
    def recording(self) -> Iterator[None]:
        """While files are moved, each is recorded. Raises HostError."""
        with self._place(0) as place:
            above = place.path.parent.parent.parent
            inode = above.stat().st_ino if place.folder is None else _above(place.folder, 2).st_ino
        self.record.begin(inode)
        try:
            yield
        finally:
            self.record.end()

    def unrecorded_items(self, items: Iterator[ListedItem]) -> Iterator[tuple[HeldFile, ListedItem]]:
        """What an agent before 0.8.0 moved, which kept no record: files in the folder that are as they were listed."""
        for number, item in enumerate(items, 1):
            with self._place(number) as here:
                status = here.status()
                if status is not None:
                    changed = RETURNS if self._why_changed(item, status) else changed_ns(status, here.path)
                    yield HeldFile(number, status.st_ino, changed), item

    def take(self, number: int, item: ListedItem, open_now: frozenset[Ident], *, moved_before: bool) -> tuple[str, int]:
        """Why an item stays, empty where it is held now; and its bytes. `moved_before`: an earlier attempt, which was
        cut off, has recorded that it moved this one.

        Raises HostError.
        """
        with self._place(number) as held:
            there = held.status()
            if moved_before:
                return ("", self._bytes(there)) if there else (GONE, 0)
            with item_place(self.store, item.path, make=there is not None) as place:
                if there is None:
                    status = place.status() if place else None
                    if place is None or status is None:
                        return GONE, 0
                    why = why_it_stays(status, open_now) or self._why_changed(item, status, place)
                    if why:
                        return why, 0
                    place.move(held)
                elif place is None:
                    raise HostError("its folder cannot be made again")
                return self._moved(number, item, held, place)

    def _moved(self, number: int, item: ListedItem, held: ItemPlace, place: ItemPlace) -> tuple[str, int]:
        """Look at a file once more that was just moved, or that an attempt moved which was cut off."""
        moved = held.status()
        if moved is None:
            return GONE, 0
        why = why_it_stays(moved, frozenset()) or self._why_changed(item, moved)
        if not why:
            self.record.add(HeldFile(number, moved.st_ino, changed_ns(moved, held.path)))
            return "", self._bytes(moved)
        try:
            held.move_back(place)
        except HostError as fault:
            self.record.add(HeldFile(number, moved.st_ino, RETURNS))
            return f"{why}; it will be put back when its name is free: {fault}", 0
        return why, 0

    def _why_changed(self, item: ListedItem, status: os.stat_result, place: ItemPlace | None = None) -> str:
        """`place` is given before the move, which itself changes the time of the last change."""
        used = max(status.st_mtime, status.st_atime)
        same = item.inode in (0, status.st_ino) and status.st_size == item.length and used <= item.used
        if place is not None:
            same = same and item.changed in (0, changed_ns(status, place.path)) and place.is_on_volume_of(self.store)
        return "" if same else USED

    def _bytes(self, status: os.stat_result) -> int:
        return bytes_of(status) * self.host.grain

    def put_back(self, held: HeldFile, item: ListedItem, fate: Fate) -> None:
        """Move a file back to where it lay, never over another one."""
        try:
            with self._place(held.number) as here, item_place(self.store, item.path, make=True) as place:
                if here.status() is None:
                    self._settle_missing(held, item, place, fate, deleted_before=False)
                    return
                if place is None:
                    raise HostError("its folder cannot be made again")
                here.move_back(place)
                fate.returned += 1
        except HostError as fault:
            fate.stay(held, str(fault))

    def _settle_missing(
        self, held: HeldFile, item: ListedItem, place: ItemPlace | None, fate: Fate, *, deleted_before: bool
    ) -> None:
        """A file that is not held any more: an attempt that was cut off put it back or deleted it, or it is lost."""
        there = place.status() if place else None
        if there is not None and there.st_ino == held.inode:
            fate.returned += 1
        elif deleted_before and held.changed != RETURNS:
            fate.deleted, fate.size = fate.deleted + 1, fate.size + item.size
        else:
            fate.lost += 1

    def delete(
        self, held: HeldFile, item: ListedItem, open_now: frozenset[Ident], fate: Fate, *, begun_before: bool
    ) -> None:
        """Delete a file for good where it is as it was moved; else put it back. `begun_before`: an earlier attempt was
        cut off, so that a file which no longer exists was deleted by it."""
        try:
            with self._place(held.number) as here:
                status = here.status()
                if status is None:
                    with item_place(self.store, item.path) as place:
                        self._settle_missing(held, item, place, fate, deleted_before=begun_before)
                    return
                if not self._why_kept(held, here, status, open_now):
                    size = self._bytes(status)
                    self.host.remove(here)
                    fate.deleted, fate.size = fate.deleted + 1, fate.size + size
                    return
        except HostError as fault:
            fate.stay(held, str(fault))
            return
        self.put_back(held, item, fate)

    def _why_kept(self, held: HeldFile, here: ItemPlace, status: os.stat_result, open_now: frozenset[Ident]) -> str:
        is_same = held.changed != RETURNS and status.st_ino == held.inode
        if not is_same or changed_ns(status, here.path) != held.changed:
            return CHANGED
        return why_it_stays(status, open_now)

    def unrecorded(self, numbers: int) -> int:
        """How many names are in the folder that nobody's record explains, where so many files of the record stay."""
        with self._place(0) as first:
            folder = first.path.parent
            names = os.listdir(folder if first.folder is None else first.folder)  # noqa: PTH208 (an open folder)
        return max(0, len(names) - numbers)

    def fold(self) -> None:
        """Remove the folders where nothing is in them any more."""
        for folder in (self.store / HELD / self.order, self.store / HELD):
            try:
                folder.rmdir()
            except OSError:
                return


def _above(folder: int, levels: int) -> os.stat_result:
    """The status of the folder so many levels above an open one."""
    above = os.open("/".join([".."] * levels), os.O_RDONLY, dir_fd=folder)
    try:
        return os.fstat(above)
    finally:
        os.close(above)
