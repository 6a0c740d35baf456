"""What the formats share: values with their places, the encodings, the bounds, and the proof of every write."""

import codecs
import json
import re
from abc import ABC, abstractmethod
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from typing import ClassVar, Literal, Self

import tree_sitter

from ..base.errors import FileError

LIMIT_BYTES = 8 * 1024 * 1024
LIMIT_DEPTH = 200
LIMIT_SIGNS = 100_000  # line ends, commas, tags and equal signs
ValueKind = Literal["text", "number", "bool", "null", "date", "data"]

Edit = tuple[int, int, str]
"""`text[start:end]` becomes the third: offsets in the UTF-8 text."""


@dataclass(frozen=True, slots=True)
class Scalar:
    """One value as a file says it: its kind, and its text without quotes or escapes.

    Numbers are decimal, `inf` or `nan`; booleans `true` or `false`; dates ISO 8601; data base64.
    """

    kind: ValueKind
    raw: str

    @classmethod
    def of_word(cls, word: str) -> "Scalar":
        """What somebody typed: a JSON scalar where it is one, else text. Raises FileError for lists and tables."""
        try:
            value = json.loads(word, parse_int=Decimal, parse_float=Decimal, parse_constant=_no_number)
        except (ValueError, RecursionError):
            return cls("text", word)
        if isinstance(value, list | dict):
            raise FileError(f"{word[:40]!r} is a list or a table: name the values inside it one by one")
        if isinstance(value, str):
            return cls("text", value)
        kind: ValueKind = "bool" if isinstance(value, bool) else "null" if value is None else "number"
        return cls(kind, word.strip())

    @property
    def plain(self) -> str | int | float | bool | None:
        """The value as JSON holds it; numbers that JSON cannot say stay text."""
        if self.kind == "bool":
            return self.raw == "true"
        if self.kind == "null":
            return None
        if self.kind == "number" and self.raw.lstrip("-") not in ("inf", "nan"):
            return int(self.raw) if re.fullmatch(r"-?\d{1,4000}", self.raw) else float(self.raw)
        return self.raw

    def same(self, other: "Scalar | Entry") -> bool:
        """Whether both say the same: 1.50 is 1.5, but "1.5" is not."""
        if self.kind != other.kind or self.raw == other.raw:
            return self.kind == other.kind
        try:
            return self.kind == "number" and Decimal(self.raw) == Decimal(other.raw)
        except InvalidOperation:
            return False


def _no_number(word: str) -> None:
    raise ValueError(word)


@dataclass(frozen=True, slots=True)
class Entry:
    """A value in a file: its address, text, kind, place in the UTF-8 text, line, and the form it is written in."""

    at: str
    raw: str
    kind: ValueKind
    start: int
    end: int
    line: int
    form: str = ""

    @property
    def scalar(self) -> Scalar:
        """The value alone."""
        return Scalar(self.kind, self.raw)

    def like(self, raw: str) -> Scalar:
        """`raw` as a value of this entry's kind. Raises FileError where it is none."""
        if self.kind in ("text", "date", "data"):
            return Scalar(self.kind, raw)
        value = Scalar.of_word(raw)
        if self.kind in ("number", "bool") and value.kind != self.kind:
            raise FileError(f"{self.at} holds a {self.kind}; {raw!r} is none")
        return value


def check_next(at: str, holder: str, name: str, count: int) -> None:
    """Raises FileError where a value that is to be added at `at` is not the next of a list of `count`."""
    if name != str(count):
        raise FileError(f"{at} cannot be added: {holder} is a list of {count}, so the next is {count}")


class PreferenceFile(ABC):
    """A parsed file whose values can be read by address and changed, all else staying byte for byte."""

    format: ClassVar[str]

    _entries: dict[str, Entry]

    @abstractmethod
    def __init__(self, raw: bytes) -> None:
        """Raises FileError with the place of a fault."""

    def entries(self) -> list[Entry]:
        """Every addressable value, in the order of the file."""
        return list(self._entries.values())

    def get(self, at: str) -> Entry:
        """The value at `at`. Raises FileError where there is none."""
        if at in self._entries:
            return self._entries[at]
        inside = [known for known in self._entries if known.startswith(at + "/")]
        if inside:
            raise FileError(f"{at or 'the whole'} is no single value")
        raise missing(at)

    @abstractmethod
    def spans(self) -> dict[str, tuple[int, int]]:
        """Where each value stands in the file's own bytes: (start, end) by address."""

    def replace(self, at: str, raw: str) -> bytes:
        """The file with the value at `at` replaced by `raw`; its kind stays (text stays text)."""
        return self.write({at: self.get(at).like(raw)})

    def write(self, changes: Mapping[str, Scalar]) -> bytes:
        """The file's bytes with these values changed, or added where their address is new.

        Raises FileError, with nothing done, where a value cannot be held, an address cannot be added, or
        another value would read differently afterwards.
        """
        wanted = {at: self._as_read(value) for at, value in changes.items()}
        there = {at: value for at, value in wanted.items() if at in self._entries}
        changed = self._replaced({at: v for at, v in there.items() if not v.same(self._entries[at])})
        for at, value in wanted.items():
            if at not in self._entries:
                changed = type(self)(changed)._added(at, value)
        self._prove(changed, wanted)
        return changed

    def _as_read(self, value: Scalar) -> Scalar:
        """What the format makes of a value: some know nothing but text."""
        return value

    @abstractmethod
    def _replaced(self, changes: Mapping[str, Scalar]) -> bytes:
        """The file with present values replaced."""

    @abstractmethod
    def _added(self, at: str, value: Scalar) -> bytes:
        """The file with a value at a new address, in the file's own manner."""

    def _prove(self, changed: bytes, wanted: Mapping[str, Scalar]) -> None:
        """Read the result and compare: what was asked is there, and nothing else moved."""
        now = self._read_again(changed, wanted)
        for at, value in wanted.items():
            if at not in now or not value.same(now[at]):
                raise FileError(f"{at}: {self.format} cannot hold the {value.kind} {value.raw[:80]!r} there")
        if moved := next((at for at in self._entries if not self._is_untouched(at, now, wanted)), None):
            raise FileError(f"setting {', '.join(wanted)} would change {moved} as well, so nothing was written")
        if extra := now.keys() - self._entries.keys() - wanted.keys():
            raise FileError(f"setting {', '.join(wanted)} would add {min(extra)} as well, so nothing was written")

    def _read_again(self, changed: bytes, wanted: Mapping[str, Scalar]) -> Mapping[str, Entry]:
        """The entries of the file as it would be. Raises FileError where nobody could read it any more."""
        try:
            return type(self)(changed)._entries
        except FileError as fault:
            values = ", ".join(f"{at or 'the whole'} to {value.raw[:40]!r}" for at, value in wanted.items())
            raise FileError(f"setting {values} would leave a broken file, so nothing was written: {fault}") from fault

    def _is_untouched(self, at: str, now: Mapping[str, Entry], wanted: Mapping[str, Scalar]) -> bool:
        """Whether a value that was there is there now as it was, unless it was to be changed."""
        entry = self._entries[at]
        if at in wanted or (at in now and entry.scalar.same(now[at])):
            return True
        # An empty value may have become the holder of a new one.
        return entry.raw == "" and any(new.startswith(at + "/") for new in wanted)


class TextPreferenceFile(PreferenceFile):
    """A preference file that is text in some encoding."""

    _file: "Encoded"

    def spans(self) -> dict[str, tuple[int, int]]:
        """Offsets in the file's own bytes, whatever its encoding."""
        ends = self._file.offsets(point for e in self._entries.values() for point in (e.start, e.end))
        return {at: (ends[e.start], ends[e.end]) for at, e in self._entries.items()}

    def _replaced(self, changes: Mapping[str, Scalar]) -> bytes:
        edits = []
        for at, value in changes.items():
            entry = self._entries[at]
            edits.append((entry.start, entry.end, self._spelled(entry, value)))
        return self._file.spliced(edits)

    def _added(self, at: str, value: Scalar) -> bytes:
        return self._file.spliced(self._additions(at, value))

    @abstractmethod
    def _spelled(self, entry: Entry, value: Scalar) -> str:
        """The text that takes the entry's place."""

    @abstractmethod
    def _additions(self, at: str, value: Scalar) -> list[Edit]:
        """The edits that add a value at a new address."""


@dataclass(frozen=True, slots=True)
class Encoded:
    """The text of a file as UTF-8, and how to give back the file's own bytes."""

    text: bytes
    encoding: str
    mark: bytes

    @classmethod
    def read(cls, raw: bytes, *, declared: str = "") -> Self:
        """`declared` is the encoding that the file itself names; without one UTF-8, else Latin-1, is read.

        Raises FileError where the bytes do not come back the same: such a file is not touched.
        """
        within_bounds(raw)
        mark, encoding = next(((m, e) for m, e in _MARKS if raw.startswith(m)), (b"", declared or _guessed(raw)))
        try:
            text = raw[len(mark) :].decode(encoding)
            utf8, again = text.encode(), mark + text.encode(encoding)
        except (UnicodeError, LookupError) as fault:
            raise FileError(f"the file is not {encoding} text: {fault}") from fault
        if again != raw:
            raise FileError(f"the file's {encoding} text does not come back byte for byte")
        return cls(utf8, encoding, mark)

    @property
    def line_end(self) -> str:
        """How the file ends its lines: as its first line does."""
        first = self.text.find(b"\n")
        if first < 0:
            return "\r" if b"\r" in self.text else "\n"
        return "\r\n" if self.text[first - 1 : first] == b"\r" else "\n"

    def spliced(self, edits: Iterable[Edit]) -> bytes:
        """The file's bytes with the edits done. Raises FileError for what its encoding cannot hold."""
        parts, reached = list[bytes](), 0
        for start, end, new in sorted(edits, key=lambda edit: edit[:2]):
            parts += self.text[reached:start], _utf8(new)
            reached = end
        parts.append(self.text[reached:])
        if self.encoding == "utf-8":
            return self.mark + b"".join(parts)
        try:
            return self.mark + b"".join(parts).decode().encode(self.encoding)
        except UnicodeEncodeError as fault:
            message = f"the file's encoding, {self.encoding}, cannot hold {fault.object[fault.start : fault.end]!r}"
            raise FileError(message) from fault

    def offsets(self, points: Iterable[int]) -> dict[int, int]:
        """Offsets in the UTF-8 text as offsets in the file."""
        if self.encoding == "utf-8":
            return {point: point + len(self.mark) for point in points}
        places, reached, place = dict[int, int](), 0, len(self.mark)
        for point in sorted(set(points)):
            place += len(self.text[reached:point].decode().encode(self.encoding))
            reached, places[point] = point, place
        return places


_MARKS = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF32_LE, "utf-32-le"),
    (codecs.BOM_UTF32_BE, "utf-32-be"),
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
)


def _guessed(raw: bytes) -> str:
    if len(raw) >= 2 and 0 in raw[:2]:  # every format's first character is ASCII
        return "utf-16-le" if raw[1] == 0 else "utf-16-be"
    try:
        raw.decode()
    except UnicodeDecodeError:
        return "latin-1"
    return "utf-8"


def _utf8(text: str) -> bytes:
    try:
        return text.encode()
    except UnicodeEncodeError as fault:
        raise FileError(f"{text[:40]!r} holds half of a character, which no file can") from fault


def within_bounds(raw: bytes) -> None:
    """Raises FileError for a file that is larger than any preference file has a reason to be."""
    if len(raw) > LIMIT_BYTES:
        raise FileError(f"the file has {len(raw):,} bytes; at most {LIMIT_BYTES:,} are read")
    # Counted, not parsed: no format says a value without one of these beside it.
    if sum(raw.count(sign) for sign in (b",", b"\n", b"\r", b"<", b"=")) > LIMIT_SIGNS:
        raise FileError(f"the file has more than {LIMIT_SIGNS:,} lines and values")


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


def too_deep(line: int) -> FileError:
    """The error for a file that is nested beyond the bound."""
    return FileError(f"the file is nested deeper than {LIMIT_DEPTH}", line=line)


def missing(at: str) -> FileError:
    """The error for an address that the file does not have.

    It tells no address that the file does have: errors travel to the house, and in a file that is read in another
    format than its own a name may be a whole line, secrets included.
    """
    return FileError(f"there is no {at}")


def is_writable_text(text: str) -> bool:
    """Whether every character is whole: JSON can say half of one, and no survey or terminal can."""
    return not any("\ud800" <= c <= "\udfff" for c in text)


def step(at: str, name: str | int) -> str:
    """The address one step further in, escaped as a JSON Pointer is (RFC 6901)."""
    return f"{at}/{str(name).replace('~', '~0').replace('/', '~1')}"


def steps(at: str) -> list[str]:
    """The steps of an address. Raises FileError for a text that is none."""
    if not at.startswith("/"):
        raise FileError(f"{at!r} is no address: expected one that begins with /")
    return [part.replace("~1", "/").replace("~0", "~") for part in at[1:].split("/")]


def split_at(at: str) -> tuple[str, str]:
    """The holder's address and the last step. Raises FileError for a text that is no address."""
    holder, _, _ = at.rpartition("/")
    return holder, steps(at)[-1]


def indent_before(text: bytes, offset: int) -> str | None:
    """The blanks from the line's start to `offset`, or None where something else stands there."""
    start = text.rfind(b"\n", 0, offset) + 1
    lead = text[start:offset]
    return None if lead.strip(b" \t") else lead.decode()
