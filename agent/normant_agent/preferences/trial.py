"""A dialect tried on a folder of preference files: what it reads there, and what it would write."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from normant_core.base.errors import FileError, NormantError
from normant_core.base.quantities import Version, VersionRange
from normant_core.catalogue.settings import ValueFault, catalogue
from normant_core.dialects.dialect import BoundFile, Dialect
from normant_core.dialects.native import settle
from normant_core.dialects.preferences import Visit, native_of, read_files, write_value
from normant_core.formats.span import LIMIT_BYTES
from normant_core.seat.facts import Application, Facts

from ..errors import HostError
from ..files import inside, read, write_atomically

MOST_FILES = 64  # that one name may stand for
_NEWEST = 200  # no application has come further than this major version


@dataclass(frozen=True, slots=True)
class Written:
    """One value that was written: native text before and after, and the value that it really says."""

    setting: str
    file: str
    at: str
    before: str | None
    after: str
    value: str


def content(root: Path, relative: str, app: str = "") -> bytes | str:
    """The file's bytes, or the reason why there are none."""
    try:
        path = inside(root, relative, app)
        if not path.exists():
            return "there is no such file"
        if path.stat().st_size > LIMIT_BYTES:
            return f"the file has {path.stat().st_size:,} bytes; at most {LIMIT_BYTES:,} are read"
        return read(path)
    except HostError as fault:
        return str(fault)


def contents(root: Path, dialect: Dialect) -> dict[str, bytes | str]:
    """The files that a dialect names, under `root`."""
    return {path: content(root, path, dialect.app) for file in dialect.file for path in paths_of(root, file)}


def paths_of(root: Path, file: BoundFile) -> list[str]:
    """The path that is meant, or every one that is there where the name stands for many, MOST_FILES at most."""
    if not file.many:
        return [file.path]
    folder = root / Path(file.path).parent
    there = sorted(path for path in folder.iterdir() if path.is_file()) if folder.is_dir() else []
    return [p for p in (path.relative_to(root).as_posix() for path in there) if file.is_at(p)][:MOST_FILES]


def as_spoken(dialect: Dialect, folder: Path, version: str, edition: str) -> tuple[Dialect, str]:
    """The dialect as the application in that version speaks it; without one, the newest whose files are there."""
    tried = [version] if version else _versions(dialect)
    spoken = [(dialect.spoken_by(Application(dialect.app, version, edition or None)), version) for version in tried]
    there = [pair for pair in spoken if any(is_there(folder, file) for file in pair[0].file)]
    return (there or spoken)[0]


def is_there(folder: Path, file: BoundFile) -> bool:
    """Whether the application has such a file under `folder`."""
    return any((folder / path).exists() for path in paths_of(folder, file))


def read_folder(dialect: Dialect, folder: Path) -> Visit:
    """What the files under `folder` say."""
    return read_files(dialect, contents(folder, dialect), Facts())


def write_folder(dialect: Dialect, folder: Path, wanted: Mapping[str, str]) -> list[Written]:
    """Write settings into the files under `folder`: all of them, or none.

    Raises FileError, HostError or ValueFault before anything is written.
    """
    written, changed = list[Written](), dict[str, bytes]()
    for key, word in wanted.items():
        bound = dialect.bound(key)
        if bound is None:
            known = ", ".join(b.setting for file in dialect.file for b in file.binding)
            raise FileError(f"the dialect of {dialect.app} does not hold {key}: expected one of {known}")
        file, binding = bound
        if file.many:
            raise FileError(f"{file.path}: several files may hold {key}; set it in each (normant set)")
        held = changed.get(file.path) or content(folder, file.path, dialect.app)
        if isinstance(held, str):
            raise FileError(f"{file.path}: {held}")
        try:
            native, value = settle(binding, catalogue()[key].typed(word), "nearest")
            before = native_of(file, binding, held)
            changed[file.path] = write_value(file, binding, held, native)
        except (NormantError, ValueFault) as fault:
            raise FileError(f"{file.path}: {fault}") from fault
        written.append(Written(key, file.path, binding.at, before, native, catalogue()[key].show(value)))
    for path, raw in changed.items():
        write_atomically(inside(folder, path, dialect.app), raw)
    return written


def _versions(dialect: Dialect) -> list[str]:
    """Versions that the dialect speaks for, newest first: whole ones, and those that its ranges name."""
    ranges = [dialect.versions, *(b.versions for file in dialect.file for b in file.binding)]
    named = [number for text in ranges for number in re.findall(r"\d[\w.]*", text)]
    known: Sequence[str] = [*named, *(str(n) for n in range(_NEWEST))]
    held = [version for version in dict.fromkeys(known) if VersionRange.parse(dialect.versions).holds(version)]
    return sorted(held, key=Version.parse, reverse=True) or [dialect.versions]
