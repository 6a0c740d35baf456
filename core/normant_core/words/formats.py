"""Verdicts as lines of JSON, as sentences and as JUnit's XML."""

import json
from collections.abc import Iterable, Sequence
from typing import Any
from xml.etree import ElementTree

import msgspec

from ..judging.judge import Verdict
from ..judging.levels import in_words, times


def as_line(verdict: Verdict) -> str:
    """The published line of `normant check --format json`, behind its seat: many seats share it."""
    return json.dumps(_object(verdict), ensure_ascii=False)[1:]


def as_object(seat: str, verdict: Verdict) -> dict[str, Any]:
    """The same as an object."""
    return {"seat": seat, **_object(verdict)}


def _object(verdict: Verdict) -> dict[str, Any]:
    return {
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
    there = verdict.norm.there or f"is {verdict.reading_shown}"
    lines = [f"  {status}: {name} {there}", f"      house standard: {verdict.norm.sentence} ({origin(verdict)})"]
    if verdict.status == "off-norm":
        far = (
            f"{times(verdict)} (distance {round(verdict.distance, 2) + 0.0:+.2f}); "
            if verdict.distance is not None
            else ""
        )
        lines.append(f"      {far}fix: {verdict.fix_shown}")
    if verdict.because:
        lines.append(f"      {verdict.because}")
    return lines


def _add_case(suite: ElementTree.Element, seat: str, verdict: Verdict) -> None:
    name = f"{verdict.setting}, {verdict.app}" if verdict.app else verdict.setting
    case = ElementTree.SubElement(suite, "testcase", classname=seat, name=name)
    if verdict.status == "off-norm":
        failure = ElementTree.SubElement(case, "failure", type=verdict.severity, message=in_words(verdict))
        failure.text = f"{origin(verdict)}; fix: {verdict.fix_shown}"
    elif verdict.status == "unread":
        ElementTree.SubElement(case, "skipped", message=verdict.reason)


def as_junit(seats: Iterable[tuple[str, Sequence[Verdict]]]) -> str:
    """JUnit's XML: a suite for each seat, a case for each reading; off norm is a failure, unread is skipped."""
    suites = ElementTree.Element("testsuites", name="normant check")
    for seat, verdicts in seats:
        off = sum(verdict.status == "off-norm" for verdict in verdicts)
        unread = sum(verdict.status == "unread" for verdict in verdicts)
        counts = {"tests": str(len(verdicts)), "failures": str(off), "skipped": str(unread)}
        suite = ElementTree.SubElement(suites, "testsuite", {"name": seat, **counts})
        for verdict in verdicts:
            _add_case(suite, seat, verdict)
    ElementTree.indent(suites)
    return ElementTree.tostring(suites, encoding="unicode", xml_declaration=True)
