"""Where the stores of a seat lie best: all of them at once, exactly.

Every cost belongs to one volume and what is put on it, so the best placement of a set of stores on some volumes is the
best split between the last of them and the others (dynamic programming over subsets: 3^n splits of n stores, one pass
a volume). What may not be is no cost but no split.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ..base.errors import NormantError
from ..base.wording import counted, listed
from ..seat.facts import Volume
from ..seat.stores import SPARE

CACHES = ("source_cache", "frame_cache")
APART = {"source_cache": 0, "frame_cache": 0, "sources": 1, "exports": 2}  # groups that want a volume each
KINDS = ("nvme", "ssd", "hdd", "network")  # the faster first
MOST_STORES, MOST_VOLUMES = 12, 16
_BYTES, _RANKS = 47, 8  # bits of what is moved, and of how good volumes are by themselves
MOST_BYTES = 1 << _BYTES
_NEVER = np.iinfo(np.int64).max // 4
Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]


class PlacementError(NormantError):
    """A question that cannot be answered: too many stores or volumes, or more bytes than disks hold."""


@dataclass(frozen=True, slots=True)
class PlacedStore:
    """A store that wants a place: bytes that it holds and that it is to have room for; `volume` is where it lies now.

    `only` are the volumes that the standard allows, all where it is empty; one that is `pinned` does not move.
    """

    name: str
    purpose: str
    size: int
    need: int
    volume: str | None = None
    only: tuple[str, ...] = ()
    pinned: bool = False


@dataclass(frozen=True, slots=True)
class Placement:
    """The volume of each store, by its name, with why; what is still amiss; and the bytes that move for it.

    `impossible` says why there is none: then nothing else is said.
    """

    volumes: dict[str, str]
    whys: dict[str, str]
    violations: tuple[str, ...]
    moved: int
    impossible: str = ""


def is_fit(volume: Volume) -> bool:
    """Whether stores may be put there: attached, not removable, writable, and known to have room."""
    barred = volume.attached is False or volume.removable is True or volume.writable is False
    return not barred and volume.free is not None


def room_of(volume: Volume) -> int:
    """Bytes that may be put there: a tenth of its capacity stays free."""
    return (volume.free or 0) - int(SPARE * (volume.capacity or 0))


def place(stores: Sequence[PlacedStore], volumes: Sequence[Volume]) -> Placement:
    """The placement with the fewest violations, then the fewest bytes moved, then on the best volumes.

    A violation is a store on the system's volume; caches, sources and exports on one volume; a frame cache that is not
    on the fastest. Raises PlacementError.
    """
    _check(stores, volumes)
    fast = fastest(volumes)
    best, chosen = _solved(stores, volumes, fast)
    if best[-1] >= _NEVER:
        return Placement({}, {}, (), 0, _impossible(stores, volumes))
    on = dict(_traced(stores, volumes, chosen))
    moved = sum(store.size for store in stores if store.volume != on[store.name])
    amiss = tuple(violations(stores, volumes, on))
    return Placement(on, {store.name: _why(store, on, volumes, fast) for store in stores}, amiss, moved)


def _solved(stores: Sequence[PlacedStore], volumes: Sequence[Volume], fast: str) -> tuple[Ints, list[Ints]]:
    """The least cost of every set of stores on all volumes, and what each volume takes of it."""
    ranks = _ranks(volumes)
    best = np.full(1 << len(stores), _NEVER, dtype=np.int64)
    best[0] = 0
    chosen = list[Ints]()
    for volume in volumes:
        best, parts = _with_one_more(best, _costs(stores, volume, fast, ranks[volume.id]), len(stores))
        chosen.append(parts)
    return best, chosen


def _check(stores: Sequence[PlacedStore], volumes: Sequence[Volume]) -> None:
    if len(stores) > MOST_STORES or len(volumes) > MOST_VOLUMES:
        what = f"{counted(len(stores), 'store')} on {counted(len(volumes), 'volume')}"
        raise PlacementError(f"{what}: expected at most {MOST_STORES} on {MOST_VOLUMES}")
    if sum(max(store.size, store.need) for store in stores) >= MOST_BYTES:
        raise PlacementError(f"the stores need {MOST_BYTES:,} bytes or more: that is no seat")


def fastest(volumes: Sequence[Volume]) -> str:
    """The fit volume that reads most a second; by its kind where nobody measured. Empty where none is fit."""
    return min((v for v in volumes if is_fit(v)), key=_slowness, default=Volume("", "/")).id


def _slowness(volume: Volume) -> tuple[float, int, str]:
    kind = KINDS.index(volume.kind) if volume.kind in KINDS else len(KINDS)
    return -(volume.read_rate or 0), kind, volume.id


def _ranks(volumes: Sequence[Volume]) -> dict[str, int]:
    """How good each is by itself: its kind, its rate, the share that is free; 0 is the best."""

    def goodness(volume: Volume) -> tuple[int, float, float, str]:
        rate, kind, _ = _slowness(volume)
        return kind, rate, -(volume.free or 0) / (volume.capacity or 1), volume.id

    return {volume.id: place for place, volume in enumerate(sorted(volumes, key=goodness))}


@lru_cache(maxsize=MOST_STORES + 1)
def _members(count: int) -> Bools:
    """Which stores each set has: a row a set, a column a store."""
    sets = np.arange(1 << count)[:, None] >> np.arange(count)
    return (sets & 1).astype(bool)


@lru_cache(maxsize=MOST_STORES + 1)
def _splits(count: int) -> tuple[Ints, Ints, Ints]:
    """Every set with each of its subsets, set by set: the sets, the subsets, and where each set begins."""
    sets, parts = np.zeros(1, dtype=np.int64), np.zeros(1, dtype=np.int64)
    for bit in (1 << store for store in range(count)):
        sets = np.concatenate([sets, sets | bit, sets | bit])
        parts = np.concatenate([parts, parts, parts | bit])
    order = np.lexsort((parts, sets))
    sets, parts = sets[order], parts[order]
    return sets, parts, np.flatnonzero(np.diff(sets, prepend=-1))


def _with_one_more(best: Ints, costs: Ints, count: int) -> tuple[Ints, Ints]:
    """The least cost of each set when one volume more may take a part of it, and that part."""
    sets, parts, begins = _splits(count)
    sums = np.minimum(best[sets ^ parts] + costs[parts], _NEVER)
    least = np.minimum.reduceat(sums, begins)
    places = np.where(sums == least[sets], np.arange(len(sums)), len(sums))
    return least, parts[np.minimum.reduceat(places, begins)]


def _costs(stores: Sequence[PlacedStore], volume: Volume, fast: str, rank: int) -> Ints:
    """Of each set on this volume: violations, then bytes that move there, then how good it is."""
    members = _members(len(stores))
    here = np.array([store.volume == volume.id for store in stores], dtype=bool)
    sizes = np.array([store.size for store in stores], dtype=np.int64)
    needs = np.array([store.need for store in stores], dtype=np.int64)
    system = members.sum(axis=1) * bool(volume.system)
    frames = np.array([store.purpose == "frame_cache" and volume.id != fast for store in stores], dtype=bool)
    of_group = [np.array([APART.get(store.purpose) == group for store in stores], dtype=bool) for group in range(3)]
    groups = np.sum([(members & group).any(axis=1) for group in of_group], axis=0)
    broken = system + (members & frames).sum(axis=1) + np.maximum(0, groups - 1)
    moved = (members * (~here * sizes)).sum(axis=1)
    costs = (broken << (_BYTES + _RANKS)) + (moved << _RANKS) + members.sum(axis=1) * rank
    arriving = (members * np.where(here, np.maximum(0, needs - sizes), needs)).sum(axis=1)
    leaving = (here * sizes).sum() - (members * (here * sizes)).sum(axis=1)
    has_room = (arriving == 0) | (arriving <= room_of(volume) + leaving)
    barred = np.array([_is_barred(store, volume) for store in stores], dtype=bool)
    return np.where(has_room & ~(members & barred).any(axis=1), costs, _NEVER)


def _is_barred(store: PlacedStore, volume: Volume) -> bool:
    if store.pinned:
        return store.volume != volume.id
    return not is_fit(volume) or bool(store.only and volume.id not in store.only)


def _traced(
    stores: Sequence[PlacedStore], volumes: Sequence[Volume], chosen: Sequence[Ints]
) -> Iterator[tuple[str, str]]:
    """Back from the whole: what the last volume took, then the one before."""
    left = (1 << len(stores)) - 1
    for volume, parts in zip(reversed(volumes), reversed(chosen), strict=True):
        part = int(parts[left])
        yield from ((store.name, volume.id) for n, store in enumerate(stores) if part >> n & 1)
        left ^= part


def refusal(store: PlacedStore, volume: Volume) -> str:
    """Why a store may not be put on a volume, whatever else lies there; empty where it may."""
    if store.volume == volume.id:
        return ""
    if store.pinned:
        return "never moved"
    reasons = {
        f"{volume.id} is not attached": volume.attached is False,
        f"{volume.id} is removable": volume.removable is True,
        f"{volume.id} is read-only": volume.writable is False,
        f"the free space of {volume.id} is unknown": volume.free is None,
        "the house standard does not allow it": bool(store.only and volume.id not in store.only),
    }
    return next((words for words, holds in reasons.items() if holds), "")


def arranged(stores: Sequence[PlacedStore], volumes: Sequence[Volume], on: Mapping[str, str]) -> Placement:
    """What the rules say of a placement that a person chose: every store on a volume, by their names.

    What stays where it lies is put there by nobody: no hard rule refuses it. Raises PlacementError.
    """
    _check(stores, volumes)
    known = {volume.id: volume for volume in volumes}
    if unknown := [name for name in on.values() if name not in known]:
        raise PlacementError(f"this seat has no volume {unknown[0][:80]}")
    refused = ((store, words) for store in stores if (words := refusal(store, known[on[store.name]])))
    full = (f"{volume.id} has too little free space" for volume in volumes if not _has_room(stores, volume, on))
    impossible = next((f"{store.name} cannot be stored there: {words}" for store, words in refused), "") or next(
        full, ""
    )
    moved = sum(store.size for store in stores if store.volume != on[store.name])
    return Placement(dict(on), {}, tuple(violations(stores, volumes, on)), moved, impossible)


def _has_room(stores: Sequence[PlacedStore], volume: Volume, on: Mapping[str, str]) -> bool:
    """What arrives, and what is to grow there, has the room of what leaves as well."""
    arriving = leaving = 0
    for store in stores:
        stays, was_here = on[store.name] == volume.id, store.volume == volume.id
        arriving += (max(0, store.need - store.size) if was_here else store.need) if stays else 0
        leaving += store.size if was_here and not stays else 0
    return arriving == 0 or arriving <= room_of(volume) + leaving


def violations(stores: Sequence[PlacedStore], volumes: Sequence[Volume], on: Mapping[str, str | None]) -> Iterator[str]:
    """What is amiss where stores are on these volumes, a sentence each."""
    fast = fastest(volumes)
    for volume in volumes:
        yield from _amiss_on(volume, [store for store in stores if on[store.name] == volume.id], fast)
    unwanted = (s for s in stores if s.only and not s.pinned and on[s.name] and on[s.name] not in s.only)
    yield from (f"the house standard does not allow {store.name} on {on[store.name]}" for store in unwanted)


def _amiss_on(volume: Volume, stores: Sequence[PlacedStore], fast: str) -> Iterator[str]:
    """What is amiss with these stores on a volume, a sentence a violation."""
    if volume.system:
        yield from (f"{store.name} is on the system volume {volume.id}" for store in stores)
    if volume.id != fast:
        slow = (store for store in stores if store.purpose == "frame_cache")
        yield from (f"{store.name} is on {volume.id}; {fast or 'another volume'} is faster" for store in slow)
    apart = [store for store in stores if store.purpose in APART]
    groups = {APART[store.purpose] for store in apart}
    yield from [f"{listed(store.name for store in apart)} share {volume.id}"] * (len(groups) - 1)


def _why(store: PlacedStore, on: dict[str, str], volumes: Sequence[Volume], fast: str) -> str:
    """What speaks for its place."""
    volume = next(volume for volume in volumes if volume.id == on[store.name])
    if store.pinned:
        return f"stays on {volume.id}: never moved"
    parts = ["already there" if store.volume == volume.id else "moves there"]
    if len(store.only) == 1:
        parts.append("the only volume that the standard allows")
    if not volume.system:
        parts.append("not the system volume")
    if store.purpose == "frame_cache" and volume.id == fast:
        parts.append("fastest volume")
    return ", ".join(parts)


def _impossible(stores: Sequence[PlacedStore], volumes: Sequence[Volume]) -> str:
    """Which store has no place by itself; else that all of them together have none."""
    for n, store in enumerate(stores):
        fit = [volume for volume in volumes if not _is_barred(store, volume)]
        if not fit:
            return f"no volume is suitable for {store.name}: needs a fixed, writable volume that the standard allows"
        alone = [_costs(stores, volume, "", 0)[1 << n] < _NEVER for volume in fit]
        if not any(alone):
            return f"{store.name} needs {store.need:,} bytes: no suitable volume has enough space"
    return f"{counted(len(stores), 'store')} need {sum(s.need for s in stores):,} bytes: not enough space"


def missing_disk(stores: Sequence[PlacedStore], volumes: Sequence[Volume]) -> int:
    """Bytes of the smallest disk, ssd or better, with which all of them would have their place; 0 where none is needed.

    Raises PlacementError where another disk would not help.
    """
    _check(stores, volumes)
    best, _ = _solved(stores, volumes, fastest(volumes))
    bound = np.array([store.pinned or bool(store.only) for store in stores], dtype=bool)
    members = _members(len(stores))[::-1]  # of each set, those that are left for another disk
    needs = (members * np.array([store.need for store in stores], dtype=np.int64)).sum(axis=1)
    able = (best < _NEVER) & ~(members & bound).any(axis=1)
    if not able.any():
        raise PlacementError("another disk would not help: the standard allows no volume for one of the stores")
    if able[-1]:
        return 0
    return max(1, -(-int(needs[able].min()) * 10 // 9))
