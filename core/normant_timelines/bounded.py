"""Reading what somebody hands in within a process of its own, whose memory and seconds are bounded.

The process has the lowest priority; whatever a file does to it, it alone ends.
"""

import os
import resource
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import msgspec

LARGEST = 2 * 1024**3  # bytes of address space
_NICEST = 19
T = TypeVar("T")


class UnreadError(Exception):
    """It could not be read within its bounds."""


def read_in_process(module: str, path: Path, *more: str, kind: type[T], what: str, seconds: float) -> T:
    """What a module's `answer_within` comes to for a file. Raises UnreadError, with `what` it is that was read."""
    command = [sys.executable, "-m", module, str(int(seconds)), str(path), *more]
    try:
        done = subprocess.run(command, capture_output=True, timeout=seconds, check=False)
        return msgspec.json.decode(done.stdout, type=kind)
    except subprocess.TimeoutExpired as fault:
        raise UnreadError(f"this {what} could not be read within {seconds:g} s") from fault
    except msgspec.DecodeError as fault:
        raise UnreadError(
            f"reading this {what} takes too much memory or time, or broke the library that reads it"
        ) from fault


def answer_within(answer: Callable[[Path], object]) -> None:
    """In the process: set its bounds, and write what comes of the file."""
    seconds = int(sys.argv[1])
    os.nice(_NICEST)
    resource.setrlimit(resource.RLIMIT_AS, (LARGEST, LARGEST))
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    sys.stdout.buffer.write(msgspec.json.encode(answer(Path(sys.argv[2]))))
