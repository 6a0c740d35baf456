"""A rollout's report as a PDF."""

from normant.common.documents.paper import QUIET, VALUE, Paper
from normant_core.base.wording import app_title
from normant_core.rollout.report import Report, ReportedSeat

from .report_pages import errand_line, head_lines, of_seat, read_back


def as_pdf(report: Report, digest: str) -> bytes:
    """Pages of A4."""
    pages = _Pages(f"SHA-256 {digest}")
    pages.heading(report.title)
    pages.sentence(report.sentence)
    for name, text in head_lines(report):
        pages.sentence(f"{name}: {text}", quiet=True)
    for seat in report.seats:
        pages.seat(seat)
    if report.errands:
        pages.heading("Errands")
    for errand in report.errands:
        pages.sentence(f"{errand['seat']}: {errand_line(errand)}")
    return bytes(pages.output())


class _Pages(Paper):
    def seat(self, seat: ReportedSeat) -> None:
        """What became of one seat."""
        if self.will_page_break(26):
            self.add_page()
        self.ln(3)
        self.line_across()
        self.face("B", 11)
        self.write_down(f"{seat.seat}   {seat.state}", 6)
        for line in of_seat(seat):
            self.sentence(line, quiet=True)
        for change in seat.changes:
            self.face("", 9.5)
            app = f", {app_title(change.app)}" if change.app else ""
            self.write_down(f"{change.title}{app}: {read_back(change)}", 5)
            self.set_font(VALUE, size=8)
            self.set_text_color(*QUIET)
            native = f"{change.before or '(empty)'} > {change.after or '(empty)'}"
            self.write_down(f"{change.file} {change.at}".strip() + f"   {native}", 4.2)
        for left in seat.left:
            self.sentence(f"{left['setting']} was left: {left['why']}", quiet=True)
