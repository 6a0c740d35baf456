"""Dialects: how one application keeps its preferences, `normant-dialect/1`, as a TOML document."""

import re
from collections.abc import Iterable, Iterator, Sequence
from functools import cache, lru_cache
from itertools import islice
from pathlib import PurePosixPath
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from ..base.errors import DocumentError, Fault, QuantityError
from ..base.guard import forbidden_app, forbidden_key, forbidden_path
from ..base.paths import unfit
from ..base.quantities import UNITS, Dimension, VersionRange
from ..base.shapes import shape_errors
from ..base.toml_places import LIMIT_FAULTS, Places, load_toml, written
from ..care.belonging import Belonging, Only, PatternError
from ..care.clearing import Kind as StoreKind
from ..care.project_file import ProjectAddresses
from ..catalogue.settings import Kind, Setting, ValueFault, catalogue, nearest
from ..formats.kinds import READERS
from ..rules import syntax
from ..rules.checker import Checker
from ..rules.parser import ExpressionError, parse
from ..seat.facts import Application

VARIABLES = ("version", "version.major", "version.minor", "edition")
VARIABLE = re.compile(r"\{([^{}]*)\}")
PlacedFault = tuple[tuple[str | int, ...], tuple[str, str]]
"""Where a fault is, from the part it was found in; what is wrong and what was expected."""


class DialectStruct(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Common manner of the parts of a dialect."""


class Binding(DialectStruct, frozen=True):
    """One setting at one address.

    `values` maps native words to ours, `unit` is the number's, `empty` says what an empty text means, `missing` what
    the application does while the key is absent. `automatic` maps native words that leave the value to the application
    to an expression of what it then takes, or to nothing where nobody knows. `of` is an expression of what a share in
    the file is a share of. `folders` maps beginnings of native paths to real ones. `least` and `most` are what the
    application clamps to. `versions` and `editions` say in which of the application's the binding holds.
    """

    setting: str
    at: str
    values: dict[str, str | bool | int | float] = {}
    unit: str = ""
    kind: Literal["", "path"] = ""
    empty: str | None = None
    missing: str | bool | int | float | None = None
    automatic: dict[str, str] = {}
    of: str = ""
    folders: dict[str, str] = {}
    least: str = ""
    most: str = ""
    versions: str = ""
    editions: tuple[str, ...] = ()

    def holds_in(self, app: Application) -> bool:
        """Whether it holds in that version and edition; where they were not read, only what holds in all."""
        if self.versions and not (app.version and VersionRange.parse(self.versions).holds(app.version)):
            return False
        return not self.editions or app.edition in self.editions


class FrameStats(DialectStruct, frozen=True):
    """A file beside a preference file in which the application tells of each time it played: one row of CSV with a
    head, or one JSON object a line (`lines`).

    `delivered` and `dropped` name the columns with the frames that were shown and those that were not.
    """

    path: str
    delivered: str
    dropped: str
    format: Literal["csv", "lines"] = "csv"


class BoundFile(DialectStruct, frozen=True):
    """One preference file; its path under the seat's preference root may name VARIABLES in braces.

    A `*` in the file's own name stands for any letters: every such file is read, as templates are, and none is written.
    """

    name: str
    path: str
    format: str
    binding: Annotated[tuple[Binding, ...], Meta(max_length=300)]
    close_before_write: bool = True
    stats: Annotated[tuple[FrameStats, ...], Meta(max_length=8)] = ()

    @property
    def many(self) -> bool:
        """Whether the path stands for every file of that manner."""
        return "*" in self.path

    def is_at(self, path: str) -> bool:
        """Whether a file at `path` is meant."""
        before, star, after = self.path.partition("*")
        if not star:
            return path == self.path
        long_enough = len(path) >= len(before) + len(after)
        between = path[len(before) : len(path) - len(after)]
        return long_enough and path.startswith(before) and path.endswith(after) and "/" not in between

    def bound(self, setting: str) -> Binding | None:
        """The address that holds a setting."""
        return next((binding for binding in self.binding if binding.setting == setting), None)


class BoundStore(DialectStruct, frozen=True):
    """A folder that the application fills, named by a `setting`, and what of it is an item of this kind.

    `belongs` is a pattern over an item's path that names groups `production` and `project`; where there is `only`, an
    item's path matches that as well. What the application keeps beside the items, such as a database, is named by
    `leave`, as patterns of file names with stars: it stays. Where such a database has to know, `cleared_by` is the
    application, or a person at the seat.
    """

    kind: StoreKind
    setting: str
    belongs: str = ""
    only: str = ""
    leave: Annotated[tuple[Annotated[str, Meta(min_length=1, max_length=100)], ...], Meta(max_length=20)] = ()
    cleared_by: Literal["us", "application", "person"] = "us"


class Dialect(DialectStruct, frozen=True):
    """How one application, in a range of versions, keeps its preferences.

    `pool` names the memory that its previews come from; applications that name the same one share it.
    """

    format: Literal["normant-dialect/1"]
    app: str
    versions: str
    file: Annotated[tuple[BoundFile, ...], Meta(max_length=32)]
    title: str = ""
    pool: str = ""
    store: Annotated[tuple[BoundStore, ...], Meta(max_length=20)] = ()
    project: Annotated[tuple[ProjectAddresses, ...], Meta(max_length=8)] = ()

    def speaks_for(self, app: str, version: str | None) -> bool:
        """Whether this dialect is that application's."""
        return app == self.app and (version is None or VersionRange.parse(self.versions).holds(version))

    def spoken_by(self, app: Application) -> "Dialect":
        """The dialect as this installed application speaks it: real paths, and only the bindings that hold."""
        known = _variables(app)
        return msgspec.structs.replace(self, file=tuple(_spoken(file, app, known) for file in self.file))

    def bound(self, setting: str) -> tuple[BoundFile, Binding] | None:
        """The file and the address that hold a setting."""
        pairs = ((file, file.bound(setting)) for file in self.file)
        return next(((file, binding) for file, binding in pairs if binding), None)


def spoken(dialects: Sequence[Dialect], applications: Iterable[Application]) -> list[Dialect]:
    """The dialect of each installed application, as it speaks it; the first that knows its version."""
    fitting = list[Dialect]()
    for app in applications:
        fitting += [d.spoken_by(app) for d in dialects if d.speaks_for(app.id, app.version)][:1]
    return fitting


def _variables(app: Application) -> dict[str, str]:
    known = {"edition": app.edition} if app.edition else {}
    if app.version:
        numbers = [*re.findall(r"\d+", app.version)[:2], "0", "0"]
        known |= {"version": app.version, "version.major": numbers[0], "version.minor": numbers[1]}
    return known


def _spoken(file: BoundFile, app: Application, known: dict[str, str]) -> BoundFile:
    def real(path: str) -> str:
        return VARIABLE.sub(lambda match: known.get(match[1], match[0]), path)

    stats = tuple(msgspec.structs.replace(stats, path=real(stats.path)) for stats in file.stats)
    bindings = tuple(binding for binding in file.binding if binding.holds_in(app))
    return msgspec.structs.replace(file, path=real(file.path), binding=bindings, stats=stats)


@cache
def schema() -> dict[str, Any]:
    """The published JSON Schema of the dialect."""
    document = msgspec.json.schema(Dialect)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "normant-dialect/1",
        **document,
    }


def signed_dialect(app: str, text: str) -> bytes:
    """The bytes of a dialect that the house signs, and that agents verify."""
    return f"normant-dialect/1\n{app}\n{text}".encode()


def parse_dialect(text: str, source: str = "dialect") -> Dialect:
    """Raises DocumentError with the line and column of every fault."""
    plain, places = load_toml(text, source), Places(text)

    def fault(path: tuple[str | int, ...], message: str, expected: str = "") -> Fault:
        line, column = places.of(path)
        return Fault(message, path=written(path), line=line, column=column, expected=expected)

    try:
        dialect = msgspec.convert(plain, Dialect)
    except msgspec.ValidationError as refusal:
        faults = [fault(tuple(e.absolute_path), e.message) for e in shape_errors(schema(), plain, LIMIT_FAULTS)]
        raise DocumentError(source, faults or [fault((), str(refusal))]) from refusal
    faults = [fault(path, *wrong) for path, wrong in islice(_faults(dialect), LIMIT_FAULTS)]
    if faults:
        raise DocumentError(source, faults)
    return dialect


def _faults(dialect: Dialect) -> Iterator[PlacedFault]:
    """What a well-shaped dialect says and may not."""
    if why := forbidden_app(dialect.app):
        yield ("app",), (f"nobody may close this: {why}", "the name of an application")
    try:
        VersionRange.parse(dialect.versions)
    except QuantityError as wrong:
        yield ("versions",), (str(wrong), "")
    yield from _placed("file", (_file_faults(file, dialect.app) for file in dialect.file))
    yield from _twice(dialect)
    yield from _placed("store", map(_store_faults, dialect.store))
    yield from _placed("project", map(_project_faults, dialect.project))


def _placed(part: str, faults: Iterable[Iterable[PlacedFault]]) -> Iterator[PlacedFault]:
    """Faults of each of a kind of parts, with the place of that part before their own."""
    for number, of_part in enumerate(faults):
        for path, fault in of_part:
            yield (part, number, *path), fault


def _file_faults(file: BoundFile, app: str) -> list[PlacedFault]:
    faults: list[PlacedFault] = [(("path",), wrong) for wrong in _path_faults(file.path, app)]
    for number, stats in enumerate(file.stats):
        faults += [(("stats", number, "path"), wrong) for wrong in _path_faults(stats.path, app)]
        if "*" in stats.path:
            faults.append((("stats", number, "path"), ("statistics stand in one file", "a path without a star")))
    if file.format not in READERS:
        faults.append((("format",), (f"unknown format {file.format!r}", "one of " + ", ".join(READERS))))
    placed: list[PlacedFault] = [*faults]
    for index, binding in enumerate(file.binding):
        placed += [(("binding", index, *where), wrong) for where, wrong in _binding_faults(binding)]
    return placed


def _store_faults(store: BoundStore) -> Iterator[PlacedFault]:
    parts = store.setting.split(".")
    if store.setting not in catalogue() or (parts[0], parts[-1]) != ("store", "path"):
        yield ("setting",), (f"{store.setting!r} names no folder", "one such as store.renders.path")
    elif store.kind != parts[1] and store.kind != "temporary":
        yield ("kind",), (f"{store.setting} names the {parts[1].replace('_', ' ')}", f"{parts[1]}, or temporary")
    elif store.kind == "temporary" and not store.only:
        yield ("only",), ("not all of a folder is temporary", "a pattern of what is, such as '\\.part$'")
    yield from _pattern_faults(store)


def _pattern_faults(store: BoundStore) -> Iterator[PlacedFault]:
    for name, made in (("belongs", Belonging), ("only", Only)):
        try:
            made(getattr(store, name))
        except PatternError as wrong:
            yield (name,), (str(wrong), "")


def _project_faults(project: ProjectAddresses) -> Iterator[PlacedFault]:
    own = [((name,), getattr(project, name)) for name in ("own_rate", "own_size", "version")]
    uses = [(("uses", number), address) for number, address in enumerate(project.uses)]
    whole: list[tuple[tuple[str | int, ...], str]] = [(("item",), project.item), *uses]
    whole += [(where, address) for where, address in own if address]
    for place, address in whole:
        if not address.startswith("/"):
            yield place, (f"{address!r} is no address in the whole project", "one that begins with /")
    for name, optional in (("id", False), ("path", False), ("rate", True), ("size", True)):
        address = getattr(project, name)
        if address.startswith("/") or not (address or optional):
            yield (name,), (f"{address!r} is no address within an item", "one that does not begin with /, such as @id")


def _path_faults(path: str, app: str) -> Iterator[tuple[str, str]]:
    if why := unfit(path):
        yield f"the path leaves the preference root: {why}", "a relative path without .."
    if any("*" in part for part in PurePosixPath(path).parts[:-1]):
        yield "a * stands for a folder", "a * in the file's own name alone"
    elif why := forbidden_path(path, app):
        yield f"nobody may read or write this: {why}", "a file of the application's preferences"
    for name in [name for name in VARIABLE.findall(path) if name not in VARIABLES]:
        yield f"unknown variable {{{name}}}", "one of " + ", ".join(VARIABLES)


def _binding_faults(binding: Binding) -> list[PlacedFault]:
    known = catalogue()
    if binding.setting not in known:
        near = nearest(binding.setting, known.settings)
        expected = "one of " + ", ".join(near) if near else "a setting of the catalogue"
        return [(("setting",), (f"unknown setting {binding.setting!r}", expected))]
    setting = known[binding.setting]
    return [
        *_address_faults(binding, setting),
        *_version_faults(binding),
        *_value_faults(binding, setting),
        *_automatic_faults(binding, setting),
    ]


def _has_unit(setting: Setting, binding: Binding) -> bool:
    return binding.unit in UNITS and UNITS[binding.unit][0] in _units_of(setting, binding)


def _address_faults(binding: Binding, setting: Setting) -> Iterator[PlacedFault]:
    """What is wrong with where a value stands, and in which unit."""
    if not binding.at.startswith("/"):
        yield ("at",), (f"{binding.at!r} is no address", "one that begins with /")
    elif why := forbidden_key(binding.at):
        yield ("at",), (f"nobody may bind this: {why}", "a preference that is neither secret nor run")
    if binding.unit and not _has_unit(setting, binding):
        yield ("unit",), (f"{binding.setting} has no unit {binding.unit!r}", f"a unit of {setting.dimension}")
    if binding.folders and setting.kind is not Kind.PATH:
        yield ("folders",), (f"{binding.setting} is no path", "folders only where the setting is a path")


def _version_faults(binding: Binding) -> Iterator[PlacedFault]:
    if not binding.versions:
        return
    try:
        VersionRange.parse(binding.versions)
    except QuantityError as wrong:
        yield ("versions",), (str(wrong), "")


def _value_faults(binding: Binding, setting: Setting) -> list[PlacedFault]:
    faults = list[PlacedFault]()
    for where, value in _given(binding):
        try:
            setting.parse(value)
        except ValueFault as wrong:
            faults.append((where, (str(wrong), "")))
    if (binding.least or binding.most) and not setting.ordered:
        faults.append((("least" if binding.least else "most",), (f"{setting.key} knows no more and no less", "")))
    return faults


def _given(binding: Binding) -> Iterator[tuple[tuple[str | int, ...], object]]:
    """Every canonical value that a binding names."""
    for native, known in binding.values.items():
        yield ("values", native), known
    for name in ("missing", "least", "most"):
        if (value := getattr(binding, name)) not in (None, ""):
            yield (name,), value
    if binding.empty not in (None, "none"):
        yield ("empty",), binding.empty


def _automatic_faults(binding: Binding, setting: Setting) -> list[PlacedFault]:
    faults = list[PlacedFault]()
    texts: list[tuple[tuple[str | int, ...], str]] = [(("automatic", k), text) for k, text in binding.automatic.items()]
    for where, text in [*texts, (("of",), binding.of)]:
        try:
            meaning(setting, text)
        except ExpressionError as wrong:
            message = f"{wrong.message}, at character {wrong.position + 1} of {text!r}"
            faults.append((where, (message, wrong.expected)))
    return faults


def _twice(dialect: Dialect) -> list[PlacedFault]:
    """A setting that two bindings claim at once: which of them counts nobody could say."""
    seen, faults = set[tuple[str, str, tuple[str, ...]]](), list[PlacedFault]()
    for number, file in enumerate(dialect.file):
        for index, binding in enumerate(file.binding):
            claim = (binding.setting, binding.versions, binding.editions)
            if claim in seen:
                where = ("file", number, "binding", index, "setting")
                faults.append((where, (f"{binding.setting} is bound twice", "once for each range of versions")))
            seen.add(claim)
    return faults


@lru_cache(maxsize=1024)
def meaning(setting: Setting, text: str) -> syntax.Node | None:
    """The checked expression of what `automatic` comes to, None where nobody knows. Raises ExpressionError."""
    return Checker().value(parse(text), setting.dimension) if text else None


def _units_of(setting: Setting, binding: Binding) -> set[Dimension]:
    return {Dimension.SHARE if binding.of else setting.dimension} | (
        {Dimension.SHARE} if setting.kind is Kind.FRACTION else set()
    )
