"""A Windows machine, read through the system's own query commands: CIM classes as JSON, and the power schemes."""

import datetime as dt
import re
from collections.abc import Sequence
from pathlib import Path
from typing import Any, TypeVar

from normant_core.dialects.dialect import Dialect
from normant_core.seat.facts import Audio, Cpu, Display, Driver, Facts, Gpu, Memory, System, Volume
from normant_core.seat.survey import Reading

from ..errors import HostError
from .commands import Ask, ask, objects, text, whole
from .host import Seen
from .machine import STEP, MachineHost, Tried

T = TypeVar("T")
# The scheme's name is in the system's language, its GUID is not.
SCHEMES = {
    "8c5e7fda-e8bf-4a96-9a85-a6e23a8c635c": "performance",
    "e9a42b02-d5df-448d-aa00-03f14749eb61": "performance",
    "381b4222-f694-41f0-9685-ff5bb260df2e": "balanced",
    "a1841308-3541-4fab-bc81-f71556f20b4a": "power-saver",
}
PROFILES = ("performance", "balanced", "power-saver")
_DISABLED = 22  # the device manager's code for a device that somebody switched off
_RAM_CAP = 2**32 - 2**20  # AdapterRAM has 32 bits: what is this large may be any size above
_DRIVES = {2: "removable", 3: "local", 4: "network"}
_SHELL = ("powershell.exe", "-NoProfile", "-NonInteractive", "-Command")
_DISKS = (
    "Get-Partition | Where-Object DriveLetter | ForEach-Object { $d = Get-PhysicalDisk | Where-Object DeviceId -eq "
    "$_.DiskNumber; [pscustomobject]@{ Letter = [string]$_.DriveLetter; Media = [string]$d.MediaType; "
    "Bus = [string]$d.BusType } }"
)


class WindowsHost(MachineHost):
    """This machine; `asked` runs the query commands."""

    name = "windows"

    def __init__(self, preference_root: Path, *, asked: Ask = ask) -> None:
        super().__init__(preference_root)
        self._ask = asked

    def see(self, dialects: Sequence[Dialect]) -> Seen:
        """Facts, the power profile, and what could not be read."""
        tried = Tried()
        cards = tried("facts:gpus", lambda: self._class("Win32_VideoController"))
        facts = Facts(
            system=System(
                "windows", tried("facts:system.version", self._version), tuple(sorted(set(SCHEMES.values())))
            ),
            cpu=tried("facts:cpu", self._cpu) or Cpu(),
            memory=Memory(tried("facts:memory", self._memory)),
            gpus=None if cards is None else tuple(_gpu(index, card) for index, card in enumerate(cards)),
            volumes=tried("facts:volumes", self._volumes),
            displays=None if cards is None else tuple(_displays(cards)),
            audio=tried("facts:audio", self._audio) or Audio(),
            applications=tuple(self.applications(dialects)),
        )
        profile = tried("reading:power.profile", self.power_profile)
        readings = (Reading("power.profile", profile),) if profile else ()
        return Seen(facts, readings, (), tuple(tried.errors))

    def power_profile(self) -> str:
        """The profile that the active scheme stands for. Raises HostError for a scheme of somebody's own."""
        printed = self._ask(("powercfg", "/getactivescheme"))
        match = re.search(r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}", printed.lower())
        if match is None:
            raise HostError(f"powercfg names no scheme: {printed.strip()[:80]!r}")
        if match[0] not in SCHEMES:
            raise HostError(f"the active power scheme {match[0]} is none of the system's own")
        return SCHEMES[match[0]]

    def set_power_profile(self, profile: str) -> None:
        """Choose the system's scheme of that name."""
        schemes = [guid for guid, name in SCHEMES.items() if name == profile]
        if not schemes:
            raise HostError(f"this machine offers no power profile {profile!r}")
        self._ask(("powercfg", "/setactive", schemes[0]))

    def _class(self, name: str) -> list[dict[str, Any]]:
        return self._query(f"Get-CimInstance {name}", name)

    def _query(self, query: str, what: str) -> list[dict[str, Any]]:
        return objects(self._ask((*_SHELL, f"{query} | ConvertTo-Json -Compress -Depth 3")), what)

    def _version(self) -> str:
        return _need(text(self._class("Win32_OperatingSystem")[0].get("Version")), "Win32_OperatingSystem", "Version")

    def _cpu(self) -> Cpu:
        sockets = self._class("Win32_Processor")
        cores, threads = (
            sum(whole(socket.get(name)) or 0 for socket in sockets) or None
            for name in ("NumberOfCores", "NumberOfLogicalProcessors")
        )
        return Cpu(text(sockets[0].get("Name")), cores, threads)

    def _memory(self) -> int:
        total = whole(self._class("Win32_ComputerSystem")[0].get("TotalPhysicalMemory"))
        return _need(total, "Win32_ComputerSystem", "TotalPhysicalMemory")

    def _volumes(self) -> tuple[Volume, ...]:
        kinds = {str(disk.get("Letter", "")).upper(): _kind(disk) for disk in self._disks()}
        system = self._class("Win32_OperatingSystem")[0].get("SystemDrive")
        disks = [disk for disk in self._class("Win32_LogicalDisk") if whole(disk.get("DriveType")) in _DRIVES]
        return tuple(_volume(index, disk, kinds, system=str(system)) for index, disk in enumerate(disks))

    def _disks(self) -> list[dict[str, Any]]:
        try:
            return self._query(_DISKS, "Get-PhysicalDisk")
        except HostError:  # older systems do not know the command: the kind stays unread
            return []

    def _audio(self) -> Audio:
        names = tuple(name for card in self._class("Win32_SoundDevice") if (name := text(card.get("Name"))))
        return Audio(inputs=names, outputs=names)


def _gpu(index: int, card: dict[str, Any]) -> Gpu:
    memory = whole(card.get("AdapterRAM"))
    driver = Driver(version=text(card.get("DriverVersion")), released=_date(card.get("DriverDate")))
    code = whole(card.get("ConfigManagerErrorCode"))
    return Gpu(
        f"gpu{index}",
        model=text(card.get("Name")),
        enabled=None if code is None else code != _DISABLED,
        memory=memory if memory is not None and memory < _RAM_CAP else None,
        driver=driver,
    )


def _displays(cards: list[dict[str, Any]]) -> list[Display]:
    displays = []
    for index, card in enumerate(cards):
        width, height = (whole(card.get(f"Current{side}Resolution")) for side in ("Horizontal", "Vertical"))
        rate = whole(card.get("CurrentRefreshRate"))
        if width and height:
            displays.append(Display(f"d{index}", width, height, f"{rate}/1" if rate else None))
    return displays


def _volume(index: int, disk: dict[str, Any], kinds: dict[str, str | None], *, system: str) -> Volume:
    letter, drive = str(disk.get("DeviceID", "")), _DRIVES[whole(disk.get("DriveType")) or 0]
    size, free = whole(disk.get("Size")), whole(disk.get("FreeSpace"))
    return Volume(
        f"v{index}",
        f"{letter}\\",
        kind="network" if drive == "network" else kinds.get(letter[:1].upper()),
        capacity=size,
        free=None if free is None else free // STEP * STEP,
        system=letter.upper() == system.upper(),
        removable=drive == "removable",
        attached=size is not None,  # a card reader without a card has a letter and no size
    )


def _kind(disk: dict[str, Any]) -> str | None:
    if str(disk.get("Bus", "")).lower() == "nvme":
        return "nvme"
    return {"ssd": "ssd", "hdd": "hdd", "4": "ssd", "3": "hdd"}.get(str(disk.get("Media", "")).lower())


def _date(value: object) -> dt.date | None:
    """A date as the old and the new shell print it: `/Date(1690934400000)/`, ISO 8601, or CIM's own digits."""
    stamp = str(value.get("value", "") if isinstance(value, dict) else value or "")
    if match := re.search(r"/Date\((-?\d+)\)/", stamp):
        return (dt.datetime(1970, 1, 1, tzinfo=dt.UTC) + dt.timedelta(milliseconds=int(match[1]))).date()
    if match := re.match(r"(\d{4})-?(\d\d)-?(\d\d)", stamp):
        return dt.date(int(match[1]), int(match[2]), int(match[3]))
    return None


def _need(value: T | None, what: str, name: str) -> T:
    if value is None:
        raise HostError(f"{what} tells no {name}")
    return value
