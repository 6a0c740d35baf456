"""The stand-in's side of the agent's Host: a folder that behaves like a machine with applications."""

import datetime as dt
import errno
import fcntl
import os
import time
from collections.abc import Iterable, Iterator, Sequence
from contextlib import AbstractContextManager, contextmanager, suppress
from dataclasses import replace
from pathlib import Path
from stat import S_ISREG
from typing import Literal

import msgspec

from normant_agent.care import holding
from normant_agent.care.place import ItemPlace
from normant_agent.errors import HostError
from normant_agent.files import read, write_atomically
from normant_agent.hosts.host import Answer, Asked, Measured, Question, Seen
from normant_agent.jobs.sampler import Sampling, sampling
from normant_agent.media_library import codec_of
from normant_agent.preferences.visit import take_survey
from normant_core.base.quantities import Value
from normant_core.care.ages import AgeTally
from normant_core.dialects.dialect import Dialect
from normant_core.formats.kinds import read_file, recognised
from normant_core.orders.kinds import Job
from normant_core.seat.facts import Application
from normant_core.seat.survey import Activity, Reading, Store

from . import meter
from .exporting import write_export
from .machine import GRAIN, Clamp, DriverPackage, Machine

USUAL = {"power.process_priority": "normal", "engine.system_preference": "auto"}
WRITTEN, HELD = "written.log", "held"  # an order for each file that was written; at which step it stands still


class StandInHost:
    """One simulated machine in `folder`."""

    name = "stand-in"

    def __init__(self, folder: Path) -> None:
        self.folder, self.preference_root = folder, folder / "preferences"
        self.grain, self.tells_stores = GRAIN, True
        self._dialects: Sequence[Dialect] = ()

    def now(self) -> dt.datetime:
        """The machine's clock."""
        machine = Machine.load(self.folder)
        here = machine.clock_stands_at or dt.datetime.now(dt.UTC)
        return here - dt.timedelta(seconds=machine.clock_behind_seconds)

    def see(self, dialects: Sequence[Dialect]) -> Seen:
        """The machine's facts, with what runs on it now."""
        self._dialects = dialects
        machine = Machine.load(self.folder)
        time.sleep(machine.slow_seconds)
        installed = tuple(
            Application(app.id, app.version, app.edition, app.id in machine.running)
            for app in machine.facts.applications or ()
        )
        facts = msgspec.structs.replace(machine.facts, applications=installed)
        readings = [Reading("power.profile", machine.power_profile)]
        for key, value in machine.treats.items():
            setting, _, app = key.partition(" ")
            readings.append(Reading(setting, value, app))
        now = self.now()
        return Seen(facts, tuple(readings), tuple(self._aged(store, now) for store in machine.stores), ())

    def _aged(self, store: Store, now: dt.datetime) -> Store:
        """A store with the ages of its files."""
        ages, folder = AgeTally(now), self.real(store.path)
        for path in folder.rglob("*"):
            with suppress(FileNotFoundError):  # it was removed meanwhile
                status = path.lstat()
                if S_ISREG(status.st_mode) and holding.HELD not in path.relative_to(folder).parts:
                    ages.take(status.st_mtime, status.st_size * GRAIN)
        return msgspec.structs.replace(store, unused_for=ages.shares())

    def activity(self) -> Activity:
        """What the editor is doing, as far as the machine knows."""
        return Machine.load(self.folder).activity

    def fingerprint(self, paths: Iterable[Path]) -> object:
        """Modification times of the machine's state and of the files."""
        watched = (self.folder / "machine.json", *paths)
        return tuple(path.stat().st_mtime_ns if path.exists() else 0 for path in watched)

    def is_running(self, app: str) -> bool:
        """Whether the application is open."""
        return app in Machine.load(self.folder).running

    def close(self, app: str) -> None:
        """Close it; a simulated application saves nothing when it closes."""
        with self.changed() as machine:
            machine.running = [other for other in machine.running if other != app]

    def reopen(self, app: str) -> None:
        """Open it: it reads its preferences, and writes back what it would not accept."""
        with self.changed() as machine:
            machine.running, machine.cold = [*dict.fromkeys([*machine.running, app])], True
        for clamp in machine.clamps:
            if clamp.app == app:
                self._clamp(clamp)

    def write(self, path: Path, content: bytes, *, mark: str) -> None:
        """Raises HostError where the disk is full; what was written for which order is remembered."""
        self.needs_room(path.name)
        write_atomically(path, content, mark=mark)
        with (self.folder / WRITTEN).open("a", encoding="utf-8") as log:
            log.write(f"{mark}\n")

    def needs_room(self, name: str) -> None:
        """Raises HostError where the disk is full."""
        if Machine.load(self.folder).disk_full:
            raise HostError(f"{name} cannot be written: {os.strerror(errno.ENOSPC)}")

    def hold(self, step: str) -> None:
        """Stand still as long as the machine holds at this step."""
        held = self.folder / HELD
        while Machine.load(self.folder).holds_at == step:
            if not held.exists():
                held.write_text(step, "utf-8")
            time.sleep(0.05)
        held.unlink(missing_ok=True)

    def put_back_by_habit(self) -> None:
        """What the editor changes back by hand, when its time has come."""
        for habit in Machine.load(self.folder).habits:
            path = self.preference_root / habit.file
            content, age = read(path), time.time() - path.stat().st_mtime
            file = read_file(content, recognised(path.name, content))
            if age >= habit.after_seconds and file.get(habit.at).raw != habit.to:
                write_atomically(path, file.replace(habit.at, habit.to))

    def system_value(self, setting: str, app: str) -> str:
        """The power profile, or how the system treats an application; what nobody chose is as usual."""
        machine = Machine.load(self.folder)
        if setting == "power.profile":
            return machine.power_profile
        return machine.treats.get(f"{setting} {app}", USUAL[setting])

    def set_system_value(self, setting: str, app: str, value: str) -> None:
        """Raises HostError for a profile that the machine does not offer."""
        with self.changed() as machine:
            machine.cold = True
            if setting != "power.profile":
                machine.treats[f"{setting} {app}"] = value
                return
            if value not in (machine.facts.system.power_profiles or ()):
                raise HostError(f"this machine offers no power profile {value!r}")
            machine.power_profile = value

    def check_room(self, path: Path, size: int) -> None:
        """Only a full disk has none."""
        self.needs_room(path.name)

    def driver_version(self, gpu: str) -> str:
        """Raises HostError for a GPU that it does not have."""
        device = next(
            (candidate for candidate in Machine.load(self.folder).facts.gpus or () if candidate.id == gpu), None
        )
        if device is None or not device.driver.version:
            raise HostError(f"this machine has no GPU {gpu} whose driver is known")
        return device.driver.version

    def check_driver(self, gpu: str) -> None:
        """Only for a GPU that it has."""
        self.driver_version(gpu)

    def install_driver(self, gpu: str, package: Path) -> None:
        """A stand-in's package says in JSON which driver it is; it counts from the next start."""
        try:
            package_held = msgspec.json.decode(read(package), type=DriverPackage)
        except msgspec.DecodeError as fault:
            raise HostError(f"the installer ended with a fault: {fault}") from fault
        with self.changed() as machine:
            machine.installed = package_held

    def size(self, path: Path, status: os.stat_result | None = None) -> int:
        """A byte on the stand-in's disks stands for GRAIN."""
        return (status or path.stat()).st_size * GRAIN

    def system_folder(self, kind: Literal["temporary", "bin"]) -> str:
        """Folders of its own."""
        return {"temporary": "/scratch", "bin": "/home/edit/bin"}[kind]

    def remove(self, place: ItemPlace) -> None:
        """What it frees the next survey tells."""
        size = self.size(place.path, place.status())
        place.unlink()
        with self.changed() as machine:
            for store in machine.stores:
                if place.path.is_relative_to(self.real(store.path)):
                    production, project, *_ = (*place.path.relative_to(self.real(store.path)).parts, "")
                    machine.frees(store, size, production, project)

    def measure(self, asked: Asked) -> Measured:
        """By the model of `meter`, as it was seen last; its scatter goes on from run to run."""
        self.hold("measuring")
        codec = codec_of(asked.clip) if asked.clip else ""
        work = self._work(asked.job)
        made = meter.run(replace(work, codec=codec, device=asked.device, volume=asked.volume, beside=asked.beside))
        if asked.job == "render":
            self.export("run.mkv", 0).unlink()  # what a run of its own leaves, nobody asked for
        return made

    def sampling(self, apps: tuple[str, ...]) -> AbstractContextManager[Sampling]:
        """What its meter says that it does."""
        return sampling(meter.takes(self._work("play")))

    def export(self, name: str, seconds: float) -> Path:
        """A real small file in its store of exports, whose bytes come over so many seconds."""
        folder = self.real(str(self._readings().get("store.exports.path", "/exports")))
        folder.mkdir(parents=True, exist_ok=True)
        path = folder / name
        write_export(path, seconds)
        return path

    def _work(self, job: Job) -> meter.Work:
        with self.changed() as machine:
            machine.runs += 1
            cold, machine.cold, runs = machine.cold, False, machine.runs
        return meter.Work(
            job, Machine.load(self.folder).facts, self._readings(), f"{self.folder.name} {job} {runs}", cold, runs
        )

    def _readings(self) -> dict[str, Value]:
        """It plays in the first of the applications: of the same setting the last that is written here counts."""
        survey = take_survey(self, self.folder.name, self._dialects)
        values = sorted(survey.values().items(), key=lambda item: item[0][1] or "", reverse=True)
        return {setting: value for (setting, _), value in values}

    def real(self, path: str) -> Path:
        """Under the folder of its disks."""
        return self.folder / "disks" / path.lstrip("/")

    def ask(self, question: Question) -> Answer:
        """What its editor answers to whatever is asked."""
        return Machine.load(self.folder).answers

    def booted_at(self) -> str:
        """When it started last."""
        return Machine.load(self.folder).booted_at

    def restart(self) -> None:
        """It starts again at once: everything is closed, and what was installed is there."""
        with self.changed() as machine:
            machine.running, machine.booted_at = [], self.now().isoformat()
            if machine.installed:
                machine.install_driver(machine.installed.version, machine.installed.branch)
                machine.installed = None

    @contextmanager
    def changed(self) -> Iterator[Machine]:
        """The machine, kept when the block ends without a fault; one process changes it at a time."""
        with (self.folder / "machine.lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            machine = Machine.load(self.folder)
            yield machine
            machine.save(self.folder)

    def _clamp(self, clamp: Clamp) -> None:
        path = self.preference_root / clamp.file
        content = read(path)
        file = read_file(content, recognised(path.name, content))
        if int(file.get(clamp.at).raw) < clamp.at_least:
            write_atomically(path, file.replace(clamp.at, str(clamp.at_least)))
