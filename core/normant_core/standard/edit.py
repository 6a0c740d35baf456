"""The text of a standard, changed from sentences: comments, order and spelling of all else stay as they are."""

from collections.abc import Mapping, Sequence
from typing import Any, Literal

import tomlkit
from tomlkit.items import AoT, Table

from ..base.errors import DocumentError, Fault
from ..base.toml_text import append, editable, table_of, tables
from .rule import CHECKS, Bound, CareText, ReleaseText

Given = Bound | Sequence[Bound] | None
FIELDS = ("setting", "app", *CHECKS, "when", "versions", "severity", "because", "evidence", "rests_on", "fix", "locked")

Part = Literal["rule", "care"]  # of a layer
_FIELDS: dict[Part, tuple[str, ...]] = {"rule": FIELDS, "care": CareText.__struct_fields__}
_TITLES: dict[Part, str] = {"rule": "rule", "care": "sentence of care"}
_OF_RELEASE = ("setting", "app", "version", "standing", "since", "until", "because")


def edit_part(text: str, part: Part, layer: int, place: int, fields: Mapping[str, Given]) -> str:
    """The text with these fields of a rule, or of a sentence of care; None takes a field away. Raises DocumentError."""
    document, listed = _listed(text, part, layer)
    table = _at(listed, place, f"layer[{layer}] has no {part} {place}")
    for name, value in fields.items():
        _known(part, name)
        if value is None:
            table.pop(name, None)
        elif table.get(name) != value:
            table[name] = value
    return tomlkit.dumps(document)


def add_part(text: str, part: Part, layer: int, fields: Mapping[str, Given]) -> str:
    """The text with another rule, or sentence of care, at the end of a layer. Raises DocumentError."""
    document, listed = _listed(text, part, layer)
    for name in fields:
        _known(part, name)
    append(listed, table_of({name: value for name in _FIELDS[part] if (value := fields.get(name)) is not None}))
    return tomlkit.dumps(document)


def remove_part(text: str, part: Part, layer: int, place: int) -> str:
    """The text without a rule, or a sentence of care. Raises DocumentError."""
    document, listed = _listed(text, part, layer)
    _at(listed, place, f"layer[{layer}] has no {part} {place}")
    del listed[place]
    if not listed:
        tables(document, "layer")[layer].remove(part)
    return tomlkit.dumps(document)


def add_layer(text: str, name: str, when: str, rules: Sequence[Mapping[str, Given]]) -> str:
    """The text with these rules in the last layer of this name and condition, or in a layer of their own at its end.

    A rule of that layer that speaks of the same reading is the one that is changed. Raises DocumentError.
    """
    document = editable(text, "standard")
    layers = tables(document, "layer")
    fitting = [n for n, layer in enumerate(layers) if (layer.get("name"), layer.get("when", "")) == (name, when)]
    if not fitting:
        append(layers, table_of({"name": name, "when": when} if when else {"name": name}))
    number = fitting[-1] if fitting else len(layers) - 1
    made = tomlkit.dumps(document)
    for fields in rules:
        made = _put_rule(made, number, fields)
    return made


def _put_rule(text: str, layer: int, fields: Mapping[str, Given]) -> str:
    """In the place of the layer's rule about the same reading, if it has one."""
    _, rules = _listed(text, "rule", layer)
    about = [(rule.get("setting"), rule.get("app")) for rule in rules]
    wanted = fields.get("setting"), fields.get("app")
    if wanted not in about:
        return add_part(text, "rule", layer, fields)
    other_checks = dict.fromkeys(check for check in CHECKS if check not in fields)
    return edit_part(text, "rule", layer, about.index(wanted), {**other_checks, **fields})


def add_releases(text: str, releases: Sequence[ReleaseText]) -> str:
    """The text with these builds in its list, behind those that are there. Raises DocumentError."""
    document = editable(text, "standard")
    listed = tables(document, "release")
    for release in releases:
        values = {name: getattr(release, name) for name in _OF_RELEASE}
        listed.append(table_of({name: value for name, value in values.items() if value}))
    return tomlkit.dumps(document)


def _listed(text: str, part: Part, layer: int) -> tuple[tomlkit.TOMLDocument, AoT]:
    document = editable(text, "standard")
    layers = document.get("layer")
    table = _at(layers if isinstance(layers, AoT) else tomlkit.aot(), layer, f"there is no layer {layer}")
    return document, tables(table, part)


def _at(listed: AoT, number: int, fault: str) -> Table:
    if not 0 <= number < len(listed):
        raise DocumentError("standard", [Fault(fault, expected="a place that the text has: it changed meanwhile")])
    table: Any = listed[number]
    assert isinstance(table, Table)
    return table


def _known(part: Part, name: str) -> None:
    if name not in _FIELDS[part]:
        expected = "one of " + ", ".join(_FIELDS[part])
        raise DocumentError("standard", [Fault(f"a {_TITLES[part]} has no {name!r}", expected=expected)])
