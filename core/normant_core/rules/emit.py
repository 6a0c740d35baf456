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
        match node:
            case syntax.Literal(value=value):
                return self.constant(value)
            case syntax.Name(root=root, path=path):
                return _read(".".join((_ROOTS[root], *path)), node.dimension, sure=root == "reading")
            case syntax.SettingOf(key=key):
                source = f"setting(s, {self.constant(key)})"
                return f"version({source})" if node.dimension is Dimension.VERSION else source
            case syntax.Share(share=share, of=of):
                return f"share({self.constant(share)}, {self.source(of)})"
            case syntax.Arithmetic(sign="/"):
                return f"divide({self.source(node.left)}, {self.source(node.right)})"
            case syntax.Compare(sign=sign) if self._shared and (bound := self._whole_bound(node, self._shared)):
                return f"(r {sign} {bound})"
            case syntax.Arithmetic(sign=sign) | syntax.Compare(sign=sign):
                return f"({self.source(node.left)} {sign} {self.source(node.right)})"
            case syntax.Logic(word=word, parts=parts):
                return "(" + f" {word} ".join(self.source(part) for part in parts) + ")"
            case syntax.Not(part=part):
                return f"(not {self.source(part)})"
            case syntax.Call(name=name, arguments=arguments) if len(arguments) == 1 and name in (
                "min",
                "max",
            ):
                return self.source(arguments[0])
            case syntax.Call(name=name, arguments=arguments):
                return f"{name}({', '.join(map(self.source, arguments))})"
            case syntax.Over():
                return self._over(node)
            case syntax.Field(of=of, path=path):
                return f"(lambda f: {_read('.'.join(('f', *path)), node.dimension)})({self.source(of)})"
            case syntax.Several(items=items):
                return "(" + "".join(f"{self.source(item)}, " for item in items) + ")"
        raise AssertionError(node)

    def _whole_bound(self, node: syntax.Compare, shared: Shared) -> str:
        """The bound of a reading in bytes, rounded once for the seat; "" for any other comparison.

        Readings in bytes are whole: r >= 6.4 is r >= 7. Whole numbers compare ten times faster than fractions.
        """
        rounding = {">=": "ceil", "<": "ceil", "<=": "floor", ">": "floor"}.get(node.sign, "")
        left, right = node.left, node.right
        whole = isinstance(left, syntax.Name) and left.root == "reading" and left.dimension is Dimension.BYTES
        if not rounding or not whole or isinstance(right, syntax.Literal) or not syntax.is_of_seat(right):
            return ""
        return shared.source(right, rounding)

    def _over(self, node: syntax.Over) -> str:
        items, condition = self.source(node.items), self.source(node.condition)
        if node.name == "first":
            return f"first({items}, lambda i: {condition})"
        word = "sum" if node.name == "count" else node.name
        return f"{word}({condition} for i in {items})"


def _read(path: str, dimension: Dimension | None, *, sure: bool = False) -> str:
    value = path if sure else f"({path} if {path} is not None else miss())"
    return f"version({value})" if dimension is Dimension.VERSION else value
