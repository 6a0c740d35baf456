"""Names and types of an expression, against the catalogue and the shape of facts, before anything is judged."""

from collections.abc import Callable, Mapping
from typing import Any

import msgspec
from msgspec.structs import replace

from ..base.errors import QuantityError
from ..base.quantities import Dimension, Version, parse_quantity
from ..catalogue.settings import Kind, Setting, catalogue, nearest
from ..seat.facts import Application, Facts, FactType, ListOf, Record, Seat, Volume, record_of
from ..seat.survey import Store
from . import syntax
from .parser import ExpressionError, TooLarge
from .phrases import phrasebook

LIMIT_NODES = 4_000  # of one expression, its groups unfolded

_FACTS = record_of(Facts, "facts")
_SEAT = record_of(Seat, "seat")
_VOLUME = record_of(Volume, "volume")
_APP = record_of(Application, "app")
_STORE = record_of(Store, "store", leaving=("oldest", "unused_for", "productions", "projects"))
_STORES = ListOf(_STORE)
_EVERYWHERE: dict[str, FactType] = {"seat": _SEAT, "stores": _STORES}
TAKEN = frozenset({"reading", "app", "volume", "seat", "stores", "item", "setting", *_FACTS.fields})
_NUMERIC = {
    Dimension.BYTES,
    Dimension.BYTE_RATE,
    Dimension.SECONDS,
    Dimension.NUMBER,
    Dimension.SHARE,
    Dimension.RATE,
}
_PURE = {Dimension.NUMBER, Dimension.SHARE}
Typed = tuple[syntax.Node, FactType]


class Word(msgspec.Struct, frozen=True):
    """What a standard itself gives a name: a constant, or a group of seats, as it is written and as it is meant.

    `rests_on` are the other words in it, and those in them.
    """

    text: str
    node: syntax.Node
    kind: FactType
    size: int = 1  # in nodes, unfolded
    rests_on: frozenset[str] = frozenset()


class Checker:
    """Resolves the names of one expression; `setting` is what the rule judges, None for a layer's condition.

    `words` are the standard's own; those that were met are kept in `met`, with their texts.
    """

    def __init__(self, setting: Setting | None = None, words: Mapping[str, Word] | None = None) -> None:
        self.setting = setting
        self.words = words or {}
        self.met: dict[str, str] = {}
        self.size = 0  # nodes that words added so far
        self.item: Record | Dimension | None = None

    @property
    def spoken_of(self) -> frozenset[str]:
        """The words that were met, and those that they rest on."""
        return frozenset(self.met).union(*(self.words[name].rests_on for name in self.met))

    def boolean(self, node: syntax.Node) -> syntax.Node:
        """The checked node of a condition. Raises ExpressionError."""
        checked, kind = self.check(node)
        if kind is not Dimension.BOOLEAN:
            raise ExpressionError(f"this gives {_kind_shown(kind)}", node.start, "a condition: true or false")
        return checked

    def value(self, node: syntax.Node, wanted: Dimension) -> syntax.Node:
        """The checked node of a value of that dimension. Raises ExpressionError."""
        checked, kind = self.check(node)
        checked = _fitted(checked, kind, wanted)
        if not _same(_dimension(checked, kind), wanted):
            raise ExpressionError(f"this is {_kind_shown(kind)}", node.start, f"{wanted}, as the setting holds")
        return checked

    def check(self, node: syntax.Node) -> Typed:
        """The node with its names resolved, and what it gives."""
        return _OF[type(node)](self, node)

    def _literal(self, node: syntax.Literal) -> Typed:
        return node, node.dimension

    def _share(self, node: syntax.Share) -> Typed:
        inner, kind = self._number(node.of)
        return replace(node, of=inner), kind

    def _logic(self, node: syntax.Logic) -> Typed:
        return replace(node, parts=tuple(map(self.boolean, node.parts))), Dimension.BOOLEAN

    def _not(self, node: syntax.Not) -> Typed:
        return replace(node, part=self.boolean(node.part)), Dimension.BOOLEAN

    def _name(self, node: syntax.Name) -> Typed:
        head = node.path[0]
        if len(node.path) == 1 and head in self.words and not self._of_item(head):
            return self._word(node, head)
        known = self._root(node.path)
        if known is None:
            raise _unknown(head, [*self._names()], node)
        root, record, path = known
        kind = _descend(record, path, node)
        dimension = kind if isinstance(kind, Dimension) else None
        return replace(node, root=root, path=path, dimension=dimension), kind

    def _of_item(self, head: str) -> bool:
        return isinstance(self.item, Record) and head in self.item.fields

    def _word(self, node: syntax.Name, name: str) -> Typed:
        word = self.words[name]
        self.met[name] = word.text
        self.size += word.size
        if self.size > LIMIT_NODES:
            raise TooLarge(
                f"{name} makes this too large", node.start, f"at most {LIMIT_NODES:,} parts, groups unfolded"
            )
        if isinstance(word.node, syntax.Literal | syntax.Several):
            return replace(word.node, start=node.start, end=node.end), word.kind
        return syntax.Named(node.start, node.end, name, word.node), word.kind

    def _root(self, path: tuple[str, ...]) -> tuple[str, FactType, tuple[str, ...]] | None:
        """Where a name begins, the record there, and the path that leads on; None where nobody is called so.

        Inside a list's condition the fields of its items come first, then what a rule sees, then the facts.
        """
        head, rest = path[0], path[1:]
        if self._of_item(head):
            assert self.item
            return "item", self.item, path
        if isinstance(self.item, Dimension) and path == ("item",):
            return "item", self.item, ()
        known = self._of_rule().get(head) or _EVERYWHERE.get(head)
        if known:
            return head, known, rest
        return ("facts", _FACTS, path) if head in _FACTS.fields else None

    def _of_rule(self) -> dict[str, FactType]:
        """What only the rules of a setting see."""
        if self.setting is None:
            return {}
        volume: dict[str, FactType] = {"volume": _VOLUME} if self.setting.kind is Kind.PATH else {}
        return {"reading": self.setting.dimension, "app": _APP, **volume}

    def _names(self) -> list[str]:
        own = ["reading", "app"] if self.setting else []
        volume = ["volume"] if self.setting and self.setting.kind is Kind.PATH else []
        inner = list(self.item.fields) if isinstance(self.item, Record) else []
        return [*inner, *own, *volume, *self.words, "seat", "stores", *_FACTS.fields]

    def _setting(self, node: syntax.SettingOf) -> Typed:
        known = catalogue()
        if node.key not in known:
            raise _unknown(node.key, known.settings, node, what="setting")
        dimension = known[node.key].dimension
        return replace(node, dimension=dimension), dimension

    def _number(self, node: syntax.Node) -> tuple[syntax.Node, Dimension]:
        checked, kind = self.check(node)
        if not isinstance(kind, Dimension) or kind not in _NUMERIC:
            raise ExpressionError(f"this is {_kind_shown(kind)}", node.start, "a number or a quantity")
        return checked, kind

    def _arithmetic(self, node: syntax.Arithmetic) -> Typed:
        (left, first), (right, two) = self._number(node.left), self._number(node.right)
        kind, expected = _kind_of_result(node.sign, first, two)
        if kind is None:
            raise ExpressionError(f"{first} {node.sign} {two} has no meaning", node.start, expected)
        return replace(node, left=left, right=right), kind

    def _compare(self, node: syntax.Compare) -> Typed:
        left, first = self.check(node.left)
        right, two = self.check(node.right)
        if node.sign in ("in", "not in"):
            return _among(replace(node, left=left, right=right), first, two), Dimension.BOOLEAN
        left, right = _fitted(left, first, two), _fitted(right, two, first)
        first, two = _dimension(left, first), _dimension(right, two)
        _need_same(first, two, node)
        if node.sign not in ("==", "!=") and first not in {*_NUMERIC, Dimension.VERSION}:
            raise ExpressionError(f"{_kind_shown(first)} has no more or less", node.start, "== or !=")
        return replace(node, left=left, right=right), Dimension.BOOLEAN

    def _call(self, node: syntax.Call) -> Typed:
        checked = [self._number(argument) for argument in node.arguments]
        first = checked[0][1]
        for argument, (_, kind) in zip(node.arguments, checked, strict=True):
            if not _same(first, kind):
                raise ExpressionError(f"{node.name} of {first} and {kind}", argument.start, str(first))
        return replace(node, arguments=tuple(inner for inner, _ in checked)), first

    def _over(self, node: syntax.Over) -> Typed:
        items, kind = self.check(node.items)
        if not isinstance(kind, ListOf):
            raise ExpressionError(f"{_kind_shown(kind)} is no list", node.items.start, "a list such as gpus or volumes")
        if self.item is not None:
            raise ExpressionError("a list inside a list", node.start, "one list at a time")
        self.item = kind.item
        try:
            condition = self.boolean(node.condition)
        finally:
            self.item = None
        gives: FactType = {"count": Dimension.NUMBER, "first": kind.item}.get(node.name, Dimension.BOOLEAN)
        return replace(node, items=items, condition=condition), gives

    def _field(self, node: syntax.Field) -> Typed:
        inner, kind = self.check(node.of)
        field_type = _descend(kind, node.path, node)
        dimension = field_type if isinstance(field_type, Dimension) else None
        return replace(node, of=inner, dimension=dimension), field_type

    def _several(self, node: syntax.Several) -> Typed:
        items = node.items
        if not items:
            raise ExpressionError("an empty list holds nothing", node.start, "at least one value")
        checked = [self.check(item) for item in items]
        kind = checked[0][1]
        for item, (_, other) in zip(items, checked, strict=True):
            _need_same(kind, other, item)
        assert not isinstance(kind, ListOf)
        return replace(node, items=tuple(inner for inner, _ in checked)), ListOf(kind)


_OF: dict[type[syntax.Node], Callable[[Checker, Any], Typed]] = {
    syntax.Literal: Checker._literal,
    syntax.Name: Checker._name,
    syntax.SettingOf: Checker._setting,
    syntax.Share: Checker._share,
    syntax.Arithmetic: Checker._arithmetic,
    syntax.Compare: Checker._compare,
    syntax.Logic: Checker._logic,
    syntax.Not: Checker._not,
    syntax.Call: Checker._call,
    syntax.Over: Checker._over,
    syntax.Field: Checker._field,
    syntax.Several: Checker._several,
}


def _descend(kind: FactType, path: tuple[str, ...], node: syntax.Node) -> FactType:
    for part in path:
        if not isinstance(kind, Record):
            raise ExpressionError(f"{_kind_shown(kind)} has no {part!r} inside", node.start)
        if part not in kind.fields:
            raise _unknown(part, kind.fields, node, what=f"field of {kind.name}")
        kind = kind.fields[part]
    return kind


_OFFERED = 8  # names that a message offers where few are similar


def _unknown(
    word: str, known: Mapping[str, object] | list[str], node: syntax.Node, *, what: str = "name"
) -> ExpressionError:
    near = nearest(word, known)
    if len(near) < 2:
        near = [*near, *(name for name in sorted(known) if name not in near)][:_OFFERED]
    return ExpressionError(f"unknown {what} {word!r}", node.start, "one of " + ", ".join(near))


def _among(node: syntax.Compare, item: FactType, items: FactType) -> syntax.Compare:
    """A test whether something is in a list, its literals of the item's kind. Raises ExpressionError."""
    if not isinstance(items, ListOf):
        raise ExpressionError(f"{_kind_shown(items)} holds nothing to look in", node.right.start, "a list")
    right = node.right
    if isinstance(right, syntax.Several) and isinstance(item, Dimension):
        right = replace(right, items=tuple(_fitted(part, items.item, item) for part in right.items))
    _need_same(item, items.item, node)
    return replace(node, right=right)


def _kind_of_result(sign: str, first: Dimension, two: Dimension) -> tuple[Dimension | None, str]:
    """What two kinds make by a sign; None, with what was expected, where that has no meaning."""
    if sign in "+-":
        return (first if _same(first, two) else None), "two of one kind"
    if two in _PURE:
        return first, ""
    if sign == "*" and first in _PURE:
        return two, ""
    return (Dimension.NUMBER if sign == "/" and first is two else None), "a plain number on one side"


def _fitted(node: syntax.Node, kind: FactType, wanted: FactType) -> syntax.Node:
    """A text literal beside a version or a rate is one: '31.4.2' is compared as a version."""
    if not isinstance(node, syntax.Literal) or not isinstance(node.value, str) or kind is not Dimension.TEXT:
        return node
    try:
        return _read_as(node, node.value, wanted)
    except QuantityError as fault:
        raise ExpressionError(f"{node.value!r} cannot be read", node.start, fault.expected) from fault


def _read_as(node: syntax.Literal, text: str, wanted: FactType) -> syntax.Literal:
    if wanted is Dimension.VERSION:
        return replace(node, value=Version.parse(text), dimension=Dimension.VERSION)
    if isinstance(wanted, Dimension) and wanted in _NUMERIC:
        return replace(node, value=parse_quantity(text, wanted), dimension=wanted)
    return node


def _dimension(node: syntax.Node, kind: FactType) -> FactType:
    return node.dimension if isinstance(node, syntax.Literal) else kind


def _same(first: FactType, two: FactType) -> bool:
    return first is two or (first in _PURE and two in _PURE)


def _need_same(first: FactType, two: FactType, node: syntax.Node) -> None:
    if not isinstance(first, Dimension) or not isinstance(two, Dimension) or not _same(first, two):
        message = f"{_kind_shown(first)} is compared with {_kind_shown(two)}"
        raise ExpressionError(message, node.start, "two of one kind")


def _kind_shown(kind: FactType) -> str:
    if isinstance(kind, Record):
        return f"a {kind.name} as a whole"
    return f"a list of {_kind_shown(kind.item)}" if isinstance(kind, ListOf) else str(kind)


def known_names() -> list[str]:
    """Every dotted name that an expression can say, for whoever completes what is typed."""
    roots = {"": _FACTS, "seat": _SEAT, "app": _APP, "volume": _VOLUME}
    names = [name for root, record in roots.items() for name in _names_in(record, root)]
    return ["reading", "stores", *names]


def fact_titles() -> dict[str, str]:
    """Return a title for each name of `known_names` that the phrasebook has: `{"memory.total": "installed memory"}`.

    Names of a single volume or application say so: `volume: free space`.
    """
    titles = dict[str, str]()
    for name in known_names():
        root, _, field = name.partition(".")
        record = root if root in ("seat", "app", "volume") and field else "facts"
        phrase = phrasebook()[record].get(name if record == "facts" else field)
        if phrase and phrase.noun:
            prefix = {"app": "application: ", "volume": "volume: "}.get(record, "")
            titles[name] = prefix + phrase.noun
    return titles


def _names_in(kind: FactType, path: str) -> list[str]:
    if not isinstance(kind, Record):
        return [path] if path else []
    return [
        name for field, inner in kind.fields.items() for name in _names_in(inner, f"{path}.{field}" if path else field)
    ]
