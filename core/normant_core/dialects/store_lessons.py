"""Teach by example where files of a store belong, and where a project lists its media."""

import json
from collections import Counter, defaultdict
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import islice
from pathlib import PurePosixPath
from typing import Any, Literal

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring

from ..base.errors import FileError
from ..base.wording import counted, listed
from ..care.belonging import Belonging, PatternError
from ..care.deliveries import name_key
from ..care.project_file import ProjectAddresses

SEPARATORS = "_- ."  # between the words of a file's name
ORDINALS = ("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth")
DEEPEST = 60  # members within one another that are looked at
MOST, MOST_ADDRESSES = 200_000, 2_000  # values of a project that are looked at, and places at which they stand
FEW = 8, 20  # members that media may lie in, and what may tell them from one another, that are tried
Group = Literal["production", "project"]
GROUPS: tuple[Group, ...] = ("production", "project")


@dataclass(frozen=True, slots=True)
class PathSample:
    """A file's path under its store, and to what it belongs; what nobody knows is empty."""

    path: str
    production: str = ""
    project: str = ""


@dataclass(frozen=True, slots=True)
class LearntPattern:
    """A pattern over paths that explains every sample; `sure` says whether no other place would, `why` what it says."""

    pattern: str
    sure: bool
    why: str


@dataclass(frozen=True, slots=True, order=True)
class _Place:
    """Where a name stands in a path: a folder by its number, or a word of the file's name between separators."""

    is_word: bool
    number: int
    separator: str = ""

    @property
    def words(self) -> str:
        which = ORDINALS[self.number] if self.number < len(ORDINALS) else f"{self.number + 1}th"
        return f"the {which} word of the file's name" if self.is_word else f"the {which} folder"


def learn_belonging(samples: Sequence[PathSample]) -> LearntPattern:
    """The pattern by which these paths tell their production, their project, or both.

    Names count by their letters and digits alone, as folders write them. Raises FileError where no place of the paths
    explains all samples.
    """
    standing = {group: _places(group, samples) for group in _groups(samples)}
    chosen = {group: places[0] for group, places in standing.items()}
    if len(set(chosen.values())) < len(chosen):
        raise FileError("production and project would stand in the same place: give a path in which they differ")
    pattern = _pattern(chosen)
    _check_explains(pattern, samples, chosen)
    sure = all(len(places) == 1 for places in standing.values())
    why = listed(f"the {group} is {place.words}" for group, place in chosen.items())
    return LearntPattern(pattern, sure, why if sure else f"{why}; another path would tell it from other places")


def _check_explains(pattern: str, samples: Iterable[PathSample], groups: Collection[Group]) -> None:
    """Raises FileError where a path would belong elsewhere than its sample says, or the pattern is none."""
    try:
        belongs = Belonging(pattern)
    except PatternError as fault:
        raise FileError(f"the names stand too deep in these paths: {fault}") from fault
    for sample in samples:
        named = dict(zip(GROUPS, belongs.of("/".join(_parts(sample.path))), strict=True))
        wrong = next((g for g in groups if name_key(named[g]) != name_key(getattr(sample, g))), None)
        if wrong:
            raise FileError(f"{sample.path}: its {wrong} would be {named[wrong]!r}, not {getattr(sample, wrong)!r}")


def _groups(samples: Sequence[PathSample]) -> list[Group]:
    groups: list[Group] = [g for g in GROUPS if samples and all(name_key(getattr(sample, g)) for sample in samples)]
    if not groups:
        raise FileError("say of every path its production, its project, or both")
    return groups


def _places(group: Group, samples: Sequence[PathSample]) -> list[_Place]:
    """Where the name stands in every path, the plainest place first. Raises FileError where there is none."""
    each = [set(_standing(sample.path, getattr(sample, group))) for sample in samples]
    if common := set.intersection(*each):
        return sorted(common)
    lost = next((s for s, places in zip(samples, each, strict=True) if not places), None)
    if lost:
        raise FileError(f"{lost.path}: no folder, and no word of the file's name, is {getattr(lost, group)!r}")
    raise FileError(f"the {group} stands in another place of each path: no pattern tells that")


def _parts(path: str) -> list[str]:
    """Of a path as any system writes it."""
    return [part for part in path.replace("\\", "/").split("/") if part]


def _standing(path: str, name: str) -> Iterator[_Place]:
    *folders, file = _parts(path) or [""]
    for number, folder in enumerate(folders):
        if name_key(folder) == name_key(name):
            yield _Place(False, number)
    stem = file.rpartition(".")[0] or file
    for separator in SEPARATORS:
        words = stem.split(separator)
        if separator in stem:
            yield from (_Place(True, n, separator) for n, word in enumerate(words) if name_key(word) == name_key(name))


def _pattern(chosen: dict[Group, _Place]) -> str:
    """Folders from the beginning; then the words of the file's own name, whatever lies between."""
    order = sorted(chosen.items(), key=lambda pair: pair[1])
    folders, words = ([pair for pair in order if pair[1].is_word is kind] for kind in (False, True))
    made = "^" + _run(folders, "[^/]+/", "[^/]+", "/")
    if not words:
        return made
    if len({place.separator for _, place in words}) > 1:
        raise FileError("production and project are words between other signs: no pattern tells that")
    sign = "\\" + words[0][1].separator
    return f"{made}(?:[^/]+/)*{_run(words, f'[^/{sign}]+{sign}', f'[^/.{sign}]+', sign).removesuffix(sign)}[^/]*$"


def _run(places: Iterable[tuple[Group, _Place]], passed: str, named: str, after: str) -> str:
    made, reached = "", 0
    for group, place in places:
        made += passed * (place.number - reached) + f"(?P<{group}>{named}){after}"
        reached = place.number + 1
    return made


@dataclass(frozen=True, slots=True)
class LearntProject:
    """Where projects of that manner list their media; `sure` says whether nothing else would explain it."""

    addresses: ProjectAddresses
    sure: bool
    why: str


def learn_project(name: str, content: bytes) -> LearntProject:
    """Where a project lists its media, by what its values look like.

    Most values that look like files' paths stand at the address of media; what names an item elsewhere is what uses
    it. Raises FileError for a file that is neither XML nor JSON, and where no media or no uses are found.
    """
    form, document = _document(name, content)
    path, values = max(document.values.items(), key=lambda pair: len(_files_in(pair[1])), default=("", []))
    if not _files_in(values):
        raise FileError(f"{name}: no value looks like the path of a media file")
    for item in islice(document.around(path, len(values)), FEW[0]):
        for id_, ids in islice(document.below(item, len(values)), FEW[1]):
            uses = document.naming(set(ids), item)
            if id_ != path and uses:
                within = path.removeprefix(f"{item}/")
                suffix = PurePosixPath(name).suffix
                addresses = ProjectAddresses(
                    f"*{suffix}" if suffix else name, form, item, id_.removeprefix(f"{item}/"), within, tuple(uses[:20])
                )
                used = len({value for use in uses for value in document.values[use]})
                why = f"{counted(len(values), 'media item')}, {used:,} of them used"
                return LearntProject(addresses, len(uses) == 1, why)
    raise FileError(f"{name}: its media stand at {path}, but nothing elsewhere names one of them: show one with a cut")


def _files_in(values: Iterable[str]) -> set[str]:
    """Those that look like a file's path: folders, and a short suffix."""
    return {v for v in values if ("/" in v or "\\" in v) and 1 < len(PurePosixPath(v.replace("\\", "/")).suffix) <= 6}


class _Document:
    """The values of a document by their addresses, and how many members there are at each."""

    def __init__(self) -> None:
        self.values = defaultdict[str, list[str]](list)
        self._members = Counter[str]()
        self._left = MOST

    def add(self, at: str, value: str) -> None:
        if value:
            self._left -= 1
            self.values[at].append(value)
        if self._left < 0 or len(self.values) > MOST_ADDRESSES:
            raise FileError(f"it has more than {MOST:,} values, or {MOST_ADDRESSES:,} places: show a smaller project")

    def count(self, at: str) -> None:
        self._members[at] += 1

    def around(self, at: str, count: int) -> Iterator[str]:
        """Members that an address lies in, of which there are as many as it has values: the outermost first."""
        steps = at.split("/")
        for depth in range(2, len(steps)):
            if self._members["/".join(steps[:depth])] == count:
                yield "/".join(steps[:depth])

    def below(self, item: str, count: int) -> Iterator[tuple[str, list[str]]]:
        """Addresses within a member that tell each of these members from all others."""
        for at, values in self.values.items():
            if at.startswith(f"{item}/") and len(values) == count == len(set(values)):
                yield at, values

    def naming(self, ids: set[str], item: str) -> list[str]:
        """Addresses elsewhere at which nothing but these ids stands."""
        elsewhere = (at for at in self.values if not at.startswith(f"{item}/"))
        return [at for at in elsewhere if ids.issuperset(self.values[at])]


def _document(name: str, content: bytes) -> tuple[Literal["xml", "json", "otio"], _Document]:
    made = _Document()
    try:
        if content.lstrip()[:1] == b"<":
            _take_element(made, fromstring(content), "")
            return "xml", made
        whole = json.loads(content)
        _take_value(made, whole, "")
    except (ParseError, DefusedXmlException, RecursionError, ValueError) as why:
        raise FileError(f"{name} is neither XML nor JSON that can be read: {str(why)[:200]}") from why
    return ("otio" if isinstance(whole, dict) and "OTIO_SCHEMA" in whole else "json"), made


def _take_element(made: _Document, element: Any, above: str, depth: int = 0) -> None:
    at = f"{above}/{str(element.tag).rpartition('}')[2]}"
    if depth > DEEPEST:
        raise FileError(f"elements lie more than {DEEPEST} within one another")
    made.count(at)
    made.add(at, (element.text or "").strip())
    for attribute, value in element.attrib.items():
        made.add(f"{at}/@{attribute}", value.strip())
    for child in element:
        _take_element(made, child, at, depth + 1)


def _take_value(made: _Document, value: Any, at: str, depth: int = 0) -> None:
    if depth > DEEPEST:
        raise FileError(f"values lie more than {DEEPEST} within one another")
    made.count(at)
    match value:
        case dict():
            for key, inner in value.items():
                if "/" not in key:
                    _take_value(made, inner, f"{at}/{key}", depth + 1)
        case list():
            for inner in value:
                _take_value(made, inner, f"{at}/*", depth + 1)
        case str() | int() | float():
            made.add(at, str(value).strip())
