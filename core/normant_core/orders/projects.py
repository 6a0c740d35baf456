"""Projects, as seats and the house tell each other of them: which media one lists, and what is wrong with them."""

from collections import Counter
from collections.abc import Iterable
from typing import Annotated

import msgspec
from msgspec import Meta

from ..base.quantities import LARGEST_TOLD
from ..care.projects import CheckedProject, ProjectTrouble, Trouble

MOST_PROJECTS = 20  # of one application, that a seat tells at once: the newest
MOST_OF_A_KIND = 12  # troubles that are told one by one; the others are counted
MOST_NAMED = 3  # paths of one of them
LONGEST = 300  # characters of a path, and of why
Count = Annotated[int, Meta(ge=0, le=LARGEST_TOLD)]
Text = Annotated[str, Meta(max_length=LONGEST)]


class ProjectStruct(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Common manner of what is told of projects."""


class SeenTrouble(ProjectStruct, frozen=True):
    """Something that is wrong with `items` of a project: the first of their paths, bytes, and why."""

    trouble: Trouble
    items: Count
    paths: Annotated[tuple[Text, ...], Meta(max_length=MOST_NAMED)]
    size: Count
    why: Text


class SeenProject(ProjectStruct, frozen=True):
    """A project that was looked through, by its path under its store; `fault` is why it could not be read.

    `size` bytes of media lie there, of which no timeline uses `unused`; `more` troubles are not told one by one.
    """

    file: Annotated[str, Meta(min_length=1, max_length=400)]
    version: Annotated[str, Meta(max_length=120)] = ""
    items: Count = 0
    used: Count = 0
    missing: Count = 0
    duplicates: Count = 0
    size: Count = 0
    unused: Count = 0
    troubles: Annotated[tuple[SeenTrouble, ...], Meta(max_length=6 * MOST_OF_A_KIND)] = ()
    more: Count = 0
    fault: Text = ""


def seen_project(file: str, version: str, checked: CheckedProject) -> SeenProject:
    """What of it is told: of each kind of trouble the first ones."""
    troubles = tuple(map(_seen, _first(checked.troubles)))
    return SeenProject(
        file,
        version[:120],
        checked.items,
        checked.used,
        checked.missing,
        checked.duplicates,
        checked.size,
        checked.unused,
        troubles,
        len(checked.troubles) - len(troubles),
    )


def _first(troubles: Iterable[ProjectTrouble]) -> Iterable[ProjectTrouble]:
    """Of each kind the first few, in their order."""
    seen = Counter[str]()
    for trouble in troubles:
        seen[trouble.trouble] += 1
        if seen[trouble.trouble] <= MOST_OF_A_KIND:
            yield trouble


def _seen(trouble: ProjectTrouble) -> SeenTrouble:
    paths = tuple(path[:LONGEST] for path in trouble.paths[:MOST_NAMED])
    return SeenTrouble(trouble.trouble, len(trouble.items), paths, trouble.size, trouble.why[:LONGEST])
