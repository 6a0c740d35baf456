"""What an application tells of each time it played: rows that come into its statistics while a run is made by hand."""

import csv
import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from normant_core.dialects.dialect import FrameStats

LARGEST = 1 << 20  # bytes that are read of a file, at its beginning and at its end
MOST = 100  # rows of one run


@dataclass(slots=True)
class StatsWatch:
    """The statistics of an application, as they were when the run began; `rate` is the stretch's."""

    files: Mapping[Path, FrameStats]
    rate: float
    _before: dict[Path, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._before = {path: _size(path) for path in self.files}

    def figures(self) -> tuple[float, ...]:
        """Frames per second of each time it played since, in their order; rows that tell nothing are passed over."""
        shown = (self._figure(row, stats) for path, stats in self.files.items() for row in self._rows(path, stats))
        return tuple(figure for figure in shown if figure)[:MOST]

    def _rows(self, path: Path, stats: FrameStats) -> Iterator[Mapping[str, Any]]:
        before, now = self._before[path], _size(path)
        if now == before:
            return
        begin = before if now > before else 0  # it was begun anew
        try:
            with path.open("rb") as file:
                head = file.readline(LARGEST).decode("utf-8-sig", "replace") if stats.format == "csv" else ""
                file.seek(max(begin, len(head.encode()), now - LARGEST))
                lines = file.read(LARGEST).decode("utf-8", "replace").splitlines()
        except OSError:
            return
        if stats.format == "csv":
            yield from csv.DictReader(lines, fieldnames=next(csv.reader([head]), []))
        else:
            yield from filter(None, map(_object, lines))

    def _figure(self, row: Mapping[str, Any], stats: FrameStats) -> float:
        """0 where a row tells none."""
        try:
            delivered, dropped = (int(str(row[name]).strip()) for name in (stats.delivered, stats.dropped))
        except (KeyError, ValueError):
            return 0
        due = delivered + dropped
        return self.rate * delivered / due if delivered > 0 and dropped >= 0 else 0


def _size(path: Path) -> int:
    try:
        return path.stat(follow_symlinks=False).st_size
    except OSError:
        return 0


def _object(line: str) -> Mapping[str, Any]:
    try:
        made = json.loads(line)
    except (ValueError, RecursionError):
        return {}
    return made if isinstance(made, dict) else {}
