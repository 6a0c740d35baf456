"""The survey: everything an agent read on one visit, `normant-survey/1`."""

import datetime as dt
import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from itertools import chain, islice
from operator import itemgetter
from typing import TYPE_CHECKING, Annotated, Any, Literal

import msgspec
from msgspec import Meta

from ..base.errors import DocumentError, Fault, QuantityError
from ..base.quantities import LARGEST_TOLD, Plain, Value, Version
from ..base.shapes import shape_errors
from ..base.toml_places import written
from ..catalogue.settings import ValueFault, catalogue
from .facts import (
    ID_PATTERN,
    LIMIT_DEVICES,
    Application,
    Bytes,
    Display,
    Facts,
    FactStruct,
    Gpu,
    Id,
    PathText,
    Text,
    Volume,
    derived_readings,
)

if TYPE_CHECKING:
    from jsonschema import ValidationError

    from ..formats.json_places import JsonPlaces

LIMIT_BYTES = 2 * 1024 * 1024
LONGEST_IDLE = 2**31 - 1  # seconds
MOST_PRODUCTIONS, MOST_PROJECTS = 24, 200  # of a store, that a survey tells: the largest
LIMIT_FAULTS = 50  # that are told of one survey
LIMIT_ITEMS = {"readings": 4_000, "stores": 500, "errors": 500}
Path = tuple[str | int, ...]
Key = tuple[str, str | None]


class AgentInfo(FactStruct, frozen=True):
    """Which agent took the survey, on which host."""

    version: Text
    host: Text

    def is_at_least(self, version: Version) -> bool:
        """Whether it is of that version or a later one; a version that is none, as a lying seat may tell, is older."""
        try:
            return Version.parse(self.version) >= version
        except QuantityError:
            return False


class Native(FactStruct, frozen=True):
    """Where in the application's own file a reading stands, and its text there."""

    file: PathText
    at: Text
    raw: Annotated[str, Meta(max_length=8192)]
    line: Annotated[int, Meta(ge=0, le=LARGEST_TOLD)] | None = None


class Reading(FactStruct, frozen=True):
    """One observed value of one setting, for one application where it has one."""

    setting: Text
    value: bool | int | float | Annotated[str, Meta(max_length=8192)] | None
    app: Id | None = None
    native: Native | None = None


class ProductionShare(FactStruct, frozen=True):
    """Bytes of a store that are one production's, by its name as folders write it."""

    production: Text
    size: Bytes


class ProjectShare(FactStruct, frozen=True):
    """Bytes of a store that are one project's; `production` is empty where its path tells none."""

    production: Text
    project: Text
    size: Bytes


class UnusedShare(FactStruct, frozen=True):
    """Bytes of a store that nobody used for so many days."""

    days: Annotated[int, Meta(ge=1, le=3650)]
    size: Bytes


class Store(FactStruct, frozen=True):
    """A folder an application fills; sizes in bytes.

    `unused` are those that nobody used for 30 days, `unused_for` for each age that is counted; `productions` are those
    that hold the most of it, `projects` likewise, of renders and backups alone.
    """

    purpose: Text
    path: PathText
    app: Id | None = None
    volume: Id | None = None
    size: Bytes | None = None
    items: Annotated[int, Meta(ge=0, le=LARGEST_TOLD)] | None = None
    unused: Bytes | None = None
    oldest: dt.datetime | None = None
    unused_for: Annotated[tuple[UnusedShare, ...], Meta(max_length=8)] = ()
    productions: Annotated[tuple[ProductionShare, ...], Meta(max_length=MOST_PRODUCTIONS)] = ()
    projects: Annotated[tuple[ProjectShare, ...], Meta(max_length=MOST_PROJECTS)] = ()


class Activity(FactStruct, frozen=True):
    """Whether the machine is in use, never by whom or for what; and whether only its battery feeds it."""

    idle_seconds: Annotated[int, Meta(ge=0, le=LONGEST_IDLE)] | None = None
    rendering: bool | None = None
    unsaved: bool | None = None
    on_battery: bool | None = None


class Unreadable(FactStruct, frozen=True):
    """Something the agent could not read: `dialect:glaize`, `facts:gpus`, and why."""

    source: Text
    message: Annotated[str, Meta(max_length=2048)]

    @property
    def reading(self) -> Key | None:
        """What was not taken: `reading:power.profile`, `dialect:corrow:engine.effects`; None: no single reading."""
        match self.source.split(":"):
            case ["reading", setting]:
                return setting, None
            case ["dialect", app, setting]:
                return setting, app
        return None


class Survey(FactStruct, frozen=True):
    """One visit to one seat."""

    format: Literal["normant-survey/1"]
    seat: Id
    taken_at: Annotated[dt.datetime, Meta(tz=True)]
    agent: AgentInfo
    facts: Facts
    readings: Annotated[tuple[Reading, ...], Meta(max_length=LIMIT_ITEMS["readings"])]
    stores: Annotated[tuple[Store, ...], Meta(max_length=LIMIT_ITEMS["stores"])] = ()
    activity: Activity = Activity()
    errors: Annotated[tuple[Unreadable, ...], Meta(max_length=LIMIT_ITEMS["errors"])] = ()

    def values(self) -> dict[Key, Value]:
        """Canonical values by (setting, application), with those that follow from the facts."""
        values = {key: canonical(key[0], value) for key, value in derived_readings(self.facts).items()}
        for reading in self.readings:
            values[reading.setting, reading.app] = canonical(reading.setting, reading.value)
        return values

    def content(self) -> bytes:
        """The bytes that decide whether anything changed: all but the moment and the activity."""
        return _CONTENT.encode((self.seat, self.agent, self.facts, self.readings, self.stores, self.errors))


@lru_cache(maxsize=1 << 16, typed=True)
def canonical(setting: str, raw: Plain) -> Value:
    """The canonical value of a reading; a house says the same few over and over. Raises ValueFault."""
    return catalogue()[setting].parse(raw)


_DECODER = msgspec.json.Decoder(Survey)
_CONTENT = msgspec.json.Encoder(order="deterministic")


def decode(raw: bytes) -> Survey:
    """The survey's shape and types only, at the speed of the wire. Raises msgspec's errors."""
    return _DECODER.decode(raw)


def is_sound(survey: Survey) -> bool:
    """Whether `parse_survey` would take the survey that was decoded; which faults it has is told there alone."""
    known = all(map(_ID.match, _ids(survey, _keys(survey)))) and not _nul(survey.content())
    return known and not any(_value_faults(survey, b""))


def parse_survey(raw: bytes, source: str = "survey") -> Survey:
    """A survey that is right in shape and in every value. Raises DocumentError with every fault found."""
    survey = shaped(raw, source)
    check(survey, raw, source)
    return survey


def shaped(raw: bytes, source: str = "survey") -> Survey:
    """A survey that is right in shape; its values are still to be checked. Raises DocumentError with every fault of it.

    At the speed of the wire where it is right: faults are told by a slower way, which finds all of them.
    """
    if len(raw) > LIMIT_BYTES:
        size = f"{len(raw):,} bytes"
        raise DocumentError(source, [Fault(f"the survey has {size}", expected=f"at most {LIMIT_BYTES:,} bytes")])
    try:
        return _DECODER.decode(raw)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as fault:
        raise DocumentError(source, _shape_faults(raw, str(fault))) from fault


def check(survey: Survey, raw: bytes, source: str = "survey") -> None:
    """Whether every name and value of a survey that was decoded from `raw` is right. Raises DocumentError with all that
    are not."""
    if not all(map(_ID.match, _ids(survey, _keys(survey)))):
        raise DocumentError(source, _shape_faults(raw, "a name is none"))
    faults = [*_nul_faults(raw), *_value_faults(survey, raw)]
    if faults:
        raise DocumentError(source, faults)


_ID = re.compile(ID_PATTERN)
_NUL = re.compile(rb"(?<!\\)(?:\\\\)*\\u0000")  # as JSON writes it; a database keeps no text with one


def _nul(raw: bytes) -> re.Match[bytes] | None:
    return _NUL.search(raw) if b"\\u0000" in raw else None


Part = Gpu | Display | Volume | Application


def _ids(survey: Survey, keys: Iterable[Key]) -> set[str]:
    """Every name that the schema holds to the pattern of names; `keys` are those of its readings."""
    facts = survey.facts
    lists: tuple[tuple[Part, ...] | None, ...] = (facts.gpus, facts.displays, facts.volumes, facts.applications)
    parts = chain.from_iterable(filter(None, lists))
    named = chain.from_iterable((store.app, store.volume) for store in survey.stores)
    names = {survey.seat, *(part.id for part in parts), *map(itemgetter(1), keys), *named}
    return {name for name in names if name is not None}


def schema() -> dict[str, Any]:
    """The published JSON Schema of the survey."""
    document = msgspec.json.schema(Survey)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "normant-survey/1",
        **document,
    }


def _nul_faults(raw: bytes) -> list[Fault]:
    nul = _nul(raw)
    if nul is None:
        return []
    before = raw[: nul.start()]
    line, column = before.count(b"\n") + 1, nul.start() - before.rfind(b"\n")
    return [Fault("a text holds the character NUL", line=line, column=column, expected="texts without it")]


def is_whole(survey: Survey, raw: bytes) -> bool:
    """Whether `parse_survey` would take a survey that was decoded from this and whose values were read."""
    keys = _keys(survey)
    once, sized = len(keys) == len(survey.readings), len(raw) <= LIMIT_BYTES
    return once and sized and not _nul(raw) and all(map(_ID.match, _ids(survey, keys)))


def _keys(survey: Survey) -> set[Key]:
    """What its readings are of; fewer than readings where one stands twice."""
    return {(reading.setting, reading.app) for reading in survey.readings}


def _are_values(survey: Survey) -> bool:
    """Whether every reading is known, stands once and has a value that its setting can hold."""
    try:
        for reading in survey.readings:
            canonical(reading.setting, reading.value)
    except (KeyError, ValueFault):
        return False
    return len(_keys(survey)) == len(survey.readings)


def _value_faults(survey: Survey, raw: bytes) -> list[Fault]:
    """The first faults of values, LIMIT_FAULTS at most. The text is parsed once, however many there are."""
    if _are_values(survey):
        return []
    wrong = list(islice(_wrong_values(survey), LIMIT_FAULTS))
    places = _places(raw) if raw else None
    return [_fault(places, *fault) for fault in wrong]


def _wrong_values(survey: Survey) -> Iterator[tuple[Path, str, str]]:
    """(path, message, what was expected) of each reading that is wrong."""
    known, seen = catalogue(), set[Key]()
    for index, reading in enumerate(survey.readings):
        path: Path = ("readings", index, "setting")
        if reading.setting not in known:
            near = known.nearest(reading.setting)
            expected = "one of " + ", ".join(near) if near else "a setting of the catalogue"
            yield path, f"unknown setting {reading.setting[:80]!r}", expected
            continue
        if (reading.setting, reading.app) in seen:
            yield path, f"{reading.setting} is read twice", "one reading each"
        seen.add((reading.setting, reading.app))
        try:
            known[reading.setting].parse(reading.value)
        except ValueFault as fault:
            yield ("readings", index, "value"), str(fault.args[0])[:300], ""


def _shape_faults(raw: bytes, complaint: str) -> list[Fault]:
    """The first faults of shape, from the published schema; msgspec tells only one."""
    try:
        document = msgspec.json.decode(raw)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as fault:
        from ..formats.json_file import JsonFile  # noqa: PLC0415 (needed for faulty surveys only)

        line, column = JsonFile.place_of_error(raw)
        return [Fault(str(fault)[:300], line=line, column=column, expected="JSON")]
    if crowd := _crowd(document):
        return [crowd]
    errors = [_deepest(error) for error in shape_errors(schema(), document, LIMIT_FAULTS)]
    places = _places(raw)
    faults = [
        _fault(places, tuple(error.absolute_path), error.message[:300], "")
        for error in sorted(errors, key=lambda e: [str(part) for part in e.absolute_path])
    ]
    return faults or [Fault(complaint[:300])]


def _crowd(document: Any) -> Fault | None:
    """A list that is longer than any seat's: it is not looked into."""
    for path, items, most in _limited(document) if isinstance(document, dict) else ():
        if isinstance(items, list) and len(items) > most:
            return Fault(f"{len(items):,} entries", path=path, expected=f"at most {most:,}")
    return None


def _limited(document: dict[str, Any]) -> Iterator[tuple[str, Any, int]]:
    """The parts that may be no longer than so much, by their path."""
    yield from ((name, document.get(name), most) for name, most in LIMIT_ITEMS.items())
    facts = document.get("facts")
    if isinstance(facts, dict):
        yield from ((f"facts.{name}"[:80], part, LIMIT_DEVICES) for name, part in facts.items())


def _deepest(error: "ValidationError") -> "ValidationError":
    """The fault inside "one of these shapes": the alternative that got furthest, leaving out null."""
    while error.context:
        inner_errors = [inner for inner in error.context if inner.validator_value != "null"]
        error = max(inner_errors or error.context, key=lambda inner: len(inner.absolute_path))
    return error


def _places(raw: bytes) -> "JsonPlaces":
    from ..formats.json_places import JsonPlaces  # noqa: PLC0415 (needed for faulty surveys only)

    return JsonPlaces(raw)


def _fault(places: "JsonPlaces | None", path: Path, message: str, expected: str) -> Fault:
    line, column = places.of(path) if places else (None, None)
    return Fault(message, path=written(path), line=line, column=column, expected=expected)
