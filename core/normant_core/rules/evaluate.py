"""The plain meaning of a checked expression, step by step; what is missing stays missing.

Logic is Kleene's strong three-valued logic (S. C. Kleene, Introduction to Metamathematics, 1952, section 64): a
missing fact never decides, and never hides what another part decides.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from ..base.errors import QuantityError
from ..base.quantities import Dimension, Value, Version, show, tidy
from ..catalogue.settings import catalogue
from ..seat.facts import Application, Facts, Seat, Volume
from ..seat.survey import Key, Store
from . import syntax


@dataclass(frozen=True, slots=True)
class Missing:
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


@dataclass(frozen=True, slots=True)
class Step:
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
        match node:
            case syntax.Unsound(why=why):
                return Missing(f"the rule ({why})")
            case syntax.Literal(value=value):
                return value
            case syntax.Name():
                return self._name(node)
            case syntax.SettingOf(key=key):
                return _versioned(self.scope.setting(key), catalogue()[key].dimension)
            case syntax.Share(share=share, of=of):
                return _strict(lambda x: tidy(share * x), self.of(of))
            case syntax.Arithmetic(sign=sign):
                return _strict(_ARITHMETIC[sign], self.of(node.left), self.of(node.right))
            case syntax.Compare(sign=sign):
                return _strict(_COMPARE[sign], self.of(node.left), self.of(node.right))
            case syntax.Logic(word=word, parts=parts):
                return _kleene(word, [self.of(part) for part in parts])
            case syntax.Not(part=part):
                return _strict(lambda x: not x, self.of(part))
            case syntax.Call(name=name, arguments=arguments):
                return _strict(_CALLS[name], *(self.of(argument) for argument in arguments))
            case syntax.Over():
                return self._over(node)
            case syntax.Field(of=of, path=path):
                return _walk(self.of(of), path, node.dimension, ".".join(path))
            case syntax.Named(of=of):
                return _Evaluation(self.scope, None).of(of)
            case syntax.Several(items=items):
                return _strict(lambda *values: values, *(self.of(item) for item in items))
        raise AssertionError(node)

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


def over(name: str, items: tuple[Any, ...], results: list[Any]) -> Any:
    """any, all, count and first of a list whose items gave `results`."""
    if name in ("any", "all"):
        return _kleene("or" if name == "any" else "and", results) if results else name == "all"
    unknown = next((r for r in results if isinstance(r, Missing)), None)
    if name == "count":
        return unknown or sum(map(bool, results))
    for item, result in zip(items, results, strict=True):
        if isinstance(result, Missing):
            return result
        if result:
            return item
    return Missing("an item that fits")


def _kleene(word: str, results: list[Any]) -> Any:
    deciding = word == "or"
    if any(result is deciding for result in results):
        return deciding
    return next((r for r in results if isinstance(r, Missing)), not deciding)


def _strict(function: Callable[..., Any], *values: Any) -> Any:
    unknown = next((value for value in values if isinstance(value, Missing)), None)
    if unknown:
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
    if isinstance(value, Missing):
        return value
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


_ARITHMETIC: dict[str, Callable[[Any, Any], Any]] = {
    "+": lambda a, b: a + b,
    "-": lambda a, b: a - b,
    "*": lambda a, b: a * b,
    "/": divide,
}
_COMPARE: dict[str, Callable[[Any, Any], Any]] = {
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
    if isinstance(result, Missing):
        return "not read"
    if isinstance(result, tuple):
        return ", ".join(value_text(item, None) for item in result)
    if hasattr(result, "id"):
        return str(result.id)
    if isinstance(result, Store):
        return result.path
    if isinstance(result, Version):
        return result.text
    return show(result, dimension or Dimension.NUMBER, unit=unit)
