"""What the formats share: a value with its place, the encodings, the bounds."""

import codecs
import re
from dataclasses import dataclass
from typing import Protocol

import tree_sitter

from ..errors import FileError

LIMIT_BYTES = 8 * 1024 * 1024
LIMIT_DEPTH = 200


@dataclass(frozen=True, slots=True)
class Entry:
    """A value in a file: its address, its text without quotes or escapes, its kind, its place in the UTF-8 text."""

    at: str
    raw: str
    kind: str
    start: int
    end: int
    line: int


class PreferenceFile(Protocol):
    """A parsed file. `replace` gives the bytes of the whole file with one value changed."""

    def get(self, at: str) -> Entry: ...
    def replace(self, at: str, raw: str) -> bytes: ...


@dataclass(frozen=True, slots=True)
class Encoded:
    """The text of a file as UTF-8, and how to give back the file's own bytes."""

    text: bytes
    encoding: str
    mark: bytes

    @classmethod
    def read(cls, raw: bytes, *, declared: str = "utf-8") -> "Encoded":
        """Raises FileError where the bytes do not come back the same: such a file is not touched."""
        if len(raw) > LIMIT_BYTES:
            raise FileError(f"the file has {len(raw):,} bytes; at most {LIMIT_BYTES:,} are read")
        mark, encoding = next(
            ((m, e) for m, e in _MARKS if raw.startswith(m)),
            (b"", declared),
        )
        try:
            text = raw[len(mark) :].decode(encoding)
            same = mark + text.encode(encoding) == raw
        except (UnicodeError, LookupError) as fault:
            raise FileError(f"the file is not {encoding} text: {fault}") from fault
        if not same:
            raise FileError(f"the file's {encoding} text does not come back byte for byte")
        return cls(text.encode(), encoding, mark)

    def splice(self, start: int, end: int, replacement: str) -> bytes:
        """The file's bytes with `text[start:end]` replaced. Raises FileError for what its encoding cannot hold."""
        changed = self.text[:start] + replacement.encode() + self.text[end:]
        try:
            return self.mark + changed.decode().encode(self.encoding)
        except UnicodeEncodeError as fault:
            message = f"the file's encoding, {self.encoding}, cannot hold {fault.object[fault.start : fault.end]!r}"
            raise FileError(message) from fault


_MARKS = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
)


def xml_declared(raw: bytes) -> str:
    """The encoding an XML declaration names, else UTF-8 (XML 1.0, 4.3.3)."""
    match = re.match(rb"""<\?xml[^>]*?encoding\s*=\s*["']([A-Za-z0-9._-]+)["']""", raw)
    return match.group(1).decode() if match else "utf-8"


def understood(root: tree_sitter.Node) -> tree_sitter.Node:
    """The tree, if its grammar fits the whole file: else places in it cannot be trusted. Raises FileError."""
    stack = [root]
    while stack:
        here = stack.pop()
        if here.is_error or here.is_missing:
            place = here.start_point
            raise FileError(
                "this is not understood, so the file is not touched", line=place.row + 1, column=place.column + 1
            )
        stack.extend(reversed([child for child in here.children if child.has_error or child.is_missing]))
    return root


def missing(at: str, known: list[str]) -> FileError:
    """The error for an address that the file does not have."""
    near = ", ".join(known[:3])
    return FileError(f"there is no {at}" + (f"; there is {near}" if near else ""))
