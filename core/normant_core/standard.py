"""The house standard, `normant-standard/1`: layers of rules, read, checked against the catalogue, put in order."""

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Annotated, Any, Literal

import jsonschema
import msgspec
from msgspec import Meta

from .catalogue import Kind, Setting, ValueFault, catalogue, nearest
from .errors import DocumentError, Fault, QuantityError
from .facts import Facts, Seat
from .quantities import Value, Version, VersionRange
from .rules import syntax
from .rules.checker import Checker
from .rules.evaluate import Scope, evaluate
from .rules.parser import ExpressionError, parse
from .toml_places import Places, load_toml, written

Severity = Literal["must", "should", "advise"]
CHECKS = ("want", "one_of", "at_least", "at_most", "between", "must", "never")
KINDS = ("facility", "application", "role", "class", "production", "seat")
Bound = str | int | float | bool
Path = tuple[str | int, ...]
_KIND_BY_NAME: dict[tuple[str, ...], str] = {
    ("app",): "application",
    ("role",): "role",
    ("hardware_class",): "class",
    ("production",): "production",
    ("room",): "production",
    ("name",): "seat",
}


class Strict(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Common manner of the parts of a standard."""


class RuleText(Strict, frozen=True):
    """A rule as it is written; exactly one of the seven checks is given."""

    setting: str
    app: str | None = None
    want: Bound | None = None
    one_of: Annotated[tuple[Bound, ...], Meta(min_length=1)] | None = None
    at_least: Bound | None = None
    at_most: Bound | None = None
    between: Annotated[tuple[Bound, ...], Meta(min_length=2, max_length=2)] | None = None
    must: str | None = None
    never: Annotated[tuple[Bound, ...], Meta(min_length=1)] | None = None
    when: str | None = None
    versions: str | None = None
    severity: Severity = "should"
    because: str = ""
    evidence: Literal["measured", "observed", "untested"] = "untested"
    fix: Bound | None = None
    locked: bool = False


class LayerText(Strict, frozen=True):
    """A layer as it is written; `kind` is told by what `when` names where it is not given."""

    name: Annotated[str, Meta(min_length=1, max_length=80)]
    kind: Literal["facility", "application", "role", "class", "production", "seat"] | None = None
    app: str | None = None
    when: str | None = None
    rule: tuple[RuleText, ...] = ()


class StandardText(Strict, frozen=True):
    """The document as it is written."""

    format: Literal["normant-standard/1"]
    name: str
    layer: Annotated[tuple[LayerText, ...], Meta(min_length=1)]


@dataclass(frozen=True, slots=True)
class Expression:
    """A checked expression with its text."""

    text: str
    node: syntax.Node


@dataclass(frozen=True, slots=True)
class Layer:
    """A layer in force: `condition` decides for which seats."""

    name: str
    kind: str
    condition: Expression | None


@dataclass(frozen=True, slots=True)
class Rule:
    """One rule, ready to judge with: `test` is true of a reading in norm; `values` are the check's operands."""

    number: int
    layer: int
    setting: Setting
    check: str
    values: tuple[Expression, ...]
    test: syntax.Node
    app: str | None
    when: Expression | None
    versions: VersionRange | None
    fix: Expression | None
    text: RuleText
    path: Path
    line: int | None = None


@dataclass(frozen=True, slots=True)
class Standard:
    """Layers in order of precedence (the last wins) and their rules in that order; `warnings` refuse nothing."""

    name: str
    layers: tuple[Layer, ...]
    rules: tuple[Rule, ...]
    warnings: tuple[Fault, ...] = ()


def schema() -> dict[str, Any]:
    """The published JSON Schema of the standard."""
    document = msgspec.json.schema(StandardText)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "normant-standard/1",
        **document,
    }


def parse_standard(text: str, source: str = "standard") -> Standard:
    """Raises DocumentError with the line and column of every fault that can be told at once."""
    return _Builder(text, source).build()


class _Builder:
    def __init__(self, text: str, source: str) -> None:
        self.source = source
        self.plain = load_toml(text, source)
        self.places = Places(text)
        self.faults: list[Fault] = []

    def build(self) -> Standard:
        shape = jsonschema.Draft202012Validator(schema()).iter_errors(_jsonable(self.plain))
        for error in shape:
            self.fault(tuple(error.absolute_path), _shape_message(error))
        self.stop_at_faults()
        document = msgspec.convert(self.plain, StandardText)
        numbered = sorted(
            enumerate(self.layer(index, text) for index, text in enumerate(document.layer)),
            key=lambda pair: KINDS.index(pair[1].kind),
        )
        layers = tuple(layer for _, layer in numbered)
        rules = list[Rule]()
        for place, (index, _) in enumerate(numbered):
            for number, text in enumerate(document.layer[index].rule):
                path: Path = ("layer", index, "rule", number)
                app = text.app or document.layer[index].app
                if built := self.rule(len(rules), place, replace_app(text, app), path):
                    rules.append(built)
        self.stop_at_faults()
        self.faults = [*_circles(rules, self), *_never_holding(rules, self)]
        self.stop_at_faults()
        return Standard(document.name, layers, tuple(rules), tuple(_conflicts(rules, layers, self)))

    def stop_at_faults(self) -> None:
        if self.faults:
            ordered = sorted(self.faults, key=lambda f: (f.line or 0, f.column or 0))
            raise DocumentError(self.source, ordered)

    def make(self, path: Path, message: str, expected: str = "", *, offset: int = -1) -> Fault:
        line, column = self.places.of(path)
        # The offset counts inside the quotes of the TOML string.
        return Fault(message, written(path), line, column + 1 + offset if offset >= 0 else column, expected)

    def fault(self, path: Path, message: str, expected: str = "", *, offset: int = -1) -> None:
        self.faults.append(self.make(path, message, expected, offset=offset))

    def layer(self, index: int, text: LayerText) -> Layer:
        condition = self.condition(("layer", index, "when"), text.when, Checker())
        kind = text.kind or ("application" if text.app else _kind_of(condition))
        return Layer(text.name, kind, condition)

    def condition(self, path: Path, text: str | None, checker: Checker) -> Expression | None:
        if text is None:
            return None
        try:
            return Expression(text, checker.boolean(parse(text)))
        except ExpressionError as wrong:
            self.fault(path, wrong.message, wrong.expected, offset=wrong.position)
            return None

    def rule(self, number: int, layer: int, text: RuleText, path: Path) -> Rule | None:
        known, before = catalogue(), len(self.faults)
        if text.setting not in known:
            near = nearest(text.setting, known.settings)
            expected = "one of " + ", ".join(near) if near else "a setting of the catalogue"
            self.fault((*path, "setting"), f"unknown setting {text.setting!r}", expected)
            return None
        given = [check for check in CHECKS if getattr(text, check) is not None]
        if len(given) != 1:
            self.fault(
                path,
                f"the rule has {' and '.join(given) or 'no check'}",
                "exactly one of " + ", ".join(CHECKS),
            )
            return None
        setting, check = known[text.setting], given[0]
        if check in ("at_least", "at_most", "between") and not setting.ordered:
            self.fault(
                (*path, check),
                f"{setting.key} is {setting.dimension}: it has no more or less",
                "want or one_of",
            )
        values = self.values(setting, check, getattr(text, check), (*path, check))
        when = self.condition((*path, "when"), text.when, Checker(setting))
        versions = self.versions((*path, "versions"), text.versions)
        fix = self.value(setting, text.fix, (*path, "fix")) if text.fix is not None else None
        if len(self.faults) > before:
            return None
        test = _test(check, [value.node for value in values], setting)
        line, _ = self.places.of(path)
        return Rule(number, layer, setting, check, values, test, text.app, when, versions, fix, text, path, line)

    def versions(self, path: Path, text: str | None) -> VersionRange | None:
        if text is None:
            return None
        try:
            return VersionRange.parse(text)
        except QuantityError as wrong:
            self.fault(path, str(wrong), offset=wrong.position)
            return None

    def values(self, setting: Setting, check: str, given: Any, path: Path) -> tuple[Expression, ...]:
        if check == "must":
            checked = self.condition(path, given, Checker(setting))
            return (checked,) if checked else ()
        many = isinstance(given, tuple)
        pairs = [((*path, i), v) for i, v in enumerate(given)] if many else [(path, given)]
        found = [
            self.value(setting, value, where, literal=check in ("want", "one_of", "never")) for where, value in pairs
        ]
        return tuple(value for value in found if value)

    def value(self, setting: Setting, given: Bound, path: Path, *, literal: bool = False) -> Expression | None:
        """A value as the setting holds it, else an expression of its dimension."""
        try:
            return Expression(str(given), _literal(setting, setting.parse(given)))
        except ValueFault as wrong:
            if literal or not isinstance(given, str) or not setting.ordered:
                self.fault(path, str(wrong))
                return None
        try:
            return Expression(given, Checker(setting).value(parse(given), setting.dimension))
        except ExpressionError as wrong:
            self.fault(path, wrong.message, wrong.expected, offset=wrong.position)
            return None


def replace_app(text: RuleText, app: str | None) -> RuleText:
    """The rule for that application."""
    return msgspec.structs.replace(text, app=app)


def _jsonable(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: _jsonable(inner) for key, inner in value.items()}
    if isinstance(value, list):
        return [_jsonable(inner) for inner in value]
    return value.isoformat() if isinstance(value, dt.date | dt.time) else value


def _shape_message(error: jsonschema.ValidationError) -> str:
    if error.validator == "additionalProperties":
        return error.message.replace("Additional properties are not allowed", "nobody knows this field")
    return error.message[:300]


def _literal(setting: Setting, value: Value) -> syntax.Literal:
    parsed = Version.parse(value) if setting.kind is Kind.VERSION and isinstance(value, str) else value
    return syntax.Literal(0, 0, parsed, setting.dimension)


def _test(check: str, values: list[syntax.Node], setting: Setting) -> syntax.Node:
    """Every check is one condition on the reading."""
    if check == "must":
        return values[0]
    reading = syntax.Name(0, 0, (), "reading", setting.dimension)
    if check in ("one_of", "never"):
        sign = "in" if check == "one_of" else "not in"
        return syntax.Compare(0, 0, sign, reading, syntax.Several(0, 0, tuple(values)))
    if check == "between":
        low = syntax.Compare(0, 0, ">=", reading, values[0])
        return syntax.Logic(0, 0, "and", (low, syntax.Compare(0, 0, "<=", reading, values[1])))
    sign = {"want": "==", "at_least": ">=", "at_most": "<="}[check]
    return syntax.Compare(0, 0, sign, reading, values[0])


def _kind_of(condition: Expression | None) -> str:
    """The narrowest kind that the condition's names speak of."""
    if condition is None:
        return "facility"
    names = [(name.root, name.path) for name in syntax.names_of(condition.node)]
    kinds = [_KIND_BY_NAME.get(path[:1], "class") if root == "seat" else "class" for root, path in names]
    return max(kinds, key=KINDS.index, default="facility")


def _circles(rules: list[Rule], builder: _Builder) -> Iterator[Fault]:
    """Settings whose rules look at each other: settling one would unsettle the other for ever."""
    looks: dict[str, dict[str, Rule]] = {}
    for rule in rules:
        for part in (*rule.values, rule.when, rule.fix):
            for key in syntax.settings_named(part.node) if part else []:
                looks.setdefault(rule.setting.key, {}).setdefault(key, rule)
    for start in looks:
        if trail := _trail(start, looks):
            rule = looks[start][trail[1]]
            told = " -> ".join(trail)
            yield builder.make(rule.path, f"circular reference: {told}", "rules that do not look at each other in turn")
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


def _never_holding(rules: list[Rule], builder: _Builder) -> Iterator[Fault]:
    for rule in rules:
        if rule.when and evaluate(rule.when.node, _nothing(None)) is False:
            yield builder.make((*rule.path, "when"), "this condition can never be true: the rule never applies")
        if _empty_range(rule) or _impossible(rule):
            where = (*rule.path, rule.check)
            yield builder.make(where, "this rule can never hold: no value is in norm", "a check that some value meets")


def _nothing(reading: Value) -> Scope:
    """A seat of which nothing is known: what is false here is false everywhere."""
    return Scope(Facts(), Seat(""), {}, reading=reading)


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
        case syntax.Literal(value=value) if isinstance(value, int | Fraction):
            return Fraction(value), ""
        case syntax.Name(path=path, root=root):
            return Fraction(1), f"{root}.{'.'.join(path)}"
        case syntax.Share(share=share, of=of):
            inner = _multiple(of)
            return (inner[0] * Fraction(share), inner[1]) if inner and isinstance(share, int | Fraction) else None
        case syntax.Arithmetic(sign="*", left=left, right=right):
            one, two = _multiple(left), _multiple(right)
            return (one[0] * two[0], one[1] or two[1]) if one and two and not (one[1] and two[1]) else None
    return None


def _conflicts(rules: list[Rule], layers: tuple[Layer, ...], builder: _Builder) -> Iterator[Fault]:
    """Rules that try to override a locked one."""
    locked = [rule for rule in rules if rule.text.locked]
    for rule in rules:
        for lock in locked:
            same_app = None in (rule.app, lock.app) or rule.app == lock.app
            if rule.number > lock.number and rule.setting is lock.setting and same_app:
                message = f"{layers[lock.layer].name} has locked {rule.setting.key}: this rule is overruled"
                yield builder.make(rule.path, message)
