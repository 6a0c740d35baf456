"""The host of the system that this runs on."""

import sys
from pathlib import Path

from .host import Host
from .linux import LinuxHost
from .macos import MacHost
from .windows import WindowsHost


def this_machine(preferences: Path, *, measuring: bool = False) -> Host:
    """Whose applications keep their preferences under a folder; `measuring`: how fast its volumes are, for seconds."""
    match sys.platform:
        case "win32":
            return WindowsHost(preferences)
        case "darwin":
            return MacHost(preferences)
    return LinuxHost(preferences, measuring=measuring)
