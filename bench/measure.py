"""What a measurement is, and how times are taken."""

import statistics
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any


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

    def line(self) -> str:
        """For people."""
        mark = "holds" if self.held else "MISSED"
        value = f"{self.name:<10} {self.value:>8.2f} {self.unit:<3}"
        return f"{value} {self.ratio:>6.2f} x {self.against:<44} {mark}: {self.bar}"

    def plain(self) -> dict[str, Any]:
        """For scripts."""
        return asdict(self)


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
