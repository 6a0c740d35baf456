"""Binary property lists: a table of objects, changed object by object.

The layout is the open one that Python's plistlib reads and writes: a magic number, objects, a table of their
offsets, a trailer of 32 bytes. A value that only one holder refers to is replaced where it stands; one that
several share gets a new object beside it, so that the others stay.
"""

import base64
import datetime as dt
import struct
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar

from ..base.errors import FileError
from .span import LIMIT_DEPTH, Entry, PreferenceFile, Scalar, check_next, split_at, step, within_bounds

MAGIC = b"bplist00"
LIMIT_VALUES = 500_000
_TRAILER = struct.Struct(">5sBBBQQQ")
_EPOCH = dt.datetime(2001, 1, 1)
_HOLDERS = {0xA: "array", 0xC: "set", 0xD: "dict"}


@dataclass(frozen=True, slots=True)
class Holder:
    """A dictionary (keys, then values), array or set, by the numbers of its objects."""

    kind: str
    refs: tuple[int, ...]

    def holding(self, *refs: int) -> "Holder":
        """The same with other objects in it."""
        return Holder(self.kind, refs)


Object = bytes | Holder


@dataclass(frozen=True, slots=True)
class Table:
    """The objects of a file, the order in which they lie there, and the manner of its trailer."""

    objects: tuple[Object, ...]
    order: tuple[int, ...]
    top: int
    head: bytes
    sort: int
    offset_size: int
    ref_size: int
    least: bool
    """Whether sizes are the smallest that do, as most writers have it."""

    def with_object(self, number: int, known: Object) -> "Table":
        """With another object in the place of one."""
        return replace(self, objects=(*self.objects[:number], known, *self.objects[number + 1 :]))

    def with_objects(self, *new: Object) -> "Table":
        """With more objects at the end."""
        count = len(self.objects)
        order = (*self.order, *range(count, count + len(new)))
        return replace(self, objects=(*self.objects, *new), order=order)

    def written(self) -> tuple[bytes, list[tuple[int, int]]]:
        """The file's bytes, and where each object lies in them."""
        count = len(self.objects)
        ref_size = max(_size(count - 1), 0 if self.least else self.ref_size)
        parts, place = [MAGIC], len(MAGIC)
        spans = [(0, 0)] * count
        for number in self.order:
            encoded = _holder_bytes(self.objects[number], ref_size)
            parts.append(encoded)
            spans[number] = (place, place + len(encoded))
            place += len(encoded)
        offset_size = max(_size(place), 0 if self.least else self.offset_size)
        parts += [start.to_bytes(offset_size, "big") for start, _ in spans]
        parts.append(_TRAILER.pack(self.head, self.sort, offset_size, ref_size, count, self.top, place))
        return b"".join(parts), spans


class BinaryPlistFile(PreferenceFile):
    """A binary property list that may be read and changed value by value."""

    format: ClassVar[str] = "a binary property list"

    def __init__(self, raw: bytes) -> None:
        """Raises FileError where the tables of the file do not hold together."""
        within_bounds(raw)
        try:
            self._table, self._places = _read(raw)
            objects = self._table.objects
            self._uses = Counter(ref for known in objects if isinstance(known, Holder) for ref in known.refs)
            self._uses[self._table.top] += 1
            self._slots: dict[str, tuple[int, int]] = {}
            self._holders: dict[str, int] = {}
            self._refs: dict[str, int] = {}
            self._entries = {}
            for entry in self._walk(self._table.top, "", 0):
                self._entries[entry.at] = entry
        except (struct.error, IndexError, ValueError, OverflowError) as fault:
            raise FileError(f"the binary property list is broken: {fault}") from fault
        again, _ = self._table.written()
        self._usual = again == raw

    def spans(self) -> dict[str, tuple[int, int]]:
        """Each value's object."""
        return {at: self._places[self._refs[at]] for at in self._entries}

    def _walk(self, ref: int, at: str, depth: int) -> Iterator[Entry]:
        if depth > LIMIT_DEPTH:
            raise FileError(f"the file is nested deeper than {LIMIT_DEPTH}, or holds itself")
        if len(self._refs) + len(self._holders) > LIMIT_VALUES:
            raise FileError(f"the file says more than {LIMIT_VALUES:,} values, which no preferences have a reason to")
        body = self._table.objects[ref]
        if isinstance(body, bytes):
            scalar, (start, end) = _scalar(body), self._places[ref]
            self._refs[at] = ref
            yield Entry(at, scalar.raw, scalar.kind, start, end, 0)
            return
        self._holders[at] = ref
        half = len(body.refs) // 2 if body.kind == "dict" else 0
        for slot, value in enumerate(body.refs[half:], start=half):
            name = self._name(body.refs[slot - half]) if half else slot
            self._slots[step(at, name)] = (ref, slot)
            yield from self._walk(value, step(at, name), depth + 1)

    def _name(self, ref: int) -> str:
        key = self._table.objects[ref]
        if isinstance(key, Holder):
            raise ValueError("a key is no text")
        return _scalar(key).raw

    def _replaced(self, changes: Mapping[str, Scalar]) -> bytes:
        self._check_usual()
        table = self._table
        for at, value in changes.items():
            table = self._replaced_once(table, at, value)
        return table.written()[0]

    def _replaced_once(self, table: Table, at: str, value: Scalar) -> Table:
        """The table with one value in place of another, so that writing the old one back gives the old file.

        Equal values share an object. So a value that stands alone changes in place, one that others share is left and
        another object is looked for, or added at the end.
        """
        old = self._refs[at]
        was = table.objects[old]
        assert isinstance(was, bytes)
        new = _object(value, was)
        alone = self._uses[old] <= 1
        if alone and not self._was_added(table, old, new, at):
            return table.with_object(old, new)
        same = next((number for number, known in enumerate(table.objects) if known == new and number != old), None)
        if same is None:
            table, same = table.with_objects(new), len(table.objects)
        elif alone:
            table = replace(table, objects=table.objects[:-1], order=table.order[:-1])
        return self._pointed(table, at, same)

    def _pointed(self, table: Table, at: str, same: int) -> Table:
        """The table with another object at an address."""
        if at not in self._slots:
            return replace(table, top=same)
        number, slot = self._slots[at]
        held = table.objects[number]
        assert isinstance(held, Holder)
        return table.with_object(number, held.holding(*held.refs[:slot], same, *held.refs[slot + 1 :]))

    def _was_added(self, table: Table, old: int, new: bytes, at: str) -> bool:
        """Whether an object stands last because a write added it: its new value stands elsewhere as well, and writing
        that takes it away again."""
        last = len(table.objects) - 1
        return old == last == table.order[-1] and new in table.objects[:last] and at in self._slots

    def _added(self, at: str, value: Scalar) -> bytes:
        self._check_usual()
        holder, name = split_at(at)
        table = self._table.with_objects(_object(value, b""))
        while holder not in self._holders:
            if holder in self._entries or not holder:
                raise FileError(f"{at} cannot be added: {holder or 'the whole file'} is a single value")
            count = len(table.objects)
            table = table.with_objects(_object(Scalar("text", name), b""), Holder("dict", (count, count - 1)))
            holder, name = split_at(holder)
        number, count = self._holders[holder], len(table.objects)
        held = table.objects[number]
        assert isinstance(held, Holder)
        if held.kind == "dict":
            half = len(held.refs) // 2
            table = table.with_objects(_object(Scalar("text", name), b""))
            refs = (*held.refs[:half], count, *held.refs[half:], count - 1)
            return table.with_object(number, held.holding(*refs)).written()[0]
        check_next(at, holder, name, len(held.refs))
        return table.with_object(number, held.holding(*held.refs, count - 1)).written()[0]

    def _check_usual(self) -> None:
        if not self._usual:
            raise FileError("this binary property list is laid out in a way that cannot be kept, so it is not touched")


def _read(raw: bytes) -> tuple[Table, list[tuple[int, int]]]:
    """The table of objects, and where each of them stands. Raises ValueError for a file that is none."""
    head, sort, offset_size, ref_size, count, top, table = _trailer(raw)
    starts = _offsets(raw, table, offset_size, count)
    parsed = [_parsed(raw, start, ref_size, count) for start in starts]
    if any(stop > table for _, stop in parsed):
        raise ValueError("an object reaches beyond the objects")
    least = offset_size == _size(table) and ref_size == _size(count - 1)
    order = tuple(sorted(range(count), key=lambda number: starts[number]))
    objects = tuple(known for known, _ in parsed)
    places = [(start, stop) for start, (_, stop) in zip(starts, parsed, strict=True)]
    return Table(objects, order, top, head, sort, offset_size, ref_size, least), places


def _offsets(raw: bytes, table: int, width: int, count: int) -> list[int]:
    """Where each object begins, by the table of offsets. Raises ValueError for one that points elsewhere."""
    starts = [int.from_bytes(raw[i : i + width], "big") for i in range(table, table + count * width, width)]
    if not all(len(MAGIC) <= start < table for start in starts):
        raise ValueError("an offset points outside the objects")
    return starts


def _trailer(raw: bytes) -> tuple[Any, ...]:
    """The fields of the trailer, which say where the table of offsets is. Raises ValueError where it cannot be."""
    if len(raw) < len(MAGIC) + _TRAILER.size + 1:
        raise ValueError("it is too short")
    fields = _TRAILER.unpack(raw[-_TRAILER.size :])
    _, _, offset_size, ref_size, count, top, table = fields
    sized = 0 < offset_size <= 8 and 0 < ref_size <= 8
    if not sized or top >= count or table + count * offset_size > len(raw) - _TRAILER.size:
        raise ValueError("its trailer points outside the file")
    return fields


def _parsed(raw: bytes, start: int, ref_size: int, count: int) -> tuple[Object, int]:
    """An object and where it ends. Its first byte is its kind and how long it is; 15 says that the length follows."""
    high, low = raw[start] >> 4, raw[start] & 15
    body = start + 1
    if low == 15 and high not in _FIXED:
        low, body = _length(raw, body)
    if high in _FIXED or high in _SIZED:
        stop = body + (_FIXED[high](low) if high in _FIXED else low * _SIZED[high])
        return raw[start:stop], stop
    if high not in _HOLDERS:
        raise ValueError(f"there is no object of kind {high:x}")
    stop = body + low * (2 if high == 0xD else 1) * ref_size
    return Holder(_HOLDERS[high], _references(raw, range(body, stop, ref_size), count)), stop


def _references(raw: bytes, places: range, count: int) -> tuple[int, ...]:
    """The numbers of the objects that a holder holds, out of `count`."""
    if places.stop > len(raw):
        raise ValueError("an object reaches beyond the file")
    refs = tuple(int.from_bytes(raw[i : i + places.step], "big") for i in places)
    if any(ref >= count for ref in refs):
        raise ValueError("an object refers to one that is not there")
    return refs


def _length(raw: bytes, place: int) -> tuple[int, int]:
    """A length that stands as a number of its own, and where it ends."""
    width = 1 << (raw[place] & 15)
    if raw[place] >> 4 != 1 or width > 8:
        raise ValueError("a length is no number")
    return int.from_bytes(raw[place + 1 : place + 1 + width], "big"), place + 1 + width


# Bytes behind the first, by kind and the low half of that: nothing and truths, whole numbers, reals, dates, UIDs.
_FIXED: dict[int, Callable[[int], int]] = {
    0x0: lambda _: 0,
    0x1: lambda low: 1 << min(low, 5),
    0x2: lambda low: 1 << min(low, 5),
    0x3: lambda _: 8,
    0x8: lambda low: low + 1,
}
_SIZED = {0x4: 1, 0x5: 1, 0x6: 2}  # bytes of each piece of data, ASCII and UTF-16


def _holder_bytes(body: Object, ref_size: int) -> bytes:
    if isinstance(body, bytes):
        return body
    high = next(number for number, kind in _HOLDERS.items() if kind == body.kind)
    count = len(body.refs) // 2 if body.kind == "dict" else len(body.refs)
    return _marker(high, count) + b"".join(ref.to_bytes(ref_size, "big") for ref in body.refs)


def _marker(high: int, count: int) -> bytes:
    if count < 15:
        return bytes([high << 4 | count])
    width = _size(count)
    return bytes([high << 4 | 15, 0x10 | width.bit_length() - 1]) + count.to_bytes(width, "big")


def _size(number: int) -> int:
    """Bytes of 1, 2, 4 or 8 that hold the number."""
    return next(size for size in (1, 2, 4, 8) if number < 1 << 8 * size)


def _scalar(encoded: bytes) -> Scalar:
    high, body = encoded[0] >> 4, encoded[1:]
    if encoded[0] in _NAMED:
        return _NAMED[encoded[0]]
    if high in _VALUES:
        return _VALUES[high](body)
    if high not in _SIZED:
        raise ValueError(f"there is no object of kind {encoded[0]:02x}")
    content = body[1 + (1 << (body[0] & 15)) :] if encoded[0] & 15 == 15 else body
    if high == 0x4:
        return Scalar("data", base64.b64encode(content).decode())
    return Scalar("text", content.decode("ascii" if high == 0x5 else "utf-16-be"))


def _real(body: bytes) -> Scalar:
    return Scalar("number", repr(struct.unpack({2: ">e", 4: ">f", 8: ">d"}.get(len(body), ">d"), body)[0]))


def _date(body: bytes) -> Scalar:
    moment = _EPOCH + dt.timedelta(seconds=struct.unpack(">d", body)[0])
    return Scalar("date", moment.isoformat() + "Z")


_NAMED = {0x0: Scalar("null", "null"), 0x8: Scalar("bool", "false"), 0x9: Scalar("bool", "true")}
_VALUES: dict[int, Callable[[bytes], Scalar]] = {
    0x1: lambda body: Scalar("number", str(int.from_bytes(body, "big", signed=len(body) >= 8))),
    0x2: _real,
    0x3: _date,
    0x8: lambda body: Scalar("number", str(int.from_bytes(body, "big"))),
}


def _object(value: Scalar, old: bytes) -> bytes:
    """The bytes of a value, of the old one's sort where that can hold it."""
    raw = value.raw
    match value.kind:
        case "bool":
            return b"\x09" if raw == "true" else b"\x08"
        case "number":
            return _number(raw, old)
        case "date":
            return b"\x33" + struct.pack(">d", (_moment(raw) - _EPOCH).total_seconds())
        case "data":
            return _data(raw)
        case "text":
            return _text(raw)
    raise FileError("a property list has no null: leave the key out instead")


def _data(raw: str) -> bytes:
    try:
        content = base64.b64decode(raw, validate=True)
    except ValueError as fault:  # of signs beyond ASCII as well
        raise FileError(f"{raw[:40]!r} is no base64") from fault
    return _marker(0x4, len(content)) + content


def _text(raw: str) -> bytes:
    if raw.isascii():
        return _marker(0x5, len(raw)) + raw.encode()
    try:
        content = raw.encode("utf-16-be")
    except UnicodeEncodeError as fault:
        raise FileError(f"{raw[:40]!r} holds half of a character") from fault
    return _marker(0x6, len(content) // 2) + content


def _number(raw: str, old: bytes) -> bytes:
    sort = old[0] >> 4 if old else -1
    try:
        whole = int(raw)
    except ValueError:
        return _real_bytes(float(raw), old)
    if sort == 0x2:
        return _real_bytes(float(raw), old)
    if sort == 0x8 and 0 <= whole < 1 << 8 * (len(old) - 1):
        return old[:1] + whole.to_bytes(len(old) - 1, "big")
    return _whole_bytes(whole)


def _real_bytes(number: float, old: bytes) -> bytes:
    """In four bytes where the old one had them and they hold it exactly."""
    short = len(old) == 5 and old[0] >> 4 == 0x2 and struct.unpack(">f", struct.pack(">f", number))[0] == number
    return b"\x22" + struct.pack(">f", number) if short else b"\x23" + struct.pack(">d", number)


def _whole_bytes(whole: int) -> bytes:
    """In the fewest bytes; below nothing eight, from 2^63 on sixteen."""
    if -(1 << 63) <= whole < 0:
        return b"\x13" + whole.to_bytes(8, "big", signed=True)
    power = next((power for power, bits in enumerate((8, 16, 32, 63)) if 0 <= whole < 1 << bits), None)
    if power is not None:
        return bytes([0x10 | power]) + whole.to_bytes(1 << power, "big")
    if 0 <= whole < 1 << 64:
        return b"\x14" + whole.to_bytes(16, "big", signed=True)
    raise FileError(f"{whole} is too large a number for a property list")


def _moment(raw: str) -> dt.datetime:
    try:
        return dt.datetime.fromisoformat(raw.removesuffix("Z"))
    except ValueError as fault:
        raise FileError(f"{raw!r} is no date: expected 2026-03-03T07:12:09Z") from fault
