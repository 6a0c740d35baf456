"""The house standard, `normant-standard/1`: layers of rules, read, checked against the catalogue, put in order."""

import datetime as dt
from typing import Any

import jsonschema
import msgspec

from .catalogue import Kind, Setting, ValueFault, catalogue, nearest
from .errors import DocumentError, Fault, QuantityError
from .quantities import Value, Version, VersionRange
from .rule import CHECKS, KINDS, Bound, Expression, Layer, LayerText, Path, Rule, RuleText, Standard, StandardText
from .rules import syntax
from .rules.checker import Checker
from .rules.parser import ExpressionError, parse
from .soundness import circles, conflicts, never_holding
from .toml_places import Places, load_toml, written

_KIND_BY_NAME: dict[tuple[str, ...], str] = {
    ("app",): "application",
    ("role",): "role",
    ("hardware_class",): "class",
    ("production",): "production",
    ("room",): "production",
    ("name",): "seat",
}


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
        self.faults = [*circles(rules, self.make), *never_holding(rules, self.make)]
        self.stop_at_faults()
        return Standard(document.name, layers, tuple(rules), tuple(conflicts(rules, layers, self.make)))

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
