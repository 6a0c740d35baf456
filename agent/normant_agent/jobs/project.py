"""The job `project`: a project is read, and its media are looked for. Run as `python -m`, by `child.run_for`."""

import os
import sys
from pathlib import Path

import msgspec

from normant_agent.care.media_files import looking
from normant_agent.jobs.child import answer
from normant_core.care.project_file import ProjectAddresses, read_project
from normant_core.care.projects import check_project
from normant_core.orders.projects import SeenProject, seen_project
from normant_core.seat.facts import Facts, Volume


class Asked(msgspec.Struct, frozen=True):
    """Which project, how it is told of under its store, and where its media may lie."""

    path: str
    file: str
    addresses: ProjectAddresses
    volumes: tuple[Volume, ...]
    storage: str = ""
    root: str = ""


def check(asked: Asked) -> SeenProject:
    """Raises DocumentError for a file that is damaged or not of that manner."""
    path, root = Path(asked.path), Path(asked.root) if asked.root else None
    with open(path, "rb", opener=_no_link) as opened:
        project = read_project(opened, asked.file, asked.addresses)
    storage = Path(asked.storage) if asked.storage else None
    look = looking(Facts(volumes=asked.volumes), path.parent, storage, root)
    return seen_project(asked.file, project.version, check_project(project, look))


def _no_link(path: str, flags: int) -> int:
    """Somebody may have put a link in its place meanwhile: what that leads to is not this project."""
    return os.open(path, flags | getattr(os, "O_NOFOLLOW", 0))


if __name__ == "__main__":
    _, words, longest = sys.argv
    wanted = msgspec.json.decode(words, type=Asked)
    answer(lambda: check(wanted), seconds=float(longest))
