"""What a rule reads of a seat: the inputs that its outcome follows from, and nothing besides.

Two seats with the same inputs stand the same. So an input keeps only what a rule can tell apart: a number that is
compared with constants alone matters by where it lies between them, a name by whether it is one of those asked for.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import msgspec

from ..base.quantities import Dimension, Value, Version
from ..rules import syntax
from ..seat.facts import Facts, Seat, Volume, volume_under
from ..seat.survey import Key, Store, Unreadable
from ..standard.rule import Layer, Rule

Cuts = tuple[int | Fraction, ...]
Among = frozenset[str]
Grain = Cuts | Among | None  # how finely a value is told apart; None: exactly
Path = tuple[str, ...]
_WHOLE = (Dimension.BYTES, Dimension.BYTE_RATE, Dimension.NUMBER)
_OTHER = object()  # a text that no rule asks for


class OfReading(msgspec.Struct, frozen=True):
    """A reading, exactly."""

    key: Key


class OfFacts(msgspec.Struct, frozen=True):
    """A part of the facts, or of the register where `root` is seat."""

    root: str
    path: Path
    grain: Grain


class OfList(msgspec.Struct, frozen=True):
    """What is read of each item of a list of the facts, or of the stores where `root` is that."""

    root: str
    path: Path
    fields: tuple[tuple[Path, Grain], ...]


class OfApp(msgspec.Struct, frozen=True):
    """A part of an installed application; an empty path: whether it is installed."""

    app: str
    path: Path


class OfVolume(msgspec.Struct, frozen=True):
    """A part of the volume that a path is on."""

    key: Key
    path: Path
    grain: Grain


class OfFailure(msgspec.Struct, frozen=True):
    """Whether the survey told that it could not take this reading."""

    key: Key


Input = OfReading | OfFacts | OfList | OfApp | OfVolume | OfFailure


@dataclass(slots=True)
class Row:
    """One seat, as inputs are taken from it."""

    seat: Seat
    facts: Facts
    errors: tuple[Unreadable, ...]
    stores: tuple[Store, ...] = ()
    mounts: list[tuple[str, Volume]] = field(init=False)

    def __post_init__(self) -> None:
        self.mounts = self.facts.mounts()


def _of_application(app: str | None, rules: Sequence[Rule]) -> list[Input]:
    """That an application is there, and its version where rules are for some of them."""
    if app is None:
        return []
    return [OfApp(app, ()), *([OfApp(app, ("version",))] if any(rule.versions for rule in rules) else [])]


def inputs_of(rules: Iterable[Rule], layers: tuple[Layer, ...], key: Key) -> tuple[Input, ...]:
    """Everything that the outcome of this reading follows from under these rules."""
    app, grains = key[1], dict[tuple[Any, ...], Grain]()
    rules = list(rules)
    fixed: dict[Input, None] = dict.fromkeys([OfReading(key), OfFailure(key), *_of_application(app, rules)])
    for rule in rules:
        for name, grain in _reads_of(rule, layers[rule.layer]):
            whole = _whole(name, app)
            if whole is None:
                grains[name] = _both(grains[name], grain) if name in grains else grain
            else:
                fixed.update(dict.fromkeys(whole))
    return (*fixed, *_grained(grains, key))


def _reads_of(rule: Rule, layer: Layer) -> Iterator[tuple[tuple[Any, ...], Grain]]:
    """What a rule reads, and the layer that it stands in."""
    conditions = [part.node for part in (layer.condition, rule.when) if part]
    for node in (rule.test, *conditions):
        yield from _reads(node)


def _whole(name: tuple[Any, ...], app: str | None) -> list[Input] | None:
    """The inputs of what is read as it is, whatever it is compared with; None where it is told apart by a grain."""
    match name:
        case ("setting", setting):
            return [OfReading((setting, app)), OfReading((setting, None))]
        case ("app", path):
            return [OfApp(app, path)] if app else []
        case ("reading", _):
            return []
    return None


def _grained(grains: dict[tuple[Any, ...], Grain], key: Key) -> Iterator[Input]:
    lists: dict[Path, list[tuple[Path, Grain]]] = {}
    for (root, *rest), grain in sorted(grains.items(), key=lambda item: str(item[0])):
        match root:
            case "list":
                path, field = rest
                lists.setdefault(path, []).append((field, grain))
            case "volume":
                yield OfVolume(key, rest[0], grain)
            case _:
                yield OfFacts(root, rest[0], grain)
    for (root, *path), fields in lists.items():
        yield OfList(root, tuple(path), tuple(fields))


def _both(first: Grain, two: Grain) -> Grain:
    """The grain that tells apart whatever either does."""
    if isinstance(first, frozenset) and isinstance(two, frozenset):
        return first | two
    if isinstance(first, tuple) and isinstance(two, tuple):
        return tuple(sorted({*first, *two}))
    return None


def _reads(node: syntax.Node, of: Path | None = None) -> Iterator[tuple[tuple[Any, ...], Grain]]:
    """What a node reads, named, with the grain that this use needs; `of` is the list whose items it looks at."""
    match node:
        case syntax.Name(root="stores"):
            yield ("list", ("stores",), ()), None
        case syntax.Name():
            yield _named(node, of), None
        case syntax.SettingOf(key=key):
            yield ("setting", key), None
        case syntax.Over():
            yield from _reads_of_list(node)
        case syntax.Field(of=syntax.Over(items=syntax.Name(root=root, path=path)) as over, path=field):
            yield ("list", (root, *path), field), None
            yield from _reads(over)
        case syntax.Compare() if compared := _compared(node):
            yield _named(compared[0], of), compared[1]
        case _:
            for child in syntax.children(node):
                yield from _reads(child, of)


def _compared(node: syntax.Compare) -> tuple[syntax.Name, Grain] | None:
    """A name that is compared with constants, and how finely that has it read."""
    for name, other in ((node.left, node.right), (node.right, node.left)):
        grain = _grain(name, other)
        if isinstance(name, syntax.Name) and grain is not None:
            return name, grain
    return None


def _reads_of_list(over: syntax.Over) -> Iterator[tuple[tuple[Any, ...], Grain]]:
    if isinstance(over.items, syntax.Name):
        path = (over.items.root, *over.items.path)
        yield ("list", path, ()), None  # how many there are, and each of them where they are texts
        yield from _reads(over.condition, path)
    else:
        yield from _reads(over.items)
        yield from (read for read in _reads(over.condition, ()) if read[0][:2] != ("list", ()))


def _named(name: syntax.Name, of: Path | None) -> tuple[Any, ...]:
    return ("list", of, name.path) if name.root == "item" else (name.root, name.path)


def _grain(name: syntax.Node, other: syntax.Node) -> Grain:
    """How finely a name has to be read that is compared with constants; None: exactly."""
    values = _constants(other)
    if not isinstance(name, syntax.Name) or values is None or name.root == "reading":
        return None
    if name.dimension in _WHOLE:
        return tuple(sorted(v for v in set(values) if isinstance(v, int | Fraction)))
    return frozenset(map(str, values)) if name.dimension is Dimension.TEXT else None


def _constants(node: syntax.Node) -> list[Value | Version] | None:
    """The values of a constant, or of a list of nothing else; None for everything else."""
    parts = node.items if isinstance(node, syntax.Several) else (node,)
    values = [part.value for part in parts if isinstance(part, syntax.Literal)]
    return values if len(values) == len(parts) else None


Taken = Callable[[Row, Any], Hashable]


def taking(of: Input) -> Taken:
    """The function that takes an input from a seat; it is also given the reading of a path. None: not read."""
    match of:
        case OfReading():
            return lambda row, reading: reading
        case OfFacts(root="seat", path=path, grain=grain):
            return lambda row, _: _fine(_walk(row.seat, path), grain)
        case OfFacts(path=path, grain=grain):
            return lambda row, _: _fine(_walk(row.facts, path), grain)
        case OfList(root="stores", fields=fields):
            return lambda row, _: _items(row.stores, fields)
        case OfList(path=path, fields=fields):
            return lambda row, _: _items(_walk(row.facts, path), fields)
        case OfApp(app=app, path=path):
            return lambda row, _: _of_app(row.facts, app, path)
        case OfVolume():
            return lambda row, reading: _of_volume(row.mounts, reading, of)
        case OfFailure(key=key):
            return lambda row, _: _failed(row.errors, key)
    raise AssertionError(of)


def _walk(value: Any, path: Path) -> Any:
    for part in path:
        if value is None:
            return None
        value = getattr(value, part)
    return value


def _fine(value: Any, grain: Grain) -> Any:
    if value is None or grain is None:
        return value
    if isinstance(grain, frozenset):
        return value if value in grain else _OTHER
    return bisect_left(grain, value) + bisect_right(grain, value)


def _items(items: Any, fields: tuple[tuple[Path, Grain], ...]) -> Hashable:
    if items is None:
        return None
    # Of lists, which are made a third faster than what is yielded: this runs for every list of every seat.
    return tuple(
        [
            tuple([_fine(_walk(item, path), grain) if path else item_of(item) for path, grain in fields])
            for item in items
        ]
    )


def item_of(item: Any) -> Hashable:
    """An item as a whole: itself where it is a text, nothing of a record."""
    return item if isinstance(item, str) else None


def _of_app(facts: Facts, app: str, path: Path) -> Hashable:
    application = facts.application(app)
    if application is None:
        return None
    return _walk(application, path) if path else True


def _of_volume(mounts: list[tuple[str, Volume]], reading: Any, of: OfVolume) -> Hashable:
    return None if reading is None else part_of(volume_under(mounts, str(reading)), of)


def part_of(volume: Volume | None, of: OfVolume) -> Hashable:
    """What is read of a volume; None where the path is on none."""
    if volume is None:
        return None
    return _fine(_walk(volume, of.path), of.grain) if of.path else True


def _failed(errors: tuple[Unreadable, ...], key: Key) -> Hashable:
    return any(error.reading == key for error in errors) or None
