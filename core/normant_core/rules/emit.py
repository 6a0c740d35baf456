"""A checked expression as Python source, for judging many seats fast.

The source is made from the syntax tree, never from the text, and sees only the names given here. It raises
Unread (or TypeError, AttributeError) where something is missing: then `evaluate` decides.
"""

import math
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Any

from ..errors import QuantityError
from ..quantities import Dimension, Number, Version, tidy
from . import syntax
from .evaluate import Missing, Scope, divide


class Unread(Exception):
    """Something that the fast way needs was not read."""


FAST_FAILURES = (Unread, TypeError, AttributeError, ZeroDivisionError)
_ROOTS = {
    "item": "i",
    "reading": "r",
    "volume": "s.volume",
    "app": "s.app",
    "seat": "s.seat",
    "facts": "s.facts",
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
    "min": min,
    "max": max,
    "round": round,
    "any": any,
    "all": all,
    "sum": sum,
}


class Emitter:
    """Source of expressions in the variables `s` (the Scope), `r` (the reading), `i` (a list's item)."""

    def __init__(self) -> None:
        self.constants: dict[str, Any] = {}

    def constant(self, value: Any) -> str:
        """A name, or the text itself, for a constant."""
        if isinstance(value, bool | int) or (isinstance(value, str) and value.isalnum()):
            return repr(value)
        name = f"k{len(self.constants)}"
        self.constants[name] = value
        return name

    def source(self, node: syntax.Node) -> str:
        """Python source of a checked node."""
        match node:
            case syntax.Literal(value=value):
                return self.constant(value)
            case syntax.Name(root=root, path=path):
                return _read(".".join((_ROOTS[root], *path)), node.dimension, sure=root == "reading")
            case syntax.SettingOf(key=key):
                found = f"setting(s, {self.constant(key)})"
                return f"version({found})" if node.dimension is Dimension.VERSION else found
            case syntax.Share(share=share, of=of):
                return f"share({self.constant(share)}, {self.source(of)})"
            case syntax.Arithmetic(sign="/"):
                return f"divide({self.source(node.left)}, {self.source(node.right)})"
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

    def _over(self, node: syntax.Over) -> str:
        items, condition = self.source(node.items), self.source(node.condition)
        if node.name == "first":
            return f"first({items}, lambda i: {condition})"
        word = "sum" if node.name == "count" else node.name
        return f"{word}({condition} for i in {items})"


def _read(path: str, dimension: Dimension | None, *, sure: bool = False) -> str:
    found = path if sure else f"({path} if {path} is not None else miss())"
    return f"version({found})" if dimension is Dimension.VERSION else found
