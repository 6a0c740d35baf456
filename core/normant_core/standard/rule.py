"""The parts of a house standard: as they are written, and as they are in force."""

import datetime as dt
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from ..base.errors import Fault
from ..base.quantities import Version, VersionRange
from ..care.clearing import Kind
from ..catalogue.settings import Setting
from ..rules import syntax

Severity = Literal["must", "should", "advise"]
CHECKS = ("want", "one_of", "at_least", "at_most", "between", "must", "never", "listed")
KINDS = ("facility", "application", "role", "class", "production", "seat")
Bound = str | int | float | bool
Path = tuple[str | int, ...]
Day = Literal["day", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"]
Hour = Annotated[str, Meta(pattern="^([01][0-9]|2[0-3]):[0-5][0-9]$")]


class StandardStruct(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Common manner of the parts of a standard."""


class RuleText(StandardStruct, frozen=True):
    """A rule as it is written; exactly one of the eight checks is given."""

    setting: str
    app: str | None = None
    want: Bound | None = None
    one_of: Annotated[tuple[Bound, ...], Meta(min_length=1)] | None = None
    at_least: Bound | None = None
    at_most: Bound | None = None
    between: Annotated[tuple[Bound, ...], Meta(min_length=2, max_length=2)] | None = None
    must: str | None = None
    never: Annotated[tuple[Bound, ...], Meta(min_length=1)] | None = None
    listed: Literal["approved", "tolerated"] | None = None
    when: str | None = None
    versions: str | None = None
    severity: Severity = "should"
    because: str = ""
    evidence: Literal["measured", "observed", "untested"] = "untested"
    rests_on: Annotated[str, Meta(max_length=300)] = ""
    fix: Bound | None = None
    locked: bool = False


class CareText(StandardStruct, frozen=True):
    """A sentence of standing care as it is written: which kinds of stores are cleared by themselves, of what, and when.

    On each such day, from `opens` until `closes` (HH:MM, by the house's clock), what nobody used for so many days goes,
    at most `most` on a seat; with `free`, only as much as makes so much free on each volume.
    """

    name: Annotated[str, Meta(min_length=1, max_length=80)]
    kinds: Annotated[tuple[Kind, ...], Meta(min_length=1, max_length=8)]
    unused_days: Annotated[int, Meta(ge=1, le=3650)]
    each: Day
    opens: Hour
    closes: Hour
    most: Annotated[str, Meta(max_length=40)]
    free: Annotated[str, Meta(max_length=40)] = ""
    because: str = ""


class LayerText(StandardStruct, frozen=True):
    """A layer as it is written; `kind` is told by what `when` names where it is not given."""

    name: Annotated[str, Meta(min_length=1, max_length=80)]
    kind: Literal["facility", "application", "role", "class", "production", "seat"] | None = None
    app: str | None = None
    when: str | None = None
    rule: tuple[RuleText, ...] = ()
    care: tuple[CareText, ...] = ()


class ReleaseText(StandardStruct, frozen=True):
    """A build of a driver, a system or an application, and how the house stands to it.

    It counts from `since` until `until`, each a day that belongs to it.
    """

    setting: Literal["driver.version", "system.version", "app.version"]
    version: Annotated[str, Meta(min_length=1, max_length=80)]
    standing: Literal["approved", "tolerated", "blocked"]
    app: str | None = None
    since: dt.date | None = None
    until: dt.date | None = None
    because: str = ""

    def counts(self, day: dt.date | None) -> bool:
        """Whether it counts on that day; None: whatever the day."""
        return day is None or ((self.since is None or self.since <= day) and (self.until is None or day <= self.until))


class StandardText(StandardStruct, frozen=True):
    """The document as it is written."""

    format: Literal["normant-standard/1"]
    name: str
    layer: Annotated[tuple[LayerText, ...], Meta(min_length=1)]
    constants: dict[str, Bound | tuple[Bound, ...]] = {}
    groups: dict[str, str] = {}
    release: tuple[ReleaseText, ...] = ()


class Expression(msgspec.Struct, frozen=True):
    """A checked expression with its text."""

    text: str
    node: syntax.Node


class Layer(msgspec.Struct, frozen=True):
    """A layer in force: `condition` decides for which seats; `said` is what its words mean, as written elsewhere."""

    name: str
    kind: str
    condition: Expression | None
    wording: str = ""
    at: int | None = None  # its place in the text


class Rule(msgspec.Struct, frozen=True):
    """One rule, ready to judge with: `test` is true of a reading in norm; `values` are the check's operands.

    `said` is what its words mean, as written elsewhere; `ladder` the approved releases, the oldest first.
    """

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
    wording: str = ""
    ladder: tuple[Version, ...] = ()


class Care(msgspec.Struct, frozen=True):
    """A sentence of standing care of a layer: `most` and `free` in bytes, None for no such target; `at` is its layer
    and its place in that, as the text has them."""

    layer: Layer
    text: CareText
    most: int
    free: int | None
    at: tuple[int, int]
    line: int | None = None


class Standard(msgspec.Struct, frozen=True):
    """Layers in order of precedence (the last wins) and their rules in that order; `warnings` refuse nothing.

    `unused` are the places of constants and groups that no rule and no layer speaks of.
    """

    name: str
    layers: tuple[Layer, ...]
    rules: tuple[Rule, ...]
    warnings: tuple[Fault, ...] = ()
    releases: tuple[ReleaseText, ...] = ()
    unused: tuple[Path, ...] = ()
    care: tuple[Care, ...] = ()
