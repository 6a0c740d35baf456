"""The catalogue of settings: what can be chosen on a seat, and how each value is read and shown."""

import difflib
import math
import tomllib
from collections.abc import Iterable
from enum import StrEnum
from fractions import Fraction
from functools import cached_property, lru_cache
from importlib import resources

import msgspec

from ..base.errors import NormantError, QuantityError
from ..base.quantities import LARGEST, Dimension, Number, Plain, Value, Version, parse_quantity, show, tidy


class Kind(StrEnum):
    """What sort of value a setting holds."""

    BYTES = "bytes"
    SECONDS = "seconds"
    FRACTION = "fraction"
    RATE = "rate"
    INT = "int"
    BOOL = "bool"
    ENUM = "enum"
    TEXT = "text"
    PATH = "path"
    VERSION = "version"


_DIMENSIONS = {
    Kind.BYTES: Dimension.BYTES,
    Kind.SECONDS: Dimension.SECONDS,
    Kind.FRACTION: Dimension.NUMBER,
    Kind.RATE: Dimension.RATE,
    Kind.INT: Dimension.NUMBER,
    Kind.BOOL: Dimension.BOOLEAN,
    Kind.ENUM: Dimension.TEXT,
    Kind.TEXT: Dimension.TEXT,
    Kind.PATH: Dimension.TEXT,
    Kind.VERSION: Dimension.VERSION,
}


TRUTHS = {"true": True, "yes": True, "on": True, "1": True, "false": False, "no": False, "off": False, "0": False}


class ValueFault(NormantError):
    """A value that a setting cannot hold; `expected` says what it can."""

    def __init__(self, key: str, value: object, expected: str) -> None:
        super().__init__(f"{key} cannot be {value!r}: expected {expected}")
        self.key, self.value, self.expected = key, value, expected


class Setting(msgspec.Struct, frozen=True, forbid_unknown_fields=True, dict=True):
    """One entry of the catalogue; `open` enumerations take names that a maker invents, `never` no order sets."""

    title: str
    help: str
    kind: Kind
    key: str = ""
    family: str = ""
    unit: str = ""
    values: tuple[str, ...] = ()
    open: bool = False
    scope: str = "app"
    restart: str = "app"
    remote: bool = True
    picture_risk: str = "none"
    effect: int = 0
    danger: str = ""
    never: tuple[str, ...] = ()
    empty: str = ""

    @cached_property
    def dimension(self) -> Dimension:
        """What its values measure."""
        return _DIMENSIONS[self.kind]

    @property
    def ordered(self) -> bool:
        """Whether more and less mean something, so that a distance has a direction."""
        return self.kind in (Kind.BYTES, Kind.SECONDS, Kind.FRACTION, Kind.RATE, Kind.INT, Kind.VERSION)

    def parse(self, raw: object) -> Value:
        """The canonical value of what a survey, a rule or a person wrote. Raises ValueFault."""
        if raw is None:
            if self.empty:
                return math.inf
            raise ValueFault(self.key, raw, f"a value: {self.key} has no meaning for nothing")
        try:
            return self._parse(raw)
        except QuantityError as fault:
            raise ValueFault(self.key, raw, fault.expected) from fault

    def typed(self, words: str) -> Value:
        """The canonical value of what a person typed: `on`, `no limit`; 6.4 GiB is no whole number of bytes and is
        rounded up. Raises ValueFault."""
        word = words.strip()
        if self.kind is Kind.BOOL:
            return self.parse(TRUTHS.get(word.lower(), word))
        if self.empty and word.lower() in ("none", "null", self.empty):
            return math.inf
        if self.kind is not Kind.BYTES:
            return self.parse(word)
        try:
            return math.ceil(parse_quantity(word, self.dimension, unit=self.unit))
        except QuantityError as fault:
            raise ValueFault(self.key, word, fault.expected) from fault

    def _parse(self, raw: object) -> Value:
        if self.kind is Kind.BOOL:
            if not isinstance(raw, bool):
                raise ValueFault(self.key, raw, "true or false")
            return raw
        if self.kind in (Kind.ENUM, Kind.TEXT, Kind.PATH, Kind.VERSION):
            return self._text(raw)
        return self._number(raw)

    def _text(self, raw: object) -> str:
        if not isinstance(raw, str):
            raise ValueFault(self.key, raw, str(self.dimension))
        if self.kind is Kind.ENUM and not self.open and raw not in self.values:
            raise ValueFault(self.key, raw, "one of " + ", ".join(self.values))
        if self.kind is Kind.VERSION:
            Version.parse(raw)
        return raw

    def _number(self, raw: object) -> Number:
        value = self._value_of(raw)
        if value < 0 or (self.kind in (Kind.INT, Kind.BYTES) and isinstance(value, Fraction)):
            raise ValueFault(self.key, raw, f"a whole number of {self.unit or 'them'}, zero or more")
        if value > LARGEST:
            raise ValueFault(self.key, raw, f"at most {LARGEST} {self.unit}".strip())
        return value

    def _value_of(self, raw: object) -> Number:
        if isinstance(raw, str):
            return _quantity(raw, self.dimension, self.unit)
        if isinstance(raw, int | Fraction | float) and not isinstance(raw, bool) and -LARGEST <= raw <= LARGEST:
            return raw if isinstance(raw, int) else tidy(Fraction(raw))
        # Nor is what is no number at all (nan) within these bounds.
        raise ValueFault(self.key, raw, f"{self.dimension} as a number, or text with a unit")

    def plain(self, value: Value) -> Plain:
        """The canonical value as JSON holds it: `null` for no limit, fractions as text."""
        if isinstance(value, Fraction):
            return str(value) if self.kind in (Kind.FRACTION, Kind.RATE) else float(value)
        if value == math.inf:
            return None
        return str(value) if self.kind is Kind.FRACTION and not isinstance(value, str) else value

    def show(self, value: Value) -> str:
        """The canonical value for people."""
        return show(value, self.dimension, unit=self.unit)


@lru_cache(maxsize=8192)
def _quantity(raw: str, dimension: Dimension, unit: str) -> Number:
    return parse_quantity(raw, dimension, unit=unit)


class Catalogue:
    """The settings by key, in the order of the document, and the families' titles in theirs."""

    def __init__(self, families: dict[str, str], settings: dict[str, Setting]) -> None:
        self.families, self.settings = families, settings

    def __getitem__(self, key: str) -> Setting:
        return self.settings[key]

    def __contains__(self, key: object) -> bool:
        return key in self.settings

    def __iter__(self) -> Iterable[str]:
        return iter(self.settings)

    def nearest(self, key: str) -> list[str]:
        """Known keys that somebody may have meant by `key`."""
        return nearest(key, self.settings)


def nearest(word: str, known: Iterable[str]) -> list[str]:
    """At most three known words that look like `word`, best first."""
    return difflib.get_close_matches(word, list(known), n=3, cutoff=0.6)


@lru_cache(maxsize=1)
def catalogue() -> Catalogue:
    """The catalogue that ships with core."""
    text = resources.files(__package__).joinpath("catalogue.toml").read_text("utf-8")
    document = tomllib.loads(text)
    settings = {
        key: msgspec.convert({"key": key, "family": key.split(".")[0], **entry}, Setting)
        for key, entry in document["settings"].items()
    }
    return Catalogue(document["families"], settings)
