"""What is doubtful in a standard, alone or on the seats of a house: nothing here refuses it."""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import msgspec

from ..base.quantities import Dimension, show
from ..base.toml_places import Places
from ..catalogue.settings import Kind
from ..judging.judge import Judge
from ..judging.norms import ENGINES, fix_value
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
    doubts = [*_of_text(standard), *_unused(standard, text)]
    if house is not None and len(house):
        doubts += _on_seats(_own(standard), Standing(house, Judge(standard)))
    return sorted(doubts, key=lambda doubt: (doubt.level != "warning", doubt.line or 0, doubt.code))


def _own(standard: Standard) -> list[Rule]:
    """The rules that stand in the text; those of the list of releases do not."""
    return [rule for rule in standard.rules if rule.path]


def _of_text(standard: Standard) -> Iterator[Doubt]:
    """What can be doubted without looking at any seat."""
    yield from (_doubt("overruled", rule, fault.message) for rule, fault in _overruled(standard))
    for rule in _own(standard):
        yield from _of_rule(rule, standard)


def _of_rule(rule: Rule, standard: Standard) -> Iterator[Doubt]:
    """What is doubtful in a rule by itself."""
    if rule.check == "listed" and (last := last_day(standard.releases, rule)):
        yield _doubt("runs-out", rule, f"no release is {rule.text.listed} any more after {last:%-d %b %Y}")
    if _unfixed(rule):
        yield _doubt("no-fix", rule, f"{rule.check} without fix: a person must decide")
    if rule.text.evidence == "untested":
        yield _doubt("untested", rule, "not measured or observed", level="note")
    elif not rule.text.rests_on:
        message = "rests_on says which trial measured it, or where it was observed"
        yield _doubt("unproven", rule, message, level="note")


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
        yield from _of_rule_on_seats(rule, seen[rule.number], by_number)


def _of_rule_on_seats(rule: Rule, seen: _Seen, rules: Mapping[int, Rule]) -> Iterator[Doubt]:
    if not seen.applies:
        yield _doubt("never-applies", rule, "this rule applies on no seat")
    elif not seen.wins:
        yield _doubt("always-overridden", rule, "another rule wins wherever this one applies")
    against = [(rules[other], seats) for other, seats in seen.against.items() if other in rules]
    for winner, seats in against:
        message = f"line {winner.line} of the same layer wins, and wants what this one does not take"
        yield _doubt("contradicts", rule, message, seats=seats)
    if seen.barred:
        seats = [barred.partition(": ")[0] for barred in seen.barred]
        yield _doubt("cannot-hold", rule, _barrier(seen.barred), seats=seats)


def _barrier(barred: list[str]) -> str:
    seat, _, why = barred[0].partition(": ")
    others = f", and {len(barred) - 1} more like it" if len(barred) > 1 else ""
    return f"on {seat} {why}{others}"


def _look(standing: Standing, case: Case, number: int, row: int, seen: dict[int, _Seen]) -> None:
    """What the rules of a reading come to on one seat, which stands for all that are like it."""
    view = standing.house.view(row)
    speaking = standing.judge.speaking(view, case.key)
    if not speaking:
        return
    (winner, scope), rules = speaking[0], [rule for rule, _ in speaking]
    for rule in rules:
        seen[rule.number].applies = True
    seen[winner.number].wins = True
    if has_status(case.kinds.table[number], OFF_NORM) and (why := _barred(winner, scope, rules)):
        seen[winner.number].barred.append(f"{view.seat.name}: {why}")
    for rule in _contradicted_by(winner, scope, rules[1:]):
        seen[rule.number].against[winner.number].append(view.seat.name)


def _contradicted_by(winner: Rule, scope: Scope, others: list[Rule]) -> list[Rule]:
    """Rules of the winner's layer that do not take what it wants."""
    fix = _fixed(winner, scope)
    if fix is None:
        return []
    alike = [rule for rule in others if rule.layer == winner.layer]
    return [rule for rule in alike if evaluate(rule.test, _with(scope, fix)) is False]


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
    return _lacks_engine(rule, scope) or _lacks_memory(rule, scope)


def _lacks_engine(rule: Rule, scope: Scope) -> str:
    if rule.setting.key not in ENGINES or rule.check != "want" or scope.facts.gpus is None:
        return ""
    wanted = str(_fixed(rule, scope))
    return "" if wanted in ("cpu", *scope.facts.interfaces()) else f"no enabled GPU offers {wanted}"


def _asks_for_memory(rule: Rule) -> bool:
    of_memory = rule.setting.kind is Kind.BYTES and rule.setting.family == "memory"
    return of_memory and rule.check in ("want", "at_least", "between")


def _lacks_memory(rule: Rule, scope: Scope) -> str:
    if not _asks_for_memory(rule):
        return ""
    least, total = _fixed(rule, scope), scope.facts.memory.total
    if least is None or total is None or least <= total:
        return ""
    return f"it wants {show(least, Dimension.BYTES)} of {show(total, Dimension.BYTES)}"
