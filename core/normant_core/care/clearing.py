"""What may go of a store, why the rest may not, and in which order.

An item goes only where everything allows it: its kind, its production, its age, its project, and what the file system
says of it. What is not known counts against going. Of those that may, the oldest goes first, then the largest, until
as much is free as is wanted.
"""

import datetime as dt
from array import array
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Literal

from ..base.quantities import Dimension, show
from ..base.wording import counted
from .deliveries import Deliveries, name_key

Kind = Literal[
    "source_cache", "frame_cache", "proxies", "renders", "backups", "scratch", "temporary", "bin",
    "exports", "sources", "projects",
]  # fmt: skip
Making = Literal["made again", "made again at a price", "copies", "never by us"]

MADE: dict[Kind, Making] = {
    "source_cache": "made again",
    "frame_cache": "made again",
    "scratch": "made again",
    "temporary": "made again",
    "bin": "made again",
    "proxies": "made again at a price",
    "renders": "made again at a price",
    "backups": "copies",
    "exports": "never by us",
    "sources": "never by us",
    "projects": "never by us",
}
OF_PROJECTS: frozenset[Kind] = frozenset(("renders", "backups"))  # they go when their project is delivered
USUAL_AGE = dt.timedelta(days=60)
NEWEST = 3  # backups of a project that always stay, and
OLDER = dt.timedelta(days=7)  # one at least that is older than that
ENOUGH = "not needed to reach the target"
MOST = "limit for one run reached"
_NO_NUMBER = 0  # of the reason of an item that goes


@dataclass(frozen=True, slots=True)
class Rules:
    """By what items of a store are judged: its kind, productions that are live, deliveries of its application.

    `as_of` is the moment of the judgement; items go that nobody used for `unused_for` before it. Where productions that
    `ended` are given, by their `name_key`, items of all others stay, and the age of theirs begins with that end. Where
    `only` names a production, items of no other go.
    """

    kind: Kind
    as_of: dt.datetime
    unused_for: dt.timedelta = USUAL_AGE
    live: frozenset[str] = frozenset()
    deliveries: Deliveries = field(default_factory=Deliveries)
    newest: int = NEWEST
    ended: Mapping[str, dt.datetime] | None = None
    only: str = ""


@dataclass(frozen=True, slots=True)
class StoreItem:
    """A file of a store: its bytes, and when it was used last, in seconds since 1970.

    `stays` is why the file system lets nobody remove it: a link, open, locked. Where it has several `names`, `same` is
    what they have in common; `production` and `project` are empty where its path does not tell them.
    """

    size: int
    used: float
    stays: str = ""
    production: str = ""
    project: str = ""
    names: int = 1
    same: tuple[int, int] | None = None


@dataclass(slots=True)
class Sieve:
    """Takes a store's items one by one, and says of each at the end whether it goes.

    It holds some forty bytes an item and no path, so that a million items are no burden.
    """

    rules: Rules
    free: int | None = None  # bytes that are wanted; None for all that may go
    most: int | None = None  # bytes that may go at once; None for as many as there are
    _used: "array[float]" = field(default_factory=lambda: array("d"))
    _sizes: "array[int]" = field(default_factory=lambda: array("q"))
    _whys: "array[int]" = field(default_factory=lambda: array("l"))
    _reasons: dict[str, int] = field(default_factory=lambda: {"": _NO_NUMBER})
    _shared: dict[tuple[int, int], list[int]] = field(default_factory=dict)
    _names: dict[tuple[int, int], int] = field(default_factory=dict)
    _backups: defaultdict[tuple[str, str], list[int]] = field(default_factory=lambda: defaultdict(list))
    _productions: defaultdict[str, set[str]] = field(default_factory=lambda: defaultdict(set))  # of a project's name
    _without_production: defaultdict[str, list[int]] = field(default_factory=lambda: defaultdict(list))  # by project

    def take(self, item: StoreItem) -> int:
        """Its bytes as they are counted: those of a file with several names at the first of them."""
        number, size = len(self._used), item.size
        if item.same is not None:
            others = self._shared.setdefault(item.same, [])
            size = 0 if others else size
            others.append(number)
            self._names[item.same] = item.names
        self._used.append(item.used)
        self._sizes.append(size)
        self._whys.append(self._number(why_kept(self.rules, item)))
        if self.rules.kind in OF_PROJECTS and item.project:
            self._note_project(number, item)
        return size

    def _note_project(self, number: int, item: StoreItem) -> None:
        if self.rules.kind == "backups" and not item.stays:
            self._backups[item.production, item.project].append(number)
        if item.production:
            self._productions[item.project].add(name_key(item.production))
        elif not self._whys[number]:
            self._without_production[item.project].append(number)

    @property
    def count(self) -> int:
        """Items that it took."""
        return len(self._used)

    @property
    def size(self) -> int:
        """Their bytes."""
        return sum(self._sizes)

    def _number(self, why: str) -> int:
        return self._reasons.setdefault(why, len(self._reasons))

    def decide(self) -> "Decided":
        """What goes, when all items were taken."""
        self._keep_ambiguous()
        for (_, project), numbers in self._backups.items():
            self._keep_newest(project, numbers)
        for same, numbers in self._shared.items():
            self._keep_together(same, numbers)
        self._stop_at_target()
        return Decided(self._whys, self._sizes, self._used, [*self._reasons])

    def _keep_ambiguous(self) -> None:
        """Keep files whose path tells no production where this store has another production's project of that name."""
        for project, numbers in self._without_production.items():
            released = self.rules.deliveries.find("", project)
            if self._productions[project] - {name_key(released.production) if released else ""}:
                why = self._number(f"several productions have a project {project}; the path does not show which one")
                for number in numbers:
                    self._whys[number] = why

    def _keep_newest(self, project: str, numbers: list[int]) -> None:
        """The newest backups of a project, and one at least that is older than a week: what went wrong shows late."""
        newest = sorted(numbers, key=lambda n: -self._used[n])
        for number in newest[: self.rules.newest]:
            self._whys[number] = self._number(f"one of the newest {self.rules.newest} backups of {project}")
        until = (self.rules.as_of - OLDER).timestamp()
        if not any(self._used[number] <= until for number in newest[: self.rules.newest]):
            older = next((number for number in newest if self._used[number] <= until), None)
            if older is not None:
                self._whys[older] = self._number(f"the newest backup of {project} that is older than a week")

    def _keep_together(self, same: tuple[int, int], numbers: list[int]) -> None:
        """A file's bytes are free when the last of its names has gone."""
        outside = self._names[same] - len(numbers)
        if outside > 0:
            why = f"it has {counted(outside, 'hard link')} outside this folder: deleting it would free nothing"
        elif any(self._whys[number] for number in numbers):
            why = "another hard link of this file is kept: deleting this one would free nothing"
        else:
            return
        for number in numbers:
            self._whys[number] = self._whys[number] or self._number(why)

    def _stop_at_target(self) -> None:
        """Keep the files that are beyond a limit. Names of one file stand together, as they have its moment."""
        if self.free is None and self.most is None:
            return
        reached = 0
        for number in self._oldest_first():
            before, reached = reached, reached + self._sizes[number]
            if self.free is not None and before >= self.free:
                self._whys[number] = self._number(ENOUGH)
            elif self.most is not None and reached > self.most:
                self._whys[number] = self._number(MOST)
        for numbers in self._shared.values():  # the names without bytes go, or stay, with the one that has them
            if self._whys[numbers[0]] in (_NO_NUMBER, self._reasons.get(ENOUGH), self._reasons.get(MOST)):
                for number in numbers:
                    self._whys[number] = self._whys[numbers[0]]

    def _oldest_first(self) -> Iterator[int]:
        """Yield the files that may be deleted, the oldest first, of one moment the largest first.

        Files of one hour are sorted at a time: sorting a million at once would take as much memory as all the rest.
        """
        hours = defaultdict[int, "array[int]"](lambda: array("l"))
        for number, why in enumerate(self._whys):
            if why == _NO_NUMBER:
                hours[int(self._used[number] // 3600)].append(number)
        for hour in sorted(hours):
            by_size = sorted(hours.pop(hour), key=self._sizes.__getitem__, reverse=True)
            yield from sorted(by_size, key=self._used.__getitem__)


@dataclass(frozen=True, slots=True)
class Decided:
    """Of each item, in the order in which they were taken, why it is kept."""

    _whys: "array[int]"
    _sizes: "array[int]"
    _used: "array[float]"
    _reasons: list[str]

    def why(self, number: int) -> str:
        """Empty where it goes."""
        return self._reasons[self._whys[number]]

    def counted(self, number: int) -> tuple[int, float]:
        """Its bytes as they are counted, and when it was used."""
        return self._sizes[number], self._used[number]

    @property
    def goes(self) -> tuple[int, int]:
        """How many items, and their bytes."""
        sizes = [size for why, size in zip(self._whys, self._sizes, strict=True) if why == _NO_NUMBER]
        return len(sizes), sum(sizes)

    def reasons(self) -> Iterator[tuple[str, int, int]]:
        """Each reason with its items and their bytes, the most bytes first."""
        counts, sizes = Counter(self._whys), [0] * len(self._reasons)
        for why, size in zip(self._whys, self._sizes, strict=True):
            sizes[why] += size
        for number in sorted(counts, key=lambda number: (-sizes[number], number)):
            if number != _NO_NUMBER:
                yield self._reasons[number], counts[number], sizes[number]


def kind_words(kind: str) -> str:
    """`source cache`, `temporary files`."""
    return "temporary files" if kind == "temporary" else kind.replace("_", " ")


def staying_words(kind: Kind, going_on: Mapping[str, int]) -> str:
    """What of a store stays however old it is; `going_on` are its bytes by the productions that have not ended.

    `open or locked files; files of projects without a delivered export; 31 GB of Mill Lane, which has not ended`
    """
    if MADE[kind] == "never by us":
        return f"everything: {kind_words(kind)} are never deleted"
    stays = ["open or locked files"]
    if kind in OF_PROJECTS:
        stays.append("files of projects without a delivered export")
    if kind == "backups":
        stays.append(f"the newest {counted(NEWEST, 'backup')} of each project, and 1 older than a week")
    stays += [
        f"{show(size, Dimension.BYTES, unit='GB')} of {name}, which has not ended" for name, size in going_on.items()
    ]
    return "; ".join(stays)


def why_kept(rules: Rules, item: StoreItem) -> str:
    """Why an item may not go, by itself; empty where it may."""
    if MADE[rules.kind] == "never by us":
        return f"{rules.kind} are never deleted"
    if item.stays:
        return item.stays
    return _of_production(rules, item.production) or _of_project(rules, item) or _of_age(rules, item)


@lru_cache(maxsize=4096)
def _is_live(production: str, live: frozenset[str]) -> bool:
    return production in live or name_key(production) in map(name_key, live)


def _of_production(rules: Rules, production: str) -> str:
    if rules.only and name_key(production) != name_key(rules.only):
        return f"not known to belong to {rules.only}"
    return _of_life(rules, production) if production else ""


def _of_life(rules: Rules, production: str) -> str:
    if _is_live(production, rules.live):
        return f"its production {production} is live"
    if rules.ended is not None and name_key(production) not in rules.ended:
        return f"its production {production} has not been marked as ended"
    return ""


def _of_project(rules: Rules, item: StoreItem) -> str:
    if rules.kind not in OF_PROJECTS:
        return ""
    if not item.project:
        return "its path does not name a project, so its delivery is unknown"
    released = rules.deliveries.find(item.production, item.project)
    return "" if released else f"{item.project} has no delivered export"


def _of_age(rules: Rules, item: StoreItem) -> str:
    now, age = rules.as_of.timestamp(), rules.unused_for.total_seconds()
    if now < item.used:
        return "its time is in the future, so its age is unknown"
    if now - item.used < age:
        return f"used within {_span(rules.unused_for)}"
    ended = rules.ended.get(name_key(item.production)) if rules.ended else None
    if ended is not None and now - ended.timestamp() < age:
        return f"its production {item.production} ended within {_span(rules.unused_for)}"
    return ""


def _span(age: dt.timedelta) -> str:
    return counted(age.days, "day") if age >= dt.timedelta(days=1) else f"{age.total_seconds() / 3600:g} hours"
