"""The system's own query commands, and what is common in reading them."""

import json
import subprocess
from collections.abc import Callable, Sequence
from typing import Any

from ..errors import HostError

Ask = Callable[[Sequence[str]], str]
"""Runs a query command of the system and gives what it printed. Raises HostError."""
_SECONDS = 30


def ask(command: Sequence[str]) -> str:
    """Run it, bounded in time; only the fixed commands of the readers come here."""
    try:
        done = subprocess.run(command, capture_output=True, timeout=_SECONDS, check=False)
    except (OSError, subprocess.TimeoutExpired) as fault:
        raise HostError(f"{command[0]} cannot be asked: {fault}") from fault
    if done.returncode:
        complaint = done.stderr.decode("utf-8", "replace").strip()[:300]
        raise HostError(f"{command[0]} ended with {done.returncode}: {complaint}")
    return done.stdout.decode("utf-8", "replace")


def objects(printed: str, what: str) -> list[dict[str, Any]]:
    """The JSON objects that a command printed: one, a list, or none; warnings before them are passed over.

    Raises HostError where there is no JSON, or half of it.
    """
    text = printed.lstrip("\ufeff \r\n\t")
    start = min((place for sign in "[{" if (place := text.find(sign)) >= 0), default=-1)
    if start < 0:
        if text.strip():
            raise HostError(f"{what}: expected JSON, got {text[:60]!r}")
        return []
    try:
        parsed, _ = json.JSONDecoder().raw_decode(text[start:])
    except ValueError as fault:
        raise HostError(f"{what}: the answer breaks off or is no JSON: {fault}") from fault
    rows = parsed if isinstance(parsed, list) else [parsed]
    return [row for row in rows if isinstance(row, dict)]


def whole(value: object) -> int | None:
    """A whole number, also one that was printed as text; None for what is none."""
    if isinstance(value, bool):
        return None
    if isinstance(value, int):
        return value
    text = str(value or "").strip()
    return int(text) if text.isdigit() else None


def text(value: object) -> str | None:
    """Text without blanks at its ends; None for nothing."""
    string = str(value).strip() if value is not None else ""
    return string[:500] or None
