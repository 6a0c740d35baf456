"""Reading the projects of an application, and how their media lie: in a process of its own, and nothing is written."""

import fnmatch
import time
from collections.abc import Iterator
from pathlib import Path

import msgspec

from normant_core.care.project_file import ProjectAddresses
from normant_core.orders.kinds import CheckProjects, Receipt
from normant_core.orders.projects import LONGEST, MOST_PROJECTS, SeenProject

from ..errors import HostError, Refused
from ..jobs import child
from ..jobs.project import Asked
from ..journal import Entry
from .stores import files_of, folder_to_look_into, written_at
from .work import Work

SETTING = "store.projects.path"
SECONDS, TOGETHER = 120, 600  # that one project may take, and all of them
MOST_LOOKED = 100_000  # files of the folder


def check_projects(work: Work, order: str, action: CheckProjects) -> Receipt:
    """Raises Refused where no preference names the folder, no dialect says how projects are read, or none is there."""
    manners = [bound for dialect in work.dialects if dialect.app == action.app for bound in dialect.project]
    if not manners:
        raise Refused(f"the {action.app} dialect does not describe its projects")
    folder = folder_to_look_into(work, action.app, SETTING)
    newest = sorted(_projects(folder, manners), key=lambda pair: -written_at(pair[0]))
    wanted = [pair for pair in newest if action.file in ("", _name(folder, pair[0]))][:MOST_PROJECTS]
    if not wanted:
        raise Refused(f"there is no project {action.file or manners[0].files} in {folder.name}")
    seen, until = list[SeenProject](), time.monotonic() + TOGETHER
    for path, manner in wanted:
        if time.monotonic() >= until:  # other orders of this seat wait
            seen.append(SeenProject(_name(folder, path), fault="not read: out of time"))
            continue
        work.step(order, "checking")
        seen.append(_seen(work, folder, path, manner, action.storage))
    return work.close(Entry(order), Receipt(order, "done", projects=tuple(seen)))


def _projects(folder: Path, manners: list[ProjectAddresses]) -> Iterator[tuple[Path, ProjectAddresses]]:
    """Those that a dialect names, each with how it is read."""
    for number, path in enumerate(files_of(folder)):
        if number >= MOST_LOOKED:
            raise Refused(f"{folder.name} holds more than {MOST_LOOKED:,} files: it is more than projects")
        manner = next((m for m in manners if fnmatch.fnmatch(path.name.lower(), m.files.lower())), None)
        if manner and path.is_file() and len(_name(folder, path)) <= LONGEST and _name(folder, path).isprintable():
            yield path, manner


def _name(folder: Path, path: Path) -> str:
    return path.relative_to(folder).as_posix()


def _seen(work: Work, folder: Path, path: Path, manner: ProjectAddresses, storage: str) -> SeenProject:
    """One that is damaged says so, and the others are read all the same."""
    root = work.host.real("/")
    asked = Asked(
        str(path),
        _name(folder, path),
        manner,
        work.facts.volumes or (),
        str(work.host.real(storage)) if storage else "",
        "" if root == Path("/") else str(root),
    )
    try:
        words = msgspec.json.encode(asked).decode()
        return child.run_for("project", words, str(SECONDS), kind=SeenProject, seconds=SECONDS)
    except HostError as why:
        return SeenProject(asked.file, fault=str(why)[:LONGEST])
