"""What a rule wants of one seat, how far a reading is from it, and what would put it right."""

import math
from bisect import bisect_right
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any

import msgspec

from ..base.quantities import Dimension, Plain, Value, Version, exact, show
from ..catalogue.settings import Kind, Setting, catalogue
from ..rules import syntax
from ..rules.evaluate import Missing, Scope, Step, Trace, evaluate
from ..rules.explained import Explainer
from ..rules.spoken import Speaker
from ..seat.facts import Volume
from ..standard.rule import Rule

# log2 of a reading of nothing is capped here: sixteen halvings are as far as a level can tell.
FARTHEST = 16.0
ENGINES = ("engine.effects", "project.engine")


class Norm(msgspec.Struct, frozen=True, omit_defaults=True):
    """What the effective standard wants: the check, its operands as JSON values, a sentence.

    Of `must`: `rule` is the condition as it is written; where a reading fails it, `sentence` is what of it fails, and
    `there` what is there instead.
    """

    check: str
    values: tuple[Plain, ...]
    sentence: str
    rule: str = ""
    there: str = ""


Show = Callable[[Any], str]


def show_of(rule: Rule, scope: Scope, *, off: bool) -> Show:
    """How this reading and its bounds are printed: exactly, where they would look alike and are not."""
    setting = rule.setting
    if not off or not setting.ordered or rule.check in ("must", "listed") or setting.kind is Kind.VERSION:
        return setting.show
    bounds = (evaluate(value.node, scope) for value in rule.values)
    alike = setting.show(scope.reading) in {setting.show(bound) for bound in bounds if not isinstance(bound, Missing)}
    return (lambda value: exact(value, setting.dimension)) if alike else setting.show


def _unknown(rule: Rule, missing: Missing) -> Norm:
    """What a rule wants where a fact that it is worked out from was not read: its own words."""
    words = ", ".join(value.text for value in rule.values)
    return Norm(rule.check, (), f"unknown: {missing.what} is missing", words)


def norm_of(rule: Rule, scope: Scope, *, off: bool = False) -> Norm:
    """What a rule wants of this seat, with its operands evaluated."""
    setting = rule.setting
    if rule.check == "must":
        return _of_must(rule, scope)
    values = [evaluate(value.node, scope) for value in rule.values]
    missing = next((v for v in values if isinstance(v, Missing)), None)
    if missing:
        return _unknown(rule, missing)
    rounded = _bounds(rule, values)
    show = show_of(rule, scope, off=off)
    shown = [_shown(show, value) for value in (values if show == setting.show else rounded)]
    sentence = _sentence(rule.check, shown) + _condition_text(rule, scope)
    return Norm(rule.check, tuple(map(setting.plain, rounded)), sentence)


def _of_must(rule: Rule, scope: Scope) -> Norm:
    condition = rule.values[0]
    if scope.reading is not None and evaluate(condition.node, scope) is False:
        fails = Explainer(rule.setting).explained(condition.node, scope)
        return Norm("must", (), fails.wants, condition.text, fails.there)
    return Norm("must", (), condition_spoken(rule), condition.text)


def condition_spoken(rule: Rule) -> str:
    """All that a `must` wants, behind `wants`: `a volume that is attached, with at least 120 GB free`."""
    wants = Speaker(rule.setting).wants(rule.values[0].node)
    return wants.removeprefix("is on ").removeprefix("is ")


def _shown(show: Show, value: Value | Version) -> str:
    return value.text if isinstance(value, Version) else show(value)


def _sentence(check: str, shown: list[str]) -> str:
    match check:
        case "one_of":
            return "one of " + ", ".join(shown)
        case "never":
            return "never " + " or ".join(shown)
        case "listed":
            return "a listed release: " + ", ".join(shown)
        case "between":
            low, high = shown
            (number, _, unit), (_, _, other) = low.partition(" "), high.partition(" ")
            return f"{number if unit == other else low} to {high}"
        case "at_least" | "at_most":
            return f"{check.replace('_', ' ')} {shown[0]}"
    return shown[0]


def _condition_text(rule: Rule, scope: Scope) -> str:
    """`, because Raw decode scale is 1/4` for a rule whose condition looks at other readings."""
    if not rule.when:
        return ""
    parts = []
    for key in dict.fromkeys(syntax.settings_named(rule.when.node)):
        value = scope.setting(key)
        if not isinstance(value, Missing):
            parts.append(f"{catalogue()[key].title} is {catalogue()[key].show(value)}")
    return ", because " + " and ".join(parts) if parts else ""


def _whole(setting: Setting, value: Any, *, up: bool) -> Value:
    """Bytes and counts are whole; a bound rounds into the norm."""
    if isinstance(value, Version):
        return value.text
    if isinstance(value, Fraction) and setting.kind in (Kind.BYTES, Kind.INT, Kind.SECONDS):
        return math.ceil(value) if up else math.floor(value)
    rounded: Value = value
    return rounded


def reading_shown(setting: Setting, scope: Scope, show: Show | None = None) -> str:
    """The reading for people, with the volume a path is on."""
    if scope.reading is None:
        return "unread"
    shown = (show or setting.show)(scope.reading)
    return f"{shown}, on {scope.volume.id}" if setting.kind is Kind.PATH and scope.volume else shown


def fix_value(rule: Rule, scope: Scope, rules: list[Rule]) -> Value:
    """The value that puts the reading right, None where needs a decision; a volume's id for a path."""
    if rule.fix:
        value = evaluate(rule.fix.node, scope)
        return None if isinstance(value, Missing) else _whole(rule.setting, value, up=True)
    match rule.check:
        case "must":
            return _best_volume_id(rule, scope)
        case "never":
            return None
    return _nearest_bound(rule, scope, rules)


def _nearest_bound(rule: Rule, scope: Scope, rules: list[Rule]) -> Value:
    """What a rule wants, where that is nearest to the reading; of several values the first that every rule allows."""
    values = _bounds(rule, [evaluate(value.node, scope) for value in rule.values])
    match rule.check:
        case "one_of" | "listed":
            return next((value for value in values if _allowed(value, scope, rules, rule.setting)), None)
        case "between" if not _less(scope.reading, values[0], rule.setting):
            return values[1]
    return values[0]


def _best_volume_id(rule: Rule, scope: Scope) -> str | None:
    volume = best_volume(rule, scope) if rule.setting.kind is Kind.PATH else None
    return volume.id if volume else None


def _bounds(rule: Rule, values: Sequence[Any]) -> list[Value]:
    """The operands of a check as whole numbers, each rounded into the norm: a lower bound up, an upper one down."""
    lower = rule.check != "at_most"
    return [_whole(rule.setting, value, up=lower and place == 0) for place, value in enumerate(values)]


def _less(reading: Any, bound: Any, setting: Setting) -> bool:
    if setting.kind is Kind.VERSION:
        return Version.parse(reading) < Version.parse(bound)
    return bool(reading < bound)


def _allowed(value: Value, scope: Scope, rules: list[Rule], setting: Setting) -> bool:
    """Whether the facts, and the `must` and `never` rules that lost, would take this value."""
    of_gpu = setting.key in ENGINES and scope.facts.gpus is not None
    if of_gpu and value not in ("cpu", *scope.facts.interfaces()):
        return False
    tried = replace(scope, reading=value, shared={})
    return all(evaluate(r.test, tried) is not False for r in rules if r.check in ("must", "never"))


_VOLUME_KINDS = ("nvme", "ssd", "hdd", "network")


def best_volume(rule: Rule, scope: Scope) -> Volume | None:
    """The best volume that the rule would accept: fast kinds first, then measured rate, then free share."""
    fit = []
    for volume in scope.facts.volumes or ():
        tried = replace(scope, reading=volume.mount, volume=volume, shared={})
        usable = volume.attached is not False and not volume.removable and volume.writable is not False
        if usable and evaluate(rule.test, tried) is True:
            fit.append(volume)
    return min(fit, key=_preference, default=None)


def _preference(volume: Volume) -> tuple[object, ...]:
    kind = _VOLUME_KINDS.index(volume.kind) if volume.kind in _VOLUME_KINDS else len(_VOLUME_KINDS)
    free = (volume.free or 0) / (volume.capacity or 1)
    return bool(volume.system), kind, -(volume.read_rate or 0), -free, volume.id


def fix_shown(rule: Rule, fix: Value) -> str:
    """The fix for people."""
    if fix is None:
        return "needs a decision"
    if rule.setting.kind is Kind.PATH and rule.check == "must" and not rule.fix:
        return f"best volume {fix}"
    return rule.setting.show(fix)


def distance(rule: Rule, scope: Scope) -> float | None:
    """Signed distance to the nearest bound: octaves for quantities, a plain difference for small integers."""
    setting, reading = rule.setting, scope.reading
    if setting.kind is Kind.VERSION:
        return _behind(rule, scope)
    if not setting.ordered or rule.check in ("must", "never"):
        return None
    bounds = [evaluate(value.node, scope) for value in rule.values]
    nearest = min(bounds, key=lambda bound: abs(_apart(reading, bound, setting)))
    return _apart(reading, nearest, setting)


def _behind(rule: Rule, scope: Scope) -> float | None:
    """How many approved releases lie between the reading and what is wanted: the newest, or the nearest bound."""
    if not rule.ladder or rule.check == "must":
        return None
    newest = rule.check in ("listed", "never")
    wanted = rule.ladder[-1:] if newest else [evaluate(value.node, scope) for value in rule.values]
    own = bisect_right(rule.ladder, Version.parse(str(scope.reading)))
    steps = [float(own - bisect_right(rule.ladder, bound)) for bound in wanted]
    return min(steps, key=abs) or None


def _apart(reading: Any, bound: Any, setting: Setting) -> float:
    if setting.kind is Kind.INT:
        return max(-FARTHEST, min(FARTHEST, float(reading - bound)))
    if math.inf in (reading, bound):
        return FARTHEST if reading == math.inf else -FARTHEST
    if reading <= 0 or bound <= 0:
        return FARTHEST if reading > bound else -FARTHEST
    return max(-FARTHEST, min(FARTHEST, math.log2(Fraction(reading) / Fraction(bound))))


def steps_of(rule: Rule, scope: Scope) -> list[Step]:
    """Every part of the rule's expressions and what it came to."""
    steps = list[Step]()
    for part in (*rule.values, rule.when):
        if part is None:
            continue
        trace = Trace(part.text)
        if isinstance(part.node, syntax.Literal):
            continue
        evaluate(part.node, scope, trace)
        # What goes in stands before what comes of it.
        parts = [*_arms(part.node, part.text), *trace.steps]
        steps += [step for step in parts if step not in steps]
    return steps


def _arms(node: syntax.Node, text: str) -> Iterator[Step]:
    """The constant arms of min and max, which a trace leaves out."""
    for inner in (node, *syntax.children(node)):
        if isinstance(inner, syntax.Call):
            for arm in inner.arguments:
                if isinstance(arm, syntax.Literal) and not isinstance(arm.value, Version):
                    yield Step(text[arm.start : arm.end], show(arm.value, arm.dimension or Dimension.NUMBER))
