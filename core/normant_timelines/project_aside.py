"""Reading a project that somebody brings, in a process of its own; nobody looks for its media."""

import sys
from itertools import count
from pathlib import Path

import msgspec

from normant_core.base.errors import DocumentError
from normant_core.care.project_file import ProjectAddresses, read_project
from normant_core.care.projects import MediaFile, check_project
from normant_core.orders.projects import LONGEST as LONGEST_FAULT
from normant_core.orders.projects import SeenProject, seen_project

from .bounded import UnreadError, answer_within, read_in_process

SECONDS = 120


def read_project_aside(path: Path, file: str, addresses: ProjectAddresses, *, seconds: float = SECONDS) -> SeenProject:
    """What is told of a project; where it cannot be read, `fault` says why."""
    words = msgspec.json.encode(addresses).decode()
    try:
        return read_in_process(__name__, path, file, words, kind=SeenProject, what="project", seconds=seconds)
    except UnreadError as why:
        return SeenProject(file, fault=str(why)[:LONGEST_FAULT])


def _seen(path: Path) -> SeenProject:
    file, addresses = sys.argv[3], msgspec.json.decode(sys.argv[4], type=ProjectAddresses)
    try:
        with path.open("rb") as opened:
            project = read_project(opened, file, addresses)
    except DocumentError as why:
        return SeenProject(file, fault=str(why)[:LONGEST_FAULT])
    except MemoryError:
        return SeenProject(file, fault="reading this project takes too much memory")
    numbers = count()
    media = {item.path: MediaFile(0, (0, next(numbers))) for item in project.items}
    return seen_project(file, project.version, check_project(project, media.get))


if __name__ == "__main__":
    answer_within(_seen)
