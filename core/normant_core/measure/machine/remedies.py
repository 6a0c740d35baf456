"""What would make a timeline play in real time on a seat: the fewest changes that do, and what each costs."""

import heapq
from bisect import bisect_left
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

import msgspec
import numpy as np
import numpy.typing as npt

from ...base.wording import counted, listed
from .playing import Played
from .routes import space_of_proxies
from .timeline import Rates, SeatLoads, Work

SCALES = (Fraction(1), Fraction(1, 2), Fraction(1, 4))
MOST = 200  # sources that proxies are proposed for
SHOWN = 3  # ways that are proposed
FULL = 1 + 1e-9  # a load up to this plays in real time
Array = npt.NDArray[np.float64]
RatesAt = Callable[[Fraction], Rates]


class RemedyTerms(msgspec.Struct, frozen=True):
    """Megabits per second of the house's proxies, and of stretches that are rendered in advance."""

    proxy_mbits: float = 36
    ahead_mbits: float = 220


class RemedyStep(msgspec.Struct, frozen=True):
    """One change: `scale` of playback, a `proxy` of one source, or a stretch rendered `ahead` (seconds, exact).

    `minutes` are those that decoding the source for its proxy takes on this seat; None where that was not measured.
    """

    kind: Literal["scale", "proxy", "ahead"]
    name: str
    start: str = ""
    end: str = ""
    size: int = 0
    minutes: float | None = None


class Remedy(msgspec.Struct, frozen=True):
    """Changes that together make all of it play, and the bytes that they take."""

    steps: tuple[RemedyStep, ...]
    size: int
    sentence: str


def remedies(played: Played, rates_at: RatesAt, terms: RemedyTerms) -> tuple[Remedy, ...]:
    """At most SHOWN ways, the one with the fewest changes first, of as many the smallest; none where all of it plays.

    `rates_at` gives the seat's rates at a scale of playback.
    """
    profile = played.profile(at_each_cut=True)
    if played.on(profile, rates_at(Fraction(1))).plays:
        return ()
    ways = dict[tuple[RemedyStep, ...], Fraction]()  # what is to be made, and the largest scale at which that is enough
    for scale in SCALES:
        rates = rates_at(scale)
        loads = played.on(profile, rates)
        for with_proxies in (False, True):
            ways.setdefault(_Overloaded(played, loads, rates, terms).steps(with_proxies), scale)
    proposed = [_remedy((*_scaled(scale), *steps)) for steps, scale in ways.items()]
    return tuple(sorted(proposed, key=lambda remedy: (len(remedy.steps), remedy.size))[:SHOWN])


def _scaled(scale: Fraction) -> Iterator[RemedyStep]:
    if scale != 1:
        yield RemedyStep("scale", str(scale))


def _remedy(steps: tuple[RemedyStep, ...]) -> Remedy:
    proxies, ahead = ([step for step in steps if step.kind == kind] for kind in ("proxy", "ahead"))
    parts = [f"playback at {step.name}" for step in steps if step.kind == "scale"]
    if proxies:
        parts.append(f"proxies of {counted(len(proxies), 'source')}")
    if ahead:
        parts.append(f"{counted(len(ahead), 'stretch', 'stretches')} rendered in advance")
    return Remedy(steps, sum(step.size for step in steps), listed(parts))


@dataclass(slots=True)
class _Relief:
    """What a proxy of one source changes: rows of the overloaded stretches, how often it runs in each, and by how much
    each run loads the devices less (`by` has a figure for each device)."""

    rows: npt.NDArray[np.int64]
    times: Array
    by: Array


class _Overloaded:
    """The stretches of a timeline that do not play on a seat, and what would relieve them."""

    def __init__(self, played: Played, loads: SeatLoads, rates: Rates, terms: RemedyTerms) -> None:
        self.played, self.rates, self.terms = played, rates, terms
        self.over = np.flatnonzero(loads.worst > FULL)
        self.edges = loads.edges
        known = rates.fastest(Work("decode", played.proxy.label))
        idle = [known[0]] if known and known[0] not in loads.devices else []  # until proxies are decoded there
        self.devices = [*loads.devices, *idle]
        self.loads = np.hstack([loads.loads[self.over], np.zeros((len(self.over), len(idle)))])

    def steps(self, with_proxies: bool) -> tuple[RemedyStep, ...]:
        """Proxies where they help, and what is still too much then rendered in advance."""
        chosen = list(self._proxies()) if with_proxies else []
        return (*(self._proxy(source) for source in sorted(chosen)), *self._ahead())

    def _ahead(self) -> Iterator[RemedyStep]:
        """Neighbours are one stretch."""
        begin: int | None = None
        still = {int(place) for place in self.over[self.loads.max(axis=1, initial=0) > FULL]}
        for place in sorted(still):
            begin = place if begin is None else begin
            if place + 1 not in still:
                start, end = self.edges[begin], self.edges[place + 1]
                size = space_of_proxies(float(end - start), self.terms.ahead_mbits * 1e6)
                yield RemedyStep("ahead", "", str(start), str(end), size)
                begin = None

    def _proxy(self, source: str) -> RemedyStep:
        parts = [p for p in self.played.placed if p.work.kind == "decode" and p.work.name == source]
        seconds = float(sum((part.end - part.start) * part.work.speed for part in parts))
        known = self.rates.fastest(Work("decode", self.played.media[source].label))
        minutes = seconds * float(self.played.rate) / known[1] / 60 if known else None
        return RemedyStep(
            "proxy", source, size=space_of_proxies(seconds, self.terms.proxy_mbits * 1e6), minutes=minutes
        )

    def _proxies(self) -> set[str]:
        """Greedy: always the source whose proxy takes most of what is too much, and at last none that is not needed.

        What a source relieves shrinks as others are chosen, so that a source that was best by an old figure and still
        is by a new one is the best (Minoux's accelerated greedy algorithm, 1978). That is not quite so where several
        devices limit; what comes of it holds all the same, it may only not be the very fewest.
        """
        reliefs = self._reliefs()
        waiting = [(-self._gain(relief), source) for source, relief in reliefs.items()]
        heapq.heapify(waiting)
        chosen = list[str]()
        while waiting and len(chosen) < MOST and (self.loads > FULL).any():
            _, source = heapq.heappop(waiting)
            gain = self._gain(reliefs[source])
            if gain <= FULL - 1:
                continue
            if waiting and gain < -waiting[0][0]:
                heapq.heappush(waiting, (-gain, source))
                continue
            self._add(reliefs[source], -1)
            chosen.append(source)
        return {source for source in chosen if not self._spared(reliefs[source])}

    def _spared(self, relief: _Relief) -> bool:
        """Whether nothing more is too much without it; it is left out then."""
        before = (self.loads > FULL).any(axis=1).sum()
        self._add(relief, 1)
        if (self.loads > FULL).any(axis=1).sum() <= before:
            return True
        self._add(relief, -1)
        return False

    def _add(self, relief: _Relief, sign: int) -> None:
        self.loads[relief.rows] += sign * relief.times[:, None] * relief.by

    def _gain(self, relief: _Relief) -> float:
        """How much less is too much with it."""
        here = self.loads[relief.rows]
        then = here - relief.times[:, None] * relief.by
        return float(_excess(here).sum() - _excess(then).sum())

    def _reliefs(self) -> dict[str, _Relief]:
        """By source, of those that run in overloaded stretches and whose proxy loads anything less."""
        runs = defaultdict[tuple[str, Fraction], dict[int, int]](lambda: defaultdict(int))
        for part in self.played.placed:
            if part.work.kind == "decode":
                for row in self._rows(part.start, part.end):
                    runs[part.work.name, part.work.speed][row] += 1
        by_source = defaultdict[str, list[tuple[Array, dict[int, int]]]](list)
        for (source, speed), rows in runs.items():
            by_source[source].append((self._by(source, speed), rows))
        return {source: _together(parts) for source, parts in by_source.items()}

    def _rows(self, start: Fraction, end: Fraction) -> range:
        """The overloaded stretches that lie between two moments."""
        first, last = bisect_left(self.edges, start), bisect_left(self.edges, end)
        return range(int(np.searchsorted(self.over, first)), int(np.searchsorted(self.over, last)))

    def _by(self, source: str, speed: Fraction) -> Array:
        """By how much a run of it loads each device less as a proxy."""
        by = np.zeros(len(self.devices))
        for kind, sign in ((self.played.media[source], 1), (self.played.proxy, -1)):
            known = self.rates.fastest(Work("decode", kind.label))
            if known and known[0] in self.devices:
                by[self.devices.index(known[0])] += sign * float(self.played.rate * speed) / known[1]
        return by


def _together(parts: Sequence[tuple[Array, dict[int, int]]]) -> _Relief:
    """Of a source at one speed or several: in each row, all that its proxy takes off."""
    if len(parts) == 1:
        by, rows = parts[0]
        return _Relief(np.fromiter(rows, np.int64), np.fromiter(rows.values(), np.float64), by)
    taken = defaultdict[int, Array](lambda: np.zeros(len(parts[0][0])))
    for by, rows in parts:
        for row, times in rows.items():
            taken[row] = taken[row] + times * by
    return _Relief(np.fromiter(taken, np.int64), np.ones(len(taken)), np.array(list(taken.values())))


def _excess(loads: Array) -> Array:
    above: Array = loads.max(axis=1, initial=0) - 1
    return np.maximum(above, 0)
