"""What an agent costs its seat: processor, memory, and the time of a survey of the scenario's largest seat."""

import subprocess
import sys
import tempfile
import time
from pathlib import Path

import psutil

from normant_agent.preferences.visit import take_survey
from normant_core.dialects.dialect import parse_dialect
from normant_standin import scenario
from normant_standin.host import StandInHost

from .measure import REPOSITORY, Figure, pace

DEMO = REPOSITORY / "demo" / "brinehouse"
LARGEST = "kiln-01"
SECONDS = 60
MOST_MIB, SURVEY_BAR = 60, 1000  # milliseconds


def agent() -> Figure:
    """Share of one core at a minute's heartbeat; memory and the survey's time beside it."""
    with tempfile.TemporaryDirectory() as made:
        milliseconds = _largest(Path(made))
        command = [sys.executable, "-m", "bench.lone_agent", str(DEMO / "dialects"), made]
        process = subprocess.Popen(command, stderr=subprocess.DEVNULL, cwd=REPOSITORY)
        try:
            seen = psutil.Process(process.pid)
            time.sleep(5)  # starting is not what it costs
            before = sum(seen.cpu_times()[:2])
            time.sleep(SECONDS)
            share = 100 * (sum(seen.cpu_times()[:2]) - before) / SECONDS
            memory = seen.memory_info().rss / 2**20
            assert process.poll() is None, "the agent has ended"
        finally:
            process.kill()
            process.wait()
    against = f"of 1 % of a core; {memory:.0f} of {MOST_MIB} MiB; largest survey {milliseconds:.0f} ms"
    held = share < 1 and memory < MOST_MIB and milliseconds < SURVEY_BAR * pace()
    return Figure("agent", share, "%", against, share, f"at most 1 x, and {SURVEY_BAR} ms at rest", held)


def _largest(folder: Path) -> float:
    known = scenario.load(DEMO)
    seat = next(seat for seat in known.seats if seat.name == LARGEST)
    scenario.build(known, seat, folder, templates=DEMO / "preferences")
    dialects = [parse_dialect(path.read_text("utf-8")) for path in sorted((DEMO / "dialects").glob("*.toml"))]
    begun = time.perf_counter()
    for _ in range(20):
        take_survey(StandInHost(folder), LARGEST, dialects)
    return (time.perf_counter() - begun) / 20 * 1e3
