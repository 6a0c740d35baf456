"""A macOS machine, read through the system's own query commands as JSON."""

import re
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from normant_core.dialects.dialect import Dialect
from normant_core.seat.facts import Audio, Cpu, Display, Facts, Gpu, Memory, System, Volume
from normant_core.seat.survey import Reading

from ..errors import HostError
from .commands import Ask, ask, objects, text, whole
from .host import Seen
from .machine import STEP, MachineHost, Tried

MODES = {"0": "balanced", "1": "power-saver", "2": "performance"}
_UNITS = {"kb": 2**10, "mb": 2**20, "gb": 2**30, "tb": 2**40}
_PROFILER = ("system_profiler", "-json")
_KINDS = ("SPHardwareDataType", "SPDisplaysDataType", "SPStorageDataType", "SPAudioDataType")


class MacHost(MachineHost):
    """This machine; `asked` runs the query commands."""

    name = "macos"

    def __init__(self, preference_root: Path, *, asked: Ask = ask) -> None:
        super().__init__(preference_root)
        self._ask = asked

    def see(self, dialects: Sequence[Dialect]) -> Seen:
        """Facts, the power mode, and what could not be read."""
        tried = Tried()
        profiled = tried("facts:profile", self._profile) or {}
        hardware = tried("facts:hardware", lambda: _list(profiled, "SPHardwareDataType")[0]) or {}
        cards = tried("facts:gpus", lambda: _list(profiled, "SPDisplaysDataType"))
        version = tried("facts:system.version", lambda: self._ask(("sw_vers", "-productVersion")).strip() or None)
        facts = Facts(
            system=System("macos", version, tuple(MODES.values())),
            cpu=_cpu(hardware),
            memory=Memory(tried("facts:memory", lambda: _size(hardware.get("physical_memory")))),
            gpus=None if cards is None else tuple(_gpu(index, card) for index, card in enumerate(cards)),
            volumes=tried("facts:volumes", lambda: _volumes(_list(profiled, "SPStorageDataType"))),
            displays=None if cards is None else tuple(_displays(cards)),
            audio=tried("facts:audio", lambda: _audio(_list(profiled, "SPAudioDataType"))) or Audio(),
            applications=tuple(self.applications(dialects)),
        )
        profile = tried("reading:power.profile", self.power_profile)
        readings = (Reading("power.profile", profile),) if profile else ()
        return Seen(facts, readings, (), tuple(tried.errors))

    def power_profile(self) -> str:
        """By the power mode; on older systems, by whether the low power mode is on."""
        printed = self._ask(("pmset", "-g"))
        if match := re.search(r"^\s*powermode\s+([012])\b", printed, re.MULTILINE):
            return MODES[match[1]]
        if match := re.search(r"^\s*lowpowermode\s+([01])\b", printed, re.MULTILINE):
            return MODES[match[1]]
        raise HostError("pmset tells neither powermode nor lowpowermode")

    def set_power_profile(self, profile: str) -> None:
        """Choose the power mode of that name."""
        mode = next((mode for mode, name in MODES.items() if name == profile), None)
        if mode is None:
            raise HostError(f"this machine offers no power profile {profile!r}")
        self._ask(("pmset", "-a", "powermode", mode))

    def _profile(self) -> dict[str, Any]:
        profile = objects(self._ask((*_PROFILER, *_KINDS)), "system_profiler")
        if not profile:
            raise HostError("system_profiler printed nothing")
        return profile[0]


def _list(profile: dict[str, Any], kind: str) -> list[dict[str, Any]]:
    value = profile.get(kind)
    if not isinstance(value, list):
        raise HostError(f"system_profiler tells no {kind}")
    return [entry for entry in value if isinstance(entry, dict)]


def _cpu(hardware: dict[str, Any]) -> Cpu:
    """The number is `proc 12:8:4` on the maker's own chips, and plain on others."""
    cores = re.search(r"\d+", str(hardware.get("number_processors") or ""))
    return Cpu(text(hardware.get("chip_type") or hardware.get("cpu_type")), int(cores[0]) if cores else None)


def _size(value: object) -> int:
    """`64 GB`, which is memory and so means GiB. Raises HostError."""
    match = re.fullmatch(r"\s*(\d+(?:[.,]\d+)?)\s*([kmgt]b)\s*", str(value or "").lower())
    if match is None:
        raise HostError(f"{value!r} is no size: expected one such as 64 GB")
    return int(float(match[1].replace(",", ".")) * _UNITS[match[2]])


def _gpu(index: int, card: dict[str, Any]) -> Gpu:
    amount = card.get("spdisplays_vram") or card.get("spdisplays_vram_shared")
    try:
        memory = _size(amount) if amount else None
    except HostError:
        memory = None
    bus = str(card.get("sppci_bus", ""))
    kind = "integrated" if "builtin" in bus else "discrete" if bus else None
    return Gpu(
        f"gpu{index}", model=text(card.get("sppci_model") or card.get("_name")), kind=kind, enabled=True, memory=memory
    )


def _displays(cards: list[dict[str, Any]]) -> list[Display]:
    displays = list[Display]()
    for card in cards:
        for display in card.get("spdisplays_ndrvs") or []:
            resolution = str(display.get("_spdisplays_resolution") or display.get("_spdisplays_pixels") or "")
            if match := re.search(r"(\d+)\s*x\s*(\d+)(?:\s*@\s*(\d+)[.,]?(\d*)\s*Hz)?", resolution):
                rate = f"{match[3]}/1" if match[3] and not (match[4] or "0").strip("0") else None
                displays.append(Display(f"d{len(displays)}", int(match[1]), int(match[2]), rate))
    return displays


def _volumes(entries: list[dict[str, Any]]) -> tuple[Volume, ...]:
    mounted = [entry for entry in entries if entry.get("mount_point")]
    return tuple(_volume(index, entry) for index, entry in enumerate(mounted))


def _volume(index: int, entry: dict[str, Any]) -> Volume:
    drive = entry.get("physical_drive") if isinstance(entry.get("physical_drive"), dict) else {}
    assert isinstance(drive, dict)
    medium, protocol = (str(drive.get(name, "")).lower() for name in ("medium_type", "protocol"))
    free = whole(entry.get("free_space_in_bytes"))
    kind = {"ssd": "ssd", "rotational": "hdd"}.get(medium)
    return Volume(
        f"v{index}",
        str(entry["mount_point"]),
        kind="nvme" if kind == "ssd" and ("pci" in protocol or "fabric" in protocol) else kind,
        capacity=whole(entry.get("size_in_bytes")),
        free=None if free is None else free // STEP * STEP,
        system=entry["mount_point"] == "/",
        removable=_yes(drive.get("is_internal_disk"), turned=True),
        attached=True,
        writable=_yes(entry.get("writable")),
    )


def _audio(entries: list[dict[str, Any]]) -> Audio:
    devices = [device for entry in entries for device in entry.get("_items") or [] if isinstance(device, dict)]
    inputs = (text(d.get("_name")) for d in devices if d.get("coreaudio_device_input"))
    outputs = (text(d.get("_name")) for d in devices if d.get("coreaudio_device_output"))
    return Audio(inputs=tuple(filter(None, inputs)), outputs=tuple(filter(None, outputs)))


def _yes(value: object, *, turned: bool = False) -> bool | None:
    word = str(value or "").lower()
    return (word == "yes") is not turned if word in ("yes", "no") else None
