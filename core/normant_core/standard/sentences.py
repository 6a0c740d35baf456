"""A standard in sentences: each rule as somebody would say it, before any seat is looked at."""

from collections.abc import Iterator
from typing import Any

import msgspec

from ..base.wording import app_title, with_app
from ..rules import syntax
from ..rules.spoken import Speaker
from .care import care_sentence
from .rule import Care, Layer, ReleaseText, Rule, Standard

_KIND_TOLD = {
    "facility": "every seat",
    "application": "one application",
    "role": "by role",
    "class": "by hardware",
    "production": "by production or room",
    "seat": "single seats",
}


_ARTICLE = {"approved": "an approved", "tolerated": "an approved or tolerated"}


class RuleSentence(msgspec.Struct, frozen=True):
    """One rule as a sentence, with what an overview shows beside it."""

    setting: str
    app: str | None
    sentence: str
    severity: str
    because: str
    evidence: str
    rests_on: str
    locked: bool
    line: int | None
    at: tuple[int, int]  # its layer and its place in that, as the text has them
    fields: dict[str, Any]  # as they are written


class CareSentence(msgspec.Struct, frozen=True):
    """One sentence of standing care, with what an overview shows beside it."""

    name: str
    sentence: str
    because: str
    line: int | None
    at: tuple[int, int]  # its layer and its place in that, as the text has them
    fields: dict[str, Any]  # as they are written


class ChangedRule(msgspec.Struct, frozen=True):
    """A rule that one edition has and another has not, or has in other words; None: it is not there."""

    layer: str
    before: str | None
    after: str | None


class LayerSentences(msgspec.Struct, frozen=True):
    """A layer, whom it speaks to, its rules and its standing care; `at` is its place in the text."""

    name: str
    kind: str
    applies: str
    rules: tuple[RuleSentence, ...]
    at: int | None = None
    care: tuple[CareSentence, ...] = ()


def layer_sentences(standard: Standard) -> list[LayerSentences]:
    """The layers in order of precedence, the last wins, each with its rules as sentences."""
    return [
        LayerSentences(
            layer.name,
            layer.kind,
            applies(layer),
            tuple(_rules(standard, index)),
            layer.at,
            tuple(_sentence_of(care) for care in standard.care if care.layer is layer),
        )
        for index, layer in enumerate(standard.layers)
        if layer.at is not None
    ]


def _sentence_of(care: Care) -> CareSentence:
    text = care.text
    fields = msgspec.to_builtins(text)
    return CareSentence(text.name, care_sentence(text), text.because, care.line, care.at, fields)


def applies(layer: Layer) -> str:
    """`where the role is grading`, or whom its kind speaks to."""
    return f"where {Speaker().condition(layer.condition.node)}" if layer.condition else _KIND_TOLD[layer.kind]


def _rules(standard: Standard, layer: int) -> Iterator[RuleSentence]:
    for rule in standard.rules:
        if rule.layer == layer and rule.path:
            text = rule.text
            yield RuleSentence(
                rule.setting.key,
                rule.app,
                rule_sentence(rule),
                text.severity,
                text.because,
                text.evidence,
                text.rests_on,
                text.locked,
                rule.line,
                (int(rule.path[1]), int(rule.path[3])),
                msgspec.to_builtins(text),
            )


def rule_sentence(rule: Rule) -> str:
    """`Held back is at least 4 GiB or 10 % of installed memory, whichever is more`."""
    subject = f"{with_app(rule.setting.title, rule.app)}"
    shown = [_operand(rule, index) for index in range(len(rule.values))]
    norm = {
        "want": lambda: f"is {shown[0]}",
        "one_of": lambda: "is " + _either(shown),
        "at_least": lambda: f"is at least {shown[0]}",
        "at_most": lambda: f"is at most {shown[0]}",
        "between": lambda: f"is from {shown[0]} to {shown[1]}",
        "must": lambda: Speaker(rule.setting).wants(rule.values[0].node),
        "never": lambda: "is never " + _either(shown),
        "listed": lambda: f"is {_ARTICLE[rule.text.listed or 'approved']} release",
    }[rule.check]()
    when = f", when {Speaker(rule.setting).condition(rule.when.node)}" if rule.when else ""
    versions = f", for versions {rule.versions.text}" if rule.versions else ""
    return f"{subject} {norm}{when}{versions}"


def _operand(rule: Rule, index: int) -> str:
    value = rule.values[index]
    if isinstance(value.node, syntax.Literal):
        return {"True": "true", "False": "false"}.get(value.text, value.text)
    return "" if rule.check == "must" else Speaker(rule.setting).value(value.node)


def _either(shown: list[str]) -> str:
    if len(shown) == 1:
        return shown[0]
    return ", ".join(shown[:-1]) + " or " + shown[-1]


def changed_between(before: Standard, after: Standard) -> list[ChangedRule]:
    """Rules that came, went, or say something else, layer by layer; words, releases and order as well.

    Two rules are one where they stand in layers of one name and speak of the same reading under the same condition.
    """
    before_rules, two = _sentences_by_place(before), _sentences_by_place(after)
    places = dict.fromkeys([*before_rules, *two])
    return [
        ChangedRule(str(at[0]), before_rules.get(at), two.get(at))
        for at in places
        if before_rules.get(at) != two.get(at)
    ]


def _whole_sentence(rule: Rule, layer: Layer) -> str:
    """A rule with where it applies, how serious it is, and why it is there."""
    text = rule.text
    more = filter(None, (text.severity, "locked" if text.locked else "", text.because))
    where = f"{applies(layer)}: " if layer.condition else ""
    return f"{where}{rule_sentence(rule)} ({'; '.join(more)})"


def _sentences_by_place(standard: Standard) -> dict[tuple[object, ...], str]:
    sayings: dict[tuple[object, ...], str] = {}
    for rule in standard.rules:
        if rule.path:
            layer, text = standard.layers[rule.layer], rule.text
            place: tuple[object, ...] = (layer.name, rule.setting.key, rule.app, text.when, text.versions)
            while place in sayings:
                place = (*place, "again")
            sayings[place] = _whole_sentence(rule, layer)
    for care in standard.care:
        where = f"{applies(care.layer)}: " if care.layer.condition else ""
        place = (care.layer.name, "care", care.text.name)
        sayings[place] = f"{where}{care_sentence(care.text)} ({care.text.because or 'standing care'})"
    for release in standard.releases:
        place = ("Releases", release.setting, release.app, release.version, release.since)
        sayings[place] = _release_sentence(release)
    return sayings


def _release_sentence(release: ReleaseText) -> str:
    days = f" from {release.since}" * bool(release.since) + f" until {release.until}" * bool(release.until)
    name = app_title(release.app) if release.app else release.setting.partition(".")[0]
    return f"{name} {release.version} is {release.standing}{days}"


def folklore_sentence(standard: Standard) -> str:
    """`14 of 16 rules rest on no evidence.`"""
    rules = [rule for rule in standard.rules if rule.path]
    untested = sum(rule.text.evidence == "untested" for rule in rules)
    if not untested:
        return "Every rule rests on something that was measured or observed." if rules else "There is no rule yet."
    if len(rules) == 1:
        return "The only rule rests on no evidence."
    return f"{untested} of {len(rules)} rules rest on no evidence."
