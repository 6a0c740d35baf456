"""The parts of a house standard: as they are written, and as they are in force."""

from dataclasses import dataclass
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from .catalogue import Setting
from .errors import Fault
from .quantities import VersionRange
from .rules import syntax

Severity = Literal["must", "should", "advise"]
CHECKS = ("want", "one_of", "at_least", "at_most", "between", "must", "never")
KINDS = ("facility", "application", "role", "class", "production", "seat")
Bound = str | int | float | bool
Path = tuple[str | int, ...]


class Strict(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Common manner of the parts of a standard."""


class RuleText(Strict, frozen=True):
    """A rule as it is written; exactly one of the seven checks is given."""

    setting: str
    app: str | None = None
    want: Bound | None = None
    one_of: Annotated[tuple[Bound, ...], Meta(min_length=1)] | None = None
    at_least: Bound | None = None
    at_most: Bound | None = None
    between: Annotated[tuple[Bound, ...], Meta(min_length=2, max_length=2)] | None = None
    must: str | None = None
    never: Annotated[tuple[Bound, ...], Meta(min_length=1)] | None = None
    when: str | None = None
    versions: str | None = None
    severity: Severity = "should"
    because: str = ""
    evidence: Literal["measured", "observed", "untested"] = "untested"
    fix: Bound | None = None
    locked: bool = False


class LayerText(Strict, frozen=True):
    """A layer as it is written; `kind` is told by what `when` names where it is not given."""

    name: Annotated[str, Meta(min_length=1, max_length=80)]
    kind: Literal["facility", "application", "role", "class", "production", "seat"] | None = None
    app: str | None = None
    when: str | None = None
    rule: tuple[RuleText, ...] = ()


class StandardText(Strict, frozen=True):
    """The document as it is written."""

    format: Literal["normant-standard/1"]
    name: str
    layer: Annotated[tuple[LayerText, ...], Meta(min_length=1)]


@dataclass(frozen=True, slots=True)
class Expression:
    """A checked expression with its text."""

    text: str
    node: syntax.Node


@dataclass(frozen=True, slots=True)
class Layer:
    """A layer in force: `condition` decides for which seats."""

    name: str
    kind: str
    condition: Expression | None


@dataclass(frozen=True, slots=True)
class Rule:
    """One rule, ready to judge with: `test` is true of a reading in norm; `values` are the check's operands."""

    number: int
    layer: int
    setting: Setting
    check: str
    values: tuple[Expression, ...]
    test: syntax.Node
    app: str | None
    when: Expression | None
    versions: VersionRange | None
    fix: Expression | None
    text: RuleText
    path: Path
    line: int | None = None


@dataclass(frozen=True, slots=True)
class Standard:
    """Layers in order of precedence (the last wins) and their rules in that order; `warnings` refuse nothing."""

    name: str
    layers: tuple[Layer, ...]
    rules: tuple[Rule, ...]
    warnings: tuple[Fault, ...] = ()
