"""In which order stores move, so that no step needs more room than there is.

What has moved decides how much is free, so the orders are looked through by what has moved: 2^n sets of n moves,
however many orders there are. Where none works, one store goes by way of a third volume.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import permutations

from ..seat.facts import Volume
from .placement import PlacedStore, is_fit, room_of

MOST_LOOKS = 300_000  # steps: a third of a second or so
Room = dict[str, int]


@dataclass(frozen=True, slots=True)
class StoreMove:
    """A step: a store's bytes go from one volume to another; `free` are the bytes that are free on each after it.

    `detour`: it is on its way to a third one.
    """

    store: str
    source: str | None
    target: str
    size: int
    free: dict[str, int]
    detour: bool = False


@dataclass(slots=True)
class _Looks:
    """How many steps may still be looked at."""

    left: int


@dataclass(frozen=True, slots=True)
class _Step:
    store: PlacedStore
    source: str | None
    target: str
    after: int = -1  # the number of the step that has to come first
    detour: bool = False


def ordered_moves(
    stores: Sequence[PlacedStore], volumes: Sequence[Volume], on: Mapping[str, str]
) -> list[StoreMove] | None:
    """The moves from where stores lie to where they shall lie, in an order that has room at each step.

    The direct moves where any order of them works; else with one detour, the fewest bytes of it, or two. None where
    neither is enough, or none was found within so many looks: with two detours there may be very many ways.
    """
    steps = [_Step(store, store.volume, on[store.name]) for store in stores if on[store.name] != store.volume]
    looks = _Looks(MOST_LOOKS)
    room = {volume.id: room_of(volume) for volume in volumes}
    order = _order(steps, room, looks)
    if order is None:
        by = [volume.id for volume in volumes if is_fit(volume) and not volume.system]
        order = next((tried for more in _detours(steps, by) if (tried := _order(more, room, looks)) is not None), None)
    free = {volume.id: volume.free or 0 for volume in volumes}
    return None if order is None else list(_steps_of(order, free))


def _detours(steps: Sequence[_Step], by: Sequence[str]) -> Iterator[list[_Step]]:
    """With one store by way of a third volume, the smallest first; then with two."""
    ways = [
        (number, through)
        for number in sorted(range(len(steps)), key=lambda number: steps[number].store.size)
        for through in by
        if steps[number].source is not None and through not in (steps[number].source, steps[number].target)
    ]
    for way in ways:
        yield _by_way_of(steps, [way])
    for first, second in permutations(ways, 2):
        if first[0] < second[0]:
            yield _by_way_of(steps, [first, second])


def _by_way_of(steps: Sequence[_Step], ways: Sequence[tuple[int, str]]) -> list[_Step]:
    made = list(steps)
    for number, through in ways:
        step = steps[number]
        made.append(_Step(step.store, step.source, through, detour=True))
        made[number] = _Step(step.store, through, step.target, after=len(made) - 1)
    return made


def _order(steps: Sequence[_Step], room: Mapping[str, int], looks: _Looks) -> list[_Step] | None:
    """Depth first, each set of steps once: what is free after it does not depend on their order."""
    everything = (1 << len(steps)) - 1
    seen, path = {0}, list[_Step]()

    def goes_on(made: int, free: Room) -> bool:
        if made == everything:
            return True
        for number, step in enumerate(steps):
            looks.left -= 1
            if looks.left < 0:
                return False
            more = made | 1 << number
            waits = step.after >= 0 and not made >> step.after & 1
            if more == made or more in seen or waits or step.store.size > max(0, free[step.target]):
                continue
            seen.add(more)
            path.append(step)
            if goes_on(more, _after(step, free)):
                return True
            path.pop()
        return False

    return path if goes_on(0, dict(room)) else None


def _after(step: _Step, free: Room) -> Room:
    size = step.store.size
    made = {**free, step.target: free[step.target] - size}
    if step.source in made:
        made[step.source] += size
    return made


def _steps_of(order: Sequence[_Step], free: Room) -> Iterator[StoreMove]:
    for step in order:
        free = _after(step, free)
        yield StoreMove(step.store.name, step.source, step.target, step.store.size, free, step.detour)
