"""Verdicts on a seat as lines: one JSON object each, or one sentence each."""

from collections.abc import Sequence
from typing import Any

import msgspec

from .drift import Verdict
from .levels import times


def as_object(seat: str, verdict: Verdict) -> dict[str, Any]:
    """The published line of `normant check --format json`."""
    return {
        "seat": seat,
        "setting": verdict.setting,
        "app": verdict.app,
        "status": verdict.status,
        "severity": verdict.severity,
        "reading": verdict.reading,
        "norm": msgspec.to_builtins(verdict.norm),
        "distance": None if verdict.distance is None else round(verdict.distance, 4),
        "fix": verdict.fix,
        "layer": verdict.layer,
        "chain": msgspec.to_builtins(verdict.chain),
        "because": verdict.because or verdict.reason,
    }


def as_text(seat: str, verdicts: Sequence[Verdict]) -> list[str]:
    """The lines of `normant check` for one seat."""
    off = sum(v.status == "off-norm" for v in verdicts)
    head = f"{seat}: {'in norm' if not off else f'{off} off norm'}"
    return [head, *(line for verdict in verdicts for line in _lines(verdict))]


def origin(verdict: Verdict) -> str:
    """`Cutting rooms, over Whole facility` and `Whole facility, locked`."""
    lost = [link.layer for link in verdict.chain if link.outcome == "lost"]
    over = f", over {', '.join(dict.fromkeys(lost))}" if lost else ""
    return f"{verdict.layer}{over}" + (", locked" if verdict.locked else "")


def _lines(verdict: Verdict) -> list[str]:
    name = f"{verdict.setting}, {verdict.app}" if verdict.app else verdict.setting
    status = {"off-norm": f"off norm, {verdict.severity}", "in-norm": "in norm"}.get(verdict.status, verdict.status)
    if verdict.status == "unread":
        return [f"  {status}: {name}", f"      {verdict.reason}"]
    wants = verdict.norm.rule or verdict.norm.sentence
    lines = [f"  {status}: {name} is {verdict.reading_shown}", f"      house wants {wants} ({origin(verdict)})"]
    if verdict.status == "off-norm":
        far = f"{times(verdict)} (distance {verdict.distance:+.2f}); " if verdict.distance is not None else ""
        lines.append(f"      {far}fix: {verdict.fix_shown}")
    if verdict.because:
        lines.append(f"      {verdict.because}")
    return lines
