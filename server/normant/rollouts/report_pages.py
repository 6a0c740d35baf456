"""A report for people: as a page that stands by itself, and as a table; `report_pdf` has the pages to print."""

import datetime as dt
from collections.abc import Iterator, Mapping
from typing import Any

import msgspec
from django.template.loader import render_to_string
from django.utils import timezone

from normant.common.documents.tables import written
from normant_core.base.wording import app_title
from normant_core.rollout.report import Report, ReportedChange, ReportedSeat, rows


def as_page(report: Report, digest: str) -> bytes:
    """HTML that needs nothing else."""
    return render_to_string(
        "rollouts/report.html", {"report": report, "digest": digest, "head": head_lines(report)}
    ).encode()


def as_table(report: Report) -> bytes:
    """CSV, a row for each change of each seat."""
    return written(list(rows(report)), "csv")


def read_back(change: ReportedChange) -> str:
    """What the seat holds since, in words."""
    if change.outcome in ("done", "restored_value"):
        return f"{change.shown_before or '(empty)'}, now {change.shown_after or '(empty)'}, read back"
    if change.message:
        return change.message
    return f"{change.outcome.replace('_', ' ') or 'not carried out'}; it was to be {change.shown_after or '(empty)'}"


def of_seat(seat: ReportedSeat) -> Iterator[str]:
    """When it was at work, what was closed, what was said."""
    if seat.begun:
        yield f"from {_moment(seat.begun)} to {_moment(seat.ended)}"
    if seat.closed:
        yield f"closed once: {', '.join(map(app_title, seat.closed))}"
    if seat.message:
        yield seat.message
    if seat.measured and "before" in seat.measured:
        before, after = (", ".join(f"{run:.4g}" for run in seat.measured[when]) for when in ("before", "after"))
        yield f"runs as it was: {before}; changed: {after}"


def errand_line(errand: Mapping[str, Any]) -> str:
    """`Switch on the integrated GPU: done, signed by loft: done, and played`."""
    signed = errand["signed"]
    line = f"{errand['does']}: {errand['state']}"
    if not signed:
        return line
    return f"{line}, signed by {signed['by']}" + (f" ({signed['words']})" if signed["words"] else "")


def head_lines(report: Report) -> list[tuple[str, str]]:
    """Who started the rollout, when it ended and why, as (name, text)."""
    lines = [("Started by", f"{report.by}, {_moment(report.begun)}")]
    if report.approved_by:
        lines.append(("Approved by", report.approved_by))
    lines.append(("Ended", f"{_moment(report.ended)}, {report.state}"))
    if report.of:
        lines.append(("Puts back", f"rollout {report.of}"))
    if report.reason:
        lines.append(("Halted because", report.reason))
    for back in report.put_back_by:
        lines.append(("Put back", f"{', '.join(back['seats'])} by rollout {back['rollout']}, {back['state']}"))
    return lines


def _moment(text: str | None) -> str:
    if not text:
        return "not yet"
    return f"{timezone.localtime(dt.datetime.fromisoformat(text)):%d %b %Y %H:%M:%S}"


def report_of(body: bytes) -> Report:
    """The report that these bytes are."""
    return msgspec.json.decode(body, type=Report)


def as_kind(body: bytes, digest: str, kind: str) -> bytes:
    """In one of its forms: json is the very bytes whose digest the ledger holds."""
    report = report_of(body)
    match kind:
        case "html":
            return as_page(report, digest)
        case "pdf":
            from .report_pdf import as_pdf  # noqa: PLC0415 (imports fpdf, which only this form needs)

            return as_pdf(report, digest)
        case "csv":
            return as_table(report)
    return body
