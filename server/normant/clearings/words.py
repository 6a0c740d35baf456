"""The sentence of a clean-up plan."""

from collections.abc import Mapping
from typing import Any

from normant_core.base.quantities import Dimension, show
from normant_core.base.wording import counted

from .models import Clearing


def sentence_of(plan: Mapping[str, Any]) -> str:
    """Return the sentence for a plan, given as the API returns it."""
    match plan["state"]:
        case Clearing.State.LOOKING:
            silent = sum(row["state"] == "looking" for row in plan["on"])
            return f"{counted(silent, 'seat')} still scanning. No files are deleted."
        case Clearing.State.PLANNED if not plan["going"]:
            return "Nothing to delete: every file is kept for a reason."
        case Clearing.State.PLANNED:
            return f"{_files(plan['going'], plan['promised'])} {_fate(plan)}"
        case Clearing.State.DROPPED:
            return "Not signed. No files were deleted."
    return " ".join(words for words in (_gone_words(plan), _held_now(plan), _kept_words(plan)) if words)


def _gone_words(plan: Mapping[str, Any]) -> str:
    """Return how many of the signed files are done."""
    promised = _files(plan["going"], plan["promised"])
    if plan["cleared_items"] == plan["going"]:
        return f"Finished: {promised}."
    return f"{_files(plan['cleared_items'], plan['cleared'])} of {promised} done."


def _files(count: int, size: int) -> str:
    return f"{counted(count, 'file')} ({show(size, Dimension.BYTES, unit='GB')})"


def _fate(plan: Mapping[str, Any]) -> str:
    """Whether the files can be put back, and when their space is free."""
    at_once, going = plan["at_once"], plan["going"]
    if not at_once:
        return "will be held for 24 hours and can be put back; then they are deleted."
    if at_once == going:
        return "will be deleted at once and cannot be put back: their volumes have no space to hold them."
    rest = "the others are held for 24 hours and can be put back"
    return f"to delete: {at_once:,} at once, where a volume has no space to hold them; {rest}."


def _held_now(plan: Mapping[str, Any]) -> str:
    """Return the bytes that are held and that are free: the space of held files is free after a day."""
    held, freed = (show(plan[name], Dimension.BYTES, unit="GB") for name in ("held", "freed"))
    if not plan["held"]:
        return f"Freed: {freed}." if plan["freed"] else ""
    return f"Held (can be put back): {held}. Freed: {freed}."


def _kept_words(plan: Mapping[str, Any]) -> str:
    """Return what was put back, and what is missing."""
    words = list[str]()
    if plan["put_back"]:
        words.append(f"Put back: {show(plan['put_back'], Dimension.BYTES, unit='GB')}.")
    if plan["returned"]:
        changed = counted(plan["returned"], "file")
        words.append(f"{changed} changed while held and put back.")
    if plan["lost"]:
        words.append(f"{counted(plan['lost'], 'file')} missing: found neither in the holding folder nor in the store.")
    return " ".join(words)
