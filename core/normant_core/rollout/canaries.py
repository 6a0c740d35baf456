"""Canaries: the fewest seats that between them try everything that a plan does anywhere.

Set cover by greedy choice (Chvatal, 1979, "A greedy heuristic for the set-covering problem"), evaluated lazily: what a
seat would add only ever shrinks, so the heap's top is looked at again and not all seats. The bound says how much better
any other choice could be.
"""

import heapq
import math
from collections import Counter, defaultdict
from collections.abc import Collection, Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from ..base.wording import counted


@dataclass(frozen=True, slots=True)
class Canaries:
    """The chosen seats in the order of choice, how many combinations they try, and a number no choice can go below.

    `alone`: combinations that one seat has alone, which nobody can try for another.
    """

    seats: tuple[str, ...]
    tried: int
    bound: int
    alone: int = 0

    @property
    def sentence(self) -> str:
        """`2 canaries try all of 5 combinations that seats share; fewer are not possible.`"""
        if not self.seats:
            return "No canaries: no two seats share hardware, version and change." if self.alone else ""
        count = len(self.seats)
        tried_by = counted(count, "canary covers", "canaries cover")
        fewer = "this is the minimum" if count <= self.bound else f"no choice does it with fewer than {self.bound}"
        what = "the only combination" if self.tried == 1 else f"all {self.tried} combinations"
        more = counted(self.alone, "combination is on a single seat and needs none", "combinations are on single seats")
        alone = f" {more}{'' if self.alone == 1 else ' and need none'}." if self.alone else ""
        return f"{tried_by} {what} that seats share; {fewer}.{alone}"


def canaries(
    tries: Mapping[str, Collection[Hashable]], busy: Mapping[str, float], others: Iterable[Collection[Hashable]] = ()
) -> Canaries:
    """`tries`: what a change on each seat would try out (hardware class, version, change); `busy`: hours it is booked.

    Only what two or more seats share is worth trying first; `others` are seats that share it and cannot go ahead. Of
    seats that add as much, the one with the lightest bookings is chosen, then the first by name.
    """
    having = Counter(what for some in (*tries.values(), *others) for what in set(some))
    alone = sum(many == 1 for many in having.values())
    shared = {seat: [what for what in some if having[what] > 1] for seat, some in tries.items()}
    chosen = _fewest(shared, busy)
    return replace(chosen, alone=alone)


def _fewest(tries: Mapping[str, Collection[Hashable]], busy: Mapping[str, float]) -> Canaries:
    lightest = _one_of_each(tries, busy)
    chosen = _without_needless(_greedy(lightest, busy), lightest)
    every = set[Hashable]().union(*lightest.values())
    return Canaries(tuple(chosen), len(every), _bound(lightest, every, len(chosen)))


def _one_of_each(
    tries: Mapping[str, Collection[Hashable]], busy: Mapping[str, float]
) -> dict[str, frozenset[Hashable]]:
    """Of seats that try the same, the one that is disturbed least: no other of them could do more."""
    best: dict[frozenset[Hashable], str] = {}
    for seat in sorted(tries, key=lambda name: (busy.get(name, 0.0), name)):
        best.setdefault(frozenset(tries[seat]), seat)
    return {seat: what for what, seat in best.items() if what}


def _greedy(tries: Mapping[str, frozenset[Hashable]], busy: Mapping[str, float]) -> list[str]:
    left = set[Hashable]().union(*tries.values())
    heap = [(-len(what), busy.get(seat, 0.0), seat) for seat, what in tries.items()]
    heapq.heapify(heap)
    chosen = list[str]()
    while left:
        _, hours, seat = heap[0]
        adds = len(tries[seat] & left)
        # What it adds is looked at again; it is taken when it is still the first.
        if heapq.heapreplace(heap, (-adds, hours, seat)) == (-adds, hours, seat):
            chosen.append(seat)
            left -= tries[seat]
    return chosen


def _without_needless(chosen: Sequence[str], tries: Mapping[str, frozenset[Hashable]]) -> list[str]:
    """Later choices may have made an earlier one needless; the one that adds least is looked at first."""
    by = Counter(combination for seat in chosen for combination in tries[seat])
    needed = list(chosen)
    for seat in sorted(chosen, key=lambda name: len(tries[name])):
        if all(by[combination] > 1 for combination in tries[seat]):
            needed.remove(seat)
            by.subtract(tries[seat])
    return needed


def _bound(tries: Mapping[str, frozenset[Hashable]], every: Collection[Hashable], chosen: int) -> int:
    """The best of three: by size, by Chvatal's ratio, and combinations that no seat tries two of."""
    largest = max(map(len, tries.values()), default=0)
    if not largest:
        return 0
    by_size = math.ceil(len(every) / largest)
    by_ratio = math.ceil(chosen / sum(1 / n for n in range(1, largest + 1)) - 1e-9)
    return max(by_size, by_ratio, _apart(tries))


def _apart(tries: Mapping[str, frozenset[Hashable]]) -> int:
    """How many combinations were found of which no seat tries two: each of them needs a seat of its own."""
    having: dict[Hashable, list[str]] = defaultdict(list)
    for seat, what in tries.items():
        for combination in what:
            having[combination].append(seat)
    taken, bound = set[str](), 0
    for combination in sorted(having, key=lambda what: (len(having[what]), repr(what))):
        if taken.isdisjoint(having[combination]):
            # Every seat that tries this one may try no other of those that are counted.
            taken.update(having[combination])
            bound += 1
    return bound
