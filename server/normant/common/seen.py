"""What somebody saw when they decided: every write that rests on something read names it, by its digest."""

import hashlib
from typing import Annotated, Any

import orjson
from pydantic import Field

from .problems import Problem

Seen = Annotated[str, Field(max_length=64, description="`seen` of what was read: 409 where it is another by now")]


def seen_of(*parts: Any) -> str:
    """The digest of something that is read and written upon."""
    return hashlib.sha256(orjson.dumps(parts, option=orjson.OPT_SORT_KEYS, default=str)).hexdigest()[:32]


def need_seen(given: str, now: str, what: str) -> None:
    """Raises Problem where something is another than it was when it was read."""
    if given != now:
        message = f"somebody else changed {what} since you opened it: reload it; your change was not saved"
        raise Problem(409, "Changed meanwhile", message, seen=now)
