"""A real Linux machine, read through psutil and the system's own files under /proc, /sys and /etc."""

import os
import platform
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Literal

import psutil

from normant_core.dialects.dialect import Dialect
from normant_core.seat.facts import Audio, Cpu, Display, Driver, Facts, Gpu, Memory, System, Volume
from normant_core.seat.survey import Activity, Reading, Store

from ..errors import HostError
from .host import Seen
from .linux_power import PowerProfiles
from .machine import STEP, MachineHost, Tried, on_battery
from .rates import Rates, measure

_NETWORK = {"nfs", "nfs4", "cifs", "smb3", "9p", "fuse.sshfs", "glusterfs", "lustre", "ceph"}


class LinuxHost(MachineHost):
    """This machine. `root` is where /proc, /sys and /etc are found."""

    name = "linux"

    def __init__(self, preference_root: Path, *, root: Path = Path("/"), measuring: bool = False) -> None:
        super().__init__(preference_root)
        self._root, self._measuring = root, measuring
        self._rates = dict[str, Rates | None]()
        self._power = PowerProfiles(root)

    def see(self, dialects: Sequence[Dialect]) -> Seen:
        """Facts, machine readings and what could not be read."""
        tried = Tried()
        facts = Facts(
            system=System("linux", tried("facts:system.version", self._version), tried("facts:power", self._profiles)),
            cpu=Cpu(tried("facts:cpu", self._cpu), psutil.cpu_count(logical=False), psutil.cpu_count()),
            memory=Memory(psutil.virtual_memory().total),
            gpus=tried("facts:gpus", self._gpus),
            volumes=tried("facts:volumes", self._volumes),
            displays=tried("facts:displays", self._displays),
            audio=tried("facts:audio", self._audio) or Audio(),
            applications=tuple(self.applications(dialects)),
        )
        profile = tried("reading:power.profile", self.power_profile)
        readings = (Reading("power.profile", profile),) if profile else ()
        return Seen(facts, readings, tuple[Store, ...](), tuple(tried.errors))

    def system_folder(self, kind: Literal["temporary", "bin"]) -> str:
        """The bin as desktops have it that keep to the XDG specifications."""
        if kind == "temporary":
            return super().system_folder(kind)
        return str(Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local/share") / "Trash" / "files")

    def activity(self) -> Activity:
        """How long no terminal was used; unread where nobody is signed in to one."""
        seen = [self._root / "dev" / user.terminal for user in psutil.users() if user.terminal]
        touched = [path.stat().st_atime for path in seen if path.exists()]
        idle = max(0, int(time.time() - max(touched))) if touched else None
        return Activity(idle_seconds=idle, on_battery=on_battery())

    def power_profile(self) -> str:
        """performance, balanced or power-saver."""
        return self._power.current()

    def set_power_profile(self, profile: str) -> None:
        """Choose one of them."""
        self._power.choose(profile)

    def _profiles(self) -> tuple[str, ...]:
        return self._power.offered()

    def _version(self) -> str:
        version = platform.freedesktop_os_release().get("VERSION_ID", "")
        if not version:
            raise HostError("the system's release file names no version")
        return version

    def _cpu(self) -> str:
        for line in self._text("proc/cpuinfo").splitlines():
            name, _, value = line.partition(":")
            if name.strip() in ("model name", "Model", "cpu model"):
                return value.strip()
        raise HostError("/proc/cpuinfo names no model")

    def _gpus(self) -> tuple[Gpu, ...]:
        cards = sorted((self._root / "sys/class/drm").glob("card[0-9]"))
        if not cards:
            raise HostError("the system shows no graphics device under /sys/class/drm")
        return tuple(self._gpu(index, card / "device") for index, card in enumerate(cards))

    def _gpu(self, index: int, device: Path) -> Gpu:
        # The system's files name maker and device by number; what it decodes only its driver's tools tell.
        model = " ".join(filter(None, (_text(device / "vendor"), _text(device / "device")))) or None
        driver = (device / "driver").resolve().name if (device / "driver").exists() else ""
        version = _text(self._root / "sys/module" / driver / "version") if driver else ""
        enabled = _text(device / "enable")
        memory = _text(device / "mem_info_vram_total")
        return Gpu(
            f"gpu{index}",
            model=model,
            enabled=None if enabled == "" else enabled != "0",
            memory=int(memory) if memory.isdigit() else None,
            driver=Driver(version=version or None, branch=driver or None),
        )

    def _volumes(self) -> tuple[Volume, ...]:
        mounts = {part.mountpoint: part for part in psutil.disk_partitions(all=True)}
        shown = [part for part in mounts.values() if self._counts(part)]
        return tuple(self._volume(index, part) for index, part in enumerate(sorted(shown, key=lambda p: p.mountpoint)))

    def _counts(self, part: "psutil._ntuples.sdiskpart") -> bool:
        if part.mountpoint == "/":
            return True
        real = part.device.startswith("/dev/") and not part.device.startswith("/dev/loop")
        return (real or part.fstype in _NETWORK) and Path(part.mountpoint).is_dir()

    def _volume(self, index: int, part: "psutil._ntuples.sdiskpart") -> Volume:
        usage = psutil.disk_usage(part.mountpoint)
        block = self._block(part.device)
        writable = "ro" not in part.opts.split(",")
        kind = "network" if part.fstype in _NETWORK else _kind(block)
        rates = self._measured(part.mountpoint, usage.free) if writable and kind != "network" else None
        return Volume(
            f"v{index}",
            part.mountpoint,
            kind=kind,
            capacity=usage.total,
            free=usage.free // STEP * STEP,
            system=part.mountpoint == "/",
            removable=_flag(block, "removable"),
            attached=True,
            writable=writable,
            read_rate=rates.read if rates else None,
            write_rate=rates.write if rates else None,
        )

    def _measured(self, mount: str, free: int) -> Rates | None:
        """Measured once in the life of the process; None where that is switched off or cannot be done."""
        if self._measuring and mount not in self._rates:
            try:
                self._rates[mount] = measure(Path(mount), free)
            except HostError:
                self._rates[mount] = None
        return self._rates.get(mount)

    def _block(self, device: str) -> Path | None:
        """The whole disk under /sys/class/block that a partition is on."""
        path = (self._root / "sys/class/block" / Path(device).name).resolve()
        if not path.exists():
            return None
        return path if (path / "queue").exists() else path.parent

    def _displays(self) -> tuple[Display, ...]:
        connectors = sorted((self._root / "sys/class/drm").glob("card*-*"))
        if not connectors:
            raise HostError("the system shows no display connectors under /sys/class/drm")
        return tuple(_display(path) for path in connectors if _text(path / "status") == "connected")

    def _audio(self) -> Audio:
        cards = [line.split(":", 1)[1].strip() for line in self._text("proc/asound/cards").splitlines() if "]:" in line]
        return Audio(inputs=tuple(cards), outputs=tuple(cards))

    def _text(self, relative: str) -> str:
        try:
            return (self._root / relative).read_text("utf-8", "replace")
        except OSError as fault:
            raise HostError(f"/{relative} cannot be read: {fault.strerror}") from fault


def _display(path: Path) -> Display:
    width, _, height = _text(path / "modes").partition("\n")[0].partition("x")
    name = path.name.split("-", 1)[1]
    return Display(name, int(width) if width.isdigit() else None, int(height) if height.isdigit() else None)


def _kind(block: Path | None) -> str | None:
    if block is None:
        return None
    rotational = _flag(block, "queue/rotational")
    if rotational is None:
        return None
    return "hdd" if rotational else "nvme" if block.name.startswith("nvme") else "ssd"


def _flag(block: Path | None, name: str) -> bool | None:
    text = _text(block / name) if block else ""
    return text == "1" if text in ("0", "1") else None


def _text(path: Path) -> str:
    """The file's text without blanks at its ends; nothing where it cannot be read."""
    try:
        return path.read_text("utf-8", "replace").strip()
    except OSError:
        return ""
