"""YAML preference files; addresses are JSON Pointers, after the document's number where a file holds several.

Places come from the parser's own events, so that nothing is expanded: an alias is one value. Plain words mean
what the core schema of YAML 1.2 says; words that older readers take for something else are written in quotes.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import accumulate
from typing import Any, ClassVar

import yaml

from ..base.errors import FileError
from .span import LIMIT_DEPTH, Edit, Encoded, Entry, Scalar, TextPreferenceFile, check_next, split_at, step, too_deep
from .yaml_words import (
    block_of_lines,
    content_end,
    double_quoted,
    is_older_truth,
    is_plain,
    key_word,
    meaning,
    number_word,
    single_quoted,
)

_PROPERTIES = re.compile(r"(?:[&!][^\s,\[\]{}]*(?:<[^>]*>)?\s+)+(?=\S)|[&!]\S*\Z")
_BLANK_LINE = re.compile(rb"[ \t]*\r?\n")


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
                _close(stack, event)
            elif _is(event, yaml.NodeEvent):
                yield from self._node(event, stack, document)

    def _node(self, event: Any, stack: list[_Holder], document: int) -> Iterator[Entry]:
        """A value, a key, or the beginning of a mapping or list within the innermost holder of the stack."""
        holder, begins = stack[-1] if stack else None, _is(event, yaml.CollectionStartEvent)
        if holder and not begins:
            holder.end = max(holder.end, event.end_mark.index)
        at = self._place(holder, event, document)
        if at is not None:
            self._forget(at)
        if begins:
            if len(stack) >= LIMIT_DEPTH:
                raise too_deep(event.start_mark.line + 1)
            stack.append(self._opened(event, at))
        elif at is not None:
            yield self._entry(event, at)

    def _place(self, holder: _Holder | None, event: Any, document: int) -> str | None:
        """The address of what comes; None for a key, and for what a key that is no scalar leads to."""
        if holder is None:
            return step("", document) if self._several else ""
        return self._place_in_mapping(holder, event) if holder.mapping else self._place_in_list(holder, event)

    def _place_in_list(self, holder: _Holder, event: Any) -> str | None:
        if holder.column < 0 and not holder.flow:
            holder.column = self._dash_column(event.start_mark.index)
        holder.count += 1
        return None if holder.at is None else step(holder.at, holder.count - 1)

    def _place_in_mapping(self, holder: _Holder, event: Any) -> str | None:
        holder.waits = not holder.waits
        if not holder.waits:
            return None if holder.at is None or holder.key is None else step(holder.at, holder.key)
        holder.key = event.value if _is(event, yaml.ScalarEvent) else None
        if holder.column < 0:
            holder.column = event.start_mark.column
        return None

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
        value = meaning(event)
        if event.anchor:
            self._anchors[event.anchor] = value
        end, form = self._form(event, start)
        return Entry(at, value.raw, value.kind, self._bytes[start], self._bytes[end], line, form)

    def _form(self, event: Any, start: int) -> tuple[int, str]:
        """Where a value ends, and its quotes; of a block the text itself, which says how it is indented and folded."""
        end = event.end_mark.index
        if event.style not in ("|", ">"):
            return end, event.style or ""
        end = content_end(self._text, start, end)
        return end, self._text[start:end]

    def _spelled(self, entry: Entry, value: Scalar) -> str:
        flow = self._in_flow(entry.at)
        word = self._word(value, entry, flow)
        before, behind = self._file.text[entry.start - 1 : entry.start], self._file.text[entry.end : entry.end + 1]
        if entry.form[:1] in ("|", ">") and not word.startswith(("|", ">")):
            word += self._file.line_end if entry.form.endswith("\n") else ""
        if entry.start != entry.end:
            return word
        lead = " " if before in (b":", b"-") else ""  # where nothing stood, blanks part it from what is beside it
        return lead + word + ("" if behind in _PARTED else " ")

    def _in_flow(self, at: str) -> bool:
        holder = self._holders.get(at.rpartition("/")[0])
        return holder.flow if holder else False

    def _word(self, value: Scalar, entry: Entry | None, flow: bool) -> str:
        """The value as the file has it, in the manner of the entry that it replaces where it can be."""
        if value.kind == "number":
            return number_word(value.raw)
        if value.kind in ("bool", "null"):
            return value.raw
        form = entry.form if entry else ""
        return self._as_block(value.raw, entry) or _as_plain(value.raw, entry, flow) or self._in_quotes(value.raw, form)

    def _as_block(self, raw: str, entry: Entry | None) -> str:
        """A block of lines in the place of one; "" where it cannot be."""
        if entry is None or not entry.form.startswith("|"):
            return ""
        block = block_of_lines(raw, entry.form, self._file.line_end)
        # Blank lines behind the block would become part of a text that keeps its own.
        grows = block.startswith("|+") and _BLANK_LINE.match(self._file.text, entry.end)
        return "" if grows else block

    def _in_quotes(self, raw: str, form: str) -> str:
        single = form == "'" or (form != '"' and self._quote() == "'")
        return (single_quoted(raw) if single else "") or double_quoted(raw)

    def _quote(self) -> str:
        """The quote that the file uses."""
        used = [entry.form for entry in self._entries.values() if entry.form in ("'", '"')]
        return "'" if used and used.count("'") >= used.count('"') else '"'

    def _additions(self, at: str, value: Scalar) -> list[Edit]:
        holder, names = self._nearest(at)
        holding = self._holders.get(holder)
        if holding is None:
            return [self._begun(at, holder, names, value)]
        if not holding.mapping:
            check_next(at, holder, names[0], holding.count)
        if holding.flow:
            return [self._flowed(holding, names, value)]
        indent = " " * max(holding.column, 0)
        if holding.mapping:
            return [self._behind(holding.end, self._nested(names, value, indent, self._step()))]
        item = self._nested(names[1:], value, indent + "  ", self._step()).lstrip(" ")
        return [self._behind(holding.end, f"{indent}- {item}")]

    def _nearest(self, at: str) -> tuple[str, list[str]]:
        """The innermost mapping or list on the way to an address, or the value that stands in its place, and the names
        that lead on from there."""
        holder, name = split_at(at)
        names = [name]
        while holder and holder not in self._holders and not self._has_value(holder):
            holder, name = split_at(holder)
            names.insert(0, name)
        return holder, names

    def _has_value(self, at: str) -> bool:
        return at in self._entries and bool(self._entries[at].raw)

    def _begun(self, at: str, holder: str, names: list[str], value: Scalar) -> Edit:
        """The first keys of a file that holds none."""
        if holder or any(entry.raw for entry in self._entries.values()):
            raise FileError(f"{at} cannot be added: {holder or 'the whole file'} is a single value")
        end, newline = len(self._file.text), self._file.line_end
        lead = "" if not end or self._file.text.endswith(b"\n") else newline
        return end, end, lead + self._nested(names, value, "", "  ") + newline

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
            word = f"{{{key_word(name)}: {word}}}"
        member = f"{key_word(names[0])}: {word}" if holder.mapping else word
        close = holder.end - 1
        inner = self._text[holder.start : close]
        last = holder.start + len(inner.rstrip())
        if inner.strip() and not inner.rstrip().endswith(","):
            member = ", " + member
        return self._bytes[last], self._bytes[last], member

    def _nested(self, names: list[str], value: Scalar, indent: str, more: str) -> str:
        if not names:
            return indent + self._word(value, None, False)
        lines = [f"{indent}{more * depth}{key_word(name)}:" for depth, name in enumerate(names)]
        return self._file.line_end.join(lines) + " " + self._word(value, None, False)

    def _step(self) -> str:
        columns = sorted({h.column for h in self._holders.values() if h.column > 0 and not h.flow and h.mapping})
        return " " * (columns[0] if columns else 2)


def _is(event: Any, kind: type) -> bool:
    """As isinstance, for events whose marks the type checker takes for absent."""
    return isinstance(event, kind)


def _close(stack: list[_Holder], event: Any) -> None:
    """The innermost mapping or list has ended, and what holds it goes on behind it."""
    done = stack.pop()
    done.end = event.end_mark.index if done.flow else done.end
    if stack:
        stack[-1].end = max(stack[-1].end, done.end)


_PARTED = (b"", b"\n", b"\r", b" ", b",", b"}", b"]")  # behind these a word needs no blank


def _as_plain(raw: str, entry: Entry | None, flow: bool) -> str:
    """Without quotes, where the entry has none and readers agree; "" where they would not.

    A file that writes `yes` is for older readers: there it may be `no` as it is.
    """
    if entry and entry.form:
        return ""
    if entry and _is_for_older(entry) and is_older_truth(raw):
        return raw
    return raw if is_plain(raw, flow=flow) else ""


def _is_for_older(entry: Entry) -> bool:
    return entry.kind == "text" and is_older_truth(entry.raw)


class _ByteOffsets:
    """Offsets of characters as offsets in UTF-8."""

    def __init__(self, text: str) -> None:
        self._plain = text.isascii()
        self._sums = [] if self._plain else [0, *accumulate(len(c.encode()) for c in text)]

    def __getitem__(self, index: int) -> int:
        return index if self._plain else self._sums[index]
