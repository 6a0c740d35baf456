"""What a plan of clearing comes to, in a sentence."""

from collections.abc import Mapping
from typing import Any

from normant_core.base.quantities import Dimension, show
from normant_core.base.wording import counted_in_figures

from .models import Clearing


def sentence_of(plan: Mapping[str, Any]) -> str:
    """Of a plan as the API tells it."""
    match plan["state"]:
        case Clearing.State.LOOKING:
            silent = sum(row["state"] == "looking" for row in plan["on"])
            who = "1 seat still looks through its" if silent == 1 else f"{silent:,} seats still look through their"
            return f"{who} stores; nothing is touched."
        case Clearing.State.PLANNED if not plan["going"]:
            return "Nothing may go: everything that is there is kept for a reason."
        case Clearing.State.PLANNED:
            return f"{_items(plan['going'], plan['promised'])} would go. {_held_words(plan)}"
        case Clearing.State.DROPPED:
            return "Nobody signed it, and nothing was touched."
    return " ".join(words for words in (_gone_words(plan), _held_now(plan), _kept_words(plan)) if words)


def _gone_words(plan: Mapping[str, Any]) -> str:
    """What went of what was promised."""
    promised = _items(plan["going"], plan["promised"])
    if plan["cleared_items"] == plan["going"]:
        return f"Everything that was signed went: {promised}."
    return f"{_items(plan['cleared_items'], plan['cleared'])} went, of {promised} that were signed."


def _items(count: int, size: int) -> str:
    return f"{counted_in_figures(count, 'item')}, {show(size, Dimension.BYTES, unit='GB')}"


def _held_words(plan: Mapping[str, Any]) -> str:
    """Whether it can be put back, and when its room is free."""
    at_once, going = plan["at_once"], plan["going"]
    if not at_once:
        return "They are held for a day and can be put back; then the room is free."
    if at_once == going:
        return "They go at once and do not come back: their volumes have no room to hold them for a day."
    return (
        f"{at_once:,} of them at once, where a volume has no room to hold them; the others can be put back for a day."
    )


def _held_now(plan: Mapping[str, Any]) -> str:
    """What of it is free, and what is held: its room is free only after a day."""
    held, freed = (show(plan[name], Dimension.BYTES, unit="GB") for name in ("held", "freed"))
    if not plan["held"]:
        return f"Freed: {freed}." if plan["freed"] else ""
    return f"Held, and can still be put back: {held}. Freed: {freed}."


def _kept_words(plan: Mapping[str, Any]) -> str:
    """What came back after its day, or cannot be found."""
    words = list[str]()
    if plan["put_back"]:
        words.append(f"Put back: {show(plan['put_back'], Dimension.BYTES, unit='GB')}.")
    if plan["returned"]:
        changed = counted_in_figures(plan["returned"], "file")
        words.append(f"{changed} changed while held and went back to where {_they(plan['returned'])} lay.")
    if plan["lost"]:
        words.append(f"{counted_in_figures(plan['lost'], 'file')} can be found neither held nor in place.")
    return " ".join(words)


def _they(count: int) -> str:
    return "it" if count == 1 else "they"
