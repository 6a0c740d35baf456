"""Quantities with units: parsed once at the edge, exact inside, printed for people.

Inside, bytes and seconds are `int` or `Fraction`, fractions and frame rates are `Fraction`, a number of
something is `int`, versions are `Version`; `math.inf` stands for "no limit" where a setting has that.
"""

import math
import re
from dataclasses import dataclass, field
from decimal import Decimal
from enum import StrEnum
from fractions import Fraction
from functools import lru_cache, total_ordering

from .errors import QuantityError

Number = int | Fraction
Value = bool | int | float | Fraction | str | None
Plain = bool | int | float | str | None  # a value as JSON holds it


class Dimension(StrEnum):
    """What a value measures; its value is the word used in messages."""

    BYTES = "bytes"
    BYTE_RATE = "bytes per second"
    SECONDS = "seconds"
    NUMBER = "a number"
    SHARE = "a share"
    RATE = "frames per second"
    TEXT = "text"
    BOOLEAN = "true or false"
    VERSION = "a version"


UNITS: dict[str, tuple[Dimension, Number]] = {
    "B": (Dimension.BYTES, 1),
    **{f"{p}iB": (Dimension.BYTES, 1024**n) for n, p in enumerate("KMGTP", 1)},
    **{f"{p}B": (Dimension.BYTES, 1000**n) for n, p in enumerate("kMGTP", 1)},
    **{f"{p}B/s": (Dimension.BYTE_RATE, 1000**n) for n, p in enumerate(["", "k", "M", "G"])},
    "ms": (Dimension.SECONDS, Fraction(1, 1000)),
    "s": (Dimension.SECONDS, 1),
    "min": (Dimension.SECONDS, 60),
    "h": (Dimension.SECONDS, 3600),
    "d": (Dimension.SECONDS, 86400),
    "%": (Dimension.SHARE, Fraction(1, 100)),
    "fps": (Dimension.RATE, 1),
    "frames": (Dimension.NUMBER, 1),
    "bit": (Dimension.NUMBER, 1),
}
IEC = ("TiB", "GiB", "MiB", "KiB", "B")
SI = ("TB", "GB", "MB", "kB", "B")
_UNIT_EXAMPLES = {
    Dimension.BYTES: "GiB, MiB, GB or MB",
    Dimension.BYTE_RATE: "MB/s",
    Dimension.SECONDS: "s, min, h or d",
    Dimension.SHARE: "%",
    Dimension.RATE: "fps",
}
_NUMBER = re.compile(r"\d+(?:\.\d+)?")
_STROKE = re.compile(r"\s*/\s*(?=[\d.])")
_UNIT = re.compile(r"[A-Za-z%][A-Za-z/%]*")

LONGEST_NUMBER = 40  # characters
LARGEST = 2**62  # in base units: what every part of the product keeps exactly
LARGEST_TOLD = 2**53 - 1  # of what a seat tells: every reader of JSON keeps it exactly

# Frame rates are written rounded and meant as NTSC fractions (SMPTE ST 170: 30/1.001 and kin).
_NTSC = {"23.976": 24, "23.98": 24, "29.97": 30, "47.952": 48, "59.94": 60, "119.88": 120}


def parse_quantity(text: str, dimension: Dimension, *, unit: str = "") -> Number:
    """The exact value of `text` in base units (bytes, seconds, 1); `unit` is taken when none is written.

    Raises QuantityError with the position of the first character that does not fit.
    """
    value, written, end = scan_quantity(text, len(text) - len(text.lstrip()))
    if text[end:].strip():
        start = end + len(text[end:]) - len(text[end:].lstrip())
        raise QuantityError(text, start, f"the end after the {'unit' if written else 'number'}")
    if dimension is Dimension.RATE and text.strip() in _NTSC:
        return Fraction(_NTSC[text.strip()] * 1000, 1001)
    if not written:
        return tidy(value * UNITS[unit][1]) if unit else value
    return _measured(text, value, written, dimension)


def _measured(text: str, value: Number, written: str, dimension: Dimension) -> Number:
    measured, factor = UNITS[written]
    share_of_number = dimension is Dimension.NUMBER and measured is Dimension.SHARE
    if measured is not dimension and not share_of_number:
        examples = _UNIT_EXAMPLES.get(dimension, "no unit")
        raise QuantityError(text, text.index(written), f"{dimension}, written with {examples}")
    if value * factor > LARGEST:
        raise QuantityError(text, 0, f"at most {LARGEST} in base units")
    return tidy(value * factor)


def _scan_number(text: str, start: int, expected: str) -> tuple[Fraction, int]:
    match = _NUMBER.match(text, start)
    if not match or len(match.group()) > LONGEST_NUMBER:
        raise QuantityError(text, min(start, len(text)), expected)
    return Fraction(match.group()), match.end()


def scan_quantity(text: str, start: int) -> tuple[Number, str, int]:
    """Read `number [/ number] [unit]` from `start`: the number, the unit as written ("" for none), the end."""
    value, end = _scan_number(text, start, "a number of zero or more")
    if over := _STROKE.match(text, end):
        expected = "a number other than zero under the stroke"
        under, end = _scan_number(text, over.end(), expected)
        if not under:
            raise QuantityError(text, over.end(), expected)
        value /= under
    spaces = len(text[end:]) - len(text[end:].lstrip())
    named = _UNIT.match(text, end + spaces)
    if not named:
        return tidy(value), "", end
    if named.group() not in UNITS:
        known = "a unit such as KiB, MiB, GiB, TiB, MB, GB, TB, s, min, h, d or %"
        raise QuantityError(text, named.start(), known)
    return tidy(value), named.group(), named.end()


def tidy(value: Fraction | int) -> Number:
    """An int where the fraction is whole: ints compare several times faster."""
    return value.numerator if isinstance(value, Fraction) and value.denominator == 1 else value


def show(value: Value, dimension: Dimension, *, unit: str = "") -> str:
    """The value for people: `6.4 GiB`, `7 min`, `1/2`, `23.976`; rounded to three figures after the point."""
    if isinstance(value, str):
        return value
    if isinstance(value, bool | None) or value == math.inf:
        return _WORDS[value]
    return _show_measure(value, dimension, unit)


_WORDS: dict[object, str] = {None: "nothing", True: "true", False: "false", math.inf: "no limit"}


def _show_measure(value: int | float | Fraction, dimension: Dimension, unit: str) -> str:
    if dimension in _SCALES:
        units, places, behind = _SCALES[dimension]
        return _scaled(value, SI if unit in SI[:4] else units, places=places) + behind
    if dimension is Dimension.RATE:
        return _decimal(Fraction(value), 3)
    return _show_number(value, unit)


def _show_number(value: float | Fraction, unit: str) -> str:
    """A share in per cent where that is its unit, else as it is: a fraction as one."""
    if unit == "%":
        return f"{_decimal(Fraction(value) * 100, 1)} %"
    return f"{value.numerator}/{value.denominator}" if isinstance(value, Fraction) else _decimal(Fraction(value), 2)


_OF_TIME = ("d", "h", "min", "s")
# The units in which a dimension is shown, the figures after the point, and what stands behind.
_SCALES = {
    Dimension.BYTES: (IEC, 2, ""),
    Dimension.BYTE_RATE: (SI, 0, "/s"),
    Dimension.SECONDS: (_OF_TIME, 1, ""),
}
_EXACT = {Dimension.BYTES: ((*IEC, *SI), "B"), Dimension.SECONDS: (_OF_TIME, "s")}


def exact(value: Number, dimension: Dimension) -> str:
    """A text that `parse_quantity` reads back to the very same value."""
    if dimension in _EXACT:
        units, base = _EXACT[dimension]
        scaled = ((Fraction(value) / UNITS[unit][1], unit) for unit in units)
        # In the unit in which it is shortest, where three figures after the point say all of it.
        texts = [f"{_decimal(n, 3)} {unit}" for n, unit in scaled if n >= 1 and (n * 1000).denominator == 1]
        return min(texts, key=len, default=f"{Fraction(value)} {base}")
    shown = _decimal(Fraction(value), 3)
    written = dimension is Dimension.RATE and parse_quantity(shown, dimension) == value
    return shown if written else str(Fraction(value))


def _scaled(value: float | Fraction, units: tuple[str, ...], *, places: int) -> str:
    # 1 means "at least one of it": 0.5 GiB reads better as 512 MiB.
    unit = next((u for u in units if value >= UNITS[u][1]), units[-1])
    return f"{_decimal(Fraction(value) / UNITS[unit][1], places)} {unit}"


def _decimal(value: Fraction, places: int) -> str:
    rounded = round(Decimal(value.numerator) / Decimal(value.denominator), places)
    text = f"{rounded:f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


@total_ordering
@dataclass(frozen=True, slots=True)
class Version:
    """A version as makers write it: dotted numbers, then `-` and a pre-release, which comes before the release."""

    text: str
    key: tuple[object, ...] = field(repr=False, compare=False)

    @classmethod
    def parse(cls, text: str) -> "Version":
        """Raises QuantityError when the text does not begin with a number."""
        return _version(text)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Version) and self.key == other.key

    def __lt__(self, other: "Version") -> bool:
        return self.key < other.key

    def __hash__(self) -> int:
        return hash(self.key)

    def __str__(self) -> str:
        return self.text


_LONGEST_VERSION = 200  # characters


@lru_cache(maxsize=4096)
def _version(text: str) -> Version:
    match = re.fullmatch(r"v?(\d+(?:\.\d+)*)(?:[-+ ~.]?([A-Za-z][\w.\-]*))?", text.strip())
    if not match or len(text) > _LONGEST_VERSION:
        raise QuantityError(text, 0, "a version such as 31.4.2 or 9.0.0-rc1")
    numbers = [int(part) for part in match.group(1).split(".")]
    while len(numbers) > 1 and not numbers[-1]:
        numbers.pop()  # 9 and 9.0 are one version
    pre = _sortable(match.group(2) or "")
    return Version(text.strip(), (tuple(numbers), not pre, pre))


def _sortable(suffix: str) -> tuple[tuple[int, int, str], ...]:
    """What stands behind the numbers of a version: its numbers come before its words, `rc2` before `rc10`."""
    pieces = re.findall(r"\d+|[A-Za-z]+", suffix)
    return tuple((0, int(piece), "") if piece.isdigit() else (1, 0, piece.lower()) for piece in pieces)


@dataclass(frozen=True, slots=True)
class VersionRange:
    """`>=8,<9`: every part must hold."""

    text: str
    parts: tuple[tuple[str, Version], ...]

    @classmethod
    def parse(cls, text: str) -> "VersionRange":
        """Raises QuantityError at the first part that is not a comparison with a version."""
        parts, offset = [], 0
        for piece in text.split(","):
            match = re.fullmatch(r"\s*(>=|<=|==|>|<|=)?\s*(\S+)\s*", piece)
            if not match:
                raise QuantityError(text, offset, "comparisons such as >=8,<9")
            try:
                parts.append((match.group(1) or "==", Version.parse(match.group(2))))
            except QuantityError as fault:
                raise QuantityError(text, offset + match.start(2), fault.expected) from fault
            offset += len(piece) + 1
        return cls(text, tuple(parts))

    def holds(self, version: str) -> bool:
        """Whether the version lies within; a version that cannot be read lies outside."""
        try:
            seen = Version.parse(version)
        except QuantityError:
            return False
        return all(_holds(sign, seen, bound) for sign, bound in self.parts)


def _holds(sign: str, seen: Version, bound: Version) -> bool:
    return {
        ">=": seen >= bound,
        "<=": seen <= bound,
        ">": seen > bound,
        "<": seen < bound,
    }.get(sign, seen == bound)
