"""A simulated machine: a folder with its state in `machine.json` and its applications' files under `preferences`."""

import datetime as dt
from pathlib import Path
from typing import Literal, Self, TypeVar

import msgspec

from normant_agent.files import write_atomically
from normant_core.seat.facts import Facts
from normant_core.seat.survey import Activity, ProductionShare, ProjectShare, Store

Share = TypeVar("Share", ProductionShare, ProjectShare)
GRAIN = 1 << 20  # bytes for which one byte of a store stands on a stand-in's disks


class Clamp(msgspec.Struct, frozen=True):
    """An application that never keeps less than `at_least` at an address of its file, in the file's unit."""

    app: str
    file: str
    at: str
    at_least: int


class Habit(msgspec.Struct, frozen=True):
    """What somebody at the seat puts back by hand, `after_seconds` after it was changed: native text at an address."""

    file: str
    at: str
    to: str
    after_seconds: float


class DriverPackage(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a stand-in's installer holds."""

    version: str
    branch: str


class Machine(msgspec.Struct):
    """The state; `loses_power_at` names the step of an order at which the plug is pulled, once.

    `slow_seconds` is how long a look at the machine takes, `clock_behind_seconds` how far its clock is behind, and
    `clock_stands_at` the moment at which it stopped; a full disk takes no file that is written to it. At `holds_at`, a
    step of an order or one of its agent's own (ordered, receipt, survey), it stands still until that is another. Its
    network may hand in what it carries twice. `treats` is how the system treats applications, by `setting application`;
    `answers` is what its editor answers to every question. `installed` is a driver that counts from the next start,
    `runs` how often its meter ran, `cold` whether what it plays next is in no cache.
    """

    facts: Facts
    power_profile: str
    running: list[str]
    stores: tuple[Store, ...]
    activity: Activity
    clamps: tuple[Clamp, ...] = ()
    habits: tuple[Habit, ...] = ()
    slow_seconds: float = 0
    clock_behind_seconds: int = 0
    disk_full: bool = False
    online: bool = True
    unplugged_after_survey: bool = False
    loses_power_at: str = ""
    clock_stands_at: dt.datetime | None = None
    holds_at: str = ""
    hands_in_twice: bool = False
    treats: dict[str, str] = {}
    answers: Literal["", "agreed", "later"] = ""
    installed: DriverPackage | None = None
    runs: int = 0
    cold: bool = True
    booted_at: str = "2026-01-05T07:00:00+00:00"

    def install_driver(self, version: str, branch: str) -> None:
        """The driver of its first GPU is another one from now on."""
        gpu, *others = self.facts.gpus or ()
        driver = msgspec.structs.replace(gpu.driver, version=version, branch=branch)
        self.facts = msgspec.structs.replace(self.facts, gpus=(msgspec.structs.replace(gpu, driver=driver), *others))

    def frees(self, store: Store, size: int, production: str = "", project: str = "") -> None:
        """Count bytes that were removed from a store off what it holds, and add them to what its volume has free."""
        if not size:
            return
        whole = store.size or size
        left = msgspec.structs.replace(
            store,
            size=max(0, whole - size),
            items=round((store.items or 0) * max(0, whole - size) / whole),
            unused=max(0, (store.unused or 0) - size),
            productions=tuple(
                _less(share, size if share.production == production else 0) for share in store.productions
            ),
            projects=tuple(
                _less(share, size if (share.production, share.project) == (production, project) else 0)
                for share in store.projects
            ),
        )
        self.stores = tuple(left if store_left is store else store_left for store_left in self.stores)
        volumes = (
            msgspec.structs.replace(volume, free=(volume.free or 0) + size) if volume.id == store.volume else volume
            for volume in self.facts.volumes or ()
        )
        self.facts = msgspec.structs.replace(self.facts, volumes=tuple(volumes))

    @classmethod
    def load(cls, folder: Path) -> Self:
        """The machine as it is now."""
        return msgspec.json.decode((folder / "machine.json").read_bytes(), type=cls)

    def save(self, folder: Path) -> None:
        """Keep the state."""
        folder.mkdir(parents=True, exist_ok=True)
        write_atomically(folder / "machine.json", msgspec.json.format(msgspec.json.encode(self)))


def _less(share: Share, size: int) -> Share:
    return msgspec.structs.replace(share, size=max(0, share.size - size))
