"""Property lists in XML; addresses are JSON Pointers into dictionaries and arrays."""

import plistlib
import re
from collections.abc import Iterator
from typing import ClassVar
from xml.parsers.expat import ExpatError
from xml.sax.saxutils import escape

import tree_sitter

from ..base.errors import FileError
from .binary_plist import MAGIC, BinaryPlistFile
from .span import (
    LIMIT_DEPTH,
    Edit,
    Entry,
    PreferenceFile,
    Scalar,
    TextPreferenceFile,
    ValueKind,
    check_next,
    split_at,
    step,
    too_deep,
)
from .xml_file import after, child_elements, holdable, read_tree, tag_name, text_entry

_TAGS: dict[str, ValueKind] = {"string": "text", "integer": "number", "real": "number", "date": "date", "data": "data"}


def read_plist(raw: bytes) -> PreferenceFile:
    """A property list of either sort. Raises FileError."""
    return BinaryPlistFile(raw) if raw.startswith(MAGIC) else PlistFile(raw)


class PlistFile(TextPreferenceFile):
    """A property list in XML that may be read and changed value by value."""

    format: ClassVar[str] = "a property list"

    def __init__(self, raw: bytes) -> None:
        """Raises FileError with the line of a fault in the syntax."""
        self._file, root = read_tree(raw)
        try:
            plistlib.loads(raw, fmt=plistlib.FMT_XML)
        except (plistlib.InvalidFileException, ExpatError, ValueError, TypeError, IndexError, RecursionError) as fault:
            raise FileError(f"the file is no property list: {fault or type(fault).__name__}") from fault
        except (OverflowError, AttributeError, AssertionError, KeyError) as fault:
            raise FileError(f"the file is no property list: {type(fault).__name__}") from fault
        if tag_name(root) != "plist" or len(child_elements(root)) != 1:
            raise FileError("the file is no property list: expected one value inside <plist>")
        self._holders: dict[str, tree_sitter.Node] = {}
        self._entries = {}
        for entry in self._walk(child_elements(root)[0], "", 0):
            self._entries.pop(entry.at, None)
            self._entries[entry.at] = entry

    def _walk(self, element: tree_sitter.Node, at: str, depth: int) -> Iterator[Entry]:
        if depth > LIMIT_DEPTH:
            raise too_deep(element.start_point.row + 1)
        if tag_name(element) not in ("dict", "array"):
            yield _single(element, at)
            return
        self._holders[at] = element
        for name, child in _members(element):
            yield from self._walk(child, step(at, name), depth + 1)

    def _spelled(self, entry: Entry, value: Scalar) -> str:
        old = self._file.text[entry.start : entry.end].decode()
        inner = re.fullmatch(r"(<([a-z]+)[^>]*>)(\s*)(.*?)(\s*)(</[^>]*>)", old, re.DOTALL)
        new = self._word(entry.at, value, entry.form)
        same = re.fullmatch(r"<([a-z]+)>(.*)</[a-z]+>", new, re.DOTALL)
        if inner and same and inner[2] == same[1]:
            if inner[2] == "string":
                return inner[1] + same[2] + inner[6]
            return inner[1] + inner[3] + same[2] + inner[5] + inner[6]
        return new

    def _word(self, at: str, value: Scalar, tag: str = "") -> str:
        holdable(at, value.raw)
        if value.kind == "null":
            raise FileError("a property list has no null: leave the key out instead")
        if value.kind == "bool":
            return f"<{value.raw}/>"
        if value.kind == "number":
            whole = re.fullmatch(r"-?\d+", value.raw) is not None
            name = "integer" if whole and tag != "real" else "real"
            return f"<{name}>{value.raw}</{name}>"
        name = {"date": "date", "data": "data"}.get(value.kind, "string")
        return f"<{name}>{escape(value.raw, {chr(13): '&#13;'})}</{name}>"

    def _additions(self, at: str, value: Scalar) -> list[Edit]:
        holder, name = split_at(at)
        inner = self._word(at, value)
        while holder not in self._holders:
            if holder in self._entries or not holder:
                raise FileError(f"{at} cannot be added: {holder or 'the whole file'} is a single value")
            inner = f"<dict><key>{escape(name)}</key>{inner}</dict>"
            holder, name = split_at(holder)
        element = self._holders[holder]
        children = child_elements(element)
        new = [inner]
        if tag_name(element) == "array":
            check_next(at, holder, name, len(children))
        else:
            new.insert(0, f"<key>{escape(name)}</key>")
        return [self._behind(children, new) if children else _filled(self._file.text, element, "".join(new))]

    def _behind(self, children: list[tree_sitter.Node], new: list[str]) -> Edit:
        """Elements behind those that are there, each as they are indented."""
        start, end, text = after(self._file, children, new[0])
        lead = text.removesuffix(new[0])
        return start, end, "".join(lead + part for part in new)


def _members(holder: tree_sitter.Node) -> Iterator[tuple[str | int, tree_sitter.Node]]:
    """Names, or numbers, and values of what stands in a dictionary or an array."""
    children = child_elements(holder)
    if tag_name(holder) == "array":
        return enumerate(children)
    return ((_whole(key), child) for key, child in zip(children[::2], children[1::2], strict=True))


def _single(element: tree_sitter.Node, at: str) -> Entry:
    """A value by itself; its span is the whole element, for another kind of value has another tag."""
    tag, line = tag_name(element), element.start_point.row + 1
    if tag in ("true", "false"):
        return Entry(at, tag, "bool", element.start_byte, element.end_byte, line, "element")
    if tag not in _TAGS:
        raise FileError(f"<{tag}> is no value of a property list", line=line)
    raw, kind = _whole(element), _TAGS[tag]
    if kind != "text":
        raw = "".join(raw.split()) if kind == "data" else _number(raw.strip(), tag)
    return Entry(at, raw, kind, element.start_byte, element.end_byte, line, tag)


def _filled(text: bytes, element: tree_sitter.Node, new: str) -> Edit:
    tag = tag_name(element)
    first = element.named_children[0]
    if first.type == "EmptyElemTag":
        close = first.children[-1]
        return close.start_byte, close.end_byte, f">{new}</{tag}>"
    return first.end_byte, first.end_byte, new


def _whole(element: tree_sitter.Node) -> str:
    """The text of an element as a reader gets it, blanks and all."""
    if element.named_children[0].type == "EmptyElemTag":
        return ""
    entry = text_entry(element, "")
    if entry.form in ("mixed", "cdata"):
        raise FileError("a value with comments or CDATA inside is not touched", line=entry.line)
    content = next((child for child in element.named_children if child.type == "content"), None)
    if content is None:
        return ""
    text = (content.text or b"").decode().replace("\r\n", "\n").replace("\r", "\n")
    lead = text[: len(text) - len(text.lstrip(" \t\n"))]
    tail = text[len(text.rstrip(" \t\n")) :] if text.strip(" \t\n") else ""
    return lead + entry.raw + tail


def _number(raw: str, tag: str) -> str:
    if tag == "date":
        return raw
    if tag == "integer":
        return str(int(raw, 16)) if raw.lower().lstrip("-").startswith("0x") else str(int(raw))
    lowered = raw.lower().lstrip("+")
    return {"infinity": "inf", "-infinity": "-inf"}.get(lowered, lowered)
