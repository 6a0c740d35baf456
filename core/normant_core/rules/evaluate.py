"""The plain meaning of a checked expression, step by step; what is missing stays missing.

Logic is Kleene's strong three-valued logic (S. C. Kleene, Introduction to Metamathematics, 1952, section 64): a
missing fact never decides, and never hides what another part decides.
"""

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import msgspec

from ..base.errors import QuantityError
from ..base.quantities import Dimension, Value, Version, show, tidy
from ..catalogue.settings import catalogue
from ..seat.facts import Application, Facts, Seat, Volume
from ..seat.survey import Key, Store
from . import syntax


class Missing(msgspec.Struct, frozen=True):
    """The result where something was not read; `what` names it."""

    what: str


@dataclass(slots=True)
class Scope:
    """What an expression may see of one seat, for one reading."""

    facts: Facts
    seat: Seat
    readings: Mapping[Key, Value]
    app_id: str | None = None
    app: Application | None = None
    reading: Value = None
    volume: Volume | None = None
    stores: tuple[Store, ...] | None = ()
    # What compiled rules found out about the seat as a whole, by the number of the expression.
    shared: dict[int, Any] = field(default_factory=dict)

    def setting(self, key: str) -> Value | Missing:
        """The reading of another setting: of the same application, else of the machine."""
        for place in ((key, self.app_id), (key, None)):
            if place in self.readings:
                return self.readings[place]
        return Missing(f"{key} of {self.app_id}" if self.app_id else key)


class Step(msgspec.Struct, frozen=True):
    """One part of an expression and what it came to, for people."""

    text: str
    result: str


@dataclass(slots=True)
class Trace:
    """The steps of an evaluation, in the order in which they came about."""

    source: str
    steps: list[Step] = field(default_factory=list)

    def note(self, node: syntax.Node, result: Any) -> None:
        """Keep a step unless it says nothing (constants) or was said."""
        if isinstance(node, syntax.Literal | syntax.Several) or node.start == node.end:
            return
        # Memory is shown in IEC units, storage in SI units.
        unit = "GB" if any(name.path[-1:] in (("free",), ("capacity",)) for name in syntax.names_of(node)) else ""
        step = Step(self.source[node.start : node.end], value_text(result, _measure(node), unit=unit))
        if step not in self.steps:
            self.steps.append(step)


def evaluate(node: syntax.Node, scope: Scope, trace: Trace | None = None) -> Any:
    """The value of a checked expression, or Missing: also where it cannot be worked out on this seat."""
    try:
        return _Evaluation(scope, trace).of(node)
    except RecursionError:
        return Missing("an expression that goes too deep")


def evaluate_item(node: syntax.Node, scope: Scope, item: Any) -> Any:
    """The same of one item of a list, for the condition that is asked of each."""
    try:
        inside = _Evaluation(scope, None)
        inside.item = item
        return inside.of(node)
    except RecursionError:
        return Missing("an expression that goes too deep")


class _Evaluation:
    def __init__(self, scope: Scope, trace: Trace | None) -> None:
        self.scope, self.trace, self.item = scope, trace, None

    def of(self, node: syntax.Node) -> Any:
        result = self._of(node)
        if self.trace and self.item is None:
            self.trace.note(node, result)
        return result

    def _of(self, node: syntax.Node) -> Any:
        return _OF[type(node)](self, node)

    def _unsound(self, node: syntax.Unsound) -> Any:
        return Missing(f"the rule ({node.why})")

    def _literal(self, node: syntax.Literal) -> Any:
        return node.value

    def _name(self, node: syntax.Name) -> Any:
        roots = {
            "item": self.item,
            "reading": self.scope.reading,
            "volume": self.scope.volume,
            "app": self.scope.app,
            "seat": self.scope.seat,
            "facts": self.scope.facts,
            "stores": self.scope.stores,
        }
        prefix = "" if node.root in ("facts", "item") else node.root + "."
        return _walk(roots[node.root], node.path, node.dimension, (prefix + ".".join(node.path)).rstrip("."))

    def _setting(self, node: syntax.SettingOf) -> Any:
        return _versioned(self.scope.setting(node.key), catalogue()[node.key].dimension)

    def _share(self, node: syntax.Share) -> Any:
        return _strict(lambda of: tidy(node.share * of), self.of(node.of))

    def _signed(self, node: syntax.Arithmetic | syntax.Compare) -> Any:
        return _strict(_SIGNS[node.sign], self.of(node.left), self.of(node.right))

    def _logic(self, node: syntax.Logic) -> Any:
        return _kleene(node.word, [self.of(part) for part in node.parts])

    def _not(self, node: syntax.Not) -> Any:
        return _strict(lambda part: not part, self.of(node.part))

    def _call(self, node: syntax.Call) -> Any:
        return _strict(_CALLS[node.name], *map(self.of, node.arguments))

    def _field(self, node: syntax.Field) -> Any:
        return _walk(self.of(node.of), node.path, node.dimension, ".".join(node.path))

    def _named(self, node: syntax.Named) -> Any:
        return _Evaluation(self.scope, None).of(node.of)

    def _several(self, node: syntax.Several) -> Any:
        return _strict(lambda *values: values, *map(self.of, node.items))

    def _over(self, node: syntax.Over) -> Any:
        items = self.of(node.items)
        if isinstance(items, Missing):
            return items
        results = []
        for item in items:
            self.item = item
            results.append(self.of(node.condition))
        self.item = None
        return over(node.name, items, results)


_OF: dict[type[syntax.Node], Callable[[_Evaluation, Any], Any]] = {
    syntax.Unsound: _Evaluation._unsound,
    syntax.Literal: _Evaluation._literal,
    syntax.Name: _Evaluation._name,
    syntax.SettingOf: _Evaluation._setting,
    syntax.Share: _Evaluation._share,
    syntax.Arithmetic: _Evaluation._signed,
    syntax.Compare: _Evaluation._signed,
    syntax.Logic: _Evaluation._logic,
    syntax.Not: _Evaluation._not,
    syntax.Call: _Evaluation._call,
    syntax.Over: _Evaluation._over,
    syntax.Field: _Evaluation._field,
    syntax.Named: _Evaluation._named,
    syntax.Several: _Evaluation._several,
}


def over(name: str, items: tuple[Any, ...], results: list[Any]) -> Any:
    """any, all, count and first of a list whose items gave `results`."""
    match name:
        case "any" | "all":
            return _kleene("or" if name == "any" else "and", results) if results else name == "all"
        case "count":
            return _unknown(results) or sum(map(bool, results))
    return _first(items, results)


def _first(items: tuple[Any, ...], results: list[Any]) -> Any:
    """The first that fits: one of which that is not known might be it."""
    place = next((place for place, result in enumerate(results) if isinstance(result, Missing) or result), None)
    if place is None:
        return Missing("an item that fits")
    return results[place] if isinstance(results[place], Missing) else items[place]


def _unknown(values: Iterable[Any]) -> Missing | None:
    return next((value for value in values if isinstance(value, Missing)), None)


def _kleene(word: str, results: list[Any]) -> Any:
    deciding = word == "or"
    if any(result is deciding for result in results):
        return deciding
    return _unknown(results) or not deciding


def _strict(function: Callable[..., Any], *values: Any) -> Any:
    if unknown := _unknown(values):
        return unknown
    try:
        return function(*values)
    except ZeroDivisionError:
        return Missing("a quotient by zero")
    except (TypeError, ValueError, ArithmeticError):
        return Missing("a value that can be worked with")


def _walk(value: Any, path: tuple[str, ...], dimension: Dimension | None, name: str) -> Any:
    for part in path:
        if value is None or isinstance(value, Missing):
            break
        value = getattr(value, part)
    return Missing(name) if value is None else _versioned(value, dimension)


def _versioned(value: Any, dimension: Dimension | None) -> Any:
    if dimension is not Dimension.VERSION or not isinstance(value, str):
        return value
    try:
        return Version.parse(value)
    except QuantityError:
        return Missing(f"a version that can be read in {value!r}")


def divide(first: Any, two: Any) -> Any:
    """Exact quotient. Raises ZeroDivisionError."""
    return tidy(Fraction(first) / Fraction(two))


_SIGNS: dict[str, Callable[[Any, Any], Any]] = {
    "+": lambda a, b: a + b,
    "-": lambda a, b: a - b,
    "*": lambda a, b: a * b,
    "/": divide,
    "==": lambda a, b: a == b,
    "!=": lambda a, b: a != b,
    "<": lambda a, b: a < b,
    "<=": lambda a, b: a <= b,
    ">": lambda a, b: a > b,
    ">=": lambda a, b: a >= b,
    "in": lambda a, b: a in b,
    "not in": lambda a, b: a not in b,
}
_CALLS: dict[str, Callable[..., Any]] = {
    "min": lambda *values: min(values),
    "max": lambda *values: max(values),
    "round": round,
    "floor": math.floor,
}


def _measure(node: syntax.Node) -> Dimension | None:
    """What a node measures, as far as printing needs it."""
    match node:
        case syntax.Literal() | syntax.Name() | syntax.SettingOf() | syntax.Field():
            return node.dimension
        case syntax.Share(of=of):
            return _measure(of)
        case syntax.Arithmetic(left=left, right=right, sign=sign):
            first, two = _measure(left), _measure(right)
            return Dimension.NUMBER if sign == "/" and first is two else max(first, two, key=_weight)
        case syntax.Call(arguments=arguments):
            return _measure(arguments[0])
    return None


def _weight(dimension: Dimension | None) -> int:
    return 0 if dimension in (None, Dimension.NUMBER, Dimension.SHARE) else 1


def value_text(result: Any, dimension: Dimension | None, *, unit: str = "") -> str:
    """A result for people."""
    match result:
        case Missing():
            return "not read"
        case tuple():
            return ", ".join(value_text(item, None) for item in result)
        case Store():
            return result.path
        case Version():
            return result.text
    if hasattr(result, "id"):
        return str(result.id)
    return show(result, dimension or Dimension.NUMBER, unit=unit)
