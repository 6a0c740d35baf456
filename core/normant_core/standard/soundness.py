"""What cannot be right in a standard whatever the seats are: circles, rules that never hold, overruled locks."""

from collections.abc import Iterator
from fractions import Fraction
from typing import Protocol

from ..base.errors import Fault
from ..base.quantities import Value
from ..catalogue.settings import Kind
from ..rules import syntax
from ..rules.evaluate import Scope, evaluate
from ..seat.facts import Facts, Seat
from .rule import Layer, Path, Rule


class Make(Protocol):
    """Makes the fault of a place in the text."""

    def __call__(self, path: Path, message: str, expected: str = "", *, offset: int = -1) -> Fault: ...


def circles(rules: list[Rule], make: Make) -> Iterator[Fault]:
    """Settings whose rules look at each other: settling one would unsettle the other for ever."""
    looks: dict[str, dict[str, Rule]] = {}
    for rule in rules:
        for part in (*rule.values, rule.when, rule.fix):
            for key in syntax.settings_named(part.node) if part else []:
                looks.setdefault(rule.setting.key, {}).setdefault(key, rule)
    for start in looks:
        if trail := _trail(start, looks):
            rule = looks[start][trail[1]]
            circle = " -> ".join(trail)
            yield make(rule.path, f"circular reference: {circle}", "rules that do not look at each other in turn")
            return


def _trail(start: str, looks: dict[str, dict[str, Rule]]) -> list[str]:
    """A way from a setting back to itself."""
    paths, seen = [[start]], set[str]()
    while paths:
        path = paths.pop()
        for key in looks.get(path[-1], {}):
            if key == start:
                return [*path, start]
            if key not in seen:
                seen.add(key)
                paths.append([*path, key])
    return []


def never_holding(rules: list[Rule], make: Make) -> Iterator[Fault]:
    for rule in rules:
        if rule.when and evaluate(rule.when.node, _nothing(None)) is False:
            yield make((*rule.path, "when"), "this condition can never be true: the rule never applies")
        if _empty_range(rule) or _impossible(rule):
            where = (*rule.path, rule.check)
            yield make(where, "this rule can never hold: no value is in norm", "a check that some value meets")


def _nothing(reading: Value) -> Scope:
    """A seat of which nothing is known: what is false here is false everywhere."""
    return Scope(Facts(), Seat(""), {}, reading=reading, stores=None)


def _impossible(rule: Rule) -> bool:
    """Whether the test is false for every value that the setting can hold, whatever the facts."""
    setting = rule.setting
    options: tuple[Value, ...] = (True, False) if setting.kind is Kind.BOOL else setting.values
    if not options or setting.open:
        # None stands for "some value": only a test that does not look at it can be decided.
        return not _looks_at_reading(rule.test) and evaluate(rule.test, _nothing(None)) is False
    return all(evaluate(rule.test, _nothing(value)) is False for value in options)


def _looks_at_reading(node: syntax.Node) -> bool:
    return any(name.root in ("reading", "volume") for name in syntax.names_of(node))


def _empty_range(rule: Rule) -> bool:
    """Whether the lower bound lies above the upper: for constants, and for multiples of one and the same name."""
    if rule.check != "between":
        return False
    low, high = (_multiple(value.node) for value in rule.values)
    return bool(low and high and low[1] == high[1] and low[0] > high[0])


def _multiple(node: syntax.Node) -> tuple[Fraction, str] | None:
    """(factor, name) where the node is a constant times one name; the name is empty for a constant."""
    match node:
        case syntax.Literal(value=int() | Fraction() as value):
            return Fraction(value), ""
        case syntax.Name(path=path, root=root):
            return Fraction(1), f"{root}.{'.'.join(path)}"
        case syntax.Share(share=int() | Fraction() as share, of=of):
            return _product((Fraction(share), ""), _multiple(of))
        case syntax.Arithmetic(sign="*", left=left, right=right):
            return _product(_multiple(left), _multiple(right))
    return None


def _product(first: tuple[Fraction, str] | None, two: tuple[Fraction, str] | None) -> tuple[Fraction, str] | None:
    """Of two names there is none: it is no multiple of one."""
    if first is None or two is None or (first[1] and two[1]):
        return None
    return first[0] * two[0], first[1] or two[1]


def conflicts(rules: list[Rule], layers: tuple[Layer, ...], make: Make) -> Iterator[Fault]:
    """Rules that try to override a locked one."""
    locked = [rule for rule in rules if rule.text.locked]
    for rule in rules:
        for lock in locked:
            if _is_overruled(rule, lock):
                message = f"{layers[lock.layer].name} has locked {rule.setting.key}: this rule is overruled"
                yield make(rule.path, message)


def _is_overruled(rule: Rule, lock: Rule) -> bool:
    """Whether a locked rule stands before a rule on the same setting of the same application, or of any."""
    same_app = None in (rule.app, lock.app) or rule.app == lock.app
    return rule.number > lock.number and rule.setting is lock.setting and same_app
