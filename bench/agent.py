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

from .measure import Figure
from .serving import REPOSITORY

DEMO = REPOSITORY / "demo" / "brinehouse"
LARGEST = "kiln-01"
SECONDS = 60
# The real agent on this machine, its real pace, a minute's heartbeat, and a door that takes everything.
_RUN = """
import pathlib, sys, threading
from normant_agent.agent import Agent
from normant_agent.door import Taken
from normant_agent.identity import Identity
from normant_agent.linux import LinuxHost
from normant_agent.seal import SignedDialect
from normant_core.dialect import parse_dialect, signed_dialect
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
key = Ed25519PrivateKey.generate()
def sealed(text):
    app = parse_dialect(text).app
    return SignedDialect(app, text, key.sign(signed_dialect(app, text)))
class Door:
    def close(self): pass
    def dialects(self): return [sealed(p.read_text()) for p in pathlib.Path(sys.argv[1]).glob("*.toml")]
    def send(self, survey): return Taken(False, 0)
    def wait(self, seconds): stop.wait(seconds); return 0
    def orders(self): return ()
stop = threading.Event()
state = pathlib.Path(sys.argv[2])
known = Identity("http://here", "bench", "token", key.public_key().public_bytes_raw(), heartbeat_seconds=60)
Agent(LinuxHost(state / "preferences"), known, state / "agent", Door()).run(stop)
"""


def agent() -> Figure:
    """Share of one core at a minute's heartbeat; memory and the survey's time beside it."""
    with tempfile.TemporaryDirectory() as made:
        milliseconds = _largest(Path(made))
        command = [sys.executable, "-c", _RUN, str(DEMO / "dialects"), made]
        process = subprocess.Popen(command, stderr=subprocess.DEVNULL)
        try:
            seen = psutil.Process(process.pid)
            time.sleep(5)  # starting is not what it costs
            before = sum(seen.cpu_times()[:2])
            time.sleep(SECONDS)
            share = 100 * (sum(seen.cpu_times()[:2]) - before) / SECONDS
            memory = seen.memory_info().rss / 2**20
        finally:
            process.kill()
            process.wait()
    against = f"of one core; {memory:.0f} MiB; largest survey {milliseconds:.0f} ms"
    held = share < 1 and memory < 80 and milliseconds < 1000
    return Figure("agent", share, "%", against, share, "1 %, 80 MiB, 1 s", held)


def _largest(folder: Path) -> float:
    known = scenario.load(DEMO)
    seat = next(seat for seat in known.seats if seat.name == LARGEST)
    scenario.build(known, seat, folder, templates=DEMO / "preferences")
    dialects = [parse_dialect(path.read_text("utf-8")) for path in sorted((DEMO / "dialects").glob("*.toml"))]
    begun = time.perf_counter()
    for _ in range(20):
        take_survey(StandInHost(folder), LARGEST, dialects)
    return (time.perf_counter() - begun) / 20 * 1e3
