"""Calendars unfolded in a process of their own, which has only so many seconds and so much memory.

Who writes a calendar says how much work it is: a rule of sixty characters (RFC 5545) repeats each second since the year
one, in a time zone that changes as often, and the libraries that unfold it know no bound. So nothing but this process
ever unfolds one; it knows no database, no keys and no settings, and what it finds is kept.
"""

import datetime as dt
import json
import resource
import signal
import subprocess
import sys
from typing import Any
from zoneinfo import ZoneInfo

from normant_core.base.errors import DocumentError, Fault
from normant_core.rollout.bookings import bookings
from normant_core.rollout.waves import Span

CPU_SECONDS = 10  # for one calendar; 9,000 bookings in a mebibyte take 1 to 4 s
MEMORY_BYTES = 1024 * 1024 * 1024
MOST_SPANS = 10_000
_WALL_SECONDS = 60  # where the machine is so busy that seconds of its processor do not come
_EXPECTED = "the bookings of a room, none repeated oftener than daily, nor since centuries"


def unfolded(raw: bytes, source: str, begin: dt.datetime, end: dt.datetime, zone: str) -> tuple[Span, ...]:
    """When a room is booked between two moments, in order; days and times without a zone are in `zone`.

    Raises DocumentError with what is wrong and in which event, or that unfolding takes too long.
    """
    asked = {"source": source, "begin": begin.isoformat(), "end": end.isoformat(), "zone": zone}
    limits = {"seconds": CPU_SECONDS, "bytes": MEMORY_BYTES}
    command = [sys.executable, "-I", "-m", __name__]
    try:
        done = subprocess.run(
            command,
            input=json.dumps(asked | limits).encode() + b"\n" + raw,
            capture_output=True,
            timeout=_WALL_SECONDS,
            check=False,
            env={},
        )
    except subprocess.TimeoutExpired as fault:
        raise _too_much(source, f"it is not unfolded after {_WALL_SECONDS} s") from fault
    if done.returncode == -signal.SIGXCPU:
        raise _too_much(source, f"reading the calendar takes more than {CPU_SECONDS} s")
    if done.returncode:  # out of memory, or what those libraries did not foresee
        reason = done.stderr.decode(errors="replace").strip().rpartition("\n")[2][:200]
        raise _too_much(source, f"the calendar cannot be read: {reason or done.returncode}")
    answer = json.loads(done.stdout)
    if faults := answer.get("faults"):
        raise DocumentError(source, [Fault(**fault) for fault in faults])
    return tuple((dt.datetime.fromisoformat(first), dt.datetime.fromisoformat(last)) for first, last in answer["spans"])


def _too_much(source: str, message: str) -> DocumentError:
    return DocumentError(source, [Fault(message, expected=_EXPECTED)])


def _answer(asked: dict[str, Any], raw: bytes) -> dict[str, object]:
    begin, end = dt.datetime.fromisoformat(asked["begin"]), dt.datetime.fromisoformat(asked["end"])
    try:
        spans = bookings(raw, asked["source"], begin, end, ZoneInfo(asked["zone"]))
        if len(spans) > MOST_SPANS:
            message = f"it books the room {len(spans):,} times between {begin:%d %B} and {end:%d %B}"
            raise DocumentError(asked["source"], [Fault(message, expected=f"at most {MOST_SPANS:,} times")])
    except DocumentError as refused:
        return {"faults": [{"message": fault.message, "expected": fault.expected} for fault in refused.faults]}
    return {"spans": [[moment.isoformat() for moment in span] for span in spans]}


def main() -> None:
    """One line that says what is asked, then the calendar, from standard input; the answer as JSON."""
    asked = json.loads(sys.stdin.buffer.readline())
    resource.setrlimit(resource.RLIMIT_CPU, (asked["seconds"], asked["seconds"] + 1))  # the second one kills
    resource.setrlimit(resource.RLIMIT_AS, (asked["bytes"], asked["bytes"]))
    json.dump(_answer(asked, sys.stdin.buffer.read()), sys.stdout)


if __name__ == "__main__":
    main()
