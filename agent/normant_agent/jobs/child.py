"""A job in a process of its own: lowest priority, bounded memory and seconds, gone with the agent that began it.

The child holds the reading end of a pipe whose other end is the agent's: when that is gone, however the agent died,
the pipe ends, and the child with it. That holds on every system.
"""

import os
import subprocess
import sys
import threading
from collections.abc import Callable
from typing import TypeVar

import msgspec
import psutil

from ..errors import HostError

if sys.platform != "win32":
    import resource

LARGEST = 4 * 1024**3  # bytes of address space
LONGEST = 120.0  # seconds
_SAID = 256 * 1024  # bytes of what a child says
_FAULT = 500  # characters of why it came to nothing
_CORES = 8  # that it may keep busy all the time
NICEST = 19
T = TypeVar("T")


class Result(msgspec.Struct, frozen=True):
    """What a job came to, in JSON, or why it came to nothing."""

    found: msgspec.Raw = msgspec.Raw(b"null")
    fault: str = ""


def run(name: str, *words: str, seconds: float = LONGEST) -> float:
    """The figure of a job (a module of this package) with these words. Raises HostError with its reason."""
    figure = run_for(name, *words, kind=float, seconds=seconds)
    if not figure > 0:
        raise HostError(f"the job {name} came to nothing")
    return figure


def run_for(name: str, *words: str, kind: type[T], seconds: float = LONGEST) -> T:
    """What a job came to. Raises HostError with its reason."""
    command = [sys.executable, "-m", f"{__package__}.{name}", *words]
    with subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL) as process:
        assert process.stdin
        assert process.stdout
        killed = threading.Timer(seconds, process.kill)
        killed.start()
        try:
            payload = process.stdout.read(_SAID)  # until it ends, or is ended
        finally:
            killed.cancel()
            process.kill()
            process.stdin.close()
    try:
        result = msgspec.json.decode(payload, type=Result)
        if not result.fault:
            return msgspec.json.decode(result.found, type=kind)
    except msgspec.DecodeError as fault:
        raise HostError(f"the job {name} ended without a result: it took too long, or too much memory") from fault
    raise HostError(result.fault)


def answer(job: Callable[[], object], *, seconds: float = LONGEST) -> None:
    """In the child: do the job within its bounds, tell what it came to, and end."""
    _set_bounds(seconds)
    try:
        result = Result(msgspec.Raw(msgspec.json.encode(job())))
    except HostError as why:
        result = Result(fault=str(why))
    except MemoryError:
        result = Result(fault="the job needs more memory than it may take")
    except Exception as fault:  # libraries of media raise what they like
        result = Result(fault=f"{type(fault).__name__}: {fault}"[:_FAULT])
    sys.stdout.buffer.write(msgspec.json.encode(result))
    sys.stdout.buffer.flush()
    os._exit(0)


def _set_bounds(seconds: float) -> None:
    """The lowest priority, its bounds, and the end of it with its parent."""
    threading.Thread(target=_until_orphaned, daemon=True).start()
    if sys.platform == "win32":
        psutil.Process().nice(psutil.IDLE_PRIORITY_CLASS)
        return
    os.nice(NICEST)
    resource.setrlimit(resource.RLIMIT_AS, (LARGEST, LARGEST))
    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds) * _CORES, int(seconds) * _CORES))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _until_orphaned() -> None:
    while sys.stdin.buffer.read(1):
        pass
    os._exit(1)
