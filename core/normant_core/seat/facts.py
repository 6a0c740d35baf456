"""What a seat's hardware and software are: the shapes, and the names that rules may use for them.

Every leaf is None and every list is None where the agent could not read it: missing is not the same as empty.
Sizes are bytes, rates bytes per second.
"""

import datetime as dt
from typing import Annotated, Any, get_args, get_origin, get_type_hints

import msgspec
from msgspec import Meta

from ..base.errors import QuantityError
from ..base.quantities import LARGEST_TOLD, Dimension, Version

# The pattern is published with the schema and checked by `bad_ids`: msgspec would ask a regular expression for
# every reading, which takes a third of the time of parsing a survey.
ID_PATTERN = r"^[A-Za-z0-9][A-Za-z0-9._:-]*$"
Id = Annotated[str, Meta(min_length=1, max_length=64, extra_json_schema={"pattern": ID_PATTERN})]
Text = Annotated[str, Meta(max_length=512)]
PathText = Annotated[str, Meta(max_length=4096)]
Bytes = Annotated[int, Meta(ge=0, le=LARGEST_TOLD, extra={"dimension": Dimension.BYTES})]
ByteRate = Annotated[int, Meta(ge=0, le=LARGEST_TOLD, extra={"dimension": Dimension.BYTE_RATE})]
Count = Annotated[int, Meta(ge=0, le=1_000_000, extra={"dimension": Dimension.NUMBER})]
LIMIT_DEVICES = 256  # of one kind in one seat
FEW = Meta(max_length=LIMIT_DEVICES)
VersionText = Annotated[str, Meta(max_length=512, extra={"dimension": Dimension.VERSION})]


class FactStruct(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, gc=False):
    """Common manner of the parts of facts."""


class System(FactStruct, frozen=True):
    """The operating system."""

    platform: Text | None = None
    version: VersionText | None = None
    power_profiles: Annotated[tuple[Text, ...], FEW] | None = None


class Cpu(FactStruct, frozen=True):
    """The processor; cores are physical, threads logical."""

    model: Text | None = None
    cores: Count | None = None
    threads: Count | None = None


class Memory(FactStruct, frozen=True):
    """Installed memory."""

    total: Bytes | None = None


class Driver(FactStruct, frozen=True):
    """A GPU's driver; `released` is an ISO date."""

    version: VersionText | None = None
    branch: Text | None = None
    released: dt.date | None = None


class Gpu(FactStruct, frozen=True):
    """A GPU; `enabled` is false where the firmware has it switched off; codecs as `family/bits/chroma`."""

    id: Id
    model: Text | None = None
    kind: Text | None = None
    enabled: bool | None = None
    memory: Bytes | None = None
    interfaces: Annotated[tuple[Text, ...], FEW] | None = None
    driver: Driver = Driver()
    decode: Annotated[tuple[Text, ...], FEW] | None = None
    encode: Annotated[tuple[Text, ...], FEW] | None = None


class Volume(FactStruct, frozen=True):
    """A mounted volume; `writable` is None where nobody tried."""

    id: Id
    mount: PathText
    kind: Text | None = None
    capacity: Bytes | None = None
    free: Bytes | None = None
    system: bool | None = None
    removable: bool | None = None
    attached: bool | None = None
    writable: bool | None = None
    read_rate: ByteRate | None = None
    write_rate: ByteRate | None = None


class Display(FactStruct, frozen=True):
    """A display; `rate` is a fraction of frames per second."""

    id: Id
    width: Count | None = None
    height: Count | None = None
    rate: Text | None = None


class Audio(FactStruct, frozen=True):
    """Sound devices by name."""

    inputs: Annotated[tuple[Text, ...], FEW] | None = None
    outputs: Annotated[tuple[Text, ...], FEW] | None = None


class Application(FactStruct, frozen=True):
    """An installed creative application."""

    id: Id
    version: VersionText | None = None
    edition: Text | None = None
    running: bool | None = None


class Facts(FactStruct, frozen=True):
    """Everything that a seat is and that nobody chooses from day to day."""

    system: System = System()
    cpu: Cpu = Cpu()
    memory: Memory = Memory()
    gpus: Annotated[tuple[Gpu, ...], FEW] | None = None
    volumes: Annotated[tuple[Volume, ...], FEW] | None = None
    displays: Annotated[tuple[Display, ...], FEW] | None = None
    audio: Audio = Audio()
    applications: Annotated[tuple[Application, ...], FEW] | None = None

    def application(self, app: str | None) -> Application | None:
        """The installed application of that id."""
        return next((a for a in self.applications or () if a.id == app), None)

    def volume_of(self, path: str) -> Volume | None:
        """The volume with the longest mount that `path` lies under."""
        return volume_under(self.mounts(), path)

    def mounts(self) -> list[tuple[str, Volume]]:
        """Mounts in one manner of writing, each with a `/` at its end, the longest first."""
        named = ((_plain_path(v.mount).rstrip("/") + "/", v) for v in self.volumes or ())
        return sorted(named, key=lambda pair: -len(pair[0]))

    def interfaces(self) -> set[str]:
        """What the enabled GPUs offer together."""
        return {name for gpu in self.enabled_gpus() for name in gpu.interfaces or ()}

    def enabled_gpus(self) -> list[Gpu]:
        """Those that are not off in firmware, in the order of the survey."""
        return [gpu for gpu in self.gpus or () if gpu.enabled]

    def working_gpu(self) -> Gpu | None:
        """The GPU whose driver matters: the first enabled discrete one, else the first enabled."""
        enabled = self.enabled_gpus()
        return next((g for g in enabled if g.kind == "discrete"), enabled[0] if enabled else None)


class Seat(FactStruct, frozen=True):
    """What the register says of a seat, which no survey can know."""

    name: Text
    role: Text | None = None
    room: Text | None = None
    production: Text | None = None
    hardware_class: Text | None = None


def volume_under(mounts: list[tuple[str, Volume]], path: str) -> Volume | None:
    """The volume of the longest mount that `path` is, or lies under."""
    whole = _plain_path(path).rstrip("/") + "/"
    for mount, volume in mounts:
        if whole.startswith(mount):
            return volume
    return None


def _plain_path(path: str) -> str:
    return path.replace("\\", "/") if "\\" in path else path


class Record:
    """The named fields of a part of facts, for the checker of expressions."""

    def __init__(self, name: str, fields: dict[str, "Dimension | Record | ListOf"]) -> None:
        self.name, self.fields = name, fields


class ListOf:
    """A list of records or of plain values."""

    def __init__(self, item: "Dimension | Record") -> None:
        self.item = item


FactType = Dimension | Record | ListOf


def record_of(struct: type[msgspec.Struct], name: str, *, leaving: tuple[str, ...] = ()) -> Record:
    """The record type of a struct, from its annotations, without the fields that rules have no use for."""
    hints = get_type_hints(struct, include_extras=True)
    return Record(name, {field: _type_of(hint, field) for field, hint in hints.items() if field not in leaving})


def _type_of_annotated(hint: Any, name: str) -> FactType:
    """A list's type is that of its items; of a value the dimension that its field names, if it does."""
    base, meta = get_args(hint)[:2]
    if get_origin(base) is tuple:
        return _type_of(base, name)
    measured: Dimension = (meta.extra or {}).get("dimension", _PLAIN[base])
    return measured


def _type_of(hint: Any, name: str) -> FactType:
    if get_origin(hint) is Annotated:
        return _type_of_annotated(hint, name)
    if get_origin(hint) is tuple:
        item = _type_of(get_args(hint)[0], name)
        assert not isinstance(item, ListOf)
        return ListOf(item)
    options = [option for option in get_args(hint) if option is not type(None)]
    if options:
        return _type_of(options[0], name)
    if isinstance(hint, type) and issubclass(hint, msgspec.Struct):
        return record_of(hint, name)
    return _PLAIN[hint]


_PLAIN: dict[Any, Dimension] = {
    str: Dimension.TEXT,
    bool: Dimension.BOOLEAN,
    int: Dimension.NUMBER,
    dt.date: Dimension.TEXT,
}


def derived_readings(facts: Facts) -> dict[tuple[str, str | None], str]:
    """Readings that are facts at the same time: driver, system and application versions."""
    readings: dict[tuple[str, str | None], str | None] = {("system.version", None): facts.system.version}
    if gpu := facts.working_gpu():
        readings["driver.version", None] = gpu.driver.version
        readings["driver.branch", None] = gpu.driver.branch
        readings["driver.released", None] = gpu.driver.released.isoformat() if gpu.driver.released else None
    for app in facts.applications or ():
        readings["app.version", app.id] = app.version
        readings["app.edition", app.id] = app.edition
    return {key: value for key, value in readings.items() if value and _readable(key[0], value)}


def _readable(setting: str, value: str) -> bool:
    if not setting.endswith(".version"):
        return True
    try:
        Version.parse(value)
    except QuantityError:  # a maker's odd version must not lose the whole survey
        return False
    return True
