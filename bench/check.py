"""`normant check` of a house in one file, against parsing that file alone."""

import json
import random
import statistics
import subprocess
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

import msgspec

from normant_core.seat.survey import AgentInfo, Reading, Survey, decode

from .drift import _seat, _standard
from .measure import Figure

BAR = 6.0
TIMES = 7


def check(seats: int) -> list[Figure]:
    """Seconds of the whole command without its start-up, findings written as JSON."""
    draw, now = random.Random(1), datetime.now(UTC)
    text, keys = _standard()
    settings = dict(keys)
    with tempfile.TemporaryDirectory() as folder:
        standard, surveys, single = (Path(folder, name) for name in ("house.toml", "house.ndjson", "one.ndjson"))
        standard.write_text(text, "utf-8")
        with surveys.open("wb") as file:
            for number in range(seats):
                view = _seat(number, keys, draw)
                readings = tuple(Reading(k[0], settings[k].plain(v), k[1]) for k, v in view.readings.items())
                survey = Survey(
                    "normant-survey/1", view.seat.name, now, AgentInfo("1", "b"), view.facts, readings=readings
                )
                file.write(msgspec.json.encode(survey) + b"\n")
        single.write_bytes(surveys.read_bytes().splitlines(keepends=True)[0])
        _, lines = _command(standard, surveys)
        rounds = [_round(standard, single, surveys) for _ in range(TIMES)]
    taken, ratio = (statistics.median(column) for column in zip(*rounds, strict=True))
    against = f"parsing alone; {seats:,} surveys, {lines:,} findings"
    return [Figure.at_most("check", taken, "s", against, ratio, BAR)]


def _round(standard: Path, single: Path, surveys: Path) -> tuple[float, float]:
    """Seconds without the start-up, and how many times those of parsing that is: right after, at the same pace."""
    start, whole = _command(standard, single)[0], _command(standard, surveys)[0]
    return whole - start, (whole - start) / _parsed(surveys)


def _command(standard: Path, surveys: Path) -> tuple[float, int]:
    words = [sys.executable, "-m", "normant_agent.cli", "check", str(standard), str(surveys), "--format", "json"]
    begun = time.perf_counter()
    done = subprocess.run(words, capture_output=True, check=False)
    taken = time.perf_counter() - begun
    assert done.returncode == 1, done.stderr
    lines = done.stdout.splitlines()
    json.loads(lines[-1])
    return taken, len(lines)


def _parsed(surveys: Path) -> float:
    begun = time.perf_counter()
    for line in surveys.read_bytes().splitlines():
        decode(line)
    return time.perf_counter() - begun
