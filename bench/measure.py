"""What a measurement is, and how times are taken.

Every bar is a ratio within one run: a machine that is three times slower today is so for both sides. Where the thing
itself has a floor (its own parser, numpy, a bare commit, bare ASGI), that is what it is compared with. Where it has
none (what a browser draws, what a plan takes), its bar is times on a machine at rest, and is made longer by the pace at
which this machine works just now.
"""

import statistics
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Self

import orjson

REPOSITORY = Path(__file__).resolve().parents[1]
EXAMPLES = REPOSITORY / "docs" / "examples"
AT_REST = 18.5e-6  # seconds of `orjson.loads` of the worked survey on the machine on which bars were set


@dataclass(frozen=True, slots=True)
class Figure:
    """One measured value beside what it is compared with; `bar` is what the issue asks of it."""

    name: str
    value: float
    unit: str
    against: str
    ratio: float
    bar: str
    held: bool

    @classmethod
    def at_most(  # noqa: PLR0913, PLR0917 (the parts of a figure)
        cls, name: str, value: float, unit: str, against: str, ratio: float, most: float
    ) -> Self:
        """A value that is to be no more than so many times what it is compared with."""
        return cls(name, value, unit, against, ratio, f"at most {most:g} x", ratio <= most)

    @classmethod
    def paced(cls, name: str, value: float, unit: str, note: str, most: float) -> Self:
        """A value beside a bar of a machine at rest, in its unit, made longer by how slow this one is just now."""
        slower = pace()
        against = f"of {most:g} {unit} at rest, this run {slower:.2f} x as slow; {note}"
        return cls.at_most(name, value, unit, against, value / (most * slower), 1)

    def line(self) -> str:
        """For people."""
        mark = "holds" if self.held else "MISSED"
        value = f"{self.name:<10} {self.value:>8.2f} {self.unit:<3}"
        return f"{value} {self.ratio:>6.2f} x {self.against:<44} {mark}: {self.bar}"

    def plain(self) -> dict[str, Any]:
        """For scripts."""
        return asdict(self)


def pace() -> float:
    """How many times slower this machine parses than it does at rest: the least of many, since noise only adds."""
    raw = (EXAMPLES / "pan-03.survey.json").read_bytes()
    taken = []
    for _ in range(200):
        begun = time.perf_counter()
        for _ in range(10):
            orjson.loads(raw)
        taken.append((time.perf_counter() - begun) / 10)
    return statistics.median(taken) / AT_REST


def paired(
    first: Callable[[], object], two: Callable[[], object], *, times: int, rounds: int = 15
) -> tuple[float, float]:
    """Median seconds of one call of each, measured in turn so that a slow moment meets both."""
    taken: tuple[list[float], list[float]] = ([], [])
    for _ in range(rounds):
        for durations, call in zip(taken, (first, two), strict=True):
            begun = time.perf_counter()
            for _ in range(times):
                call()
            durations.append((time.perf_counter() - begun) / times)
    return statistics.median(taken[0]), statistics.median(taken[1])
