"""What is wrong with the media of a project: listed twice, unused, missing, misplaced, odd; and what to do about it."""

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Literal

from ..base.wording import counted, listed
from .project_file import MediaItem, ReadProject

Trouble = Literal["duplicate", "unused", "missing", "misplaced", "odd", "mixed"]
DO: dict[Trouble, str] = {
    "duplicate": "keep one of them and use it in all timelines",
    "unused": "remove it from the project if it is not needed",
    "missing": "restore the file, or relink the item to its current place",
    "misplaced": "move the file to the production's storage and relink the item",
    "odd": "convert the item to the project's rate and size, or change the project",
    "mixed": "convert the smaller group before the export",
}


@dataclass(frozen=True, slots=True)
class MediaFile:
    """A media file as it lies: bytes, what tells it from another, and what its volume is."""

    size: int
    ident: tuple[int, int]
    system: bool = False
    removable: bool = False
    inside: bool = True  # of the production's storage


@dataclass(frozen=True, slots=True)
class ProjectTrouble:
    """Something that is wrong with some items: their ids and paths, bytes, why, and what to do."""

    trouble: Trouble
    items: tuple[str, ...]
    paths: tuple[str, ...]
    size: int
    why: str
    do: str


@dataclass(slots=True)
class CheckedProject:
    """A project that was looked through: `size` bytes of its media, of which `unused` bytes no timeline uses."""

    items: int
    used: int
    missing: int = 0
    duplicates: int = 0
    size: int = 0
    unused: int = 0
    troubles: list[ProjectTrouble] = field(default_factory=list)


def check_project(project: ReadProject, look: Callable[[str], MediaFile | None]) -> CheckedProject:
    """`look` tells of a path how its file lies, None where there is none."""
    files = {path: look(path) for path in {item.path for item in project.items}}
    used = [item for item in project.items if item.id in project.uses]
    checked = CheckedProject(len(project.items), len(used))
    there = _sizes(files, files)
    checked.size = sum(there.values())
    checked.unused = checked.size - sum(_sizes(files, (item.path for item in used)).values())
    checked.troubles = [
        *_duplicates(project, files),
        *_missing(project, files),
        *_misplaced(project, files),
        *_unused(project, files),
        *_odd(project),
        *_mixed(project),
    ]
    checked.missing = sum(t.trouble == "missing" for t in checked.troubles)
    checked.duplicates = sum(len(t.items) - 1 for t in checked.troubles if t.trouble == "duplicate")
    return checked


Files = dict[str, MediaFile | None]


def _sizes(files: Files, paths: Iterable[str]) -> dict[tuple[int, int], int]:
    """Bytes of the files at these paths, each once."""
    return {file.ident: file.size for path in paths if (file := files[path])}


def _trouble(trouble: Trouble, items: list[MediaItem], size: int, why: str) -> ProjectTrouble:
    paths = tuple(dict.fromkeys(item.path for item in items))
    return ProjectTrouble(trouble, tuple(item.id for item in items), paths, size, why, DO[trouble])


def _duplicates(project: ReadProject, files: Files) -> Iterator[ProjectTrouble]:
    """The same file as several items: by its path, or by what it is where several paths lead to it."""
    same = defaultdict[object, list[MediaItem]](list)
    for item in project.items:
        file = files[item.path]
        same[file.ident if file else item.path].append(item)
    for items in filter(lambda items: len(items) > 1, same.values()):
        uses = sum(item.id in project.uses for item in items)
        why = f"one file is {counted(len(items), 'item')}, of which {_used_words(uses)}"
        yield _trouble("duplicate", items, 0, why)


def _used_words(count: int) -> str:
    return f"{count:,} used"


def _missing(project: ReadProject, files: Files) -> Iterator[ProjectTrouble]:
    for item in project.items:
        if files[item.path] is None:
            used = "a timeline uses it" if item.id in project.uses else "no timeline uses it"
            yield _trouble("missing", [item], 0, f"the file does not exist; {used}")


def _misplaced(project: ReadProject, files: Files) -> Iterator[ProjectTrouble]:
    for item in project.items:
        file = files[item.path]
        if file and (where := _wrong_places(file)):
            yield _trouble("misplaced", [item], file.size, f"it is {listed(where)}")


def _wrong_places(file: MediaFile) -> list[str]:
    places = {
        "on the system's disk": file.system,
        "on a removable disk": file.removable,
        "outside the production's storage": not file.inside,
    }
    return [words for words, is_there in places.items() if is_there]


def _unused(project: ReadProject, files: Files) -> Iterator[ProjectTrouble]:
    for item in project.items:
        if item.id not in project.uses:
            file = files[item.path]
            yield _trouble("unused", [item], file.size if file else 0, "no timeline uses it")


def _odd(project: ReadProject) -> Iterator[ProjectTrouble]:
    """Used items that are another rate or size than the project."""
    for item in project.items:
        if item.id in project.uses and (unlike := [*_unlike(project, item)]):
            yield _trouble("odd", [item], 0, f"it is {listed(unlike)}")


def _unlike(project: ReadProject, item: MediaItem) -> Iterator[str]:
    if not _same_rate(item.rate, project.rate):
        yield f"{item.rate} frames per second in a project of {project.rate}"
    if not _same_size(item.size, project.size):
        yield f"{_plain(item.size)} in a project of {_plain(project.size)}"


def _mixed(project: ReadProject) -> Iterator[ProjectTrouble]:
    """More than one rate among what timelines use stalls exports that have to convert in between."""
    used = [item for item in project.items if item.rate and item.id in project.uses]
    rates = Counter(item.rate for item in used).most_common()
    if len(rates) > 1:
        shares = listed(f"{counted(count, 'item')} at {rate}" for rate, count in rates)
        fewest = [item for item in used if item.rate != rates[0][0]]
        yield _trouble("mixed", fewest, 0, f"timelines mix frame rates: {shares}")


def _same_size(size: str, other: str) -> bool:
    """So too where one of them is not told."""
    return not size or not other or _plain(size) == _plain(other)


def _same_rate(rate: str, other: str) -> bool:
    """So too where one of them is not told."""
    if not rate or not other:
        return True
    try:
        return abs(Fraction(rate) - Fraction(other)) < Fraction(1, 1000)
    except (ValueError, ZeroDivisionError):
        return rate == other


def _plain(size: str) -> str:
    """`3840x2160`, however it is written."""
    return "x".join(part for part in size.lower().replace("×", "x").replace(" ", "x").split("x") if part)
