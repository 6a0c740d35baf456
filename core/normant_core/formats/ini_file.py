"""INI preference files; addresses are `/section/key`, and `/key` for what stands before the first section.

INI has no standard. What is common is read: comments on lines of their own and behind a value after a blank,
values in quotes, indented lines that go on with a value. Of a key that stands twice the last counts.
"""

import re
from collections.abc import Iterator
from typing import ClassVar

from ..base.errors import FileError
from .span import Edit, Encoded, Entry, Scalar, TextPreferenceFile, split_at, step, steps

_LINE = re.compile(rb"([^\r\n]*)(\r\n|\n|\r|\Z)")
_BLANK = b" \t\0"
_SECTION = re.compile(rb"[ \t]*\[(.*)\][ \t]*([;#].*)?")
_COMMENT_BEHIND = re.compile(rb"(?:^|[ \t])[ \t]*(?:;|#(?=[ \t]|$)).*$")
_QUOTED = re.compile(rb"\"[^\"]*\"|'[^']*'")


def _speaking_lines(text: bytes) -> Iterator[tuple[int, re.Match[bytes]]]:
    """Lines with their numbers from 1, without empty ones and comments."""
    numbered = enumerate(_LINE.finditer(text), start=1)
    return ((number, match) for number, match in numbered if not _says_nothing(match[1]))


def _within_quotes(entry: Entry, raw: str) -> str:
    _one_line(entry.at, raw)
    if entry.form in raw:
        raise FileError(f"{entry.at}: a value in {entry.form} cannot hold {entry.form}")
    return raw


class IniFile(TextPreferenceFile):
    """An INI file that may be read and changed value by value."""

    format: ClassVar[str] = "INI"

    def __init__(self, raw: bytes) -> None:
        """Raises FileError with the line of what is neither section, key nor comment."""
        self._file = Encoded.read(raw)
        self._entries = {}
        self._ends: dict[str | None, int] = {}  # where the last line of each section ends
        self._manner = ("", "=")  # indent and separator of the last key
        for entry in self._walk(self._file.text):
            self._entries.pop(entry.at, None)
            self._entries[entry.at] = entry

    def _as_read(self, value: Scalar) -> Scalar:
        return Scalar("text", value.raw)

    def _walk(self, text: bytes) -> Iterator[Entry]:
        """The entries in order. One is told once the next line shows that it does not go on there."""
        section: str | None = None
        held: Entry | None = None
        for number, match in _speaking_lines(text):
            line, start = match[1], match.start()
            header, split = _SECTION.fullmatch(line), _delimiter(line)
            if held and not header and _goes_on(held, line, split):
                held = _continued(held, line, start)
            else:
                yield from filter(None, [held])
                section = header[1].strip().decode() if header else section
                held = None if header else self._key(line, start, number, section, split)
            self._ends[section] = match.end(1)
        yield from filter(None, [held])

    def _key(self, line: bytes, start: int, number: int, section: str | None, split: int | None) -> Entry:
        end = len(line.rstrip(b" \t")) if split is None else split
        key = line[:end].strip(b" \t")
        if not key:
            raise FileError("a value without a key", line=number)
        if key.startswith(b"["):
            raise FileError("a section's name has no closing bracket", line=number)
        at = step("" if section is None else step("", section), key.decode())
        if split is None:
            return Entry(at, "", "text", start + end, start + end, number, "flag")
        rest = line[split + 1 :]
        blank = len(rest) - len(rest.lstrip(b" \t"))
        self._manner = (line[: len(line) - len(line.lstrip(b" \t"))].decode(), _separator(line, end, split, rest))
        return _valued(at, rest[blank:], blank, start + split + 1, number)

    def _spelled(self, entry: Entry, value: Scalar) -> str:
        raw = value.raw
        if entry.form in ("'", '"'):
            return _within_quotes(entry, raw)
        word = self._over_lines(entry, raw) if "\n" in raw else _word(entry.at, raw)
        if "\n" in entry.raw and "\n" not in raw and word != raw:  # the way back to several lines would be barred
            raise FileError(f"{entry.at}: a value that ran over several lines takes none that needs quotes")
        return ("=" if entry.form == "flag" else "") + word

    def _over_lines(self, entry: Entry, raw: str) -> str:
        """A text of several lines, those after the first indented as the entry's were."""
        lead = re.search(rb"\n([ \t]+)", self._file.text[entry.start : entry.end])
        indent = lead[1].decode() if lead else "  "
        return (self._file.line_end + indent).join(raw.split("\n"))

    def _additions(self, at: str, value: Scalar) -> list[Edit]:
        parts, word = steps(at), _word(at, value.raw)
        if len(parts) > 2:
            raise FileError(f"{at} cannot be added: an INI file has /section/key, no deeper")
        section = parts[0] if len(parts) == 2 else None
        indent, separator = self._manner
        line, newline, text = f"{parts[-1]}{separator}{word}", self._file.line_end, self._file.text
        if section in self._ends:
            return [(self._ends[section], self._ends[section], newline + indent + line)]
        if section is None:
            return [(0, 0, line + newline)]
        return [(len(text), len(text), self._section(section, f"{indent}{line}"))]

    def _section(self, name: str, line: str) -> str:
        """A section with one line, as it stands at the end of the file: after an empty line where others do."""
        newline, text = self._file.line_end, self._file.text
        lead = "" if not text or text.endswith((b"\n", b"\r")) else newline
        gap = newline if re.search(rb"(?:\r\n\r\n|\n\n|\r\r)[ \t]*\[", text) else ""
        return f"{lead}{gap}[{name}]{newline}{line}{'' if lead else newline}"


class PropertiesFile(TextPreferenceFile):
    """A file of properties, one `key=value` a line, with the escapes of Java's; addresses are `/key`."""

    format: ClassVar[str] = "properties"

    def __init__(self, raw: bytes) -> None:
        """Raises FileError where an escape is none."""
        self._file = Encoded.read(raw)
        self._entries = {}
        self._separator, self._last = "=", 0
        text = self._file.text.decode()
        for entry in self._walk(text):
            self._entries.pop(entry.at, None)
            self._entries[entry.at] = entry

    def _as_read(self, value: Scalar) -> Scalar:
        return Scalar("text", value.raw)

    def _walk(self, text: str) -> Iterator[Entry]:
        reached, place, number = 0, 0, 1
        for match in _LOGICAL.finditer(text):
            place += len(text[reached : match.start()].encode())
            number += len(_ENDS.findall(text, reached, match.start()))
            reached = match.start()
            parts = _PROPERTY.fullmatch(match[0])
            if parts is None or match[0].lstrip(" \t\f")[:1] in ("", "#", "!"):
                continue
            key, separator, value = _plain(parts[2], number), parts[3], parts[4]
            before = len((parts[1] + parts[2] + separator).encode())
            start = place + before
            end = start + len(value.encode())
            self._separator, self._last = separator or "=", end
            yield Entry(step("", key), _plain(value, number), "text", start, end, number, "" if separator else "flag")

    def _spelled(self, entry: Entry, value: Scalar) -> str:
        return (self._separator if entry.form == "flag" else "") + self._word(value.raw)

    def _word(self, raw: str) -> str:
        text = raw.replace("\\", "\\\\").replace("\n", "\\n").replace("\r", "\\r").replace("\t", "\\t")
        text = text.replace("\f", "\\f")
        lead = len(text) - len(text.lstrip(" "))
        text = "\\ " * min(lead, 1) + text[min(lead, 1) :]
        return "".join(c if self._holds(c) else _escape(c) for c in text)

    def _holds(self, character: str) -> bool:
        if " " <= character <= "~":
            return True
        if character < " " or self._file.text.isascii():  # a file all ASCII escapes the rest
            return False
        return self._file.encoding != "latin-1" or "\xa0" <= character <= "\xff"

    def _additions(self, at: str, value: Scalar) -> list[Edit]:
        holder, name = split_at(at)
        if holder:
            raise FileError(f"{at} cannot be added: a file of properties has /key, no deeper")
        key = re.sub(r"([\\ =:#!])", r"\\\1", name)
        newline = self._file.line_end
        line = f"{''.join(c if self._holds(c) else _escape(c) for c in key)}{self._separator}{self._word(value.raw)}"
        if self._entries:
            return [(self._last, self._last, newline + line)]
        end = len(self._file.text)
        lead = "" if not end or self._file.text.endswith((b"\n", b"\r")) else newline
        return [(end, end, lead + line + newline)]


_ENDS = re.compile(r"\r\n|\n|\r")
_LOGICAL = re.compile(r"(?:[ \t\f]*[#!][^\r\n]*)|(?:[^\r\n\\]|\\(?:\r\n|[\s\S])|\\\Z)+")
_PROPERTY = re.compile(
    r"([ \t\f]*)((?:[^=:\s\\]|\\(?:\r\n|[\s\S]))*)([ \t\f]*[=:]?(?:\\(?:\r\n|\n|\r)|[ \t\f])*)([\s\S]*)"
)
_GOES_ON = re.compile(r"\\(?:\r\n|\n|\r)[ \t\f]*")
_ESCAPE = re.compile(r"\\(u[0-9A-Fa-f]{4}|u|[\s\S]|\Z)")
_CONTROLS = {"n": "\n", "r": "\r", "t": "\t", "f": "\f"}


def _valued(at: str, value: bytes, blank: int, place: int, number: int) -> Entry:
    """The entry of a value that stands `blank` signs behind `place`, where its delimiter ends."""
    if quoted := _in_quotes(value):
        first = place + blank + 1
        return Entry(at, quoted[1:-1].decode(), "text", first, first + len(quoted) - 2, number, quoted[:1].decode())
    if behind := _COMMENT_BEHIND.search(value):
        value = value[: behind.start()]
    value = value.rstrip(b" \t")
    place += blank if value else min(blank, 1)
    return Entry(at, value.decode(), "text", place, place + len(value), number)


def _says_nothing(line: bytes) -> bool:
    bare = line.strip(_BLANK)
    return bare == b"" or bare[:1] in (b";", b"#")


def _goes_on(held: Entry, line: bytes, split: int | None) -> bool:
    """Whether a line belongs to the value before it: it is indented, and holds no key of its own."""
    return line[:1] in (b" ", b"\t") and split is None and held.form != "flag"


def _continued(held: Entry, line: bytes, start: int) -> Entry:
    raw = f"{held.raw}\n{line.strip(_BLANK).decode()}"
    return Entry(held.at, raw, "text", held.start, start + len(line.rstrip()), held.line, "continued")


def _in_quotes(value: bytes) -> bytes:
    """A value in quotes, with these, where nothing but a comment stands behind it; else nothing."""
    quoted = _QUOTED.match(value)
    behind = value[quoted.end() :].strip(b" \t") if quoted else b""
    return quoted[0] if quoted and (not behind or behind[:1] in (b";", b"#")) else b""


def _plain(text: str, line: int) -> str:
    def unescape(match: re.Match[str]) -> str:
        letter = match[1]
        if letter == "u":
            raise FileError(r"\u without four hexadecimal digits", line=line)
        return chr(int(letter[1:], 16)) if letter[:1] == "u" else _CONTROLS.get(letter, letter)

    plain = _ESCAPE.sub(unescape, _GOES_ON.sub("", text))
    try:  # two escapes may be one character
        return plain.encode("utf-16", "surrogatepass").decode("utf-16")
    except UnicodeDecodeError as fault:
        raise FileError("an escape is half of a character", line=line) from fault


def _escape(character: str) -> str:
    units = character.encode("utf-16-be")
    return "".join(f"\\u{units[i : i + 2].hex()}" for i in range(0, len(units), 2))


def _delimiter(line: bytes) -> int | None:
    equals, colon = line.find(b"="), line.find(b":")
    if colon >= 0 and (equals < 0 or (colon < equals and line[colon + 1 : colon + 2] in (b" ", b"\t"))):
        return colon
    return equals if equals >= 0 else None


def _separator(line: bytes, end: int, split: int, rest: bytes) -> str:
    lead = line[len(line[:end].rstrip(b" \t")) : split]
    tail = rest[: len(rest) - len(rest.lstrip(b" \t"))][:1] if rest.strip() else rest[:1]
    return (lead + line[split : split + 1] + tail).decode()


def _word(at: str, raw: str) -> str:
    _one_line(at, raw)
    needs = raw != raw.strip(" \t") or raw[:1] in ("'", '"') or _COMMENT_BEHIND.search(raw.encode())
    return f'"{raw}"' if needs else raw


def _one_line(at: str, raw: str) -> None:
    if "\n" in raw or "\r" in raw:
        raise FileError(f"{at}: a value of an INI file stands on one line")
