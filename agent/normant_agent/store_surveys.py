"""How large the stores of a seat are: each is walked once a day, a few seconds at a time, while nobody waits for it.

What was counted of a store that is still being walked is not told. A walk that is under way goes on where it was; one
that an end of the agent cut off begins anew.
"""

import datetime as dt
import os
import sys
import threading
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import TypeVar

import msgspec

from normant_core.care.ages import AgeTally
from normant_core.care.belonging import Belonging
from normant_core.care.clearing import OF_PROJECTS
from normant_core.seat.stores import purpose_of
from normant_core.seat.survey import MOST_PRODUCTIONS, MOST_PROJECTS, ProductionShare, ProjectShare, Store

from .care.holding import HELD
from .care.walk import Ident, Seen, keeps_access_times, walk
from .errors import HostError
from .files import write_atomically
from .orders.clearing_plans import NamedStore, named_stores
from .orders.work import Work

EVERY = dt.timedelta(days=1)
UNUSED = 30  # days after which a store's bytes count as unused
LOOK = 500  # files between two looks at the clock
LOWEST = 19
MOST_NAMES = 1000  # productions, and projects, of a store that are counted
LONGEST = 120  # characters of the name of one
Name = TypeVar("Name")


class Counted(msgspec.Struct, frozen=True):
    """A store as it was counted, and when; one that could not be walked through has no size."""

    store: Store
    at: dt.datetime


@dataclass(slots=True)
class _Count:
    """A store in the midst of being walked: a file's bytes count at the first of its names."""

    named: NamedStore
    seen: Iterator[Seen]
    ages: AgeTally
    belonging: Belonging
    size: int = 0
    items: int = 0
    oldest: float = float("inf")
    shared: set[Ident] = field(default_factory=set)
    by_production: Counter[str] = field(default_factory=Counter)
    by_project: Counter[tuple[str, str]] = field(default_factory=Counter)

    def take(self, seen: Seen) -> None:
        """One more file."""
        self.items += 1
        if seen.names > 1 and seen.ident in self.shared:
            return
        if seen.names > 1:
            self.shared.add(seen.ident)
        self.size += seen.size
        production, project = self.belonging.of(seen.path)
        if production:
            _add(self.by_production, production[:LONGEST], seen.size)
        if project and purpose_of(self.named.setting) in OF_PROJECTS:
            _add(self.by_project, (production[:LONGEST], project[:LONGEST]), seen.size)
        self.ages.take(seen.used, seen.size)
        if seen.used > 0:
            self.oldest = min(self.oldest, seen.used)


def _add(sizes: Counter[Name], name: Name, size: int) -> None:
    """Names beyond the first MOST_NAMES are left out."""
    if name in sizes or len(sizes) < MOST_NAMES:
        sizes[name] += size


class StoreSurveys:
    """What was counted, kept in a file of the agent's own."""

    def __init__(self, state: Path) -> None:
        self._path = state / "stores.json"
        self._counted = self._read()
        self._under_way: _Count | None = None

    def known(self) -> tuple[Store, ...]:
        """Every store that was counted, by its folder."""
        return tuple(counted.store for _, counted in sorted(self._counted.items()))

    def go_on(self, work: Work, seconds: float) -> None:
        """Count for so many seconds: the store that is under way, else the one that waits longest."""
        _step_back()
        ends = time.monotonic() + seconds
        stores = {store.folder: store for store in named_stores(work)}
        self._counted = {folder: counted for folder, counted in self._counted.items() if folder in stores}
        while time.monotonic() < ends:
            count = self._under_way or self._next(work, stores)
            if count is None:
                return
            self._under_way = count
            if _counted_on(count, ends):
                self._keep(work, count)

    def _next(self, work: Work, stores: dict[str, NamedStore]) -> _Count | None:
        """None where every store was counted within the day."""
        never = dt.datetime.min.replace(tzinfo=dt.UTC)
        at = {folder: self._counted[folder].at if folder in self._counted else never for folder in stores}
        now = work.host.now()
        due = [folder for folder in stores if not now - EVERY < at[folder] <= now]
        if not due:
            return None
        named = stores[min(due, key=lambda folder: (at[folder], folder))]
        there = named.path.is_dir()
        files = walk(named.path, access_times=keeps_access_times(named.path)) if there else iter(())
        belongs = (
            s.belongs for d in work.dialects if d.app == named.app for s in d.store if s.setting == named.setting
        )
        return _Count(named, files, AgeTally(now), Belonging(next(belongs, "")))

    def _keep(self, work: Work, count: _Count) -> None:
        volume = work.facts.volume_of(count.named.folder)
        oldest = dt.datetime.fromtimestamp(count.oldest, dt.UTC) if count.items and count.oldest < 1e11 else None
        ages = count.ages.shares()
        store = Store(
            purpose_of(count.named.setting),
            count.named.folder,
            count.named.app,
            volume.id if volume else None,
            count.size,
            count.items,
            next(share.size for share in ages if share.days == UNUSED),
            oldest,
            ages,
            tuple(ProductionShare(name, size) for name, size in count.by_production.most_common(MOST_PRODUCTIONS)),
            tuple(ProjectShare(*names, size) for names, size in count.by_project.most_common(MOST_PROJECTS)),
        )
        self._counted[count.named.folder] = Counted(store, work.host.now())
        self._under_way = None
        write_atomically(self._path, msgspec.json.encode(self._counted))

    def _read(self) -> dict[str, Counted]:
        """What was kept; nothing where it cannot be read any more, for it is counted anew."""
        try:
            return msgspec.json.decode(self._path.read_bytes(), type=dict[str, Counted])
        except (OSError, msgspec.DecodeError):
            return {}


def _counted_on(count: _Count, ends: float) -> bool:
    """Whether the store is counted to its end; what becomes unreadable on the way ends it as well."""
    try:
        for number, seen in enumerate(count.seen):
            if not seen.path.startswith(f"{HELD}/"):
                count.take(seen)
            if number % LOOK == LOOK - 1 and time.monotonic() >= ends:
                return False
    except HostError:
        return True  # a folder was moved away meanwhile: what was counted so far is told, and tomorrow all of it
    return True


def _step_back() -> None:
    """This thread gives way to everything else, where a system lets a single thread do so."""
    if sys.platform == "linux":
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), LOWEST)
