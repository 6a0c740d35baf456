"""A report for people: as a page that stands by itself, as pages to print, as a table."""

import datetime as dt
from collections.abc import Iterator
from pathlib import Path

import msgspec
from django.template.loader import render_to_string
from django.utils import timezone
from fpdf import FPDF
from fpdf.enums import XPos, YPos

from normant.common.tables import written
from normant_core.evidence import ChangeTold, Report, SeatTold, rows

FONTS = Path(__file__).parent / "fonts"
TEXT, VALUE = "text", "value"  # faces
INK, QUIET, RULE = (29, 42, 43), (95, 106, 106), (200, 196, 186)


def as_page(report: Report, digest: str) -> bytes:
    """HTML that needs nothing else."""
    return render_to_string(
        "rollouts/report.html", {"report": report, "digest": digest, "head": _head(report)}
    ).encode()


def as_table(report: Report) -> bytes:
    """CSV, a row for each change of each seat."""
    return written(list(rows(report)), "csv")


def as_pdf(report: Report, digest: str) -> bytes:
    """Pages of A4."""
    pages = _Pages(digest)
    pages.heading(report.title)
    pages.told(report.sentence)
    for name, told in _head(report):
        pages.told(f"{name}: {told}", quiet=True)
    for seat in report.seats:
        pages.seat(seat)
    return bytes(pages.output())


class _Pages(FPDF):
    def __init__(self, digest: str) -> None:
        super().__init__(format="A4")
        self.digest = digest
        for style, name in (("", "Regular"), ("B", "Bold")):
            self.add_font(TEXT, style, FONTS / f"AtkinsonHyperlegibleNext-{name}.ttf")
        self.add_font(VALUE, "", FONTS / "AtkinsonHyperlegibleMono-Regular.ttf")
        self.set_margins(18, 16, 18)
        self.set_auto_page_break(auto=True, margin=18)
        self.set_creation_date(dt.datetime(2000, 1, 1, tzinfo=dt.UTC))  # the same report is the same file
        self.add_page()

    def footer(self) -> None:
        """The digest on every page, and which page it is."""
        self.set_y(-13)
        self.set_font(VALUE, size=6.5)
        self.set_text_color(*QUIET)
        self.cell(0, 4, f"SHA-256 {self.digest}")
        self.set_x(18)
        self.cell(0, 4, f"{self.page_no()}", align="R")

    def heading(self, text: str) -> None:
        """The title."""
        self.set_font(TEXT, "B", 17)
        self.set_text_color(*INK)
        self._write(text, 8)

    def told(self, text: str, *, quiet: bool = False) -> None:
        """A sentence."""
        self.set_font(TEXT, size=9 if quiet else 10.5)
        self.set_text_color(*(QUIET if quiet else INK))
        self._write(text, 4.6 if quiet else 6)

    def seat(self, seat: SeatTold) -> None:
        """What became of one seat."""
        if self.will_page_break(26):
            self.add_page()
        self.ln(3)
        self.set_draw_color(*RULE)
        self.line_across()
        self.set_font(TEXT, "B", 11)
        self.set_text_color(*INK)
        self._write(f"{seat.seat}   {seat.state}", 6)
        for told in of_seat(seat):
            self.told(told, quiet=True)
        for change in seat.changes:
            self.set_font(TEXT, size=9.5)
            self.set_text_color(*INK)
            self._write(f"{change.title}{f', {change.app.capitalize()}' if change.app else ''}: {read_back(change)}", 5)
            self.set_font(VALUE, size=8)
            self.set_text_color(*QUIET)
            self._write(
                f"{change.file} {change.at}".strip() + f"   {change.before or '(empty)'} > {change.after or '(empty)'}",
                4.2,
            )
        for left in seat.left:
            self.told(f"{left['setting']} was left: {left['why']}", quiet=True)

    def line_across(self) -> None:
        """A rule over the width."""
        here = self.get_y()
        self.line(self.l_margin, here, self.w - self.r_margin, here)
        self.ln(1.5)

    def _write(self, text: str, height: float) -> None:
        # What the face cannot draw is a question mark here, and whole in the other forms.
        drawn = self.current_font.cmap  # type: ignore[union-attr]
        shown = "".join(letter if ord(letter) in drawn or letter == "\n" else "?" for letter in text)
        self.multi_cell(0, height, shown, align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)


def read_back(change: ChangeTold) -> str:
    """What the seat holds since, in words."""
    if change.outcome in ("done", "restored_value"):
        return f"{change.shown_before or '(empty)'}, now {change.shown_after or '(empty)'}, read back"
    if change.message:
        return change.message
    return f"{change.outcome.replace('_', ' ') or 'not carried out'}; it was to be {change.shown_after or '(empty)'}"


def of_seat(seat: SeatTold) -> Iterator[str]:
    """When it was at work, what was closed, what was said."""
    if seat.begun:
        yield f"from {_moment(seat.begun)} to {_moment(seat.ended)}"
    if seat.closed:
        yield f"closed once: {', '.join(app.capitalize() for app in seat.closed)}"
    if seat.message:
        yield seat.message


def _head(report: Report) -> list[tuple[str, str]]:
    told = [("Started by", f"{report.by}, {_moment(report.begun)}")]
    if report.approved_by:
        told.append(("Approved by", report.approved_by))
    told.append(("Ended", f"{_moment(report.ended)}, {report.state}"))
    if report.of:
        told.append(("Puts back", f"rollout {report.of}"))
    if report.reason:
        told.append(("Halted because", report.reason))
    for back in report.put_back_by:
        told.append(("Put back", f"{', '.join(back['seats'])} by rollout {back['rollout']}, {back['state']}"))
    return told


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
            return as_pdf(report, digest)
        case "csv":
            return as_table(report)
    return body
