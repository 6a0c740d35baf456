"""YAML preference files; addresses are JSON Pointers, after the document's number where a file holds several.

Places come from the parser's own events, so that nothing is expanded: an alias is one value. Plain words mean
what the core schema of YAML 1.2 says; words that older readers take for something else are written in quotes.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, ClassVar

import yaml

from ..base.errors import FileError
from .span import LIMIT_DEPTH, Edit, Encoded, Entry, Scalar, TextPreferenceFile, split_at, step, too_deep

_NULL = re.compile(r"(?:~|null|Null|NULL|)")
_BOOL = re.compile(r"(?:true|True|TRUE|false|False|FALSE)")
_INT = re.compile(r"(?:[-+]?[0-9]+|0o[0-7]+|0x[0-9a-fA-F]+)")
_FLOAT = re.compile(r"[-+]?(?:\.[0-9]+|[0-9]+(?:\.[0-9]*)?)(?:[eE][-+]?[0-9]+)?")
_SPECIAL = re.compile(r"(?:[-+]?\.(?:inf|Inf|INF)|\.(?:nan|NaN|NAN))")
_PROPERTIES = re.compile(r"(?:[&!][^\s,\[\]{}]*(?:<[^>]*>)?\s+)+(?=\S)|[&!]\S*\Z")
_BLANK_LINE = re.compile(rb"[ \t]*\r?\n")
_OLDER_BOOL = re.compile(r"(?:y|Y|yes|Yes|YES|n|N|no|No|NO|on|On|ON|off|Off|OFF)")
_CORE = {"str": "text", "int": "number", "float": "number", "bool": "bool", "null": "null"}


@dataclass(slots=True)
class _Holder:
    """A mapping or list while it is walked; offsets in characters."""

    at: str | None
    mapping: bool
    flow: bool
    start: int
    column: int = -1
    end: int = -1
    count: int = 0
    waits: bool = False
    key: str | None = None


class YamlFile(TextPreferenceFile):
    """A YAML file that may be read and changed value by value."""

    format: ClassVar[str] = "YAML"

    def __init__(self, raw: bytes) -> None:
        """Raises FileError with the line of a fault in the syntax."""
        self._file = Encoded.read(raw)
        self._text = self._file.text.decode()
        self._bytes = _ByteOffsets(self._text)
        self._holders: dict[str, _Holder] = {}
        self._anchors: dict[str, Scalar] = {}
        try:
            events: list[Any] = list(yaml.parse(self._text, Loader=yaml.CLoader))
        except yaml.MarkedYAMLError as fault:
            mark = fault.problem_mark
            complaint = ", ".join(part for part in (fault.context, fault.problem) if part)
            line, column = (mark.line + 1, mark.column + 1) if mark else (None, None)
            raise FileError(complaint, line=line, column=column) from fault
        except (yaml.YAMLError, ValueError) as fault:
            raise FileError(f"the file cannot be read as YAML: {fault}") from fault
        self._several = sum(isinstance(event, yaml.DocumentStartEvent) for event in events) > 1
        self._entries = {}
        for entry in self._walk(events):
            self._entries[entry.at] = entry

    def _walk(self, events: list[Any]) -> Iterator[Entry]:
        stack = list[_Holder]()
        document = -1
        for event in events:
            if _is(event, yaml.DocumentStartEvent):
                document += 1
                self._anchors.clear()
            elif _is(event, yaml.CollectionEndEvent):
                done = stack.pop()
                done.end = event.end_mark.index if done.flow else done.end
                if stack:
                    stack[-1].end = max(stack[-1].end, done.end)
            elif _is(event, yaml.NodeEvent):
                holder = stack[-1] if stack else None
                if holder and not _is(event, yaml.CollectionStartEvent):
                    holder.end = max(holder.end, event.end_mark.index)
                at = self._place(holder, event, document)
                if at is not None:
                    self._forget(at)
                if _is(event, yaml.CollectionStartEvent):
                    if len(stack) >= LIMIT_DEPTH:
                        raise too_deep(event.start_mark.line + 1)
                    stack.append(self._opened(event, at))
                elif at is not None:
                    yield self._entry(event, at)

    def _place(self, holder: _Holder | None, event: Any, document: int) -> str | None:
        """The address of what comes; None for a key, and for what a key that is no scalar leads to."""
        if holder is None:
            return step("", document) if self._several else ""
        if not holder.mapping:
            if holder.column < 0 and not holder.flow:
                holder.column = self._dash_column(event.start_mark.index)
            holder.count += 1
            return None if holder.at is None else step(holder.at, holder.count - 1)
        if not holder.waits:
            if holder.column < 0:
                holder.column = event.start_mark.column
            holder.waits, holder.key = True, event.value if _is(event, yaml.ScalarEvent) else None
            return None
        holder.waits = False
        return None if holder.at is None or holder.key is None else step(holder.at, holder.key)

    def _opened(self, event: Any, at: str | None) -> _Holder:
        made = _Holder(at, _is(event, yaml.MappingStartEvent), bool(event.flow_style), event.end_mark.index)
        if at is not None:
            self._holders[at] = made
        return made

    def _forget(self, at: str) -> None:
        """Of a key that stands twice the last counts."""
        if at in self._entries:
            del self._entries[at]
        if at in self._holders:
            for known in (self._entries, self._holders):
                for gone in [name for name in known if name == at or name.startswith(at + "/")]:
                    del known[gone]

    def _dash_column(self, index: int) -> int:
        dash = self._text.rfind("-", 0, index)
        return dash - (self._text.rfind("\n", 0, dash) + 1)

    def _entry(self, event: Any, at: str) -> Entry:
        start, end, line = event.start_mark.index, event.end_mark.index, event.start_mark.line + 1
        if _is(event, yaml.AliasEvent):
            anchored = self._anchors.get(event.anchor, Scalar("text", f"*{event.anchor}"))
            return Entry(at, anchored.raw, anchored.kind, self._bytes[start], self._bytes[end], line, "alias")
        if (event.anchor or event.tag) and (properties := _PROPERTIES.match(self._text, start, end)):
            start = properties.end()
        anchored = _meaning(event)
        if event.anchor:
            self._anchors[event.anchor] = anchored
        form = event.style or ""
        if form in ("|", ">"):
            end = _content_end(self._text, start, end)
            form = self._text[start:end]
        return Entry(at, anchored.raw, anchored.kind, self._bytes[start], self._bytes[end], line, form)

    def _spelled(self, entry: Entry, value: Scalar) -> str:
        flow = self._in_flow(entry.at)
        word = self._word(value, entry, flow)
        before, behind = self._file.text[entry.start - 1 : entry.start], self._file.text[entry.end : entry.end + 1]
        if entry.form[:1] in ("|", ">") and not word.startswith(("|", ">")):
            word += self._file.line_end if entry.form.endswith("\n") else ""
        lead = " " if entry.start == entry.end and before in (b":", b"-") else ""
        tail = " " if entry.start == entry.end and behind not in (b"", b"\n", b"\r", b" ", b",", b"}", b"]") else ""
        return lead + word + tail

    def _in_flow(self, at: str) -> bool:
        holder = self._holders.get(at.rpartition("/")[0])
        return holder.flow if holder else False

    def _word(self, value: Scalar, entry: Entry | None, flow: bool) -> str:
        raw, form = value.raw, entry.form if entry else ""
        if value.kind == "number":
            return {"inf": ".inf", "-inf": "-.inf", "nan": ".nan"}.get(raw) or _dotted(raw)
        if value.kind in ("bool", "null"):
            return raw
        block = _block(raw, form, self._file.line_end) if form.startswith("|") else ""
        # Blank lines behind the block would become part of a text that keeps its own.
        grows = block.startswith("|+") and entry and _BLANK_LINE.match(self._file.text, entry.end)
        if block and not grows:
            return block
        older = entry is not None and entry.kind == "text" and not form and _OLDER_BOOL.fullmatch(entry.raw)
        if not form and (_plain(raw, flow) or (older and _OLDER_BOOL.fullmatch(raw))):
            return raw
        printable = raw.isprintable() and "\x85" not in raw
        if printable and (form == "'" or (form != '"' and self._quote() == "'")):
            return "'" + raw.replace("'", "''") + "'"
        return _double(raw)

    def _quote(self) -> str:
        """The quote that the file uses."""
        used = [entry.form for entry in self._entries.values() if entry.form in ("'", '"')]
        return "'" if used and used.count("'") >= used.count('"') else '"'

    def _additions(self, at: str, value: Scalar) -> list[Edit]:
        holder, name = split_at(at)
        names = [name]
        while holder not in self._holders:
            if (holder in self._entries and self._entries[holder].raw) or (not holder and self._text.strip() == ""):
                break
            if not holder:
                break
            holder, name = split_at(holder)
            names.insert(0, name)
        if holder not in self._holders:
            if holder or any(entry.raw for entry in self._entries.values()):
                raise FileError(f"{at} cannot be added: {holder or 'the whole file'} is a single value")
            end, newline = len(self._file.text), self._file.line_end
            lead = "" if not end or self._file.text.endswith(b"\n") else newline
            return [(end, end, lead + self._nested(names, value, "", "  ") + newline)]
        holding = self._holders[holder]
        if not holding.mapping and names[0] != str(holding.count):
            raise FileError(
                f"{at} cannot be added: {holder} is a list of {holding.count}, so the next is {holding.count}"
            )
        if holding.flow:
            return [self._flowed(holding, names, value)]
        indent = " " * max(holding.column, 0)
        if holding.mapping:
            new = self._nested(names, value, indent, self._step())
        else:
            new = "- " + self._nested(names[1:], value, indent + "  ", self._step()).lstrip(" ")
            new = indent + new
        return [self._behind(holding.end, new)]

    def _behind(self, end: int, new: str) -> Edit:
        newline = self._file.line_end
        if self._text[end - 1 : end] == "\n":  # a block of text ends with its line
            return self._bytes[end], self._bytes[end], new + newline
        line = re.compile(r"[^\r\n]*").match(self._text, end)
        place = self._bytes[line.end() if line else end]
        return place, place, newline + new

    def _flowed(self, holder: _Holder, names: list[str], value: Scalar) -> Edit:
        word = self._word(value, None, True)
        for name in reversed(names[1:]):
            word = f"{{{_key(name)}: {word}}}"
        member = f"{_key(names[0])}: {word}" if holder.mapping else word
        close = holder.end - 1
        inner = self._text[holder.start : close]
        last = holder.start + len(inner.rstrip())
        if inner.strip() and not inner.rstrip().endswith(","):
            member = ", " + member
        return self._bytes[last], self._bytes[last], member

    def _nested(self, names: list[str], value: Scalar, indent: str, more: str) -> str:
        if not names:
            return indent + self._word(value, None, False)
        lines = [f"{indent}{more * depth}{_key(name)}:" for depth, name in enumerate(names)]
        return self._file.line_end.join(lines) + " " + self._word(value, None, False)

    def _step(self) -> str:
        columns = sorted({h.column for h in self._holders.values() if h.column > 0 and not h.flow and h.mapping})
        return " " * (columns[0] if columns else 2)


def _is(event: Any, kind: type) -> bool:
    """As isinstance, for events whose marks the type checker takes for absent."""
    return isinstance(event, kind)


class _ByteOffsets:
    """Offsets of characters as offsets in UTF-8."""

    def __init__(self, text: str) -> None:
        self._plain = text.isascii()
        self._sums = [0]
        if not self._plain:
            for c in text:
                self._sums.append(
                    self._sums[-1] + (1 if c < "\x80" else 2 if c < "\u0800" else 3 if c < "\U00010000" else 4)
                )

    def __getitem__(self, index: int) -> int:
        return index if self._plain else self._sums[index]


def _meaning(event: Any) -> Scalar:
    """The value of a scalar event by the core schema (YAML 1.2.2, 10.3)."""
    raw = event.value
    if event.tag and event.tag not in ("!",):
        name = event.tag.removeprefix("tag:yaml.org,2002:")
        if name == "binary":
            return Scalar("data", raw)
        if name not in _CORE or _CORE[name] == "text":
            return Scalar("text", raw)
    elif event.style or event.tag == "!":
        return Scalar("text", raw)
    if _NULL.fullmatch(raw):
        return Scalar("null", "null")
    if _BOOL.fullmatch(raw):
        return Scalar("bool", raw.lower())
    if _INT.fullmatch(raw):
        return Scalar("number", str(int(raw, 0)) if raw[:2] in ("0o", "0x") else raw.lstrip("+"))
    if _FLOAT.fullmatch(raw):
        return Scalar("number", raw.lstrip("+"))
    if _SPECIAL.fullmatch(raw):
        return Scalar("number", raw.lower().replace(".", "").lstrip("+"))
    return Scalar("text", raw)


def _dotted(raw: str) -> str:
    """`1e5` as `1.0e+5`: older readers know an exponent only behind a point, with its sign."""
    match = re.fullmatch(r"(-?\d+)(\.\d+)?[eE]([-+]?)(\d+)", raw)
    return f"{match[1]}{match[2] or '.0'}e{match[3] or '+'}{match[4]}" if match else raw


def _plain(raw: str, flow: bool) -> bool:
    """Whether a text may stand without quotes, for old readers and new."""
    if (
        not re.fullmatch(r"[^\s\-?:,\[\]{}#&*!|>'\"%@`=][^\x00-\x1f\x7f-\x9f\u2028\u2029\ufeff]*", raw)
        or raw != raw.strip()
    ):
        return False
    if re.search(r": |:\Z| #|[ \t]\Z|\t", raw) or (flow and re.search(r"[,\[\]{}]", raw)) or not raw.isprintable():
        return False
    if any(kind.fullmatch(raw) for kind in (_NULL, _BOOL, _INT, _FLOAT, _SPECIAL)):
        return False
    try:
        return bool(yaml.load(raw, Loader=yaml.CSafeLoader) == raw)
    except (yaml.YAMLError, ValueError):
        return False


def _key(name: str) -> str:
    return name if _plain(name, True) else _double(name)


def _content_end(text: str, start: int, end: int) -> int:
    """Where a block's last line ends: the blank lines behind it are its value only where it keeps them (`|+`)."""
    header, *lines = text[start:end].splitlines(keepends=True)
    indents = [len(line) - len(line.lstrip(" ")) for line in lines if line.strip()]
    if "+" in header.partition("#")[0] or not indents:
        return end
    while not lines[-1].strip(" \r\n") and len(lines[-1].rstrip("\r\n")) <= indents[0]:
        end -= len(lines.pop())
    return end


def _double(raw: str) -> str:
    named = {"\n": "\\n", "\t": "\\t", "\r": "\\r", '"': '\\"', "\\": "\\\\", "\0": "\\0"}

    def escaped(c: str) -> str:
        if c in named:
            return named[c]
        if c.isprintable():
            return c
        code = ord(c)
        return f"\\x{code:02x}" if code < 256 else f"\\u{code:04x}" if code < 65536 else f"\\U{code:08x}"

    return '"' + "".join(map(escaped, raw)) + '"'


def _block(raw: str, form: str, newline: str) -> str:
    """A block of lines in the manner of the one it replaces, or nothing where it cannot be one."""
    header = re.match(r"\|[-+]?[ \t]*\r?\n", form)
    indent = re.search(r"\n( +)\S", form)
    body = raw.rstrip("\n")
    if not header or not indent or not body or body[0] in " \t" or not all(c.isprintable() or c == "\n" for c in raw):
        return ""
    ends = len(raw) - len(body)
    chomp = {0: "-", 1: ""}.get(ends, "+")
    lines = [indent[1] + line if line else "" for line in body.split("\n")]
    tail = newline if form.endswith("\n") else ""
    return f"|{chomp}{newline}{newline.join(lines)}{tail}" + newline * max(ends - 1, 0)
