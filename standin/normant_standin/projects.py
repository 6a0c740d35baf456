"""Projects of simulated applications: a real file of Corrow's, and the small media that it lists."""

from collections.abc import Iterator
from pathlib import Path
from xml.etree import ElementTree as ET

import msgspec


class ProjectText(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A project at `path`, whose cut uses `used` items of `media`; beside them so many that are in some disorder.

    `twice`: another item of a file that is used; `missing`: used, and no such file; `at_desk`: used, and on the
    system's disk; `unused`; `odd`: used, and of another rate. Each file has `size` bytes.
    """

    path: str
    media: str
    used: int
    twice: int = 0
    missing: int = 0
    at_desk: int = 0
    unused: int = 0
    odd: int = 0
    size: int = 100_000


DESK = "/home/edit/desk"
RATE, OTHER, PICTURE = "25", "24000/1001", "3840x2160"


def write_project(disks: Path, text: ProjectText) -> None:
    """The project and its media, under the folder of a machine's disks."""
    root = ET.Element("project", saved="8.3.1")
    ET.SubElement(root, "picture", rate=RATE, size=PICTURE.replace("x", " "))
    media, cut = ET.SubElement(root, "media"), ET.SubElement(root, "cut")
    for number, (path, rate, is_used) in enumerate(_items(text), 1):
        item = ET.SubElement(media, "item", id=f"m{number}")
        ET.SubElement(item, "file", at=path)
        ET.SubElement(item, "picture", rate=rate, size=PICTURE.replace("x", " "))
        if is_used:
            ET.SubElement(cut, "clip", media=f"m{number}")
        if "/gone/" not in path:
            _put(disks / path.lstrip("/"), text.size)
    file = disks / text.path.lstrip("/")
    file.parent.mkdir(parents=True, exist_ok=True)
    ET.ElementTree(root).write(file, encoding="utf-8", xml_declaration=True)


def _items(text: ProjectText) -> Iterator[tuple[str, str, bool]]:
    """Path, rate, and whether the cut uses it."""
    shot = f"{text.media}/shot_{{:03d}}.mov".format
    yield from ((shot(n), RATE, True) for n in range(text.used))
    yield from ((shot(n), RATE, False) for n in range(text.twice))
    yield from ((f"{text.media}/gone/pickup_{n}.mov", RATE, True) for n in range(text.missing))
    yield from ((f"{DESK}/from_phone_{n}.mov", RATE, True) for n in range(text.at_desk))
    yield from ((f"{text.media}/second_unit_{n:02d}.mov", RATE, False) for n in range(text.unused))
    yield from ((f"{text.media}/drone_{n}.mov", OTHER, True) for n in range(text.odd))


def _put(path: Path, size: int) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(bytes(size))
