"""A standard in sentences: each rule as somebody would say it, before any seat is looked at."""

from collections.abc import Iterator

import msgspec

from .rule import Layer, Rule, Standard

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
    locked: bool
    line: int | None


class LayerSentences(msgspec.Struct, frozen=True):
    """A layer, whom it speaks to, and its rules."""

    name: str
    kind: str
    applies: str
    rules: tuple[RuleSentence, ...]


def layers_told(standard: Standard) -> list[LayerSentences]:
    """The layers in order of precedence, the last wins, each with its rules as sentences."""
    return [
        LayerSentences(layer.name, layer.kind, _applies(layer), tuple(_rules(standard, index)))
        for index, layer in enumerate(standard.layers)
    ]


def _applies(layer: Layer) -> str:
    return f"where {layer.condition.text}" if layer.condition else _KIND_TOLD[layer.kind]


def _rules(standard: Standard, layer: int) -> Iterator[RuleSentence]:
    for rule in standard.rules:
        if rule.layer == layer:
            text = rule.text
            yield RuleSentence(
                rule.setting.key,
                rule.app,
                rule_told(rule),
                text.severity,
                text.because,
                text.evidence,
                text.locked,
                rule.line,
            )


def rule_told(rule: Rule) -> str:
    """`Held back is at least max(4 GiB, 10 % of memory.total)`."""
    app = f" of {rule.app.capitalize()}" if rule.app else ""
    subject = f"{rule.setting.title}{app}"
    shown = [_operand(rule, index) for index in range(len(rule.values))]
    told = {
        "want": lambda: f"is {shown[0]}",
        "one_of": lambda: "is " + _either(shown),
        "at_least": lambda: f"is at least {shown[0]}",
        "at_most": lambda: f"is at most {shown[0]}",
        "between": lambda: f"is from {shown[0]} to {shown[1]}",
        "must": lambda: f"is such that {shown[0]}",
        "never": lambda: "is never " + _either(shown),
        "listed": lambda: f"is {_ARTICLE[rule.text.listed or 'approved']} release",
    }[rule.check]()
    when = f", when {rule.when.text}" if rule.when else ""
    versions = f", for versions {rule.versions.text}" if rule.versions else ""
    return f"{subject} {told}{when}{versions}"


def _operand(rule: Rule, index: int) -> str:
    value = rule.values[index]
    return {"True": "true", "False": "false"}.get(value.text, value.text)


def _either(shown: list[str]) -> str:
    if len(shown) == 1:
        return shown[0]
    return ", ".join(shown[:-1]) + " or " + shown[-1]
