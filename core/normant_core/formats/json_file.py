"""JSON preference files, plain or with comments and trailing commas; addresses are JSON Pointers (RFC 6901)."""

import json
import re
from collections.abc import Iterator
from typing import ClassVar

import tree_sitter
import tree_sitter_json

from ..base.errors import FileError
from .span import (
    LIMIT_DEPTH,
    Edit,
    Encoded,
    Entry,
    Scalar,
    TextPreferenceFile,
    ValueKind,
    check_next,
    indent_before,
    split_at,
    step,
    too_deep,
    understood,
)

LANGUAGE = tree_sitter.Language(tree_sitter_json.language())
_SCALARS: dict[str, ValueKind] = {"string": "text", "number": "number", "true": "bool", "false": "bool", "null": "null"}


# A string that does not end is a match as well, up to where it breaks off: were it none, the search would begin anew
# behind each of its escaped quotes, and go over the rest of the text as often as there are any.
_EXPONENT = re.compile(rb'"(?:[^"\\]|\\.)*+"?|(?<=[eE])\+(?=\d)')


def _for_the_grammar(text: bytes) -> bytes:
    """The same with 1e02 for 1e+2, which the grammar does not know; every byte stays in its place."""
    return _EXPONENT.sub(lambda match: b"0" if match[0] == b"+" else match[0], text)


class JsonFile(TextPreferenceFile):
    """A JSON file that may be read and changed value by value."""

    format: ClassVar[str] = "JSON"

    def __init__(self, raw: bytes) -> None:
        """Raises FileError with the line of a fault in the syntax."""
        self._file = Encoded.read(raw)
        self._text = self._strict(self._file.text)
        try:
            json.loads(self._text)
        except json.JSONDecodeError as fault:
            raise FileError(fault.msg, line=fault.lineno, column=fault.colno) from fault
        except (RecursionError, ValueError) as fault:
            raise FileError(f"the file cannot be read as JSON: {fault}") from fault
        root = understood(tree_sitter.Parser(LANGUAGE).parse(_for_the_grammar(self._text)).root_node)
        self._holders: dict[str, tree_sitter.Node] = {}
        self._entries = {}
        for entry in self._walk(root.named_children[0], "", 0):
            self._entries[entry.at] = entry

    @staticmethod
    def _strict(text: bytes) -> bytes:
        return text

    @staticmethod
    def place_of_error(raw: bytes) -> tuple[int, int]:
        """Line and column where JSON stops being JSON."""
        try:
            json.loads(raw)
        except json.JSONDecodeError as fault:
            return fault.lineno, fault.colno
        except (UnicodeDecodeError, ValueError, RecursionError):
            return 1, 1
        return 1, 1

    def _spelled(self, entry: Entry, value: Scalar) -> str:
        return self._word(value)

    def _word(self, value: Scalar) -> str:
        if value.kind in ("number", "bool", "null"):
            if value.raw.lstrip("-") in ("inf", "nan"):
                raise FileError(f"JSON has no number {value.raw}")
            return value.raw
        # A file that escapes what is not ASCII goes on doing so.
        escapes = self._text.isascii() and re.search(rb"\\u(?!00[01])", self._text) is not None
        return json.dumps(value.raw, ensure_ascii=escapes)

    def _walk(self, node: tree_sitter.Node, at: str, depth: int) -> Iterator[Entry]:
        if depth > LIMIT_DEPTH:
            raise too_deep(node.start_point.row + 1)
        if at in self._entries or at in self._holders:
            self._forget(at)
        if node.type in _SCALARS:
            text = self._text[node.start_byte : node.end_byte].decode()
            raw = json.loads(text) if node.type == "string" else text
            yield Entry(at, raw, _SCALARS[node.type], node.start_byte, node.end_byte, node.start_point.row + 1)
            return
        self._holders[at] = node
        for name, child in members(node):
            yield from self._walk(child, step(at, name), depth + 1)

    def _forget(self, at: str) -> None:
        """Of a key that stands twice the last counts, with all that is in it, as every common reader has it."""
        for known in (self._entries, self._holders):
            for gone in [name for name in known if name == at or name.startswith(at + "/")]:
                del known[gone]

    def _additions(self, at: str, value: Scalar) -> list[Edit]:
        holder, name = split_at(at)
        inner = self._word(value)
        while holder not in self._holders:
            if holder in self._entries or not holder:
                raise FileError(f"{at} cannot be added: {holder or 'the whole file'} is a single value")
            inner = f"{{{json.dumps(name, ensure_ascii=False)}: {inner}}}"
            holder, name = split_at(holder)
        node = self._holders[holder]
        if node.type != "array":
            return self._appended(node, json.dumps(name, ensure_ascii=False) + self._colon(node) + inner)
        check_next(at, holder, name, len(list(members(node))))
        return self._appended(node, inner)

    def _colon(self, node: tree_sitter.Node) -> str:
        """What stands between a key and its value, as the last pair of an object has it."""
        pairs = [child for child in node.named_children if child.type == "pair"]
        if not pairs:
            return ": "
        key, value = pairs[-1].child_by_field_name("key"), pairs[-1].child_by_field_name("value")
        assert key is not None and value is not None
        between = self._text[key.end_byte : value.start_byte].decode()
        return between if "\n" not in between else ": "

    def _lead(self, node: tree_sitter.Node, items: list[tree_sitter.Node]) -> str:
        """What stands between the last member and one that follows it, as between those that are there."""
        indent = indent_before(self._file.text, items[-1].start_byte)
        own_line = indent is not None and items[-1].start_point.row != node.start_point.row
        return f"{self._file.line_end}{indent}" if own_line else self._gap(items)

    def _appended(self, node: tree_sitter.Node, member: str) -> list[Edit]:
        """`member` after the last of the node's members, on a line of its own where they have lines of theirs."""
        items, text = node.named_children, self._file.text
        if not items:
            return [self._first(node, member)]
        last, close = items[-1], node.end_byte - 1
        lead = self._lead(node, items)
        comma = _comma(text[last.end_byte : close], self._text[last.end_byte : close])
        if comma is not None:  # a trailing comma: the new last member gets one as well
            place = last.end_byte + comma + 1
            return [(place, place, f"{lead}{member},")]
        line = text.find(b"\n", last.end_byte, close)
        if "\n" in lead and line > 0 and text[last.end_byte : line].strip():
            place = line - (text[line - 1 : line] == b"\r")  # behind the comment on the last member's line
            return [(last.end_byte, last.end_byte, ","), (place, place, lead + member)]
        return [(last.end_byte, last.end_byte, f",{lead}{member}")]

    def _first(self, node: tree_sitter.Node, member: str) -> Edit:
        """The first member of an object or list; a comment in it, or the indent of its last line, stays behind it."""
        text = self._file.text
        outer = indent_before(text, _line_start_of(text, node.start_byte))
        own = self._text.count(b"\n") > 1 and text[node.start_byte : node.end_byte].count(b"\n") > 0
        lead = f"{self._file.line_end}{outer}{self._indent()}" if own else ""
        return node.start_byte + 1, node.start_byte + 1, lead + member

    def _gap(self, items: list[tree_sitter.Node]) -> str:
        if len(items) > 1:
            between = self._text[items[-2].end_byte : items[-1].start_byte].decode()
            return between.replace(",", "", 1) if "\n" not in between else " "
        return "" if b'":' in self._text and b'": ' not in self._text else " "

    def _indent(self) -> str:
        """One step of the file's indentation."""
        for lead in re.findall(rb"\n([ \t]+)\S", self._file.text):
            return str(lead.decode())
        return "  "


class JsonWithCommentsFile(JsonFile):
    """JSON with `//` and `/* */` comments and trailing commas."""

    format: ClassVar[str] = "JSON with comments"

    @staticmethod
    def _strict(text: bytes) -> bytes:
        """The same text, as long, with blanks in place of comments and trailing commas."""
        return _TRAILING.sub(_without_comment, _COMMENT.sub(_without_comment, text))


_STRING = rb'"(?:[^"\\\r\n]|\\.)*+"?'
_OPEN = rb"/\*(?!.*?\*/).*"  # a comment that never ends: the JSON reader refuses what is left of it
_COMMENT = re.compile(rb"(?s)(?P<kept>" + _STRING + rb"|" + _OPEN + rb")|//[^\r\n]*|/\*.*?\*/")
_TRAILING = re.compile(rb"(?P<kept>" + _STRING + rb")|,(?=\s*[}\]])")


def _without_comment(match: re.Match[bytes]) -> bytes:
    if match["kept"] is not None:
        return match[0]
    return re.sub(rb"[^\r\n]", b" ", match[0])


def _comma(rest: bytes, strict: bytes) -> int | None:
    """Where a trailing comma stands that the strict text leaves out."""
    plain = _COMMENT.sub(_without_comment, rest)
    place = plain.find(b",")
    return place if place >= 0 and strict[place : place + 1] == b" " else None


def _line_start_of(text: bytes, offset: int) -> int:
    start = text.rfind(b"\n", 0, offset) + 1
    while text[start : start + 1] in (b" ", b"\t"):
        start += 1
    return start


def members(node: tree_sitter.Node) -> Iterator[tuple[str | int, tree_sitter.Node]]:
    """Names or numbers of an object's or array's members, and their values."""
    if node.type == "object":
        for pair in node.named_children:
            key, value = pair.child_by_field_name("key"), pair.child_by_field_name("value")
            if key is not None and value is not None:
                yield json.loads((key.text or b"").decode()), value
    else:
        yield from enumerate(child for child in node.named_children if child.type != "comment")
