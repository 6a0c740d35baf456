"""Plans of clearing on a seat: stores are looked through by rules, and lists kept of what would go; nothing is touched.

What may go is core's to say (`care.clearing`), by what the signed dialects tell of a store.
"""

import datetime as dt
import fnmatch
import json
import tempfile
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from itertools import islice
from pathlib import Path
from typing import IO

from normant_core.base.errors import NormantError
from normant_core.base.guard import forbidden_path
from normant_core.base.wording import counted, spoken_path
from normant_core.care.belonging import Belonging, Only
from normant_core.care.clearing import MADE, OF_PROJECTS, Decided, Making, Rules, Sieve, StoreItem, kind_words
from normant_core.care.deliveries import Deliveries, ProjectOfProduction, name_key
from normant_core.dialects.dialect import BoundStore
from normant_core.orders.clearing import MOST_LISTED, MOST_NAMES, MOST_REASONS, PlannedStore, Reason, StoreAim
from normant_core.orders.kinds import PlanClearing, Receipt, SendList
from normant_core.seat.facts import Volume
from normant_core.seat.stores import MADE_AGAIN, SPARE, is_own, is_store, purpose_of

from ..care.holding import HELD
from ..care.item_list import ListedItem, signed_list, write_list
from ..care.open_files import OPEN, open_files
from ..care.walk import Seen, keeps_access_times, walk
from ..errors import HostError, Refused
from ..journal import Entry
from .stores import named_folder, store_at
from .work import Work

FIRST: tuple[Making, ...] = ("made again", "copies", "made again at a price")  # what costs least to have again
EARLY, LATE = dt.timedelta(minutes=5), dt.timedelta(hours=2)  # that a seat's clock may be off the house's
EXPORTS = "store.exports.path"
PIECE = 1 << 20  # bytes of a list that are handed in at once
MANY_NAMES = "has another hard link: deleting it would free nothing"
BESIDE = "kept by the application next to its files"
OTHER_STORE = "belongs to another store that lies in this one"


@dataclass(frozen=True, slots=True)
class StorePlace:
    """A store as its dialect tells of it, the folder as its preference names it, and where that really lies."""

    aim: StoreAim
    bound: BoundStore
    folder: str
    path: Path


def plan_clearing(work: Work, order: str, action: PlanClearing) -> Receipt:
    """Raises Refused where the seat's clock is off: ages would be wrong."""
    _check_clock(work, action.as_of)
    work.step(order, "checking")
    planning = Planning(work, order, action)
    cheapest = sorted(action.stores, key=lambda aim: (_cost(aim), aim.kind, aim.app))
    planned = tuple(planning.store_planned(number, aim) for number, aim in enumerate(cheapest))
    return work.close(Entry(order), Receipt(order, "done", planned=planned))


class Planning:
    """One plan in the making: where stores lie, how many bytes of which volume are still to be made free, and how many
    may still go."""

    def __init__(self, work: Work, order: str, action: PlanClearing) -> None:
        self._work, self._order, self._action = work, order, action
        self._stores = named_stores(work)
        free = {volume.id: volume.free for volume in work.facts.volumes or () if volume.free is not None}
        self._needs = {} if action.free is None else {name: max(0, action.free - held) for name, held in free.items()}
        self._most = action.most

    def store_planned(self, number: int, aim: StoreAim) -> PlannedStore:
        """One store, or why it is not looked through."""
        try:
            place = store_place(self._work, aim)
            return self._planned(place, number, _inner(place, self._stores))
        except (Refused, HostError, NormantError) as why:
            return PlannedStore(aim.app, aim.kind, trouble=str(why)[:500])

    def _planned(self, place: StorePlace, number: int, inner: tuple[str, ...]) -> PlannedStore:
        """What of it goes is written down, and counted off what its volume still needs."""
        aim, volume = place.aim, self._work.facts.volume_of(place.folder)
        rules = _rules(self._action, aim)
        sieve, summary = Sieve(rules), _Summary(rules)
        with tempfile.TemporaryFile("w+", encoding="ascii") as spool:
            _sift(self._work, place, sieve, spool, inner)
            need = self._needs.get(volume.id) if volume else None
            over = None if aim.quota is None else max(0, sieve.size - aim.quota)
            sieve.free, sieve.most = need if over is None else max(need or 0, over), self._most
            decided = sieve.decide()
            path = self._work.journal.new_list(self._order, number)
            digest = write_list(path, _going(spool, decided, summary))
        if digest:
            path.replace(self._work.journal.list_of(self._order, digest))
        count, size = decided.goes
        if volume and need:
            self._needs[volume.id] = max(0, need - size)
        if self._most is not None:
            self._most = max(0, self._most - size)
        reasons = (Reason(why[:300], items, held) for why, items, held in decided.reasons())
        return PlannedStore(
            aim.app,
            aim.kind,
            folder=place.folder[:4096],
            volume=volume.id[:120] if volume else "",
            items=sieve.count,
            size=sieve.size,
            going=count,
            going_size=size,
            oldest=dt.datetime.fromtimestamp(max(0, summary.oldest), dt.UTC) if digest else None,
            reasons=tuple(islice(reasons, MOST_REASONS)),
            rests_on=tuple(sorted(summary.rests_on, key=lambda row: (row.production, row.project))),
            productions=tuple(sorted(summary.productions)),
            digest=digest,
            at_once=_has_no_room(volume),
        )


def _has_no_room(volume: Volume | None) -> bool:
    """Whether what is held for a day would be missed on it meanwhile."""
    return volume is not None and volume.free is not None and volume.free < SPARE * (volume.capacity or 0)


def _check_clock(work: Work, as_of: dt.datetime) -> None:
    ahead = work.host.now() - as_of
    if not -EARLY <= ahead <= LATE:
        minutes = counted(round(abs(ahead) / dt.timedelta(minutes=1)), "minute")
        raise Refused(f"this seat's clock is {minutes} different from the server's: the age of files is unknown")


def _cost(aim: StoreAim) -> int:
    made = MADE[aim.kind]
    return FIRST.index(made) if made in FIRST else len(FIRST)


def store_place(work: Work, aim: StoreAim) -> StorePlace:
    """Where a store lies now. Raises Refused, HostError."""
    if MADE[aim.kind] == "never by us":
        raise Refused(f"{aim.kind} are never deleted")
    if not aim.app:
        if aim.kind not in ("temporary", "bin"):
            raise Refused(f"the system itself has no {kind_words(aim.kind)}")
        folder = work.host.system_folder(aim.kind)
        return StorePlace(aim, BoundStore(aim.kind, ""), folder, work.host.real(folder).resolve())
    bound = _bound(work, aim)
    folder = named_folder(work, aim.app, bound.setting)
    if not is_own(aim.app, folder):
        raise Refused(
            f"{folder} may hold more than a store: neither it nor the folder that it is in is named {aim.app}"
        )
    if unfit := forbidden_path(folder, aim.app):
        raise Refused(f"{folder} is not touched: {unfit}")
    return StorePlace(aim, bound, folder, store_at(work, folder, aim.app))


def _bound(work: Work, aim: StoreAim) -> BoundStore:
    """As the dialect tells of it; where it does not, only what every application makes again may go."""
    bounds = [store for dialect in work.dialects if dialect.app == aim.app for store in dialect.store]
    bound = next((store for store in bounds if store.kind == aim.kind), None)
    if bound is None:
        if aim.kind not in MADE_AGAIN:
            raise Refused(f"the dialect of {aim.app} does not tell what its {kind_words(aim.kind)} are")
        return BoundStore(aim.kind, f"store.{aim.kind}.path")
    if bound.cleared_by != "us":
        who = "the application" if bound.cleared_by == "application" else "a person at the seat"
        raise Refused(f"a database beside these files tracks them: {who} must clean them up")
    return bound


@dataclass(frozen=True, slots=True)
class NamedStore:
    """A folder that a preference names, and where it really lies."""

    path: Path
    app: str
    setting: str
    folder: str


def named_stores(work: Work) -> list[NamedStore]:
    """Every store that a preference of this seat names."""
    files = [(dialect.app, file) for dialect in work.dialects for file in dialect.file if not file.many]
    settings = {(app, binding.setting) for app, file in files for binding in file.binding}
    named = ((app, setting) for app, setting in sorted(settings) if is_store(setting) or setting == EXPORTS)
    return [store for app, setting in named if (store := _named(work, app, setting))]


def _named(work: Work, app: str, setting: str) -> NamedStore | None:
    try:
        folder = named_folder(work, app, setting)
        return NamedStore(work.host.real(folder).resolve(), app, setting, folder)
    except (Refused, HostError, OSError, RuntimeError):
        return None  # it names none, its file is not there, or links lead in a circle


def _inner(place: StorePlace, stores: Iterable[NamedStore]) -> tuple[str, ...]:
    """Paths below a store that are other stores. Raises Refused where all of it is another one as well."""
    root, inner = place.path.resolve(), list[str]()
    for other in stores:
        if other.path == root and (other.app, other.setting) != (place.aim.app, place.bound.setting):
            whose = f"the {purpose_of(other.setting).replace('_', ' ')} of {other.app}"
            raise Refused(f"{place.folder} is {whose} as well: it is more than a store of this kind")
        if other.path != root and other.path.is_relative_to(root):
            inner.append(f"{other.path.relative_to(root).as_posix()}/")
    return tuple(inner)


def _rules(action: PlanClearing, aim: StoreAim) -> Rules:
    ended = {name_key(row.production): row.at for row in action.ended}
    age = dt.timedelta(days=aim.unused_days)
    deliveries = Deliveries(action.deliveries, aim.app)
    return Rules(aim.kind, action.as_of, age, deliveries=deliveries, ended=ended, only=action.production)


def _sift(work: Work, place: StorePlace, sieve: Sieve, spool: IO[str], inner: tuple[str, ...]) -> None:
    """Every item of a store through the sieve, and into the spool."""
    if not place.path.is_dir():
        return
    belonging, only, held = Belonging(place.bound.belongs), Only(place.bound.only), open_files()
    for seen in walk(place.path, access_times=keeps_access_times(place.path)):
        if seen.path.startswith(f"{HELD}/"):
            continue
        path = spoken_path(seen.path)
        if not only.means(path):
            continue
        stays = seen.stays or (OPEN if seen.ident in held else "") or _stays(seen, place.bound, inner)
        production, project = belonging.of(path)
        size = seen.size * work.host.grain
        sieve.take(StoreItem(size, seen.used, stays, production, project))
        listed = ListedItem(seen.path, size, seen.length, seen.used, seen.ident[1], production, project, seen.changed)
        spool.write(json.dumps(listed) + "\n")


def _stays(seen: Seen, bound: BoundStore, inner: tuple[str, ...]) -> str:
    if seen.names > 1:
        return MANY_NAMES
    if inner and seen.path.startswith(inner):
        return OTHER_STORE
    name = seen.path.rpartition("/")[2]
    return BESIDE if any(fnmatch.fnmatchcase(name, pattern) for pattern in bound.leave) else ""


@dataclass(slots=True)
class _Summary:
    """Of what goes: how many, when the oldest was used, of which productions, and by which deliveries."""

    rules: Rules
    count: int = 0
    oldest: float = float("inf")
    productions: set[str] = field(default_factory=set)
    rests_on: set[ProjectOfProduction] = field(default_factory=set)

    def take(self, item: ListedItem) -> None:
        """Raises HostError where it is too much for one list."""
        self.count, self.oldest = self.count + 1, min(self.oldest, item.used)
        if item.production:
            self.productions.add(item.production[:120])
        if self.rules.kind in OF_PROJECTS and (released := self.rules.deliveries.find(item.production, item.project)):
            self.rests_on.add(released)
        if max(len(self.productions), len(self.rests_on)) > MOST_NAMES or self.count > MOST_LISTED:
            raise HostError(f"more than {MOST_LISTED:,} items, or {MOST_NAMES:,} projects, would go: ask for less")


def _going(spool: IO[str], decided: Decided, summary: _Summary) -> Iterator[ListedItem]:
    """What goes, in the order in which it was seen. Raises HostError where it is too much for one list."""
    spool.seek(0)
    for number, line in enumerate(spool):
        if decided.why(number):
            continue
        item = ListedItem(*json.loads(line))
        summary.take(item)
        yield item


def send_list(work: Work, order: str, action: SendList) -> Receipt:
    """Hand in a list, part by part; nothing is touched."""
    count = 0
    with signed_list(work.journal.list_of(action.plan, action.digest), action.digest) as file:
        while piece := "".join(file.readlines(PIECE)):
            work.hand_in(order, count, piece.encode("ascii"))
            count += 1
    return work.close(Entry(order), Receipt(order, "done", message=f"{count} parts"))
