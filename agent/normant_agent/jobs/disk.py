"""The job `disk`: bytes a second that a volume moves, read and written. Run as `python -m`, by `child.run`."""

import sys
from pathlib import Path
from statistics import geometric_mean

import psutil

from normant_agent.errors import HostError
from normant_agent.hosts.rates import measure, measure_small
from normant_agent.jobs.child import answer


def move(folder: Path) -> float:
    """Of whole and of small blocks, read and written, the geometric mean: each way counts alike, as in what runs show.

    Raises HostError where it cannot be done.
    """
    try:
        free = psutil.disk_usage(str(folder)).free
    except OSError as fault:
        raise HostError(f"{folder} cannot be looked at: {fault.strerror}") from fault
    whole, small = measure(folder, free), measure_small(folder, free)
    return geometric_mean((whole.read, whole.write, small.read, small.write))


if __name__ == "__main__":
    answer(lambda: move(Path(sys.argv[1])))
