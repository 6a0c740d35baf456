"""The formats by name, and which of them a file is."""

from collections.abc import Callable
from pathlib import PurePath

from ..base.errors import FileError
from .binary_plist import MAGIC
from .ini_file import IniFile, PropertiesFile
from .json_file import JsonFile, JsonWithCommentsFile
from .plist_file import read_plist
from .span import PreferenceFile
from .toml_file import TomlFile
from .xml_file import XmlFile
from .yaml_file import YamlFile

READERS: dict[str, Callable[[bytes], PreferenceFile]] = {
    "xml": XmlFile,
    "json": JsonFile,
    "jsonc": JsonWithCommentsFile,
    "ini": IniFile,
    "properties": PropertiesFile,
    "toml": TomlFile,
    "yaml": YamlFile,
    "plist": read_plist,
}
_ENDINGS = {
    ".xml": "xml", ".json": "json", ".jsonc": "jsonc", ".ini": "ini", ".cfg": "ini", ".conf": "ini",
    ".properties": "properties", ".toml": "toml", ".yaml": "yaml", ".yml": "yaml", ".plist": "plist",
}  # fmt: skip


def read_file(raw: bytes, format: str) -> PreferenceFile:
    """The parsed file. Raises FileError for a format that is none, and for a fault in the file."""
    if format not in READERS:
        raise FileError(f"unknown format {format!r}: expected one of {', '.join(READERS)}")
    return READERS[format](raw)


def recognised(name: str, raw: bytes) -> str:
    """The format of a file, by how it begins and by the ending of its name. Raises FileError."""
    if raw.startswith(MAGIC):
        return "plist"
    ending = _ENDINGS.get(PurePath(name).suffix.lower(), "")
    start = raw[:2048].replace(b"\0", b"")
    if b"<plist" in start or b"<!DOCTYPE plist" in start:
        return "plist"
    if ending == "json" and _commented(raw):
        return "jsonc"
    if ending:
        return ending
    return _guessed(name, start)


def _guessed(name: str, start: bytes) -> str:
    """The format of a file whose name says nothing, by its first sign. Raises FileError."""
    first = start.lstrip(b"\xef\xbb\xbf\xff\xfe \t\r\n")[:1]
    if guessed := {b"<": "xml", b"{": "jsonc", b"[": "ini"}.get(first):
        return guessed
    known = ", ".join(READERS)
    raise FileError(f"{name}: the format cannot be told from the name; say it with --as, one of {known}")


def _commented(raw: bytes) -> bool:
    try:
        JsonFile(raw)
    except FileError:
        try:
            JsonWithCommentsFile(raw)
        except FileError:
            return False
        return True
    return False
