"""Generate the outermost values of a message: the largest, the smallest and the most numerous that its shape allows."""

import datetime as dt
import types
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal, Union, get_args, get_origin

import msgspec

from normant_core.base.quantities import LARGEST_TOLD

LONGEST_TEXT = 200_000  # characters, where the shape has no limit
DEEPEST = 7  # levels; optional fields below are left out
SAMPLES = {"^[0-9a-f]{64}$": "ab" * 32, "^([0-9a-f]{64})?$": "ab" * 32, r"^[0-9]{1,12}(/[0-9]{1,12})?$": "25/1"}
# The ends of the calendar; the latter two are beyond it once they are converted to UTC.
LATEST, EARLIEST = "9999-12-31T23:59:59.999999Z", "0001-01-01T00:00:00Z"
BEYOND, BEFORE = "9999-12-31T23:59:59-23:59", "0001-01-01T00:00:00+23:59"


@dataclass(frozen=True, slots=True)
class Manner:
    """How a message goes to the limit. `lists` is the number of items of a list by its depth, the last one for all that
    are deeper; `letter` what texts are made of, `length` how many of it at most. `known` are values of fields that only
    make sense as they are, by the name of the field."""

    name: str
    lists: tuple[int, ...]
    letter: str
    length: int = LONGEST_TEXT
    is_small: bool = False
    moment: str = LATEST
    known: Mapping[str, Any] = field(default_factory=dict)

    def value(self, kind: Any) -> Any:
        """A value of a type, as JSON has it."""
        return _Writer(self).value(kind, (), 0)


LARGEST = Manner("largest", (3,), "x", 40)
SMALLEST = Manner("smallest", (0,), "", 0, is_small=True, moment=EARLIEST)
WIDEST = Manner("widest", (500, 1), "\N{POUTING FACE}", 600)
DEEPEST_LISTS = Manner("deepest", (1, 4000, 40, 2), "=", 300, moment=BEYOND)
NUL = Manner("nul", (1,), "\0", 4, moment=BEFORE)


class _Writer:
    def __init__(self, manner: Manner) -> None:
        self.manner = manner

    def value(self, kind: Any, bounds: tuple[msgspec.Meta, ...], depth: int) -> Any:
        origin, parts = get_origin(kind), get_args(kind)
        if origin is Annotated:
            more = tuple(part for part in parts[1:] if isinstance(part, msgspec.Meta))
            return self.value(parts[0], (*bounds, *more), depth)
        if origin in (Union, types.UnionType):
            if type(None) in parts and self.manner.is_small and depth > 1:
                return None
            return self.value(next(part for part in parts if part is not type(None)), bounds, depth)
        if origin is Literal:
            return (min if self.manner.is_small else max)(parts, key=str)
        if origin is tuple:
            own = len(parts) != 2 or parts[1] is not ...
            items = len(parts) if own else self._items(bounds, depth)
            return [self.value(parts[0], (), depth + 1) for _ in range(items)]
        if origin is dict:
            names = (self.value(parts[0], (), depth + 1) for _ in range(self._items(bounds, depth)))
            return {_renamed(name, n): self.value(parts[1], (), depth + 1) for n, name in enumerate(names)}
        return self._plain(kind, bounds, depth)

    def _plain(self, kind: Any, bounds: tuple[msgspec.Meta, ...], depth: int) -> Any:
        small = self.manner.is_small
        if isinstance(kind, type) and issubclass(kind, msgspec.Struct):
            return self._struct(kind, depth)
        if kind is bool:
            return not small
        if kind is int:
            least, most = _bound(bounds, "ge", -LARGEST_TOLD), _bound(bounds, "le", LARGEST_TOLD)
            return least if small else most
        if kind is float:
            least = _bound(bounds, "ge", 5e-324 if _bound(bounds, "gt", None) is not None else -1e300)
            return least if small else _bound(bounds, "le", 1e300)
        if kind is dt.datetime:
            return self.manner.moment
        if kind is dt.date:
            return "0001-01-01" if small else "9999-12-31"
        if kind is bytes:
            return "" if small else "AAAA"
        if kind is str:
            return self._text(bounds)
        raise TypeError(f"no outermost value is known for {kind}")

    def _struct(self, kind: type[msgspec.Struct], depth: int) -> dict[str, Any]:
        config = kind.__struct_config__
        value = {config.tag_field: config.tag} if config.tag_field else {}
        for known in msgspec.structs.fields(kind):
            if known.name in self.manner.known:
                value[known.encode_name] = self.manner.known[known.name]
            elif depth < DEEPEST or known.required:
                value[known.encode_name] = self.value(known.type, (), depth + 1)
        return value

    def _text(self, bounds: tuple[msgspec.Meta, ...]) -> str:
        if pattern := _bound(bounds, "pattern", None):
            return SAMPLES[pattern]
        least, most = _bound(bounds, "min_length", 0), _bound(bounds, "max_length", LONGEST_TEXT)
        if self.manner.is_small:
            return "x" * least
        return self.manner.letter * min(most, max(self.manner.length, least))

    def _items(self, bounds: tuple[msgspec.Meta, ...], depth: int) -> int:
        lists = self.manner.lists
        wanted = lists[min(max(depth - 1, 0), len(lists) - 1)]
        return int(max(_bound(bounds, "min_length", 0), min(wanted, _bound(bounds, "max_length", wanted))))


def _bound(bounds: tuple[msgspec.Meta, ...], name: str, otherwise: Any) -> Any:
    return next((value for bound in bounds if (value := getattr(bound, name)) is not None), otherwise)


def _renamed(name: str, number: int) -> str:
    """Names of one object differ."""
    return f"{number}{name}"[: max(len(name), len(str(number)))]
