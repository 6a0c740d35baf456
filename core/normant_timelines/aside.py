"""Reading a timeline in a process of its own: the library goes as deep, and as large, as what it is given says.

The process has the lowest priority, bounded memory and bounded seconds; whatever a file does to it, it alone ends.
"""

import os
import resource
import subprocess
import sys
from pathlib import Path

import msgspec

from normant_core.measure.machine.laid import Laid, laid

from .errors import TimelineError

LARGEST = 2 * 1024**3  # bytes of address space
LONGEST = 30  # seconds
_LEFT = 500  # of what could not be placed that are told
_NICEST = 19


class _Answer(msgspec.Struct, frozen=True):
    timeline: Laid | None = None
    fault: str = ""


def read_aside(path: Path, *, seconds: float = LONGEST) -> Laid:
    """The timeline of a file, with what is decoded called by its target. Raises TimelineError."""
    command = [sys.executable, "-m", __name__, str(path), str(int(seconds))]
    try:
        done = subprocess.run(command, capture_output=True, timeout=seconds, check=False)
        answer = msgspec.json.decode(done.stdout, type=_Answer)
    except subprocess.TimeoutExpired as fault:
        raise TimelineError(f"this timeline could not be read within {seconds:g} s") from fault
    except msgspec.DecodeError as fault:
        raise TimelineError(
            "reading this timeline takes too much memory, or broke the library that reads it"
        ) from fault
    if answer.timeline is None:
        raise TimelineError(answer.fault)
    return answer.timeline


def _answer(path: Path) -> _Answer:
    from .reader import TimelineReader  # noqa: PLC0415 (heavy, and needed in the process aside only)

    try:
        made = TimelineReader().read(path)
    except TimelineError as why:
        return _Answer(fault=str(why).replace(f"{path}: ", "").replace(str(path), path.name))
    except MemoryError:
        return _Answer(fault="reading this timeline takes too much memory")
    more = [f"and {len(made.left) - _LEFT:,} more"] if len(made.left) > _LEFT else []
    return _Answer(laid(made.rate, made.end, made.placed, [*made.left[:_LEFT], *more]))


if __name__ == "__main__":
    os.nice(_NICEST)
    resource.setrlimit(resource.RLIMIT_AS, (LARGEST, LARGEST))
    resource.setrlimit(resource.RLIMIT_CPU, (int(sys.argv[2]), int(sys.argv[2])))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    sys.stdout.buffer.write(msgspec.json.encode(_answer(Path(sys.argv[1]))))
