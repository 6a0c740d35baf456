"""Reading a project file: which media it lists, and which of them its timelines use. It is never written.

Where things stand in a project a dialect tells (`[[project]]`). An address is a path of names: of elements in XML, a
last `@name` for an attribute; of keys in JSON and OpenTimelineIO, `*` for every member of a list or a table. A project
may have hundreds of megabytes, so XML is read element by element, and each is let go of.
"""

import json
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import islice
from typing import IO, Annotated, Any, Literal
from xml.etree.ElementTree import Element

import msgspec
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, iterparse
from msgspec import Meta

from ..base.errors import DocumentError, Fault

LARGEST = 512 * 1024**2  # bytes of a project
MOST_ITEMS = 500_000
MOST_USES = 5_000_000
MOST_ELEMENTS = 20_000_000
DEEPEST = 200  # elements within one another
LONGEST = 4096  # characters of a value that is read


class ProjectAddresses(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Where a project of an application says which media it lists and uses: `[[project]]` of a dialect.

    `item` is each media item, with `id`, `path`, `rate` and `size` within it; `uses` are where timelines name the ids
    of items. `own_rate`, `own_size` and `version` are the project's own. `files` is how its files are named.
    """

    files: Annotated[str, Meta(min_length=1, max_length=100)]
    format: Literal["xml", "json", "otio"]
    item: str
    id: str
    path: str
    uses: Annotated[tuple[str, ...], Meta(min_length=1, max_length=20)]
    rate: str = ""
    size: str = ""
    own_rate: str = ""
    own_size: str = ""
    version: str = ""


@dataclass(frozen=True, slots=True)
class MediaItem:
    """An item of a project's media list; what it does not say is empty."""

    id: str
    path: str
    rate: str = ""
    size: str = ""


@dataclass(slots=True)
class ReadProject:
    """What was read of a project: its items, the ids that timelines name, and what the project itself is."""

    items: list[MediaItem] = field(default_factory=list)
    uses: set[str] = field(default_factory=set)
    rate: str = ""
    size: str = ""
    version: str = ""


def read_project(file: IO[bytes], source: str, at: ProjectAddresses) -> ReadProject:
    """Raises DocumentError for a file that is damaged, too large or not of that manner."""
    if file.seek(0, 2) > LARGEST:
        raise DocumentError(source, [Fault(f"the project has more than {LARGEST // 1024**2:,} MiB")])
    file.seek(0)
    project = ReadProject()
    try:
        if at.format == "xml":
            _read_xml(file, at, project)
        else:
            _read_json(file, at, project)
    except (ParseError, DefusedXmlException, RecursionError, ValueError) as why:  # JSON's and text's own are the last
        raise DocumentError(source, [_fault_of(why)]) from why
    if not project.items:
        expected = f"media items at {at.item}"
        raise DocumentError(source, [Fault("no media item is where the dialect says", path=at.item, expected=expected)])
    return project


def _fault_of(why: Exception) -> Fault:
    match why:
        case ParseError(position=(line, column)):
            return Fault(f"damaged XML: {why.msg}", line=line, column=column + 1)
        case json.JSONDecodeError():
            return Fault(f"damaged JSON: {why.msg}", line=why.lineno, column=why.colno)
    return Fault(f"this is no project that can be read: {str(why)[:200]}")


class _TooMuch(ValueError):
    """More than anybody's project has."""


def _read_xml(file: IO[bytes], at: ProjectAddresses, project: ReadProject) -> None:
    """Element by element: of those that are over only the parts of the item that is open are held."""
    reading = _XmlReading(at, project)
    for event, element in iterparse(file, events=("start", "end")):
        if event == "start":
            reading.begin(element)
        else:
            reading.end(element)


class _XmlReading:
    """Where in the file it is, and what is read there.

    What the dialect names is looked up by the whole path of an element, so that others cost one lookup.
    """

    def __init__(self, at: ProjectAddresses, project: ReadProject) -> None:
        self._at, self._project = at, project
        self._item = "/".join(_steps(at.item))
        self._uses = defaultdict[str, list[str]](list)
        for address in at.uses:
            self._uses[_of_element(address)].append(_attribute(address))
        self._whole = defaultdict[str, list[tuple[str, str]]](list)
        for name, address in _whole(at):
            self._whole[_of_element(address)].append((_attribute(address), name))
        self._read_at = {*self._uses, *self._whole, self._item}
        self._paths, self._open = [""], list[Element]()
        self._within = self._count = 0

    def begin(self, element: Element) -> None:
        """Raises _TooMuch for elements that lie too deep, or are too many."""
        name, above = _local(element.tag), self._paths[-1]
        path = f"{above}/{name}" if above else name
        self._paths.append(path)
        self._open.append(element)
        self._within += path == self._item
        self._count += 1
        if len(self._open) > DEEPEST:
            raise _TooMuch(f"elements lie more than {DEEPEST} within one another")
        if self._count > MOST_ELEMENTS:
            raise _TooMuch(f"it has more than {MOST_ELEMENTS:,} elements")

    def end(self, element: Element) -> None:
        """An element is whole: it is read, and taken from the one above unless an item that is still open needs it."""
        path = self._paths.pop()
        self._open.pop()
        if path in self._read_at:
            self._read(path, element)
        if not self._within and self._open:
            self._open[-1].remove(element)

    def _read(self, path: str, element: Element) -> None:
        for attribute in self._uses.get(path, ()):
            _use(self._project, _of(element, attribute))
        for attribute, name in self._whole.get(path, ()):
            setattr(self._project, name.removeprefix("own_"), _of(element, attribute))
        if path == self._item:
            names = ("id", "path", "rate", "size")
            _add(self._project, MediaItem(*(_inner(element, getattr(self._at, name)) for name in names)))
            self._within -= 1


def _whole(at: ProjectAddresses) -> Iterator[tuple[str, str]]:
    return ((name, getattr(at, name)) for name in ("own_rate", "own_size", "version") if getattr(at, name))


def _steps(address: str) -> list[str]:
    return [step for step in address.split("/") if step]


def _of_element(address: str) -> str:
    """The element that an address is of, without its attribute."""
    return "/".join(step for step in _steps(address) if not step.startswith("@"))


def _attribute(address: str) -> str:
    """The attribute that it names, empty for the element's own text."""
    return address.rpartition("@")[2] if "@" in address else ""


def _local(tag: object) -> str:
    text = str(tag)
    return text.rpartition("}")[2] if "}" in text else text


def _of(element: Element, attribute: str) -> str:
    return ((element.get(attribute) if attribute else element.text) or "").strip()[:LONGEST]


def _inner(element: Element, address: str) -> str:
    """A value within an item, by its address from there."""
    if not address:
        return ""
    here: Element | None = element
    for step in _steps(_of_element(address)):
        here = next((child for child in here if _local(child.tag) == step), None) if here is not None else None
    return "" if here is None else _of(here, _attribute(address))


def _read_json(file: IO[bytes], at: ProjectAddresses, project: ReadProject) -> None:
    document = json.load(file)
    for node in islice(_at(document, _steps(at.item)), MOST_ITEMS + 1):
        _add(project, MediaItem(*(_first(node, getattr(at, name)) for name in ("id", "path", "rate", "size"))))
    for address in at.uses:
        for node in _at(document, _steps(address)):
            _use(project, _text(node))
    for name, address in _whole(at):
        setattr(project, name.removeprefix("own_"), _first(document, address))


def _at(node: Any, steps: Sequence[str]) -> Iterator[Any]:
    """Every value at an address."""
    if not steps:
        yield node
        return
    for member in _members(node, steps[0]):
        yield from _at(member, steps[1:])


def _members(node: Any, step: str) -> list[Any]:
    """What one step of an address leads to: every member for a star, else the one of that name."""
    match node:
        case list() if step == "*":
            return node
        case dict() if step == "*":
            return list(node.values())
        case dict() if step in node:
            return [node[step]]
    return []


def _first(node: Any, address: str) -> str:
    return _text(next(_at(node, _steps(address)), "")) if address else ""


def _text(value: Any) -> str:
    return str(value).strip()[:LONGEST] if isinstance(value, str | int | float) else ""


def _add(project: ReadProject, item: MediaItem) -> None:
    if len(project.items) >= MOST_ITEMS:
        raise _TooMuch(f"it has more than {MOST_ITEMS:,} media items")
    project.items.append(item)


def _use(project: ReadProject, id_: str) -> None:
    if len(project.uses) >= MOST_USES:
        raise _TooMuch(f"its timelines name more than {MOST_USES:,} items")
    if id_:
        project.uses.add(id_)
