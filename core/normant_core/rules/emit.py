"""A checked expression as Python source, for judging many seats fast.

The source is made from the syntax tree, never from the text, and sees only the names given here. It raises
Unread (or TypeError, AttributeError) where something is missing: then `evaluate` decides.
"""

import math
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Any

from ..base.errors import QuantityError
from ..base.quantities import Dimension, Number, Version, tidy
from . import syntax
from .evaluate import Missing, Scope, divide


class Unread(Exception):
    """Something that the fast way needs was not read."""


FAST_FAILURES = (Unread, TypeError, AttributeError, ArithmeticError, ValueError, RecursionError)
_ROOTS = {
    "item": "i",
    "reading": "r",
    "volume": "s.volume",
    "app": "s.app",
    "seat": "s.seat",
    "facts": "s.facts",
    "stores": "s.stores",
}


def _miss() -> Any:
    raise Unread


def _setting(scope: Scope, key: str) -> Any:
    value = scope.setting(key)
    if isinstance(value, Missing):
        raise Unread
    return value


@lru_cache(maxsize=4096)
def _version(text: str) -> Version:
    try:
        return Version.parse(text)
    except QuantityError as fault:
        raise Unread from fault


def _share(share: Number, of: Number) -> Number:
    return tidy(share * of)


def _first(items: Any, condition: Callable[[Any], Any]) -> Any:
    return next((item for item in items if condition(item)), None) or _miss()


HELPERS: Mapping[str, Any] = {
    "__builtins__": {},
    "miss": _miss,
    "setting": _setting,
    "version": _version,
    "share": _share,
    "first": _first,
    "divide": divide,
    "floor": math.floor,
    "ceil": math.ceil,
    "min": min,
    "max": max,
    "round": round,
    "any": any,
    "all": all,
    "sum": sum,
}


class Shared:
    """Expressions over facts and the register alone: each is worked out once for a seat, however many rules say it."""

    def __init__(self) -> None:
        self._numbers: dict[str, int] = {}
        self._functions: list[Callable[[Scope], Any]] = []

    def source(self, node: syntax.Node, rounding: str = "") -> str:
        """Source that looks an expression up, and works it out where nobody has yet."""
        inner = Emitter()
        number = self._number(f"{rounding}({inner.source(node)})", inner.constants)
        return f"(s.shared[{number}] if {number} in s.shared else known(s, {number}))"

    def _number(self, text: str, constants: Mapping[str, Any]) -> int:
        key = text + repr(sorted((name, str(value)) for name, value in constants.items()))
        if key not in self._numbers:
            self._numbers[key] = len(self._functions)
            self._functions.append(eval(compile(f"lambda s: {text}", "<shared>", "eval"), {**HELPERS, **constants}))
        return self._numbers[key]

    def known(self, scope: Scope, number: int) -> Any:
        """Work out the value for this seat. Raises what the fast way raises where something is missing."""
        value = scope.shared[number] = self._functions[number](scope)
        return value


class Emitter:
    """Source of expressions in the variables `s` (the Scope), `r` (the reading), `i` (a list's item)."""

    def __init__(self, shared: Shared | None = None) -> None:
        self.constants: dict[str, Any] = {}
        self._shared = shared
        if shared:
            self.constants["known"] = shared.known

    def constant(self, value: Any) -> str:
        """A name, or the text itself, for a constant."""
        if isinstance(value, bool | int) or (isinstance(value, str) and value.isalnum()):
            return repr(value)
        name = f"k{len(self.constants)}"
        self.constants[name] = value
        return name

    def source(self, node: syntax.Node) -> str:
        """Python source of a checked node."""
        if isinstance(node, syntax.Named):
            return self.source(node.of)
        if isinstance(node, syntax.Unsound):
            return "miss()"
        plain = isinstance(node, syntax.Literal | syntax.Name | syntax.Several)
        if self._shared and not plain and syntax.is_of_seat(node):
            return self._shared.source(node)
        return self._source(node)

    def _source(self, node: syntax.Node) -> str:
        return _OF[type(node)](self, node)

    def _literal(self, node: syntax.Literal) -> str:
        return self.constant(node.value)

    def _name(self, node: syntax.Name) -> str:
        return _read(".".join((_ROOTS[node.root], *node.path)), node.dimension, sure=node.root == "reading")

    def _setting(self, node: syntax.SettingOf) -> str:
        source = f"setting(s, {self.constant(node.key)})"
        return f"version({source})" if node.dimension is Dimension.VERSION else source

    def _share(self, node: syntax.Share) -> str:
        return f"share({self.constant(node.share)}, {self.source(node.of)})"

    def _arithmetic(self, node: syntax.Arithmetic) -> str:
        left, right = self.source(node.left), self.source(node.right)
        return f"divide({left}, {right})" if node.sign == "/" else f"({left} {node.sign} {right})"

    def _compare(self, node: syntax.Compare) -> str:
        bound = self._whole_bound(node, self._shared) if self._shared else ""
        if bound:
            return f"(r {node.sign} {bound})"
        return f"({self.source(node.left)} {node.sign} {self.source(node.right)})"

    def _logic(self, node: syntax.Logic) -> str:
        return "(" + f" {node.word} ".join(map(self.source, node.parts)) + ")"

    def _not(self, node: syntax.Not) -> str:
        return f"(not {self.source(node.part)})"

    def _call(self, node: syntax.Call) -> str:
        if len(node.arguments) == 1 and node.name in ("min", "max"):  # Python's take one argument for a list
            return self.source(node.arguments[0])
        return f"{node.name}({', '.join(map(self.source, node.arguments))})"

    def _over(self, node: syntax.Over) -> str:
        items, condition = self.source(node.items), self.source(node.condition)
        if node.name == "first":
            return f"first({items}, lambda i: {condition})"
        word = "sum" if node.name == "count" else node.name
        return f"{word}({condition} for i in {items})"

    def _field(self, node: syntax.Field) -> str:
        return f"(lambda f: {_read('.'.join(('f', *node.path)), node.dimension)})({self.source(node.of)})"

    def _several(self, node: syntax.Several) -> str:
        return "(" + "".join(f"{self.source(item)}, " for item in node.items) + ")"

    def _whole_bound(self, node: syntax.Compare, shared: Shared) -> str:
        """The bound of a reading in bytes, rounded once for the seat; "" for any other comparison.

        Readings in bytes are whole: r >= 6.4 is r >= 7. Whole numbers compare ten times faster than fractions.
        """
        rounding = _ROUNDING.get(node.sign, "")
        if not rounding or not _is_reading_of_bytes(node.left):
            return ""
        fixed = isinstance(node.right, syntax.Literal) or not syntax.is_of_seat(node.right)
        return "" if fixed else shared.source(node.right, rounding)


_ROUNDING = {">=": "ceil", "<": "ceil", "<=": "floor", ">": "floor"}


def _is_reading_of_bytes(node: syntax.Node) -> bool:
    return isinstance(node, syntax.Name) and node.root == "reading" and node.dimension is Dimension.BYTES


_OF: dict[type[syntax.Node], Callable[[Emitter, Any], str]] = {
    syntax.Literal: Emitter._literal,
    syntax.Name: Emitter._name,
    syntax.SettingOf: Emitter._setting,
    syntax.Share: Emitter._share,
    syntax.Arithmetic: Emitter._arithmetic,
    syntax.Compare: Emitter._compare,
    syntax.Logic: Emitter._logic,
    syntax.Not: Emitter._not,
    syntax.Call: Emitter._call,
    syntax.Over: Emitter._over,
    syntax.Field: Emitter._field,
    syntax.Several: Emitter._several,
}


def _read(path: str, dimension: Dimension | None, *, sure: bool = False) -> str:
    value = path if sure else f"({path} if {path} is not None else miss())"
    return f"version({value})" if dimension is Dimension.VERSION else value
