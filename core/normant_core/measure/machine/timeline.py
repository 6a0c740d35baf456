"""How much of each device a timeline takes, stretch by stretch: due rate over measured rate, added up."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

import numpy as np
import numpy.typing as npt

from ...base.errors import NormantError

Counts = npt.NDArray[np.float64]


class RateError(NormantError):
    """A rate that is none."""


@dataclass(frozen=True, slots=True)
class Work:
    """What a device has to do for one clip: decode a codec, or an effect; `speed` is how many source frames a frame of
    the timeline takes."""

    kind: Literal["decode", "effects"]
    name: str
    speed: Fraction = Fraction(1)


@dataclass(frozen=True, slots=True)
class Placed:
    """Work from one moment of a timeline to another, in seconds."""

    work: Work
    start: Fraction
    end: Fraction


@dataclass(frozen=True, slots=True)
class Rates:
    """Frames per second that were measured, by codec or effect, and device; whatever several devices do, the fastest
    does."""

    decode: Mapping[str, Mapping[str, float]]
    effects: Mapping[str, Mapping[str, float]]

    def fastest(self, work: Work) -> tuple[str, float] | None:
        """The device that does this, and its rate; None where nobody measured it."""
        rates = (self.decode if work.kind == "decode" else self.effects).get(work.name) or {}
        device = max(rates, key=lambda name: rates[name], default="")
        return (device, rates[device]) if device else None


@dataclass(frozen=True, slots=True)
class Stretch:
    """A stretch of a timeline in which the same work is due, seconds from its beginning.

    `loads` are shares of each device; up to 1 it plays in real time. `plays_at` is in frames per second, `limited_by`
    the device that keeps it from more, None where none does.
    """

    start: Fraction
    end: Fraction
    frames: int
    loads: Mapping[str, float]
    plays_at: float
    limited_by: str | None


class Profile:
    """What is due in each stretch of a timeline, whichever seat plays it."""

    def __init__(self, placed: Sequence[Placed], end: Fraction, *, at_each_cut: bool = False) -> None:
        """`end` is how long the timeline is, in seconds; where nothing is placed, nothing is due.

        A stretch ends where other work is due; `at_each_cut` also where a clip follows that takes as much.
        """
        self.works = list(dict.fromkeys(part.work for part in placed))
        edges = _edges(placed, end)
        counts = _counts(placed, self.works, edges)
        begins = list(range(counts.shape[1])) if at_each_cut else _begins(counts)
        self.counts = counts[:, begins]
        self.edges = [*(edges[place] for place in begins), end]

    def on(self, rates: Rates, rate: Fraction) -> "SeatLoads":
        """How one seat plays it, at a timeline's rate in frames per second."""
        shares = [self._share(work, rates, rate) for work in self.works]
        devices = sorted({device for device, _ in shares if device})
        matrix = np.zeros((len(devices), len(shares)))
        for place, (device, share) in enumerate(shares):
            if device:
                matrix[devices.index(device), place] = share
        return SeatLoads(self.edges, devices, (matrix @ self.counts).T, rate)

    def _share(self, work: Work, rates: Rates, rate: Fraction) -> tuple[str, float]:
        known = rates.fastest(work)
        return (known[0], float(rate * work.speed) / known[1]) if known else ("", 0.0)


def _edges(placed: Iterable[Placed], end: Fraction) -> list[Fraction]:
    """Every moment at which something begins or ends, from the beginning of the timeline to its end."""
    moments = {Fraction(0), end}
    for part in placed:
        moments |= {part.start, part.end}
    return sorted(moment for moment in moments if 0 <= moment <= end)


def _begins(counts: Counts) -> list[int]:
    """The edges from which other work is due than before: a cut to a clip that takes as much is none."""
    if not counts.shape[1]:
        return []
    same = (counts[:, 1:] == counts[:, :-1]).all(axis=0)
    return [0, *(np.flatnonzero(~same) + 1).tolist()]


def _counts(placed: Iterable[Placed], works: Sequence[Work], edges: Sequence[Fraction]) -> Counts:
    """How often each work is due from each edge to the next: what begins and ends at each, added up."""
    rows, columns = {work: n for n, work in enumerate(works)}, {edge: n for n, edge in enumerate(edges)}
    steps = np.zeros((len(works), len(edges)))
    for part in placed:
        start, end = max(part.start, edges[0]), min(part.end, edges[-1])
        if start < end:
            steps[rows[part.work], columns[start]] += 1
            steps[rows[part.work], columns[end]] -= 1
    return steps.cumsum(axis=1)[:, :-1]


class SeatLoads:
    """A timeline on one seat, in columns: `loads` has a row for each stretch and a column for each device."""

    def __init__(self, edges: Sequence[Fraction], devices: Sequence[str], loads: Counts, rate: Fraction) -> None:
        self.edges, self.devices, self.loads, self.rate = edges, devices, loads, rate
        none = np.zeros(len(loads))
        self.worst: Counts = loads.max(axis=1) if devices else none
        # Frames per second of each stretch.
        self.plays_at: Counts = float(rate) / np.maximum(self.worst, 1)
        self._limits = loads.argmax(axis=1) if devices else none.astype(int)

    @property
    def plays(self) -> bool:
        """Whether all of it plays in real time."""
        return not (self.worst > 1).any()

    def stretches(self) -> Iterator[Stretch]:
        """Each in turn."""
        rows = zip(self.edges, self.edges[1:], self.loads.tolist(), self.plays_at.tolist(), strict=False)
        for place, (start, end, row, plays_at) in enumerate(rows):
            loads = {device: load for device, load in zip(self.devices, row, strict=True) if load}
            limit = self.devices[self._limits[place]] if self.worst[place] > 1 else None
            yield Stretch(start, end, round((end - start) * self.rate), loads, plays_at, limit)


def check_rates(document: object, source: str) -> Rates:
    """Rates from `{"decode": {codec: {device: rate}}, "effects": {name: {device: rate}}}`. Raises RateError."""
    if not isinstance(document, dict):
        raise RateError(f'{source}: expected {{"decode": ..., "effects": ...}}')
    if unknown := next((name for name in document if name not in ("decode", "effects")), None):
        raise RateError(f"{source}: unknown part {unknown!r}: expected decode or effects")
    return Rates(_table(document, "decode", source), _table(document, "effects", source))


def _table(document: Mapping[str, object], name: str, source: str) -> dict[str, dict[str, float]]:
    table = document.get(name, {})
    if not isinstance(table, dict):
        raise RateError(f"{source}: {name}: expected a table of rates by device")
    return {what: _devices(devices, f"{source}: {name}: {what}") for what, devices in table.items()}


def _devices(devices: object, where: str) -> dict[str, float]:
    if not isinstance(devices, dict):
        raise RateError(f"{where}: expected rates by device")
    for device, rate in devices.items():
        if isinstance(rate, bool) or not isinstance(rate, int | float) or not 0 < rate < float("inf"):
            raise RateError(f"{where}: {device}: expected frames per second above 0")
    return {device: float(rate) for device, rate in devices.items()}
