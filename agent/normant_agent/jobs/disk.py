"""The job `disk`: bytes a second that a volume moves, read and written. Run as `python -m`, by `child.run`."""

import sys
from pathlib import Path

import psutil

from normant_agent.errors import HostError
from normant_agent.hosts.rates import measure
from normant_agent.jobs.child import answer


def move(folder: Path) -> float:
    """As much written as read: bytes of both by the seconds of both. Raises HostError where it cannot be done."""
    try:
        free = psutil.disk_usage(str(folder)).free
    except OSError as fault:
        raise HostError(f"{folder} cannot be looked at: {fault.strerror}") from fault
    rates = measure(folder, free)
    return 2 / (1 / rates.read + 1 / rates.write)


if __name__ == "__main__":
    answer(lambda: move(Path(sys.argv[1])))
