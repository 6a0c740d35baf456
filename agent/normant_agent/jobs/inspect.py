"""The job `inspect`: every frame of an export, decoded. Run as `python -m`, by `child.run_for`."""

import sys
from pathlib import Path

import msgspec

from normant_agent.jobs.child import answer
from normant_agent.media import inspect
from normant_core.orders.exports import Specification

if __name__ == "__main__":
    _, file, wanted, longest = sys.argv
    specification = msgspec.json.decode(wanted, type=Specification | None)
    seconds = float(longest)
    answer(lambda: inspect(Path(file), specification, seconds=seconds), seconds=seconds)
