"""The text of a standard, changed from sentences: comments, order and spelling of all else stay as they are."""

from collections.abc import Mapping, Sequence
from typing import Any

import tomlkit
from tomlkit.exceptions import TOMLKitError
from tomlkit.items import AoT, Table

from ..base.errors import DocumentError, Fault
from .rule import CHECKS, Bound, ReleaseText

Given = Bound | Sequence[Bound] | None
FIELDS = ("setting", "app", *CHECKS, "when", "versions", "severity", "because", "evidence", "rests_on", "fix", "locked")


def edit_rule(text: str, layer: int, rule: int, fields: Mapping[str, Given]) -> str:
    """The text with these fields of a rule; None takes a field away. Raises DocumentError."""
    document, rules = _rules(text, layer)
    table = _at(rules, rule, f"layer[{layer}] has no rule {rule}")
    for name, value in fields.items():
        _known(name)
        if value is None:
            table.pop(name, None)
        elif table.get(name) != value:
            table[name] = value
    return tomlkit.dumps(document)


def add_rule(text: str, layer: int, fields: Mapping[str, Given]) -> str:
    """The text with another rule at the end of a layer. Raises DocumentError."""
    document, rules = _rules(text, layer)
    table = tomlkit.table()
    for name in FIELDS:
        if (value := fields.get(name)) is not None:
            table.add(name, value)
    for name in fields:
        _known(name)
    _last_line(rules)
    table.add(tomlkit.nl())
    rules.append(table)
    return tomlkit.dumps(document)


def remove_rule(text: str, layer: int, rule: int) -> str:
    """The text without a rule. Raises DocumentError."""
    document, rules = _rules(text, layer)
    _at(rules, rule, f"layer[{layer}] has no rule {rule}")
    del rules[rule]
    return tomlkit.dumps(document)


def add_releases(text: str, releases: Sequence[ReleaseText]) -> str:
    """The text with these builds in its list, behind those that are there. Raises DocumentError."""
    document = _parsed(text)
    listed = document.get("release")
    if not isinstance(listed, AoT):
        listed = tomlkit.aot()
        document.append("release", listed)
    for release in releases:
        table = tomlkit.table()
        for name in ("setting", "app", "version", "standing", "since", "until", "because"):
            if value := getattr(release, name):
                table.add(name, value)
        listed.append(table)
    return tomlkit.dumps(document)


def _rules(text: str, layer: int) -> tuple[tomlkit.TOMLDocument, AoT]:
    document = _parsed(text)
    layers = document.get("layer")
    table = _at(layers if isinstance(layers, AoT) else tomlkit.aot(), layer, f"there is no layer {layer}")
    rules = table.get("rule")
    if not isinstance(rules, AoT):
        rules = tomlkit.aot()
        table.append("rule", rules)
        rules = table["rule"]
    assert isinstance(rules, AoT)
    return document, rules


def _parsed(text: str) -> tomlkit.TOMLDocument:
    try:
        return tomlkit.parse(text)
    except TOMLKitError as fault:
        line, column = getattr(fault, "line", None), getattr(fault, "col", None)
        broken = Fault(str(fault), line=line, column=column, expected="TOML: mend the text first")
        raise DocumentError("standard", [broken]) from fault


def _at(tables: AoT, number: int, fault: str) -> Table:
    if not 0 <= number < len(tables):
        raise DocumentError("standard", [Fault(fault, expected="a place that the text has: it changed meanwhile")])
    table: Any = tables[number]
    assert isinstance(table, Table)
    return table


def _known(name: str) -> None:
    if name not in FIELDS:
        raise DocumentError("standard", [Fault(f"a rule has no {name!r}", expected="one of " + ", ".join(FIELDS))])


def _last_line(rules: AoT) -> None:
    """See that the last rule ends with an empty line: the next one begins behind it."""
    if len(rules) and not tomlkit.dumps(rules[-1]).endswith("\n\n"):
        rules[-1].add(tomlkit.nl())
