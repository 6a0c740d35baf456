"""The house standard, `normant-standard/1`: layers of rules, read, checked against the catalogue, put in order."""

import datetime as dt
from collections.abc import Callable
from fractions import Fraction
from importlib import resources
from typing import TYPE_CHECKING, Any

import msgspec
from msgspec.structs import replace

from ..base.errors import DocumentError, Fault, QuantityError
from ..base.quantities import Dimension, Value, Version, VersionRange
from ..base.shapes import shape_errors
from ..base.toml_places import LIMIT_FAULTS, Places, load_toml, written
from ..catalogue.settings import Kind, Setting, ValueFault, catalogue, nearest
from ..rules import syntax
from ..rules.checker import Checker
from ..rules.parser import ExpressionError, TooLarge, parse
from .care import care_faults, standing_care
from .releases import Releases, release_faults
from .rule import CHECKS, KINDS, Bound, Expression, Layer, LayerText, Path, Rule, RuleText, Standard, StandardText
from .soundness import circles, conflicts, never_holding
from .vocabulary import vocabulary

if TYPE_CHECKING:
    from jsonschema import ValidationError

LIMITS = {"care": 200, "layer": 200, "rule": 1_000, "groups": 200, "constants": 200, "release": 2_000}
LIMIT_NODES = 50_000  # parts of all expressions, groups unfolded
BLOCKED = "Blocked builds"  # the layer that no text has
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


def starter() -> str:
    """A standard that a new facility can adopt and edit, as text."""
    return resources.files(__package__).joinpath("starter.standard.toml").read_text("utf-8")


def parse_standard(text: str, source: str = "standard", day: dt.date | None = None) -> Standard:
    """The standard as it is on a day: releases count from and until theirs (None: whatever the day).

    Raises DocumentError with the line and column of the faults that can be told at once, fifty at most.
    """
    return _Builder(text, source, day).build()


def parse_published(text: str, source: str = "standard", day: dt.date | None = None) -> Standard:
    """As `parse_standard`, of an edition that was published, perhaps before there were bounds: what goes beyond one is
    no fault here, and what such a rule judges stays unread."""
    return _Builder(text, source, day, lenient=True).build()


class _Builder:
    def __init__(self, text: str, source: str, day: dt.date | None, *, lenient: bool = False) -> None:
        self.source, self.day, self.lenient = source, day, lenient
        self.size = 0  # of all expressions, in nodes
        self.plain = load_toml(text, source, bounded=not lenient)
        self.places = Places(text)
        self.faults: list[Fault] = []
        self.spoken_of = set[str]()  # words of the standard's own

    def build(self) -> Standard:
        self.check_counts()
        document = self.read()
        self.words = vocabulary(document, self.make, self.faults, lenient=self.lenient)
        self.faults += release_faults(document.release, self.make)
        self.faults += care_faults(document, self.make)
        self.stop_at_faults()
        self.releases = Releases(document.release, self.day)
        layers, rules = self.stacked(document)
        care = tuple(standing_care(document, layers, self.places))
        layers, rules = self.with_blocked(layers, rules)
        if self.size > LIMIT_NODES and not self.lenient:
            self.fault((), "the rules are too large together", f"at most {LIMIT_NODES:,} parts, groups unfolded")
        self.stop_at_faults()
        self.faults = [*circles(rules, self.make), *never_holding(rules, self.make)]
        self.stop_at_faults()
        warnings = tuple(conflicts([r for r in rules if r.path], layers, self.make))
        unused = tuple(path for path in _words_of(document) if path[1] not in self.spoken_of)
        return Standard(document.name, layers, tuple(rules), warnings, document.release, unused, care)

    def read(self) -> StandardText:
        """Return the document as it is written. Raises DocumentError where its shape is not a standard's."""
        try:
            return msgspec.convert(self.plain, StandardText)
        except msgspec.ValidationError as refusal:
            for error in shape_errors(schema(), _jsonable(self.plain), LIMIT_FAULTS):
                self.fault(tuple(error.absolute_path), _shape_message(error))
            if not self.faults:
                self.fault((), str(refusal))
            raise DocumentError(self.source, self.faults) from refusal

    def stacked(self, document: StandardText) -> tuple[tuple[Layer, ...], list[Rule]]:
        """Layers in order of precedence whatever their order in the text, and their rules in that order."""
        layers = [self.layer(index, text) for index, text in enumerate(document.layer)]
        by_kind = sorted(enumerate(layers), key=lambda pair: KINDS.index(pair[1].kind))
        rules = list[Rule]()
        for place, (index, _) in enumerate(by_kind):
            text = document.layer[index]
            for number, rule in enumerate(text.rule):
                made = self.rule(
                    len(rules), place, replace_app(rule, rule.app or text.app), ("layer", index, "rule", number)
                )
                rules += [made] if made else []
        return tuple(layer for _, layer in by_kind), rules

    def with_blocked(self, layers: tuple[Layer, ...], rules: list[Rule]) -> tuple[tuple[Layer, ...], list[Rule]]:
        """A blocked build is off norm whatever rules say: as if a locked rule stood over all, where it applies."""
        made = [self.blocking(number, *of) for number, of in enumerate(self.releases.blocked())]
        if not made:
            return layers, rules
        shifted = [replace(rule, number=rule.number + len(made), layer=rule.layer + 1) for rule in rules]
        return (Layer(BLOCKED, "facility", None), *layers), [*made, *shifted]

    def blocking(self, number: int, key: str, app: str | None) -> Rule:
        setting, versions = catalogue()[key], self.releases.of(key, app, "blocked")
        text = RuleText(
            key,
            app,
            never=tuple(versions),
            severity="must",
            locked=True,
            because=self.releases.why(key, app),
            evidence="observed",
        )
        values = tuple(Expression(version, _literal(setting, version)) for version in versions)
        nodes = [value.node for value in values]
        saying = Expression("the build is blocked", _test("one_of", nodes, setting))
        newest = next(iter(self.releases.of(key, app, "approved")), None)
        fix = Expression(newest, _literal(setting, newest)) if newest else None
        ladder = self.releases.ladder(key, app)
        test = _test("never", nodes, setting)
        return Rule(number, 0, setting, "never", values, test, app, saying, None, fix, text, (), ladder=ladder)

    def check_counts(self) -> None:
        """Before anything is done for each of them."""
        counts = {name: len(part) for name, part in self.plain.items() if isinstance(part, dict | list)}
        for part in ("rule", "care"):
            counts[part] = _count_in_layers(self.plain.get("layer"), part)
        for name, most in LIMITS.items():
            if counts.get(name, 0) > most and not self.lenient:
                self.fault((), f"there are {counts[name]:,} of {name}", f"at most {most:,}")
        self.stop_at_faults()

    def stop_at_faults(self) -> None:
        if self.faults:
            ordered = sorted(self.faults, key=lambda f: (f.line or 0, f.column or 0))
            raise DocumentError(self.source, ordered[:LIMIT_FAULTS])

    def make(self, path: Path, message: str, expected: str = "", *, offset: int = -1) -> Fault:
        line, column = self.places.of(path)
        # The offset counts inside the quotes of the TOML string.
        return Fault(message, written(path), line, column + 1 + offset if offset >= 0 else column, expected)

    def fault(self, path: Path, message: str, expected: str = "", *, offset: int = -1) -> None:
        self.faults.append(self.make(path, message, expected, offset=offset))

    def layer(self, index: int, text: LayerText) -> Layer:
        checker = Checker(words=self.words)
        condition = self.condition(("layer", index, "when"), text.when, checker)
        self.spoken_of |= checker.spoken_of
        kind = text.kind or ("application" if text.app else _kind_of(condition))
        return Layer(text.name, kind, condition, _spoken(checker), index)

    def condition(self, path: Path, text: str | None, checker: Checker) -> Expression | None:
        if text is None:
            return None
        return self.expression(text, path, checker, checker.boolean)

    def rule(self, number: int, layer: int, text: RuleText, path: Path) -> Rule | None:
        before, check = len(self.faults), self.check_of(text, path)
        if check is None:
            return None
        setting = catalogue()[text.setting]
        checker = Checker(setting, self.words)
        given = self.given(check, text, path)
        values = self.values(check, given, (*path, check), checker)
        when = self.condition((*path, "when"), text.when, checker)
        versions = self.versions((*path, "versions"), text.versions)
        fix = self.value(text.fix, (*path, "fix"), checker) if text.fix is not None else None
        if len(self.faults) > before:
            return None
        self.spoken_of |= checker.spoken_of
        test = _test(check, [value.node for value in values], setting)
        line, _ = self.places.of(path)
        saying = _spoken(checker) + " ".join(given if check == "listed" else ())
        ladder = self.releases.ladder(setting.key, text.app) if setting.kind is Kind.VERSION else ()
        return Rule(
            number, layer, setting, check, values, test, text.app, when, versions, fix, text, path, line, saying, ladder
        )

    def given(self, check: str, text: RuleText, path: Path) -> Any:
        """What a rule's check is given: its own words, or the builds that the list of releases takes."""
        return self.listed(text, path) if check == "listed" else getattr(text, check)

    def check_of(self, text: RuleText, path: Path) -> str | None:
        """The one check of a rule; None, with the fault kept, where its setting or its check is none."""
        known = catalogue()
        if text.setting not in known:
            expected = _settings_near(text.setting)
            self.fault((*path, "setting"), f"unknown setting {text.setting!r}", expected)
            return None
        checks = [check for check in CHECKS if getattr(text, check) is not None]
        if len(checks) != 1:
            message = f"the rule has {' and '.join(checks) or 'no check'}"
            self.fault(path, message, "exactly one of " + ", ".join(CHECKS))
            return None
        setting, check = known[text.setting], checks[0]
        if check in ("at_least", "at_most", "between") and not setting.ordered:
            message = f"{setting.key} is {setting.dimension}: it has no more or less"
            self.fault((*path, check), message, "want or one_of")
        return check

    def listed(self, text: RuleText, path: Path) -> tuple[str, ...]:
        """The releases that a rule asks for by their standing."""
        standings = ("approved",) if text.listed == "approved" else ("approved", "tolerated")
        listed = self.releases.of(text.setting, text.app, *standings)
        if catalogue()[text.setting].kind is not Kind.VERSION:
            self.fault((*path, "listed"), f"{text.setting} is no version", "want or one_of")
        elif not listed:
            app = f" of {text.app}" if text.app else ""
            self.fault((*path, "listed"), f"no {text.listed} release{app} is in the list", "a [[release]] of it")
        return tuple(listed)

    def versions(self, path: Path, text: str | None) -> VersionRange | None:
        if text is None:
            return None
        try:
            return VersionRange.parse(text)
        except QuantityError as wrong:
            self.fault(path, str(wrong), offset=wrong.position)
            return None

    def values(self, check: str, given: Any, path: Path, checker: Checker) -> tuple[Expression, ...]:
        if check == "must":
            checked = self.condition(path, given, checker)
            return (checked,) if checked else ()
        many = isinstance(given, tuple)
        pairs = [((*path, i), v) for i, v in enumerate(given)] if many else [(path, given)]
        literal = check in ("want", "one_of", "never", "listed")
        values = [self.value(value, where, checker, literal=literal) for where, value in pairs]
        return tuple(value for value in values if value)

    def value(self, given: Bound, path: Path, checker: Checker, *, literal: bool = False) -> Expression | None:
        """A value as the setting holds it, else an expression of its dimension."""
        setting = checker.setting
        assert setting
        try:
            return Expression(str(given), _literal(setting, setting.parse(given)))
        except ValueFault as wrong:
            if literal or not isinstance(given, str) or not setting.ordered:
                self.fault(path, str(wrong))
                return None
        return self.expression(given, path, checker, lambda node: checker.value(node, setting.dimension))

    def expression(
        self, text: str, path: Path, checker: Checker, check: Callable[[syntax.Node], syntax.Node]
    ) -> Expression | None:
        try:
            node = check(parse(text))
        except ExpressionError as wrong:
            if self.lenient and isinstance(wrong, TooLarge):
                return Expression(text, syntax.Unsound(0, 0, wrong.message))
            self.fault(path, wrong.message, wrong.expected, offset=wrong.position)
            return None
        self.size += syntax.extent(node).size
        return Expression(text, node)


def _count_in_layers(layers: Any, part: str) -> int:
    """The rules, or sentences of care, of all layers, as far as they are lists."""
    held = [layer.get(part) for layer in layers if isinstance(layer, dict)] if isinstance(layers, list) else []
    return sum(len(listed) for listed in held if isinstance(listed, list))


def _settings_near(key: str) -> str:
    """What to write in place of a setting that is unknown."""
    near = nearest(key, catalogue().settings)
    return "one of " + ", ".join(near) if near else "a setting of the catalogue"


def _spoken(checker: Checker) -> str:
    """What the words that an expression used mean: another meaning makes it another expression."""
    return "".join(f"{name}={text};" for name, text in sorted(checker.met.items()))


def _words_of(document: StandardText) -> list[Path]:
    """The places of the words that a standard has of its own."""
    return [(part, name) for part in ("constants", "groups") for name in getattr(document, part)]


def replace_app(text: RuleText, app: str | None) -> RuleText:
    """The rule for that application."""
    return msgspec.structs.replace(text, app=app)


def _jsonable(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: _jsonable(inner) for key, inner in value.items()}
    if isinstance(value, list):
        return [_jsonable(inner) for inner in value]
    return value.isoformat() if isinstance(value, dt.date | dt.time) else value


def _shape_message(error: "ValidationError") -> str:
    if error.validator == "additionalProperties":
        return error.message.replace("Additional properties are not allowed", "unknown field")
    return error.message[:300]


def _literal(setting: Setting, value: Value) -> syntax.Literal:
    parsed = Version.parse(value) if setting.kind is Kind.VERSION and isinstance(value, str) else value
    return syntax.Literal(0, 0, parsed, setting.dimension)


NEARLY = Fraction(1, 1000)
_SIZES = (Dimension.BYTES, Dimension.BYTE_RATE)


def _test(check: str, values: list[syntax.Node], setting: Setting) -> syntax.Node:
    """Every check is one condition on the reading."""
    if check == "must":
        return values[0]
    reading = syntax.Name(0, 0, (), "reading", setting.dimension)
    if check in ("one_of", "never", "listed"):
        sign = "not in" if check == "never" else "in"
        return syntax.Compare(0, 0, sign, reading, syntax.Several(0, 0, tuple(values)))
    if check == "between":
        low = syntax.Compare(0, 0, ">=", reading, _eased(values[0], setting, -1))
        high = syntax.Compare(0, 0, "<=", reading, _eased(values[1], setting, 1))
        return syntax.Logic(0, 0, "and", (low, high))
    sign = {"want": "==", "at_least": ">=", "at_most": "<="}[check]
    return syntax.Compare(0, 0, sign, reading, _eased(values[0], setting, {">=": -1, "<=": 1}.get(sign, 0)))


def _eased(bound: syntax.Node, setting: Setting, way: int) -> syntax.Node:
    """A size that was worked out is met by what is nearly so: no application holds a fifth of 32 GiB to the byte."""
    if not way or isinstance(bound, syntax.Literal) or setting.dimension not in _SIZES:
        return bound
    share = syntax.Literal(0, 0, 1 + way * NEARLY, Dimension.NUMBER)
    return syntax.Arithmetic(0, 0, "*", bound, share)


def _kind_of(condition: Expression | None) -> str:
    """The narrowest kind that the condition's names speak of."""
    if condition is None:
        return "facility"
    names = [(name.root, name.path) for name in syntax.names_of(condition.node)]
    kinds = [_KIND_BY_NAME.get(path[:1], "class") if root == "seat" else "class" for root, path in names]
    return max(kinds, key=KINDS.index, default="facility")
