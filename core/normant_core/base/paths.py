"""Which paths may be named at all: by a dialect, by an order. What a link leads to the agent looks at itself."""

import re

# Names that Windows takes for devices, whatever their case and whatever stands behind a dot.
_DEVICES = {"con", "prn", "aux", "nul", "conin$", "conout$"} | {
    f"{p}{n}" for p in ("com", "lpt") for n in "123456789¹²³"
}

_CONTROL = re.compile(r"[\x00-\x1f\x7f]")


def unfit(path: str) -> str:
    """Why a path may not be named under a root; empty where it may. The same on every system."""
    if path[:1] in ("", "/", "\\"):
        return "it does not begin under the root"
    if "\\" in path or ":" in path:
        return "it names a drive, a stream or a share"
    if _CONTROL.search(path):
        return "it holds a control character"
    parts = path.split("/")
    if {"", ".", ".."}.intersection(parts):
        return "it leads away from the root"
    return next(filter(None, map(_unfit_part, parts)), "")


def _unfit_part(part: str) -> str:
    if part.split(".", maxsplit=1)[0].strip().lower() in _DEVICES:
        return f"{part} is a device"
    return "a part ends in a dot or a space, which some systems leave out" if part != part.rstrip(". ") else ""
