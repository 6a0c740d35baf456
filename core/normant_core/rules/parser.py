"""Text to syntax. The grammar, loosest first:

either  = both { "or" both }
both    = denial { "and" denial }
denial  = "not" denial | compare
compare = sum [ ( == | != | < | <= | > | >= | in | not in ) sum ]
sum     = product { ( + | - ) product }
product = atom { ( * | / ) atom }
atom    = quantity | quantity "of" atom | text | true | false | name { "." name }
        | name "(" [ either { "," either } ] ")" | "[" ... "]" | "(" either ")"
"""

import re
from collections.abc import Callable

import msgspec

from ..base.errors import NormantError, QuantityError
from ..base.quantities import UNITS, Dimension, scan_quantity, tidy
from . import syntax

LIMIT_LENGTH = 2000
LIMIT_DEPTH = 40  # of brackets, and of the tree: a sum of many terms is as deep as it has terms
_TOKEN = re.compile(
    r"\s*(?:(?P<number>\d)|(?P<text>'[^'\n]*'|\"[^\"\n]*\")|(?P<word>[A-Za-z_]\w*)|(?P<sign>==|!=|<=|>=|[<>+\-*/(),.\[\]]))"
)
_COMPARES = {"==", "!=", "<", "<=", ">", ">=", "in", "not in"}
_RESERVED = {"and", "or", "not", "in", "of"}


class ExpressionError(NormantError):
    """A fault at one place of an expression."""

    def __init__(self, message: str, position: int, expected: str = "") -> None:
        super().__init__(message)
        self.message, self.position, self.expected = message, position, expected


class TooLarge(ExpressionError):
    """An expression beyond a bound. Editions that were published before there was one keep theirs, unread."""


class Token(msgspec.Struct, frozen=True):
    """One word, sign, text or quantity."""

    kind: str
    text: str
    start: int
    end: int


def parse(text: str) -> syntax.Node:
    """The syntax of an expression. Raises ExpressionError at the first fault."""
    if len(text) > LIMIT_LENGTH:
        raise TooLarge(f"the expression has {len(text)} characters", 0, f"at most {LIMIT_LENGTH}")
    reader = _Reader(text)
    node = reader.either()
    if reader.here.kind != "end":
        raise reader.fault("the end of the expression")
    if syntax.extent(node).depth > LIMIT_DEPTH:
        raise TooLarge("the expression has too many parts in one another", 0, f"at most {LIMIT_DEPTH}")
    return node


def _tokens(text: str) -> list[Token]:
    tokens, at = list[Token](), 0
    while text[at:].strip():
        match = _TOKEN.match(text, at)
        if not match:
            at += len(text[at:]) - len(text[at:].lstrip())
            raise ExpressionError(f"{text[at]!r} means nothing here", at)
        kind = match.lastgroup or ""
        start, end = match.span(kind)
        if kind == "number":
            end = _quantity_end(text, start)
        tokens.append(Token(kind, text[start:end], start, end))
        at = end
    return [*tokens, Token("end", "", len(text), len(text))]


def _quantity_end(text: str, start: int) -> int:
    number = re.compile(r"\d+(?:\.\d+)?").match(text, start)
    assert number
    unit = re.compile(r"\s*([A-Za-z%][A-Za-z%]*(?:/s\b)?)").match(text, number.end())
    if not unit or unit.group(1) in _RESERVED:
        return number.end()
    if unit.group(1) not in UNITS:
        raise ExpressionError(
            f"unknown unit {unit.group(1)!r}", unit.start(1), "MiB, GiB, MB, GB, TB, s, min, h, d or %"
        )
    return unit.end()


class _Reader:
    def __init__(self, text: str) -> None:
        self.text, self.tokens, self.index, self.depth = text, _tokens(text), 0, 0

    @property
    def here(self) -> Token:
        return self.tokens[self.index]

    def take(self, *texts: str) -> bool:
        if self.here.kind in ("word", "sign") and self.here.text in texts:
            self.index += 1
            return True
        return False

    def need(self, text: str) -> None:
        if not self.take(text):
            raise self.fault(repr(text))

    def fault(self, expected: str) -> ExpressionError:
        shown = repr(self.here.text) if self.here.text else "the end"
        return ExpressionError(f"found {shown}", self.here.start, expected)

    def either(self) -> syntax.Node:
        self.depth += 1
        if self.depth > LIMIT_DEPTH:
            raise TooLarge("the expression is nested too deep", self.here.start, f"at most {LIMIT_DEPTH}")
        node = self._logic("or", self._both)
        self.depth -= 1
        return node

    def _both(self) -> syntax.Node:
        return self._logic("and", self._denial)

    def _logic(self, word: str, part: Callable[[], syntax.Node]) -> syntax.Node:
        parts = [part()]
        while self.take(word):
            parts.append(part())
        return parts[0] if len(parts) == 1 else syntax.Logic(parts[0].start, parts[-1].end, word, tuple(parts))

    def _denial(self) -> syntax.Node:
        start, nots = self.here.start, 0
        while self.take("not"):
            nots += 1
        node = self._compare()
        return syntax.Not(start, node.end, node) if nots % 2 else node

    def _compare(self) -> syntax.Node:
        left = self._sum()
        sign = self._compare_sign()
        if not sign:
            return left
        right = self._sum()
        if self.here.text in _COMPARES and self.here.kind != "text":
            message = "two comparisons in a row would mean something else than they seem"
            raise ExpressionError(message, self.here.start, "brackets, or 'and' between them")
        return syntax.Compare(left.start, right.end, sign, left, right)

    def _compare_sign(self) -> str:
        token, after = self.here, self.tokens[min(self.index + 1, len(self.tokens) - 1)]
        if token.text == "not" and after.text == "in":
            self.index += 2
            return "not in"
        if token.kind != "text" and token.text in _COMPARES:
            self.index += 1
            return token.text
        return ""

    def _sum(self) -> syntax.Node:
        return self._arithmetic(("+", "-"), lambda: self._arithmetic(("*", "/"), self._atom))

    def _arithmetic(self, signs: tuple[str, ...], part: Callable[[], syntax.Node]) -> syntax.Node:
        node = part()
        while self.here.kind == "sign" and self.here.text in signs:
            sign = self.here.text
            self.index += 1
            right = part()
            node = syntax.Arithmetic(node.start, right.end, sign, node, right)
        return node

    def _atom(self) -> syntax.Node:
        token = self.here
        if token.kind == "number":
            return self._quantity()
        if token.kind == "text":
            self.index += 1
            return syntax.Literal(token.start, token.end, token.text[1:-1], Dimension.TEXT)
        if self.take("("):
            node = self.either()
            self.need(")")
            return node
        if self.take("["):
            items = self._list("]")
            return syntax.Several(token.start, self.tokens[self.index - 1].end, items)
        if token.kind == "word" and token.text not in _RESERVED:
            return self._word()
        raise self.fault("a value, a name or a bracket")

    def _quantity(self) -> syntax.Node:
        token = self.here
        self.index += 1
        try:
            value, unit, _ = scan_quantity(self.text[: token.end], token.start)
        except QuantityError as fault:
            raise ExpressionError(str(fault), fault.position, fault.expected) from fault
        dimension, factor = UNITS.get(unit, (Dimension.NUMBER, 1))
        value = tidy(value * factor)
        if dimension is Dimension.SHARE and self.take("of"):
            of = self._atom()
            return syntax.Share(token.start, of.end, value, of)
        return syntax.Literal(token.start, token.end, value, dimension)

    def _word(self) -> syntax.Node:
        token = self.here
        self.index += 1
        if token.text in ("true", "false"):
            return syntax.Literal(token.start, token.end, token.text == "true", Dimension.BOOLEAN)
        if self.take("("):
            return self._call(token)
        return syntax.Name(token.start, token.end, (token.text,)) if self.here.text != "." else self._dotted(token)

    def _dotted(self, token: Token) -> syntax.Node:
        path = self._points()
        return syntax.Name(token.start, self.tokens[self.index - 1].end, (token.text, *path))

    def _points(self) -> tuple[str, ...]:
        path = list[str]()
        while self.take("."):
            if self.here.kind != "word":
                raise self.fault("a name after the point")
            path.append(self.here.text)
            self.index += 1
        return tuple(path)

    def _call(self, token: Token) -> syntax.Node:
        arguments = self._list(")")
        end = self.tokens[self.index - 1].end
        if token.text == "setting":
            return self._setting(token, arguments, end)
        if token.text in ("any", "all", "count", "first"):
            return self._over(token, arguments, end)
        if token.text in ("min", "max", "round", "floor"):
            most = 1 if token.text in ("round", "floor") else 20
            if not 1 <= len(arguments) <= most:
                raise ExpressionError(f"{token.text} got {len(arguments)} values", token.start, f"1 to {most}")
            return syntax.Call(token.start, end, token.text, arguments)
        expected = "setting, any, all, count, first, min, max, round or floor"
        raise ExpressionError(f"unknown function {token.text!r}", token.start, expected)

    def _over(self, token: Token, arguments: tuple[syntax.Node, ...], end: int) -> syntax.Node:
        """A question to the items of a list, or a part of the item that it finds."""
        if len(arguments) != 2:
            raise ExpressionError(f"{token.text} got {len(arguments)} parts", token.start, "a list and a condition")
        over = syntax.Over(token.start, end, token.text, *arguments)
        path = self._points()
        return syntax.Field(token.start, self.tokens[self.index - 1].end, over, path) if path else over

    def _setting(self, token: Token, arguments: tuple[syntax.Node, ...], end: int) -> syntax.Node:
        key = arguments[0] if len(arguments) == 1 else None
        if not isinstance(key, syntax.Literal) or not isinstance(key.value, str):
            raise ExpressionError("setting() names one setting", token.start, "setting('playback.raw_scale')")
        return syntax.SettingOf(token.start, end, key.value)

    def _list(self, closing: str) -> tuple[syntax.Node, ...]:
        items = list[syntax.Node]()
        while not self.take(closing):
            if items:
                self.need(",")
            items.append(self.either())
        return tuple(items)
