"""`script/bench [NAME] [--json]`."""

import json
import sys

from .agent import agent
from .core import judge, load, parse
from .ingest import ingest
from .survey import request, unchanged

ALL = {
    "judge": judge,
    "parse": parse,
    "load": load,
    "unchanged": unchanged,
    "request": request,
    "ingest": ingest,
    "agent": agent,
}


def main() -> None:
    """Print each figure; exit 1 where a bar was missed, 2 for an unknown name."""
    words = [word for word in sys.argv[1:] if word != "--json"]
    if unknown := [word for word in words if word not in ALL]:
        sys.exit(f"script/bench: unknown measurement {unknown[0]!r}: expected one of {', '.join(ALL)}")
    figures = []
    for name in words or ALL:
        figures.append(ALL[name]())
        if "--json" not in sys.argv:
            print(figures[-1].line(), flush=True)
    if "--json" in sys.argv:
        print(json.dumps([figure.plain() for figure in figures], indent=1))
    sys.exit(0 if all(figure.held for figure in figures) else 1)


if __name__ == "__main__":
    main()
