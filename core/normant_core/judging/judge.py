"""Drift: a seat's readings against the effective standard. Compiled for speed, explained only where off norm."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import msgspec

from ..base.quantities import Plain, Value
from ..catalogue.settings import Kind, Setting
from ..rules.emit import FAST_FAILURES, Shared
from ..rules.evaluate import Missing, Scope, evaluate
from ..seat.facts import Application, Facts, Seat, volume_under
from ..seat.survey import Key, Store, Survey, Unreadable
from ..standard.rule import Rule, Severity, Standard
from .compiled import Fast, compiled, is_compiled, predicate
from .inputs import Input, inputs_of
from .norms import (
    Norm,
    condition_spoken,
    distance,
    fix_shown,
    fix_value,
    norm_of,
    reading_shown,
    show_of,
    steps_of,
)

Status = Literal["in-norm", "off-norm", "unread", "waived"]


class Link(msgspec.Struct, frozen=True):
    """One rule in the chain of a norm; outcome: made, lost, or locked out."""

    layer: str
    sentence: str
    outcome: str


class Verdict(msgspec.Struct, frozen=True, omit_defaults=True):
    """How one reading stands: status is in-norm, off-norm or unread; distance is signed, None without direction."""

    setting: str
    app: str | None
    status: Status
    severity: Severity
    reading: Plain
    reading_shown: str
    norm: Norm
    distance: float | None
    fix: Plain
    fix_shown: str
    layer: str
    chain: tuple[Link, ...]
    because: str
    evidence: str
    steps: tuple[tuple[str, str], ...] = ()
    reason: str = ""
    locked: bool = False

    @property
    def key(self) -> Key:
        """(setting, application)."""
        return self.setting, self.app


class Outcome(msgspec.Struct, frozen=True, gc=False):
    """How one reading stands, in short: `rule` is the number of the rule that made its norm."""

    setting: str
    app: str | None
    status: Status
    rule: int


@dataclass(slots=True)
class View:
    """What is judged: one seat with its canonical readings by (setting, application)."""

    seat: Seat
    facts: Facts
    readings: Mapping[Key, Value]
    errors: tuple[Unreadable, ...] = ()
    stores: tuple[Store, ...] = ()

    @classmethod
    def of(cls, survey: Survey, seat: Seat) -> "View":
        """The view of a survey and what the register says."""
        return cls(seat, survey.facts, survey.values(), survey.errors, survey.stores)


# The function of a reading, whether it is a path, its setting and application, and the outcome of each result.
Case = tuple[Fast, bool, str, str | None, dict[int, Outcome]]
NOT_WORKED_OUT = (ArithmeticError, TypeError, ValueError, AttributeError, RecursionError)
SHAPES = 1024  # sets of readings that are remembered: as many as a house has kinds of seats, many times over


class Judge:
    """A standard, compiled once when its edition is published."""

    def __init__(self, standard: Standard) -> None:
        self.standard = standard
        shared = Shared()
        self._layers = [predicate(layer.condition.node) if layer.condition else None for layer in standard.layers]
        conditional = {number for number, applies in enumerate(self._layers) if applies}
        self._rules = _by_setting(standard.rules)
        self._paths = {key for key, rules in self._rules.items() if rules[0].setting.kind is Kind.PATH}
        self._named = _named(standard.rules)
        # A function for each application that a rule of the setting names, and one for all others.
        cases = {key: self._for(*key) for key in [*((key, None) for key in self._rules), *self._named]}
        self._fast = {key: (compiled(rules, shared, conditional), rules) for key, rules in cases.items() if rules}
        # Seats with the same applications read the same settings: their shape is worked out once.
        self._shape = lru_cache(maxsize=SHAPES)(self._make_shape)
        self._cases = lru_cache(maxsize=SHAPES)(self._case)
        self._speaking_of = lru_cache(maxsize=SHAPES)(self._make_rules_of)
        self._conditions = lru_cache(maxsize=SHAPES)(self._make_conditions)
        self.inputs = lru_cache(maxsize=SHAPES)(self._make_inputs)

    @property
    def not_compiled(self) -> list[str]:
        """Settings whose rules Python did not take."""
        return sorted({key[0] for key, (fast, _) in self._fast.items() if not is_compiled(fast)})

    def judge(self, view: View) -> list[Outcome]:
        """How every reading that has a norm stands, and what should have been read and was not."""
        scope = _scope(view)
        layers = self._layers_for(scope)
        installed: dict[str | None, Application] = {a.id: a for a in view.facts.applications or ()}
        mounts = view.facts.mounts()
        judgements, last = list[Outcome](), None
        cases, absent = self._shape(tuple(view.readings))
        for case, reading in zip(cases, view.readings.values(), strict=True):
            if case is None:
                continue
            judged, is_path, setting, app, outcomes = case
            if app != last:
                scope.app_id, scope.app, last = app, installed.get(app), app
            if is_path:
                scope.volume = volume_under(mounts, str(reading))
            try:
                result = judged(scope, reading, layers)
            except FAST_FAILURES:
                scope.reading = reading
                judgements.extend(self._slow(scope, setting, layers))
                continue
            if result is not None:
                judgements.append(outcomes[result])
        if view.errors or absent:
            judgements.extend(self._unread(view, absent, scope, layers))
        return judgements

    def _for(self, setting: str, app: str | None) -> list[Rule]:
        """The rules that speak of a setting of an application, the strongest first."""
        return [rule for rule in self._rules[setting] if rule.app in (None, app)]

    def _make_shape(self, keys: tuple[Key, ...]) -> tuple[list[Case | None], list[Key]]:
        """What to call for each reading of these, and which named readings are not among them."""
        there = set(keys)
        return [self._case(*key) for key in keys], [key for key in self._named if key not in there]

    def _case(self, setting: str, app: str | None) -> Case | None:
        fast = self._fast.get((setting, app)) or self._fast.get((setting, None))
        if fast is None:
            return None
        judged, rules = fast
        outcomes = {rule.number + 1: Outcome(setting, app, "in-norm", rule.number) for rule in rules}
        outcomes |= {-rule.number - 1: Outcome(setting, app, "off-norm", rule.number) for rule in rules}
        return judged, setting in self._paths, setting, app, outcomes

    def _seen(self, view: View, key: Key) -> tuple[Scope, tuple[Any, ...]]:
        """What rules see of one reading of a seat, and which layers apply there."""
        scope = _scope(view)
        layers = tuple(True if applies is None else applies(scope) for applies in self._conditions(key))
        scope.app_id, scope.app = key[1], view.facts.application(key[1])
        self._look_at(view, key, scope)
        return scope, layers

    def _look_at(self, view: View, key: Key, scope: Scope) -> None:
        """Puts a reading, and the volume that its path is on, where rules look for them."""
        scope.reading = view.readings.get(key)
        if key[0] in self._paths and scope.reading is not None:
            scope.volume = view.facts.volume_of(str(scope.reading))

    def distance(self, view: View, key: Key) -> float | None:
        """How far a reading that is off norm is from it; None without direction."""
        scope, layers = self._seen(view, key)
        return distance(self._speaking(scope, key[0], layers)[0][0], scope)

    def speaking(self, view: View, key: Key) -> list[tuple[Rule, Scope]]:
        """The rules that apply to a reading of this seat, or may apply, the strongest first, with what they see."""
        scope, layers = self._seen(view, key)
        if scope.reading is None:
            return []
        return [(rule, scope) for rule, _ in self._speaking(scope, key[0], layers)]

    def rules_of(self, key: Key) -> tuple[Rule, ...]:
        """The rules that speak of a reading, the strongest first."""
        return self._speaking_of(key)

    def _make_rules_of(self, key: Key) -> tuple[Rule, ...]:
        setting, app = key
        return tuple(self._for(setting, app)) if setting in self._rules else ()

    @property
    def named(self) -> list[Key]:
        """The readings that rules name with their application: where it is installed, they should be there."""
        return self._named

    def stand(self, view: View, key: Key) -> Outcome | None:
        """How one reading stands; None where no rule speaks of it. `judge` says the same of all of a seat."""
        setting, app = key
        scope, layers = self._seen(view, key)
        reading, case = scope.reading, self._cases(setting, app)
        if reading is None:
            return next(self._missing(scope, setting, layers), None) if self._is_wanted(key, view, scope) else None
        if case is None:
            return None
        judged, _, _, _, outcomes = case
        try:
            result = judged(scope, reading, layers)
        except FAST_FAILURES:
            return next(self._slow(scope, setting, layers), None)
        return None if result is None else outcomes[result]

    def _is_wanted(self, key: Key, view: View, scope: Scope) -> bool:
        """Whether a reading should be there: a rule names it and its application is, or the survey tells an error."""
        return (scope.app is not None and key in self._named) or key in _failed(view.errors)

    def _make_inputs(self, key: Key) -> tuple[Input, ...]:
        """Everything that the outcome of a reading follows from."""
        return inputs_of(self.rules_of(key), self.standard.layers, key)

    def _make_conditions(self, key: Key) -> list[Any]:
        """The conditions of the layers that speak of a reading; those of the others do not matter."""
        speaking = {rule.layer for rule in self.rules_of(key)}
        return [applies if number in speaking else None for number, applies in enumerate(self._layers)]

    def verdicts(self, view: View, *, every: bool = False) -> list[Verdict]:
        """What is off norm or unread, explained; with `every` what is in norm as well."""
        layers = self._layers_for(_scope(view))
        verdicts = []
        for outcome in self.judge(view):
            if every or outcome.status != "in-norm":
                verdicts.append(self._explained(view, outcome.setting, outcome.app, layers))
        return [verdict for verdict in verdicts if verdict]

    def explain(self, view: View, setting: str, app: str | None) -> Verdict | None:
        """The whole verdict on one setting, in norm or not; None where no rule speaks of it."""
        return self._explained(view, setting, app, self._layers_for(_scope(view)))

    def _explained(self, view: View, setting: str, app: str | None, layers: tuple[Any, ...]) -> Verdict | None:
        scope = _scope(view, app)
        self._look_at(view, (setting, app), scope)
        speaking = self._speaking(scope, setting, layers)
        if not speaking:
            return None
        rule, status = speaking[0][0], self._status(*speaking[0], scope)
        rules = [other for other, _ in speaking]
        if scope.reading is None:
            return self._verdict(rule, scope, "unread", rules, reason=_why_unread(view.errors, app, setting))
        if isinstance(status, Missing):
            return self._verdict(rule, scope, "unread", rules, reason=f"{status.what} is unknown")
        try:
            return self._verdict(rule, scope, "in-norm" if status else "off-norm", rules)
        except NOT_WORKED_OUT as fault:
            return self._bare(rule, scope, f"the rule cannot be evaluated here: {fault}")

    def _layers_for(self, scope: Scope) -> tuple[Any, ...]:
        return tuple(True if applies is None else applies(scope) for applies in self._layers)

    def _applying(self, scope: Scope, setting: str, layers: tuple[Any, ...]) -> Iterator[tuple[Rule, Any]]:
        """Every rule of the setting with whether it applies, the strongest first."""
        for rule in self._rules.get(setting, ()):
            if rule.app in (None, scope.app_id):
                yield rule, _applies(rule, scope, layers)

    def _speaking(self, scope: Scope, setting: str, layers: tuple[Any, ...]) -> list[tuple[Rule, Any]]:
        return [(rule, applies) for rule, applies in self._applying(scope, setting, layers) if applies is not False]

    def _status(self, rule: Rule, applies: Any, scope: Scope) -> Any:
        """True in norm, False off norm, or what is Missing."""
        return applies if isinstance(applies, Missing) else evaluate(rule.test, scope)

    def _slow(self, scope: Scope, setting: str, layers: tuple[Any, ...]) -> Iterator[Outcome]:
        for rule, applies in self._speaking(scope, setting, layers)[:1]:
            met = self._status(rule, applies, scope)
            status: Status = "unread" if isinstance(met, Missing) else "in-norm" if met else "off-norm"
            yield Outcome(setting, scope.app_id, status, rule.number)

    def _verdict(self, rule: Rule, scope: Scope, status: Status, rules: list[Rule], *, reason: str = "") -> Verdict:
        setting, off = rule.setting, status == "off-norm"
        fix = fix_value(rule, scope, rules) if off else None
        return Verdict(
            setting=setting.key,
            app=scope.app_id,
            status=status,
            severity=rule.text.severity,
            reading=_plain(setting, scope.reading),
            reading_shown=reading_shown(setting, scope, show_of(rule, scope, off=off)),
            norm=norm_of(rule, scope, off=off),
            distance=distance(rule, scope) if off else None,
            fix=_plain(setting, fix),
            fix_shown=fix_shown(rule, fix) if off else "",
            layer=self.standard.layers[rule.layer].name,
            chain=self._chain(rules, scope),
            because=rule.text.because,
            evidence=rule.text.evidence,
            steps=tuple((s.text, s.result) for s in steps_of(rule, scope)) if off else (),
            reason=reason,
            locked=rule.text.locked,
        )

    def _bare(self, rule: Rule, scope: Scope, reason: str) -> Verdict:
        """A verdict for which nothing has to be worked out."""
        name, sentence = self.standard.layers[rule.layer].name, rule.values[0].text
        return Verdict(
            setting=rule.setting.key,
            app=scope.app_id,
            status="unread",
            severity=rule.text.severity,
            reading=_plain(rule.setting, scope.reading),
            reading_shown=reading_shown(rule.setting, scope),
            norm=Norm(rule.check, (), sentence, sentence),
            distance=None,
            fix=None,
            fix_shown="",
            layer=name,
            chain=(Link(name, sentence, "made"),),
            because=rule.text.because,
            evidence=rule.text.evidence,
            reason=reason,
            locked=rule.text.locked,
        )

    def _chain(self, rules: list[Rule], scope: Scope) -> tuple[Link, ...]:
        winner = rules[0]
        names = self.standard.layers
        return tuple(
            Link(
                names[rule.layer].name,
                condition_spoken(rule) if rule.check == "must" else norm_of(rule, scope).sentence,
                "made"
                if rule is winner
                else "locked out"
                if winner.text.locked and rule.number > winner.number
                else "lost",
            )
            for rule in sorted(rules, key=lambda r: r.number)
        )

    def _unread(self, view: View, absent: list[Key], scope: Scope, layers: tuple[Any, ...]) -> Iterator[Outcome]:
        """Readings that are missing where a rule names an installed application, or the survey tells an error."""
        installed: dict[str | None, Application] = {a.id: a for a in view.facts.applications or ()}
        missing = [key for key in absent if key[1] in installed]
        failed = [key for key in _failed(view.errors) if key not in view.readings]
        for setting, app in dict.fromkeys([*missing, *failed]):
            scope.app_id, scope.app, scope.reading = app, installed.get(app), None
            yield from self._missing(scope, setting, layers)

    def _missing(self, scope: Scope, setting: str, layers: tuple[Any, ...]) -> Iterator[Outcome]:
        """That a reading is unread, where a rule speaks of it."""
        for rule, _ in self._speaking(scope, setting, layers)[:1]:
            yield Outcome(setting, scope.app_id, "unread", rule.number)


def _scope(view: View, app: str | None = None) -> Scope:
    application = view.facts.application(app) if app else None
    return Scope(view.facts, view.seat, view.readings, app, application, stores=view.stores)


def _plain(setting: Setting, value: Value) -> Plain:
    """A value as JSON holds it; None where there is none."""
    return None if value is None else setting.plain(value)


def _failed(errors: tuple[Unreadable, ...]) -> Iterator[Key]:
    """The readings that the survey says it could not take."""
    return (key for error in errors if (key := error.reading))


def _why_unread(errors: tuple[Unreadable, ...], app: str | None, setting: str) -> str:
    exact, whole = (f"dialect:{app}:{setting}", f"dialect:{app}") if app else (f"reading:{setting}", "")
    for source in (exact, whole):
        for error in errors:
            if error.source == source:
                return error.message
    return f"the survey has no value for it{f' for {app}' if app else ''}"


def _by_setting(rules: Iterable[Rule]) -> dict[str, list[Rule]]:
    """The rules of each setting, the strongest first."""
    by_setting: dict[str, list[Rule]] = {}
    for rule in rules:
        by_setting.setdefault(rule.setting.key, []).append(rule)
    return {key: _by_precedence(rules) for key, rules in by_setting.items()}


def _named(rules: Iterable[Rule]) -> list[Key]:
    """The readings that rules name with their application, each once."""
    return list(dict.fromkeys((rule.setting.key, rule.app) for rule in rules if rule.app))


def _by_precedence(rules: list[Rule]) -> list[Rule]:
    """The strongest first: locked rules from the top layer down, then the others from the last layer up."""
    locked = [rule for rule in rules if rule.text.locked]
    return locked + [rule for rule in reversed(rules) if not rule.text.locked]


def _applies(rule: Rule, scope: Scope, layers: tuple[Any, ...]) -> Any:
    """True, False or Missing."""
    conditions = [layers[rule.layer], _in_range(rule, scope.app)]
    if rule.when and not _any_false(conditions):
        conditions.append(evaluate(rule.when.node, scope))
    if _any_false(conditions):
        return False
    return next((c for c in conditions if isinstance(c, Missing)), True)


def _any_false(conditions: list[Any]) -> bool:
    """Whether one is False; what is Missing is not."""
    return any(condition is False for condition in conditions)


def _in_range(rule: Rule, app: Application | None) -> Any:
    """Whether the rule is for this version of the application; True, False or Missing."""
    if rule.versions is None:
        return True
    if app is None:
        return False
    return rule.versions.holds(app.version) if app.version else Missing(f"the version of {app.id}")
