"""Where the stores of applications lie: the one folder that an order may move a store to, and what may be cleared."""

import re

from ..base.errors import NormantError
from .facts import Facts, Volume

PURPOSES = ("source_cache", "frame_cache", "proxies", "renders", "backups", "scratch")
MADE_AGAIN = ("source_cache", "frame_cache")  # by the application, out of what it was made of
SPARE = 0.1  # of a volume's capacity that stays free


def folder_of(app: str, setting: str, volume: Volume) -> str:
    """`/fast/corrow/source_cache`: the folder of an application's store on a volume."""
    return "/".join((volume.mount.rstrip("/"), app or "store", purpose_of(setting)))


def purpose_of(setting: str) -> str:
    """`source_cache` of `store.source_cache.path`."""
    return setting.split(".")[1]


def is_store(setting: str) -> bool:
    """Whether the setting names the folder of a store that may be moved."""
    parts = setting.split(".")
    return len(parts) == 3 and parts[0] == "store" and parts[1] in PURPOSES and parts[2] == "path"


def is_clearable(setting: str) -> bool:
    """Whether the application makes again by itself whatever goes from that store."""
    return is_store(setting) and purpose_of(setting) in MADE_AGAIN


def is_own(app: str, folder: str) -> bool:
    """Whether a folder is one of the application's own: it, or the folder that it lies in, bears its name.

    A preference may name any folder, also one that holds much more than a store; further above a name says nothing of
    what is in it.
    """
    parts = [part for part in re.split(r"[\\/]", folder.lower()) if part]
    return app.lower() in parts[-2:] and ".." not in parts


def fit_target(facts: Facts, volume: str) -> Volume:
    """The volume that a store may be moved to. Raises NormantError with the reason where it may not."""
    target = next((candidate for candidate in facts.volumes or () if candidate.id == volume), None)
    if target is None:
        raise NormantError(f"this seat has no volume {volume}")
    if target.attached is False:
        raise NormantError(f"volume {volume} is not attached")
    if target.writable is False:
        raise NormantError(f"volume {volume} cannot be written to")
    return target


def has_room(volume: Volume, size: int) -> str:
    """Why this many bytes do not go there; empty where they do. What nobody read is no reason against it."""
    if volume.free is None:
        return ""
    spare = int(SPARE * (volume.capacity or 0))
    if size <= volume.free - spare:
        return ""
    return f"{size:,} bytes do not go on {volume.id}: {volume.free:,} are free, of which {spare:,} have to stay so"
