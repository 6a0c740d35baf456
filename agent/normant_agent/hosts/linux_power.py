"""The power profile of a Linux machine: the firmware's platform profile, else the processor's frequency governor."""

from pathlib import Path

from ..errors import HostError

_PLATFORM = "sys/firmware/acpi"
_CPUS = "sys/devices/system/cpu"
# Our word for what the kernel's documents call it (admin-guide/pm/cpufreq, ABI sysfs-platform_profile).
_OURS = {
    "performance": "performance",
    "balanced-performance": "performance",
    "balanced": "balanced",
    "schedutil": "balanced",
    "ondemand": "balanced",
    "conservative": "balanced",
    "low-power": "power-saver",
    "quiet": "power-saver",
    "cool": "power-saver",
    "powersave": "power-saver",
}


class PowerProfiles:
    """Reads and chooses the profile under `root`."""

    def __init__(self, root: Path) -> None:
        self._root = root

    def current(self) -> str:
        """Raises HostError where the machine has neither."""
        files, _ = self._source()
        words = {path.read_text("utf-8").strip() for path in files}
        if len(words) > 1:
            raise HostError("the processors do not agree: " + ", ".join(sorted(words)))
        return self._ours(words.pop())

    def offered(self) -> tuple[str, ...]:
        """The profiles that can be chosen, in our words."""
        _, choices = self._source()
        return tuple(dict.fromkeys(_OURS[word] for word in choices if word in _OURS))

    def choose(self, profile: str) -> None:
        """Raises HostError where the machine does not offer it or lets nobody write."""
        files, choices = self._source()
        word = next((word for word in choices if _OURS.get(word) == profile), None)
        if word is None:
            raise HostError(f"this machine offers no power profile {profile!r}")
        for path in files:
            try:
                path.write_text(word, "utf-8")
            except OSError as fault:
                raise HostError(f"/{path.relative_to(self._root)} cannot be written: {fault.strerror}") from fault

    def _source(self) -> tuple[list[Path], list[str]]:
        platform = self._root / _PLATFORM / "platform_profile"
        if platform.exists():
            return [platform], (self._root / _PLATFORM / "platform_profile_choices").read_text("utf-8").split()
        governors = sorted((self._root / _CPUS).glob("cpu[0-9]*/cpufreq/scaling_governor"))
        if governors:
            return governors, governors[0].with_name("scaling_available_governors").read_text("utf-8").split()
        raise HostError(f"neither /{_PLATFORM}/platform_profile nor a frequency governor under /{_CPUS} exists")

    def _ours(self, word: str) -> str:
        if word not in _OURS:
            raise HostError(f"the machine's power profile {word!r} has no word of ours")
        return _OURS[word]
