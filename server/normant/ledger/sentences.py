"""Acts as sentences: `supervisor started rollout 3 on 3 seats`."""

import re
import tomllib
from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Any

from normant_core.base.wording import counted

_NAME = re.compile(r"\{(\w+)\}")


@cache
def acts() -> dict[str, str]:
    """What each act is called, by its name in the ledger."""
    read: dict[str, str] = tomllib.loads(Path(__file__).with_name("acts.toml").read_text("utf-8"))
    return read


def sentence_of(actor: str, action: str, subject: str, detail: Mapping[str, Any]) -> str:
    """Who did what; an act that has no words of its own is told as it is written."""
    words = acts().get(action) or f"{action.replace('_', ' ')}: {{subject}}"
    fields = {"subject": subject, "on": _on(detail)}
    return f"{actor} {_NAME.sub(lambda match: str(fields.get(match[1], detail.get(match[1], ''))), words)}".strip()


def _on(detail: Mapping[str, Any]) -> str:
    """On which seats; of many, how many."""
    seats = detail.get("seats") or [detail[name] for name in ("seat",) if detail.get(name)]
    if isinstance(seats, int):
        return f"on {counted(seats, 'seat')}"
    return f"on {seats[0] if len(seats) == 1 else counted(len(seats), 'seat')}" if seats else ""
