"""The scenario's machines, as their document describes them."""

import datetime as dt
import os
import plistlib
import tomllib
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from pathlib import Path
from string import Template
from typing import Any

import msgspec

from normant_core.seat.facts import Application, Facts
from normant_core.seat.survey import Activity, ProductionShare, ProjectShare, Store

from .machine import GRAIN, Clamp, Habit, Machine
from .projects import ProjectText, write_project

SPOILED = 2_000  # bytes of an export that is damaged
UNUSED_DAYS = 30  # after which a store's files count as unused
PARTS = 24  # files that hold what a store says was used, and as many that hold the rest
VERSIONS = {"corrow": "8.3.1", "plinthe": "9.0.4", "glaize": "5.2.1", "pockle": "3.1.0", "tamsel": "2.4.2"}


class Kept(msgspec.Struct, frozen=True):
    """A preference file of an application, and the template that the scenario makes it from."""

    path: str
    template: str
    mark: bytes = b""
    line_end: str = "\n"
    binary_from: str = ""


# By application and its major version.
FILES = {
    ("corrow", "8"): (
        Kept("corrow/8/preferences.xml", "corrow-8.xml"),
        Kept("corrow/8/templates/house.xml", "corrow-8-house.xml"),
    ),
    ("plinthe", "8"): (Kept("plinthe/8/bench.json", "plinthe-8.json"),),
    ("plinthe", "9"): (Kept("plinthe/9/bench.json", "plinthe-9.json"),),
    ("glaize", "5"): (
        Kept("glaize/5/suite.toml", "glaize-5.toml"),
        Kept("glaize/5/desk.plist", "glaize-5.plist", binary_from="5.2"),
    ),
    ("pockle", "3"): (Kept("pockle/3/pockle.ini", "pockle-3.ini", mark=b"\xef\xbb\xbf", line_end="\r\n"),),
    ("tamsel", "2"): (Kept("tamsel/2/queue.yml", "tamsel-2.yml"),),
}
Values = dict[str, Any]


class HardwareClass(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What the seats of one class share."""

    facts: Facts
    preferences: dict[str, Values]


class Export(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A finished export of a seat, made from a clip of the house; `spoiled` is where in it some bytes are wrong, 0 to 1
    (none where it is 0)."""

    path: str
    clip: str
    spoiled: float = 0


class StoreFiles(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Real files of a store: `count` of `size` bytes together in `path` of its `folder`, which nobody used for `days`.

    `locked`: nobody may write to them; `leads_to`: instead of files a link, to there.
    """

    purpose: str
    app: str
    volume: str
    folder: str
    path: str
    count: int
    size: int
    days: float
    locked: bool = False
    leads_to: str = ""


class SeatText(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"hardware_class": "class"}):
    """One seat, with what differs from its class."""

    name: str
    hardware_class: str
    applications: tuple[str, ...]
    running: tuple[str, ...] = ()
    power_profile: str = "performance"
    driver: dict[str, Any] = {}
    versions: dict[str, str] = {}
    editions: dict[str, str] = {}
    volumes: dict[str, dict[str, Any]] = {}
    corrow: Values = {}
    plinthe: Values = {}
    glaize: Values = {}
    pockle: Values = {}
    tamsel: Values = {}
    stores: tuple[Store, ...] = ()
    files: tuple[StoreFiles, ...] = ()
    exports: tuple[Export, ...] = ()
    projects: tuple[ProjectText, ...] = ()
    activity: Activity = Activity(idle_seconds=1800, rendering=False, unsaved=False)
    clamps: tuple[Clamp, ...] = ()
    habits: tuple[Habit, ...] = ()
    slow_seconds: float = 0
    clock_behind_seconds: int = 0
    disk_full: bool = False
    unplugged_after_survey: bool = False


class Scenario(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"classes": "class", "seats": "seat"}):
    """The whole document."""

    classes: dict[str, HardwareClass]
    seats: tuple[SeatText, ...]


def load(folder: Path) -> Scenario:
    """The machines of `seats.toml` in a scenario's folder."""
    return msgspec.convert(tomllib.loads((folder / "seats.toml").read_text("utf-8")), Scenario)


def build(scenario: Scenario, seat: SeatText, folder: Path, *, templates: Path) -> None:
    """Make the machine's folder, unless it is there: its state and its applications' files."""
    if (folder / "machine.json").exists():
        return
    hardware = scenario.classes[seat.hardware_class]
    for app in seat.applications:
        values = {"template_device": "hadrel", "hidden": "", **hardware.preferences[app], **getattr(seat, app)}
        version = seat.versions.get(app, VERSIONS[app])
        for file in FILES[app, version.partition(".")[0]]:
            path = folder / "preferences" / file.path
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(_content(file, templates, values, version))
    for store in seat.stores:
        _fill(folder / "disks" / store.path.lstrip("/"), store)
    for files in seat.files:
        _put(folder / "disks", files)
    for project in seat.projects:
        write_project(folder / "disks", project)
    for export in seat.exports:
        _deliver(folder / "disks" / export.path.lstrip("/"), export, templates.parent / "clips")
    Machine(
        facts=_facts(hardware.facts, seat),
        power_profile=seat.power_profile,
        running=list(seat.running),
        stores=(*seat.stores, *_stores_of(seat.files)),
        activity=seat.activity,
        clamps=seat.clamps,
        habits=seat.habits,
        slow_seconds=seat.slow_seconds,
        clock_behind_seconds=seat.clock_behind_seconds,
        disk_full=seat.disk_full,
        unplugged_after_survey=seat.unplugged_after_survey,
    ).save(folder)


def _deliver(path: Path, export: Export, clips: Path) -> None:
    """A finished export, from one of the house's clips."""
    content = bytearray((clips / export.clip).read_bytes())
    if export.spoiled:
        place = int(len(content) * export.spoiled)
        content[place : place + SPOILED] = bytes(SPOILED)
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(content)


def _fill(folder: Path, store: Store) -> None:
    """A store's files: as many bytes as it has grains; what nobody used was used last between `oldest` and a month ago.

    Of two files the later one is smaller, so that the first few are most of what there is.
    """
    size, unused = (store.size or 0) // GRAIN, (store.unused or 0) // GRAIN
    now = dt.datetime.now(dt.UTC).replace(microsecond=0)
    oldest, month = store.oldest or now, dt.timedelta(days=30)
    for number, (bytes_, last) in enumerate(
        [*_parts(unused, (oldest, now - month)), *_parts(size - unused, (now - month / 2, now))]
    ):
        path = folder / f"{number // 16:02d}" / f"{number:04d}.pk"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(bytes(bytes_))
        os.utime(path, (last.timestamp(), last.timestamp()))


def _put(disks: Path, files: StoreFiles) -> None:
    place = disks / files.folder.lstrip("/") / files.path
    if files.leads_to:
        place.parent.mkdir(parents=True, exist_ok=True)
        place.symlink_to(disks / files.leads_to.lstrip("/"))
        return
    place.mkdir(parents=True, exist_ok=True)
    first = dt.datetime.now(dt.UTC) - dt.timedelta(days=files.days)
    for number in range(files.count):
        path, last = place / f"{number:04d}.mkv", (first - dt.timedelta(hours=number)).timestamp()
        path.write_bytes(bytes(files.size // files.count // GRAIN))
        os.utime(path, (last, last))
        if files.locked:
            path.chmod(0o444)


def _stores_of(files: Iterable[StoreFiles]) -> Iterator[Store]:
    """What a survey tells of the stores that hold them."""
    by_folder = defaultdict[str, list[StoreFiles]](list)
    for some in files:
        if not some.leads_to:
            by_folder[some.folder].append(some)
    now = dt.datetime.now(dt.UTC).replace(microsecond=0)
    for folder, those in by_folder.items():
        unused = [some for some in those if some.days > UNUSED_DAYS]
        yield Store(
            those[0].purpose,
            folder,
            those[0].app,
            those[0].volume,
            size=sum(some.size for some in those),
            items=sum(some.count for some in those),
            unused=sum(some.size for some in unused),
            oldest=now - dt.timedelta(days=max(some.days for some in those)),
            productions=tuple(_productions(those)),
            projects=tuple(_projects(those)),
        )


def _productions(files: Iterable[StoreFiles]) -> Iterator[ProductionShare]:
    """Folders of renders and backups bear the names of productions, those of projects within."""
    by_name = Counter[str]()
    for some in files:
        if some.purpose in ("renders", "backups") and "/" in some.path:
            by_name[some.path.partition("/")[0]] += some.size
    yield from (ProductionShare(name, size) for name, size in by_name.most_common())


def _projects(files: Iterable[StoreFiles]) -> Iterator[ProjectShare]:
    by_name = Counter[tuple[str, str]]()
    for some in files:
        production, *project = some.path.split("/")
        if some.purpose in ("renders", "backups") and project:
            by_name[production, project[0]] += some.size
    yield from (ProjectShare(*names, size) for names, size in by_name.most_common())


def _parts(size: int, between: tuple[dt.datetime, dt.datetime]) -> Iterator[tuple[int, dt.datetime]]:
    """So many bytes in PARTS files, and when each was used last."""
    first, last = between
    whole = PARTS * (PARTS + 1) // 2
    for number in range(PARTS if size > whole else 0):
        share = size * (PARTS - number) // whole
        yield share, first + (last - first) * number / PARTS


def _content(file: Kept, templates: Path, values: Values, version: str) -> bytes:
    text = Template((templates / file.template).read_text("utf-8")).substitute(values)
    if file.binary_from and version >= file.binary_from:
        return plistlib.dumps(plistlib.loads(text.encode()), fmt=plistlib.FMT_BINARY)
    return file.mark + text.replace("\n", file.line_end).encode()


def _facts(facts: Facts, seat: SeatText) -> Facts:
    installed = tuple(
        Application(app, seat.versions.get(app, VERSIONS[app]), seat.editions.get(app, "full"))
        for app in seat.applications
    )
    plain = msgspec.to_builtins(facts, builtin_types=(type(None),))
    if seat.driver:
        plain["gpus"][0]["driver"].update(seat.driver)
    for volume in plain["volumes"]:
        volume.update(seat.volumes.get(volume["id"], {}))
    return msgspec.structs.replace(msgspec.convert(plain, Facts), applications=installed)
