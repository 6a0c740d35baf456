"""What was cleared lies in a folder beside the items of its store, on the same volume, until it is let go or put back.

A file gets there by another name alone, so that it takes no time and no room. It is looked at once more there, where
nobody else looks for it: what was used in the moment before it was moved goes back to its place.
"""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from ..errors import HostError
from ..hosts.host import Host
from .item_list import ListedItem
from .place import ItemPlace, item_place, why_it_stays
from .walk import Ident, bytes_of

HELD = ".normant-held"  # in a store's folder; in it a folder for each order
GONE = "is not there any more"
USED = "was used, or changed, since it was listed"


@dataclass(frozen=True, slots=True)
class HoldingFolder:
    """Where an order holds what it cleared of a store; items bear the number of their line in its list."""

    host: Host
    store: Path
    order: str

    @contextmanager
    def _place(self, number: int) -> Iterator[ItemPlace]:
        with item_place(self.store, f"{HELD}/{self.order}/{number}", make=True) as place:
            if place is None:
                raise HostError(f"there is no folder in {self.store.name} where items can be held")
            if place.folder is not None and os.fstat(place.folder).st_uid != os.geteuid():
                raise HostError(f"{HELD} in {self.store.name} belongs to somebody else: nothing is put there")
            yield place

    def take(self, number: int, item: ListedItem, open_now: frozenset[Ident]) -> tuple[str, int]:
        """Why an item stays, empty where it is held now; and its bytes. One that is held already counts once more.

        Raises HostError.
        """
        with self._place(number) as held:
            if there := held.status():
                return "", self._bytes(there)
            with item_place(self.store, item.path) as place:
                status = place.status() if place else None
                if place is None or status is None:
                    return GONE, 0
                if why := why_it_stays(status, open_now) or self._why_changed(item, status):
                    return why, 0
                place.move(held)
                moved = held.status()
                if moved is None or (why := why_it_stays(moved, frozenset()) or self._why_changed(item, moved)):
                    held.move_back(place)
                    return why if moved else GONE, 0
                return "", self._bytes(moved)

    def _why_changed(self, item: ListedItem, status: os.stat_result) -> str:
        used = max(status.st_mtime, status.st_atime)
        same = item.inode in (0, status.st_ino) and status.st_size == item.length
        return "" if same and used <= item.used else USED

    def _bytes(self, status: os.stat_result) -> int:
        return bytes_of(status) * self.host.grain

    def put_back(self, number: int, item: ListedItem) -> str:
        """Why an item stays held; empty where it lies where it lay, or was never held. Raises HostError."""
        with self._place(number) as held:
            if held.status() is None:
                return ""
            with item_place(self.store, item.path, make=True) as place:
                if place is None:
                    return "its folder cannot be made again"
                held.move_back(place)
                return ""

    def let_go(self) -> int:
        """Remove what is held, for good; how many files. Raises HostError."""
        count = 0
        with self._place(0) as first:
            folder = first.path.parent
            for name in os.listdir(folder if first.folder is None else first.folder):  # noqa: PTH208 (an open folder)
                self.host.remove(ItemPlace(folder / name, first.folder))
                count += 1
        self.fold()
        return count

    def fold(self) -> None:
        """The folders go where nothing is in them any more."""
        for folder in (self.store / HELD / self.order, self.store / HELD):
            try:
                folder.rmdir()
            except OSError:
                return
