"""The formats by name, and which of them a file is."""

from collections.abc import Callable
from importlib import import_module
from pathlib import PurePath

from ..base.errors import FileError
from .span import PreferenceFile

# Each format's reader: its module beside this one, and its name there. A parser is imported with the first file of
# its format: most files are of one, and all parsers together take a fifth of a second to import.
READERS = {
    "xml": "xml_file:XmlFile",
    "json": "json_file:JsonFile",
    "jsonc": "json_file:JsonWithCommentsFile",
    "ini": "ini_file:IniFile",
    "properties": "ini_file:PropertiesFile",
    "toml": "toml_file:TomlFile",
    "yaml": "yaml_file:YamlFile",
    "plist": "plist_file:read_plist",
}
_ENDINGS = {
    ".xml": "xml", ".json": "json", ".jsonc": "jsonc", ".ini": "ini", ".cfg": "ini", ".conf": "ini",
    ".properties": "properties", ".toml": "toml", ".yaml": "yaml", ".yml": "yaml", ".plist": "plist",
}  # fmt: skip
_BINARY_PLIST = b"bplist00"


def read_file(raw: bytes, format: str) -> PreferenceFile:
    """The parsed file. Raises FileError for a format that is none, and for a fault in the file."""
    if format not in READERS:
        raise FileError(f"unknown format {format!r}: expected one of {', '.join(READERS)}")
    return _reader(format)(raw)


def _reader(format: str) -> Callable[[bytes], PreferenceFile]:
    module, _, name = READERS[format].partition(":")
    reader: Callable[[bytes], PreferenceFile] = getattr(import_module(f".{module}", __package__), name)
    return reader


def recognised(name: str, raw: bytes) -> str:
    """The format of a file, by how it begins and by the ending of its name. Raises FileError."""
    if raw.startswith(_BINARY_PLIST):
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
        read_file(raw, "json")
    except FileError:
        try:
            read_file(raw, "jsonc")
        except FileError:
            return False
        return True
    return False
