"""What the agent needs of the machine it runs on: a real one, or a stand-in."""

import datetime as dt
import os
from collections.abc import Iterable, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path
from typing import Literal, Protocol

from normant_core.dialects.dialect import Dialect
from normant_core.orders.kinds import Job
from normant_core.orders.samples import Samples
from normant_core.seat.facts import Facts
from normant_core.seat.survey import Activity, Reading, Store, Unreadable

from ..care.place import ItemPlace
from ..jobs.sampler import Sampling


@dataclass(frozen=True, slots=True)
class Asked:
    """One run that is asked for: the job, a clip on this machine's disk, what decodes it, or the volume's folder.

    `apps` are those whose share of the processor is sampled. `beside` is the application whose job it is, where that is
    another one than the run is about; empty where it is not.
    """

    job: Job
    clip: Path | None = None
    device: str = ""
    volume: str = ""
    apps: tuple[str, ...] = ()
    beside: str = ""


@dataclass(frozen=True, slots=True)
class Measured:
    """What one run came to: seconds of a render, else frames or bytes per second; what the machine did meanwhile."""

    figure: float
    samples: Samples | None = None


@dataclass(frozen=True, slots=True)
class Seen:
    """The machine at one moment; what could not be read is in `errors` and None in `facts`."""

    facts: Facts
    readings: tuple[Reading, ...]
    stores: tuple[Store, ...]
    errors: tuple[Unreadable, ...]


@dataclass(frozen=True, slots=True)
class Question:
    """What somebody at the seat is asked, for which order, and whether it may be put off once more."""

    order: str
    text: str
    may_put_off: bool


Answer = Literal["", "agreed", "later"]


class Host(Protocol):
    """One machine. Methods raise HostError where the machine will not do or tell it."""

    name: str
    preference_root: Path
    tells_stores: bool  # whether `see` tells how large stores are: else the agent counts them
    grain: int  # bytes for which one byte of a store's file stands: 1 but on a stand-in

    def now(self) -> dt.datetime:
        """The machine's own clock, in UTC."""
        ...

    def see(self, dialects: Sequence[Dialect]) -> Seen:
        """Facts, the readings of the machine itself, and its stores."""
        ...

    def activity(self) -> Activity:
        """Whether the machine is in use."""
        ...

    def fingerprint(self, paths: Iterable[Path]) -> object:
        """Something that differs as soon as these files, or the machine's own settings, do."""
        ...

    def is_running(self, app: str) -> bool:
        """Whether the application is open."""
        ...

    def close(self, app: str) -> None:
        """Ask the application to close, and wait until it has."""
        ...

    def reopen(self, app: str) -> None:
        """Open the application that `close` closed, where the machine can."""
        ...

    def write(self, path: Path, content: bytes, *, mark: str) -> None:
        """Replace a file in one step; `mark` names what is left beside it where that does not end."""
        ...

    def system_value(self, setting: str, app: str) -> str:
        """What the system holds: power.profile (no application), or its treatment of one application."""
        ...

    def set_system_value(self, setting: str, app: str, value: str) -> None:
        """Choose another value of it."""
        ...

    def check_room(self, path: Path, size: int) -> None:
        """Raises HostError where so many bytes more do not go beside a file."""
        ...

    def driver_version(self, gpu: str) -> str:
        """Of the driver that is loaded for a GPU."""
        ...

    def check_driver(self, gpu: str) -> None:
        """Raises HostError where no driver can be installed for a GPU: before its package is fetched."""
        ...

    def install_driver(self, gpu: str, package: Path) -> None:
        """Install a package; it counts from the next start of the machine."""
        ...

    def size(self, path: Path, status: os.stat_result | None = None) -> int:
        """Bytes of a file of a store; by its `status`, where it was asked for already. Raises HostError."""
        ...

    def system_folder(self, kind: Literal["temporary", "bin"]) -> str:
        """The path of the system's own temporary folder, or of its bin. Raises HostError where it tells none."""
        ...

    def remove(self, place: ItemPlace) -> None:
        """Remove a file of a store from the folder that holds it. Raises HostError."""
        ...

    def measure(self, asked: Asked) -> Measured:
        """One run. Raises HostError where this machine cannot make it."""
        ...

    def sampling(self, apps: tuple[str, ...]) -> AbstractContextManager[Sampling]:
        """What the machine does while the block goes on, with the share of the processor that these have."""
        ...

    def real(self, path: str) -> Path:
        """Where a path that preferences name lies."""
        ...

    def ask(self, question: Question) -> Answer:
        """Ask whoever sits there, without waiting: empty while nobody answered, or where nobody can be asked."""
        ...

    def booted_at(self) -> str:
        """When the machine started last, in any form: another text is another start."""
        ...

    def restart(self) -> None:
        """Let the machine start again, in the way in which nothing is lost."""
        ...
