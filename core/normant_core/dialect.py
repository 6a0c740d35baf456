"""A dialect: how one application keeps its preferences, `normant-dialect/1`, and what follows from it.

Addresses are those of the file's format; `unit`, `values` and `empty` say how native text becomes a
canonical value and back.
"""

import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from fractions import Fraction
from pathlib import PurePosixPath
from typing import Any, Literal

import jsonschema
import msgspec

from .catalogue import Kind, Setting, ValueFault, catalogue, nearest
from .errors import DocumentError, Fault, FileError, NormantError, QuantityError
from .formats.json_file import JsonFile
from .formats.span import PreferenceFile
from .formats.xml_file import XmlFile
from .quantities import UNITS, Dimension, Number, Value, VersionRange, tidy
from .survey import Native, Reading, Unreadable
from .toml_places import Places, load_toml, written

READERS: dict[str, Callable[[bytes], PreferenceFile]] = {"xml": XmlFile, "json": JsonFile}
Rounding = Literal["up", "down", "nearest"]


class Strict(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Common manner of the parts of a dialect."""


class Binding(Strict, frozen=True):
    """One setting at one address."""

    setting: str
    at: str
    values: dict[str, str | bool | int | float] = {}
    unit: str = ""
    kind: str = ""
    empty: str | None = None


class BoundFile(Strict, frozen=True):
    """One preference file, its path under the seat's preference root."""

    name: str
    path: str
    format: str
    binding: tuple[Binding, ...]
    close_before_write: bool = True


class Dialect(Strict, frozen=True):
    """How one application, in a range of versions, keeps its preferences."""

    format: Literal["normant-dialect/1"]
    app: str
    versions: str
    file: tuple[BoundFile, ...]
    title: str = ""

    def speaks_for(self, app: str, version: str | None) -> bool:
        """Whether this dialect is that application's."""
        return app == self.app and (version is None or VersionRange.parse(self.versions).holds(version))

    def bound(self, setting: str) -> tuple[BoundFile, Binding] | None:
        """The file and the address that hold a setting."""
        pairs = ((file, binding) for file in self.file for binding in file.binding)
        return next((pair for pair in pairs if pair[1].setting == setting), None)


@dataclass(frozen=True, slots=True)
class Visit:
    """What reading an application's files gave."""

    readings: tuple[Reading, ...]
    errors: tuple[Unreadable, ...]


def schema() -> dict[str, Any]:
    """The published JSON Schema of the dialect."""
    document = msgspec.json.schema(Dialect)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "normant-dialect/1",
        **document,
    }


def parse_dialect(text: str, source: str = "dialect") -> Dialect:
    """Raises DocumentError with the line and column of every fault."""
    plain, places = load_toml(text, source), Places(text)

    def fault(path: tuple[str | int, ...], message: str, expected: str = "") -> Fault:
        line, column = places.of(path)
        return Fault(message, path=written(path), line=line, column=column, expected=expected)

    shape = jsonschema.Draft202012Validator(schema()).iter_errors(plain)
    faults = [fault(tuple(e.absolute_path), e.message) for e in shape]
    if faults:
        raise DocumentError(source, faults)
    dialect = msgspec.convert(plain, Dialect)
    try:
        VersionRange.parse(dialect.versions)
    except QuantityError as wrong:
        faults.append(fault(("versions",), str(wrong)))
    for number, file in enumerate(dialect.file):
        base = ("file", number)
        faults += [fault((*base, *path), *told) for path, told in _file_faults(file)]
    if faults:
        raise DocumentError(source, faults)
    return dialect


def _file_faults(file: BoundFile) -> list[tuple[tuple[str | int, ...], tuple[str, str]]]:
    found: list[tuple[tuple[str | int, ...], tuple[str, str]]] = []
    path = PurePosixPath(file.path)
    if path.is_absolute() or ".." in path.parts or "\\" in file.path or ":" in file.path:
        told = ("the path leaves the preference root", "a relative path without ..")
        found.append((("path",), told))
    if file.format not in READERS:
        found.append((("format",), (f"unknown format {file.format!r}", "one of " + ", ".join(READERS))))
    for index, binding in enumerate(file.binding):
        found += [(("binding", index, *where), told) for where, told in _binding_faults(binding)]
    return found


def _binding_faults(binding: Binding) -> list[tuple[tuple[str | int, ...], tuple[str, str]]]:
    known = catalogue()
    if binding.setting not in known:
        near = nearest(binding.setting, known.settings)
        expected = "one of " + ", ".join(near) if near else "a setting of the catalogue"
        return [(("setting",), (f"unknown setting {binding.setting!r}", expected))]
    setting, found = known[binding.setting], list[tuple[tuple[str | int, ...], tuple[str, str]]]()
    if not binding.at.startswith("/"):
        found.append((("at",), (f"{binding.at!r} is no address", "one that begins with /")))
    if binding.unit and (binding.unit not in UNITS or UNITS[binding.unit][0] not in _units_of(setting)):
        found.append((("unit",), (f"{binding.setting} has no unit {binding.unit!r}", f"a unit of {setting.dimension}")))
    for native, value in binding.values.items():
        try:
            setting.parse(value)
        except ValueFault as wrong:
            found.append((("values", native), (str(wrong), "")))
    return found


def _units_of(setting: Setting) -> set[Dimension]:
    shares = {Dimension.SHARE} if setting.kind is Kind.FRACTION else set()
    return {setting.dimension, *shares}


def decode(binding: Binding, raw: str) -> Value:
    """The canonical value of native text. Raises NormantError where the text means nothing."""
    setting = catalogue()[binding.setting]
    if raw == "" and binding.empty is not None:
        return math.inf if binding.empty == "none" else setting.parse(binding.empty)
    if binding.values:
        if raw not in binding.values:
            raise FileError(f"{raw!r} is none of {', '.join(binding.values)}")
        return setting.parse(binding.values[raw])
    if setting.kind is Kind.BOOL:
        if raw.lower() not in ("true", "false"):
            raise FileError(f"{raw!r} is neither true nor false")
        return setting.parse(raw.lower() == "true")
    if setting.dimension is Dimension.TEXT or setting.kind is Kind.VERSION:
        return setting.parse(raw)
    return setting.parse(_number(raw) * (UNITS[binding.unit][1] if binding.unit else 1))


def _number(raw: str) -> Fraction:
    if not re.fullmatch(r"\s*\d+(\.\d+)?(\s*/\s*[1-9]\d*)?\s*", raw):
        raise FileError(f"{raw!r} is no number")
    over, _, under = raw.partition("/")
    return Fraction(over.strip()) / Fraction(under.strip() or 1)


def encode(binding: Binding, value: Value, *, rounding: Rounding = "nearest") -> str:
    """The native text for a canonical value, rounded to what the file can say. Raises FileError."""
    if value == math.inf:
        if binding.empty != "none":
            raise FileError(f"{binding.setting}: this file has no way to say that there is no limit")
        return ""
    if binding.values:
        for native, known in binding.values.items():
            if catalogue()[binding.setting].parse(known) == value:
                return native
        raise FileError(f"{binding.setting}: this file has no word for {value}")
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | Fraction):
        return _native_number(binding, value, rounding)
    return str(value)


def _native_number(binding: Binding, value: Number, rounding: Rounding) -> str:
    scaled = Fraction(value) / (UNITS[binding.unit][1] if binding.unit else 1)
    if catalogue()[binding.setting].kind in (Kind.FRACTION, Kind.RATE) and not binding.unit:
        return str(scaled)
    if rounding == "nearest":
        return str(round(scaled))
    return str(math.ceil(scaled) if rounding == "up" else math.floor(scaled))


def read_files(dialect: Dialect, contents: Mapping[str, bytes | str]) -> Visit:
    """Readings from the files' bytes by path; a text in place of bytes is the reason it could not be read."""
    readings, errors = list[Reading](), list[Unreadable]()
    for file in dialect.file:
        source = f"dialect:{dialect.app}"
        content = contents.get(file.path, "there is no such file")
        if isinstance(content, str):
            errors.append(Unreadable(source, f"{file.path}: {content}"))
            continue
        try:
            parsed = READERS[file.format](content)
        except FileError as wrong:
            errors.append(Unreadable(source, f"{file.path}: {wrong}"))
            continue
        for binding in file.binding:
            try:
                readings.append(_reading(dialect.app, file, binding, parsed))
            except NormantError as wrong:
                errors.append(Unreadable(f"{source}:{binding.setting}", f"{file.path}: {binding.at}: {wrong}"))
    return Visit(tuple(readings), tuple(errors))


def _reading(app: str, file: BoundFile, binding: Binding, parsed: PreferenceFile) -> Reading:
    entry = parsed.get(binding.at)
    value = catalogue()[binding.setting].plain(decode(binding, entry.raw))
    return Reading(binding.setting, value, app, Native(file.path, binding.at, entry.raw, entry.line))


def write_value(file: BoundFile, binding: Binding, content: bytes, native: str) -> bytes:
    """The file's bytes with one value changed. Raises FileError."""
    return READERS[file.format](content).replace(binding.at, native)


def settle(binding: Binding, value: Value, rounding: Rounding) -> tuple[str, Value]:
    """The native text nearest to `value`, and the canonical value that it really says."""
    native = encode(binding, value, rounding=rounding)
    told = decode(binding, native)
    return native, tidy(told) if isinstance(told, Fraction) else told
