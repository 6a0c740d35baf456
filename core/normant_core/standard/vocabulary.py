"""The words of a standard's own: constants, and groups of seats."""

import hashlib
import re
from collections.abc import Mapping
from fractions import Fraction

from ..base.errors import Fault
from ..base.quantities import Dimension, tidy
from ..rules import syntax
from ..rules.checker import TAKEN, Checker, Word
from ..rules.parser import ExpressionError, TooLarge, parse
from ..seat.facts import ListOf
from .rule import Bound, Path, StandardText
from .soundness import Make

_NAME = re.compile(r"[A-Za-z_]\w{0,63}")
LIMIT_DEPTH = 32  # parts of a group in one another, the groups in it unfolded
LIMIT_SIZE = 1_000
_KEYWORDS = frozenset({"and", "or", "not", "in", "of", "true", "false"})


def vocabulary(document: StandardText, make: Make, faults: list[Fault], *, lenient: bool = False) -> dict[str, Word]:
    """Constants and groups by name. A group may speak of constants, and of groups that stand before it. `lenient`
    makes a group beyond a bound one of which nothing is known."""
    words: dict[str, Word] = {}
    for name, given in document.constants.items():
        path: Path = ("constants", name)
        if fault := _name_fault(name, path, words, make):
            faults.append(fault)
        elif word := _constant(given):
            words[name] = word
        else:
            faults.append(make(path, f"{name} holds values of several kinds, or none", "values of one kind"))
    for name, text in document.groups.items():
        path = ("groups", name)
        if fault := _name_fault(name, path, words, make):
            faults.append(fault)
            continue
        try:
            words[name] = _group(text, words, lenient=lenient)
        except ExpressionError as wrong:
            faults.append(make(path, wrong.message, wrong.expected, offset=wrong.position))
    return words


def _name_fault(name: str, path: Path, words: Mapping[str, Word], make: Make) -> Fault | None:
    expected = "letters, digits and _, and nothing that facts, the language or another word is called"
    if not _NAME.fullmatch(name):
        return make(path, f"{name!r} is no name", expected)
    if name in TAKEN or name in _KEYWORDS or name in words:
        return make(path, f"the name {name!r} is taken", expected)
    return None


def _group(text: str, words: Mapping[str, Word], *, lenient: bool) -> Word:
    try:
        return _group_within_bounds(text, words)
    except TooLarge as wrong:
        if not lenient:
            raise
        return Word(text, syntax.Unsound(0, 0, wrong.message), Dimension.BOOLEAN)


def _group_within_bounds(text: str, words: Mapping[str, Word]) -> Word:
    checker = Checker(words=words)
    node = checker.boolean(parse(text))
    extent = syntax.extent(node)
    if extent.depth > LIMIT_DEPTH or extent.size > LIMIT_SIZE:
        expected = f"at most {LIMIT_DEPTH} in one another, {LIMIT_SIZE} in all"
        raise TooLarge("the group, unfolded, has too many parts", 0, expected)
    meant = hashlib.sha256("".join(checker.met.values()).encode()).hexdigest() if checker.met else ""
    return Word(text + meant, node, Dimension.BOOLEAN, extent.size, checker.spoken_of)


def _constant(given: Bound | tuple[Bound, ...]) -> Word | None:
    items = given if isinstance(given, tuple) else (given,)
    nodes = tuple(_literal(item) for item in items)
    kinds = {node.dimension for node in nodes}
    if len(kinds) != 1:
        return None
    kind = kinds.pop()
    if isinstance(given, tuple):
        return Word(repr(given), syntax.Several(0, 0, nodes), ListOf(kind))
    return Word(repr(given), nodes[0], kind)


def _literal(given: Bound) -> syntax.Literal:
    """A quantity where it is written as one, else the text, number or truth that it is."""
    if isinstance(given, bool):
        return syntax.Literal(0, 0, given, Dimension.BOOLEAN)
    if isinstance(given, int | float):
        return syntax.Literal(0, 0, tidy(Fraction(given)), Dimension.NUMBER)
    try:
        node = parse(given)
    except ExpressionError:
        node = syntax.Several(0, 0, ())
    quantity = isinstance(node, syntax.Literal) and node.dimension is not Dimension.TEXT
    return node if quantity and isinstance(node, syntax.Literal) else syntax.Literal(0, 0, given, Dimension.TEXT)
