"""What is doubtful in a standard, alone or on the seats of a house: nothing here refuses it."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any

import msgspec

from ..base.quantities import Dimension, show
from ..base.toml_places import Places
from ..catalogue.settings import Kind
from ..judging.judge import Judge
from ..judging.norms import fix_value
from ..rules.evaluate import Missing, Scope, evaluate
from ..standard.releases import last_day
from ..standard.rule import Rule, Standard
from ..standard.sentences import rule_sentence
from .columns import House
from .marks import OFF_NORM, has_status
from .verdicts import Case, Standing

NAMED = 20  # seats that are told by name


class Doubt(msgspec.Struct, frozen=True):
    """One thing: `code` is stable, `level` is warning or note; `seats` are those where it shows."""

    code: str
    level: str
    message: str
    hint: str
    line: int | None
    rule: str
    seats: tuple[str, ...] = ()


CODES = {
    "overruled": "a locked rule stands over it",
    "never-applies": "no seat of the house meets its conditions",
    "always-overridden": "another rule wins wherever it applies",
    "contradicts": "a rule of the same layer wants what this one does not take",
    "cannot-hold": "the hardware of a seat does not allow what it wants",
    "no-fix": "an order could settle it, and it names no value to set",
    "untested": "it rests on no evidence",
    "unproven": "it says that there is evidence, and not which",
    "runs-out": "its list of releases comes to an end",
    "unused-word": "nothing speaks of it",
}


@dataclass(slots=True)
class _Seen:
    """What a rule came to on the seats of a house."""

    applies: bool = False
    wins: bool = False
    against: dict[int, list[str]] = field(default_factory=lambda: defaultdict(list))
    barred: list[str] = field(default_factory=list)


def lint(standard: Standard, house: House | None = None, text: str = "") -> list[Doubt]:
    """Every doubt, by line. What shows on seats alone needs a house; `text` says where unused words stand."""
    own = [rule for rule in standard.rules if rule.path]
    doubts = [_doubt("overruled", rule, fault.message) for rule, fault in _overruled(standard)]
    doubts += [
        _doubt("runs-out", rule, f"no release is {rule.text.listed} any more after {last:%-d %b %Y}")
        for rule in own
        if rule.check == "listed" and (last := last_day(standard.releases, rule))
    ]
    unfixed = [rule for rule in own if _unfixed(rule)]
    doubts += [_doubt("no-fix", rule, f"{rule.check} without fix: a person must decide") for rule in unfixed]
    untested = [rule for rule in own if rule.text.evidence == "untested"]
    doubts += [_doubt("untested", rule, "nobody has measured or observed this", level="note") for rule in untested]
    unproven = [rule for rule in own if rule.text.evidence != "untested" and not rule.text.rests_on]
    message = "rests_on says which trial measured it, or where it was observed"
    doubts += [_doubt("unproven", rule, message, level="note") for rule in unproven]
    doubts += _unused(standard, text)
    if house is not None and len(house):
        doubts += _on_seats(own, Standing(house, Judge(standard)))
    return sorted(doubts, key=lambda doubt: (doubt.level != "warning", doubt.line or 0, doubt.code))


def _doubt(code: str, rule: Rule, message: str, *, level: str = "warning", seats: list[str] | None = None) -> Doubt:
    return Doubt(code, level, message, CODES[code], rule.line, rule_sentence(rule), tuple((seats or [])[:NAMED]))


def _overruled(standard: Standard) -> Iterator[tuple[Rule, Any]]:
    by_line = {rule.line: rule for rule in standard.rules if rule.path}
    for fault in standard.warnings:
        if rule := by_line.get(fault.line):
            yield rule, fault


def _unfixed(rule: Rule) -> bool:
    """Whether an order could set this, and the rule does not say to what. A path goes to the best volume."""
    settable = rule.setting.remote and rule.setting.kind is not Kind.PATH
    return settable and rule.check in ("must", "never") and rule.fix is None


def _unused(standard: Standard, text: str) -> Iterator[Doubt]:
    places = Places(text) if text and standard.unused else None
    for path in standard.unused:
        line = places.of(path)[0] if places else None
        yield Doubt("unused-word", "note", f"{path[-1]} is never used", CODES["unused-word"], line, "")


def _on_seats(rules: list[Rule], standing: Standing) -> Iterator[Doubt]:
    seen = {rule.number: _Seen() for rule in standing.judge.standard.rules}
    for case in standing.cases.values():
        for number, row in enumerate(case.kinds.tuples.sample):
            if row >= 0:
                _look(standing, case, number, row, seen)
    by_number = {rule.number: rule for rule in rules}
    for rule in rules:
        outcome = seen[rule.number]
        if not outcome.applies:
            yield _doubt("never-applies", rule, "this rule applies on no seat")
        elif not outcome.wins:
            yield _doubt("always-overridden", rule, "another rule wins wherever this one applies")
        for other, seats in outcome.against.items():
            if other in by_number:
                message = f"line {by_number[other].line} of the same layer wins, and wants what this one does not take"
                yield _doubt("contradicts", rule, message, seats=seats)
        if outcome.barred:
            seats = [barred.partition(": ")[0] for barred in outcome.barred]
            yield _doubt("cannot-hold", rule, _barrier(outcome.barred), seats=seats)


def _barrier(barred: list[str]) -> str:
    seat, _, why = barred[0].partition(": ")
    others = f", and {len(barred) - 1} more like it" if len(barred) > 1 else ""
    return f"on {seat} {why}{others}"


def _look(standing: Standing, case: Case, number: int, row: int, seen: dict[int, _Seen]) -> None:
    view = standing.house.view(row)
    speaking = standing.judge.speaking(view, case.key)
    if not speaking:
        return
    winner, scope = speaking[0][0], speaking[0][1]
    for rule, _ in speaking:
        seen[rule.number].applies = True
    seen[winner.number].wins = True
    name = view.seat.name
    mark = case.kinds.table[number]
    if has_status(mark, OFF_NORM) and (why := _barred(winner, scope, [rule for rule, _ in speaking])):
        seen[winner.number].barred.append(f"{name}: {why}")
    fix = _fixed(winner, scope)
    for rule, _ in speaking[1:]:
        if rule.layer == winner.layer and fix is not None and evaluate(rule.test, _with(scope, fix)) is False:
            seen[rule.number].against[winner.number].append(name)


def _fixed(rule: Rule, scope: Scope) -> Any:
    """A value that this rule takes."""
    if rule.check in ("must", "never") or not rule.values:
        return None
    value = evaluate(rule.values[0].node, scope)
    return None if isinstance(value, Missing) else getattr(value, "text", value)


def _with(scope: Scope, reading: Any) -> Scope:
    return replace(scope, reading=reading, shared={})


def _barred(rule: Rule, scope: Scope, rules: list[Rule]) -> str:
    """Why this seat can never be in norm, "" where it can."""
    if rule.check == "one_of" and fix_value(rule, scope, rules) is None:
        return f"none of {', '.join(value.text for value in rule.values)} is to be had"
    offered = {name for gpu in scope.facts.gpus or () if gpu.enabled for name in gpu.interfaces or ()}
    engine = rule.setting.key in ("engine.effects", "project.engine") and scope.facts.gpus is not None
    if engine and rule.check == "want":
        wanted = str(_fixed(rule, scope))
        if wanted != "cpu" and wanted not in offered:
            return f"no enabled GPU offers {wanted}"
    total = scope.facts.memory.total
    of_memory = rule.setting.kind is Kind.BYTES and rule.setting.family == "memory"
    if of_memory and rule.check in ("want", "at_least", "between"):
        least = _fixed(rule, scope)
        if total is not None and least is not None and least > total:
            return f"it wants {show(least, Dimension.BYTES)} of {show(total, Dimension.BYTES)}"
    return ""
