"""TOML preference files; addresses are JSON Pointers into its tables and arrays."""

import datetime as dt
import re
import tomllib
from collections.abc import Iterator, Sequence
from typing import Any, ClassVar

import tree_sitter
import tree_sitter_toml

from ..base.errors import FileError
from .span import (
    LIMIT_DEPTH,
    Edit,
    Encoded,
    Entry,
    Scalar,
    TextPreferenceFile,
    check_next,
    split_at,
    step,
    too_deep,
    understood,
)

_LANGUAGE = tree_sitter.Language(tree_sitter_toml.language())
_BARE = re.compile(r"[A-Za-z0-9_-]+")
_ESCAPES = {"\b": "\\b", "\t": "\\t", "\n": "\\n", "\f": "\\f", "\r": "\\r", '"': '\\"', "\\": "\\\\"}


def _is_bare(value: Any) -> bool:
    return isinstance(value, bool | int | float | dt.date | dt.time)


def _quotes(text: str) -> str:
    """The quotes that a text stands in, with the end of line behind three of them, which is not part of it."""
    quotes = text[:3] if text[:3] in ('"""', "'''") else text[:1]
    return quotes + ("\n" if re.match(r"(\"\"\"|''')\r?\n", text) else "")


def _meant(value: Any, text: str) -> Scalar:
    """A value that stands as `text` in the file."""
    match value:
        case bool():
            return Scalar("bool", text)
        case float():
            return Scalar("number", _decimal(text))
        case dt.date() | dt.time():
            return Scalar("date", text)
        case int():
            return Scalar("number", str(value))
    return Scalar("text", str(value))


def _table_address(node: tree_sitter.Node, counts: dict[str, int]) -> str:
    """Where a table stands. `counts` has the number of the last table of each list of tables, and is kept up."""
    names, at = _names(node.named_children[0]), ""
    if len(names) > LIMIT_DEPTH:
        raise too_deep(node.start_point.row + 1)
    for name in names[:-1]:
        at = step(at, name)
        if at in counts:
            at = step(at, counts[at])
    at = step(at, names[-1])
    if node.type != "table_array_element":
        return at
    counts[at] = counts.get(at, -1) + 1
    return step(at, counts[at])


def _items(node: tree_sitter.Node) -> list[tree_sitter.Node]:
    """What a list or a table within braces holds, without its comments."""
    return [child for child in node.named_children if child.type != "comment"]


class TomlFile(TextPreferenceFile):
    """A TOML file that may be read and changed value by value."""

    format: ClassVar[str] = "TOML"

    def __init__(self, raw: bytes) -> None:
        """Raises FileError with the line of a fault in the syntax."""
        self._file = Encoded.read(raw)
        _check_keys(self._file.text)
        document = _loaded(self._file.text)
        root = understood(tree_sitter.Parser(_LANGUAGE).parse(self._file.text).root_node)
        self._tables: dict[str, int] = {}  # where a table that has lines of its own ends
        self._inline: dict[str, tree_sitter.Node] = {}
        self._dotted: dict[str, tuple[int, str]] = {}  # "a.b = 1" makes a table a: where its last line ends, its key
        self._manner = " = "
        values = dict(_values(document, "", 0))
        places = dict(self._places(root))
        if places.keys() != values.keys():
            odd = min(places.keys() ^ values.keys())
            raise FileError(f"{odd} is not understood, so the file is not touched")
        self._entries = {at: self._entry(at, places[at], values[at]) for at in places}

    def _entry(self, at: str, node: tree_sitter.Node, value: Any) -> Entry:
        text, line = (node.text or b"").decode(), node.start_point.row + 1
        form = "" if _is_bare(value) else _quotes(text)
        scalar = _meant(value, text)
        return Entry(at, scalar.raw, scalar.kind, node.start_byte, node.end_byte, line, form)

    def _spelled(self, entry: Entry, value: Scalar) -> str:
        return self._word(value, entry.form)

    def _word(self, value: Scalar, form: str = '"') -> str:
        if value.kind == "null":
            raise FileError("TOML has no null: leave the key out instead")
        if value.kind in ("number", "bool", "date"):
            return value.raw
        return _string(value.raw, form, self._file.line_end)

    def _places(self, root: tree_sitter.Node) -> Iterator[tuple[str, tree_sitter.Node]]:
        counts: dict[str, int] = {}
        self._tables[""] = 0
        for node in root.named_children:
            if node.type == "pair":
                yield from self._pair("", "", node, 0)
            elif node.type in ("table", "table_array_element"):
                yield from self._table(node, counts)

    def _table(self, node: tree_sitter.Node, counts: dict[str, int]) -> Iterator[tuple[str, tree_sitter.Node]]:
        at = _table_address(node, counts)
        header = node.named_children[0].end_byte
        self._tables[at] = self._file.text.index(b"]", header) + (2 if node.type == "table_array_element" else 1)
        for child in node.named_children[1:]:
            if child.type == "pair":
                yield from self._pair(at, at, child, 0)

    def _pair(self, at: str, table: str | None, node: tree_sitter.Node, depth: int) -> Iterator[Any]:
        key, value = node.named_children[:2]
        names = _names(key)
        for index, name in enumerate(names):
            at = step(at, name)
            if table is not None and index < len(names) - 1:
                self._dotted[at] = (value.end_byte, ".".join(_key(part) for part in names[: index + 1]))
        if table is not None:
            self._tables[table] = value.end_byte
            between = self._file.text[key.end_byte : value.start_byte].decode()
            self._manner = between
        yield from self._value(at, value, depth + len(names))

    def _value(self, at: str, node: tree_sitter.Node, depth: int) -> Iterator[Any]:
        if depth > LIMIT_DEPTH:
            raise too_deep(node.start_point.row + 1)
        if node.type not in ("inline_table", "array"):
            yield at, node
            return
        self._inline[at] = node
        for index, child in enumerate(_items(node)):
            if child.type == "pair":
                yield from self._pair(at, None, child, depth)
            else:
                yield from self._value(step(at, index), child, depth + 1)

    def _additions(self, at: str, value: Scalar) -> list[Edit]:
        holder, name = split_at(at)
        word, newline, text = self._word(value), self._file.line_end, self._file.text
        if holder in self._inline:
            return [self._inlined(self._inline[holder], holder, name, word)]
        line = f"{_key(name)}{self._manner}{word}"
        if holder in self._dotted:
            place, key = self._dotted[holder]
            return [_new_line(text, place, f"{newline}{_indent(text, place)}{key}.{line}")]
        if holder in self._tables:
            return [self._in_table(self._tables[holder], line)]
        return [self._in_new_table(holder, line)]

    def _in_table(self, place: int, line: str) -> Edit:
        text, newline = self._file.text, self._file.line_end
        if place == 0:  # nothing stands before the first table
            return 0, 0, f"{line}{newline}{self._gap()}"
        return _new_line(text, place, f"{newline}{_indent(text, place)}{line}")

    def _in_new_table(self, holder: str, line: str) -> Edit:
        text, newline = self._file.text, self._file.line_end
        header = ".".join(_key(part) for part in _parts(holder))
        lead = "" if not text or text.endswith(b"\n") else newline
        return len(text), len(text), f"{lead}{self._gap()}[{header}]{newline}{line}{newline}"

    def _gap(self) -> str:
        """The empty line that parts a table from what else there is."""
        return self._file.line_end if self._file.text.strip() else ""

    def _inlined(self, node: tree_sitter.Node, holder: str, name: str, word: str) -> Edit:
        items = _items(node)
        if node.type == "array":
            check_next(step(holder, name), holder, name, len(items))
        else:
            word = f"{_key(name)}{self._manner}{word}"
        if not items:
            return node.start_byte + 1, node.start_byte + 1, f" {word} " if node.type == "inline_table" else word
        last = items[-1].end_byte
        return last, last, self._between(items) + word

    def _between(self, items: Sequence[tree_sitter.Node]) -> str:
        """What parts the last two of a list or of a table within braces; a comma and a blank where that says more."""
        if len(items) < 2:
            return ", "
        between = self._file.text[items[-2].end_byte : items[-1].start_byte].decode()
        return between if re.fullmatch(r"\s*,\s*", between) else ", "


def _check_keys(text: bytes) -> None:
    """No key of more parts than files are deep: before the parser, to which such a key is costlier than its length."""
    for number, line in enumerate(text.split(b"\n"), 1):
        if line.partition(b"=")[0].count(b".") > LIMIT_DEPTH and not line.lstrip().startswith(b"#"):
            raise too_deep(number)


def _loaded(text: bytes) -> dict[str, Any]:
    try:
        return tomllib.loads(text.decode())
    except tomllib.TOMLDecodeError as fault:
        message, _, place = str(fault).partition(" (at line ")
        line = int(place.split(",")[0]) if place else None
        raise FileError(message, line=line) from fault
    except (RecursionError, ValueError) as fault:
        raise FileError(f"the file cannot be read as TOML: {fault}") from fault


def _values(value: Any, at: str, depth: int) -> Iterator[tuple[str, Any]]:
    if depth > LIMIT_DEPTH:
        raise too_deep(1)
    if isinstance(value, dict):
        for name, inner in value.items():
            yield from _values(inner, step(at, name), depth + 1)
    elif isinstance(value, list):
        for index, inner in enumerate(value):
            yield from _values(inner, step(at, index), depth + 1)
    else:
        yield at, value


def _names(node: tree_sitter.Node) -> list[str]:
    """The parts of a key; the grammar nests what the dots join."""
    names, waiting = list[str](), [node]
    while waiting:
        here = waiting.pop()
        if here.type == "dotted_key":
            waiting += reversed(here.named_children)
        else:
            text = (here.text or b"").decode()
            names.append(text if here.type == "bare_key" else str(tomllib.loads(f"k = {text}")["k"]))
    return names


def _parts(at: str) -> list[str]:
    return [part.replace("~1", "/").replace("~0", "~") for part in at[1:].split("/")] if at else []


def _key(name: str) -> str:
    return name if _BARE.fullmatch(name) else _string(name, '"', "\n")


def _string(raw: str, form: str, newline: str) -> str:
    """A text in the quotes that it stood in, where those hold it; else in double quotes, which hold every text.

    `form` is the quote, and behind it a line break where a text of several lines begins on a line of its own.
    """
    quote, first = form.rstrip("\n") or '"', newline if form.endswith("\n") else ""
    if quote in ("'", "'''") and _is_literal(raw, quote):
        return f"'{raw}'" if quote == "'" else f"'''{first}{raw.replace(chr(10), newline)}'''"
    if quote == '"""':
        return _in_lines(raw, first, newline)
    return f'"{_escaped(raw)}"'


def _in_lines(raw: str, first: str, newline: str) -> str:
    """Between three double quotes; a line break behind the first of them is no part of the text."""
    first = first or (newline if raw.startswith("\n") else "")
    body = _escaped(raw, keep="\n\t" if '""' in raw or raw.endswith('"') else '\n\t"')
    return f'"""{first}{body.replace(chr(10), newline)}"""'


def _is_literal(raw: str, quote: str) -> bool:
    """Whether a text may stand as it is in these single quotes: nothing is escaped in them."""
    if not all(c == "\t" or " " <= c != "\x7f" for c in raw.replace("\n", "")):
        return False
    if quote == "'":
        return "'" not in raw and "\n" not in raw
    return "''" not in raw and not raw.endswith("'")


def _escaped(raw: str, keep: str = "") -> str:
    def escaped(c: str) -> str:
        if c in keep:
            return c
        if c in _ESCAPES:
            return _ESCAPES[c]
        return f"\\u{ord(c):04X}" if c < " " or c == "\x7f" else c

    return "".join(map(escaped, raw))


def _decimal(text: str) -> str:
    plain = text.replace("_", "").lstrip("+")
    return plain.lower()


def _new_line(text: bytes, place: int, new: str) -> Edit:
    """At the end of the line, behind a comment that stands there."""
    end = re.compile(rb"[^\r\n]*").match(text, place)
    return (end.end(), end.end(), new) if end else (place, place, new)


def _indent(text: bytes, place: int) -> str:
    start = text.rfind(b"\n", 0, place) + 1
    indent = re.match(rb"[ \t]*", text[start:place])
    return indent[0].decode() if indent else ""
