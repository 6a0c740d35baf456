"""What every real machine's host has in common, through psutil: processes, files, the clock."""

import datetime as dt
import os
import sys
import tempfile
from abc import ABC, abstractmethod
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Literal, TypeVar

import psutil

from normant_core.base.errors import NormantError
from normant_core.base.wording import app_title
from normant_core.dialects.dialect import Dialect
from normant_core.seat.facts import Application
from normant_core.seat.survey import Activity, Unreadable

from ..care.place import ItemPlace
from ..errors import HostError
from ..files import write_atomically
from ..jobs import child
from ..jobs.sampler import Sampling, Taker, sampling
from ..preferences.trial import as_spoken, is_there
from .commands import ask as command
from .host import Answer, Asked, Measured, Question, Seen

T = TypeVar("T")
STEP = 100_000_000  # bytes; free space is told in such steps, or every survey would differ
_CLOSE_SECONDS = 30
# Our words for the priority classes of Windows (SetPriorityClass), and elsewhere for values of nice(2).
PRIORITIES = (
    {"normal": 0x20, "above": 0x8000, "high": 0x80}
    if sys.platform == "win32"
    else {"normal": 0, "above": -5, "high": -10}
)


class MachineHost(ABC):
    """This machine; `preference_root` is where its applications keep their preferences."""

    name: str
    grain, tells_stores = 1, False

    def __init__(self, preference_root: Path) -> None:
        self.preference_root = preference_root

    def now(self) -> dt.datetime:
        """The machine's clock."""
        return dt.datetime.now(dt.UTC)

    def activity(self) -> Activity:
        """Unread, where the system does not tell how long nobody touched it."""
        return Activity(on_battery=on_battery())

    def fingerprint(self, paths: Iterable[Path]) -> object:
        """Modification times and sizes of the files, and the power profile."""
        try:
            profile = self.power_profile()
        except HostError:
            profile = ""
        return profile, *(_stamp(path) for path in paths)

    def is_running(self, app: str) -> bool:
        """Whether a process has the application's name."""
        return bool(_processes(app))

    def close(self, app: str) -> None:
        """Ask its processes to end. Raises HostError when one is still there after half a minute."""
        running = _processes(app)
        for process in running:
            process.terminate()
        _, left = psutil.wait_procs(running, timeout=_CLOSE_SECONDS)
        if left:
            raise HostError(f"{app_title(app)} did not close within {_CLOSE_SECONDS} s")

    def reopen(self, app: str) -> None:
        """Nobody's session is entered: the application stays closed until its editor opens it."""
        return

    def write(self, path: Path, content: bytes, *, mark: str) -> None:
        """Through a temporary file beside it."""
        write_atomically(path, content, mark=mark)

    @abstractmethod
    def power_profile(self) -> str:
        """performance, balanced or power-saver. Raises HostError."""

    @abstractmethod
    def set_power_profile(self, profile: str) -> None:
        """Choose one of them. Raises HostError."""

    def system_value(self, setting: str, app: str) -> str:
        """The power profile, or the priority of an application that runs. Raises HostError for what is not told."""
        if setting == "power.profile":
            return self.power_profile()
        if setting == "power.process_priority":
            return _priority(_running(app)[0])
        raise HostError(f"this system tells no {setting} of single applications")

    def set_system_value(self, setting: str, app: str, value: str) -> None:
        """Raises HostError where the system does not let it be chosen."""
        if setting == "power.profile":
            self.set_power_profile(value)
            return
        if setting != "power.process_priority":
            raise HostError(f"this system lets nobody choose {setting} for single applications")
        for process in _running(app):
            try:
                process.nice(PRIORITIES[value])
            except psutil.Error as fault:
                raise HostError(f"the priority of {app_title(app)} cannot be changed: {fault}") from fault

    def check_room(self, path: Path, size: int) -> None:
        """By what the system says is free there."""
        free = psutil.disk_usage(str(path.parent)).free
        if free < size:
            raise HostError(f"{size:,} bytes do not go beside {path.name}: {free:,} are free")

    def driver_version(self, gpu: str) -> str:
        """As a survey reads it. Raises HostError where the system does not tell it."""
        device = next((card for card in self.see(()).facts.gpus or () if card.id == gpu), None)
        if device is None or not device.driver.version:
            raise HostError(f"this system does not tell which driver {gpu} has")
        return device.driver.version

    def check_driver(self, gpu: str) -> None:
        """Always: see there."""
        self.install_driver(gpu, Path())

    def install_driver(self, gpu: str, package: Path) -> None:
        """Never: what installs a driver is a program of its maker's, and an agent starts no programs for anybody."""
        raise HostError("drivers are installed by hand on this seat: give an errand")

    @abstractmethod
    def see(self, dialects: Sequence[Dialect]) -> Seen:
        """Facts, the readings of the machine itself, and its stores."""

    def size(self, path: Path, status: os.stat_result | None = None) -> int:
        """As the file system says. Raises HostError."""
        try:
            return (status or path.stat()).st_size
        except OSError as fault:
            raise HostError(f"{path.name} cannot be looked at: {fault.strerror}") from fault

    def system_folder(self, kind: Literal["temporary", "bin"]) -> str:
        """Where programs put what they need for a while. Raises HostError: of the bin each system tells by itself."""
        if kind == "temporary":
            return tempfile.gettempdir()
        raise HostError("this system does not tell where its bin is")

    def remove(self, place: ItemPlace) -> None:
        """Raises HostError with the system's reason."""
        place.unlink()

    def measure(self, asked: Asked) -> Measured:
        """Decoding and disks, by jobs of the agent's own. Playing and rendering are the applications' own: HostError,
        for an agent starts no programs for anybody."""
        with sampling(Taker(asked.apps).take) as made:
            match asked.job:
                case "decode" if asked.clip:
                    figure = child.run("decode", str(asked.clip), asked.device)
                case "disk" if asked.volume:
                    figure = child.run("disk", asked.volume)
                case _:
                    raise HostError(f"this seat has no meter that can {asked.job}: measure at the seat")
        return Measured(figure, made.samples)

    def sampling(self, apps: tuple[str, ...]) -> AbstractContextManager[Sampling]:
        """Twice a second."""
        return sampling(Taker(apps).take)

    def real(self, path: str) -> Path:
        """The path itself."""
        return Path(path)

    def ask(self, question: Question) -> Answer:
        """Nobody: the agent enters no session. What it waits for stands on the seat's own page."""
        return ""

    def booted_at(self) -> str:
        """By the system's own count."""
        return dt.datetime.fromtimestamp(int(psutil.boot_time()), dt.UTC).isoformat()

    def restart(self) -> None:
        """Through the system's own command, which asks every program to end first."""
        windows = sys.platform == "win32"
        command(("shutdown", "/r", "/t", "60") if windows else ("shutdown", "-r", "+1"))

    def applications(self, dialects: Sequence[Dialect]) -> Iterator[Application]:
        """Applications whose preference files are there; of which version, where their folder's name tells."""
        for dialect in dialects:
            spoken, version = as_spoken(dialect, self.preference_root, "", "")
            if any(is_there(self.preference_root, file) for file in spoken.file):
                version_known = version if any("{version" in file.path for file in dialect.file) else None
                yield Application(dialect.app, version_known, running=self.is_running(dialect.app))


def on_battery() -> bool | None:
    """Whether only the battery feeds the machine; None for one without, or where the system does not tell."""
    sensors = getattr(psutil, "sensors_battery", lambda: None)
    battery = sensors()
    return None if battery is None or battery.power_plugged is None else not battery.power_plugged


class Tried:
    """Reads part by part: what fails becomes an error of the survey, and the rest is read all the same."""

    def __init__(self) -> None:
        self.errors: list[Unreadable] = []

    def __call__(self, source: str, read: Callable[[], T]) -> T | None:
        """What `read` gives, None where it fails."""
        try:
            return read()
        except (HostError, NormantError, OSError, psutil.Error) as why:
            reason = str(why)
        except (LookupError, ValueError, TypeError, AttributeError) as why:
            reason = f"the system's answer is not as expected: {type(why).__name__}: {why}"
        self.errors.append(Unreadable(source, reason[:2000]))
        return None


def _running(app: str) -> list[psutil.Process]:
    """Raises HostError where it does not run: the system holds the priority of a process, not of a program."""
    processes = _processes(app)
    if not processes:
        raise HostError(f"{app_title(app)} does not run: its priority can be read and set only while it does")
    return processes


def _priority(process: psutil.Process) -> str:
    here = process.nice()
    return next((name for name, value in PRIORITIES.items() if value == here), str(here))


def _stamp(path: Path) -> tuple[int, int] | None:
    try:
        seen = path.stat()
    except OSError:
        return None
    return seen.st_mtime_ns, seen.st_size


def _processes(app: str) -> list[psutil.Process]:
    """Processes whose name is the application's."""
    named = (p for p in psutil.process_iter(["name"]) if (p.info["name"] or "").lower().split(".")[0] == app)
    return list(named)
