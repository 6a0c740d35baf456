"""`script/bench [NAME ...] [--json] [--seats N]`."""

import json
import sys
from collections.abc import Callable

from .agent import agent
from .browser.carry import carry
from .browser.floor import floor
from .browser.grid import grid
from .campaigns.faults import faults
from .campaigns.fence import fence
from .campaigns.fuzz import fuzz
from .campaigns.nothing_lost import nothing_lost
from .campaigns.siege import siege
from .campaigns.trial_faults import trial_faults
from .check import check
from .core import judge, load, parse
from .drift import drift
from .house import house
from .ingest import ingest
from .measure import Figure
from .measuring.care import care
from .measuring.clearings import clearings
from .measuring.file_lists import file_lists
from .measuring.inspect_export import inspect
from .measuring.routes import routes
from .measuring.sampler import sampler
from .measuring.timeline import timeline
from .measuring.trials import trials
from .plan import plan
from .survey import request, unchanged

ALL: dict[str, Callable[[], Figure]] = {
    bench.__name__: bench
    for bench in (judge, parse, load, unchanged, request, ingest, agent, siege, routes, timeline, inspect, sampler)
}
# In a house of --seats.
LARGE: dict[str, Callable[[int], list[Figure]]] = {
    bench.__name__: bench
    for bench in (
        *(house, floor, drift, grid, check, plan, fuzz, faults, trial_faults, carry, fence, trials, care),
        *(clearings, file_lists, nothing_lost),
    )
}
SEATS = "--seats"


def main() -> None:
    """Print each figure; exit 1 where a bar was missed, 2 for an unknown name."""
    words, seats = [word for word in sys.argv[1:] if word != "--json"], 10_000
    if SEATS in words:
        place = words.index(SEATS)
        if place + 1 == len(words) or not words[place + 1].isdigit():
            sys.exit("script/bench: --seats needs a number")
        seats = int(words[place + 1])
        del words[place : place + 2]
    if unknown := [word for word in words if word not in (*ALL, *LARGE)]:
        sys.exit(f"script/bench: unknown measurement {unknown[0]!r}: expected one of {', '.join((*ALL, *LARGE))}")
    figures = list[Figure]()
    for name in words or ALL:
        made = [ALL[name]()] if name in ALL else LARGE[name](seats)
        figures += made
        if "--json" not in sys.argv:
            for figure in made:
                print(figure.line(), flush=True)
    if "--json" in sys.argv:
        print(json.dumps([figure.plain() for figure in figures], indent=1))
    sys.exit(0 if all(figure.held for figure in figures) else 1)


if __name__ == "__main__":
    main()
