"""Pages to print, in the faces of the house."""

import datetime as dt
from pathlib import Path

from fpdf import FPDF
from fpdf.enums import XPos, YPos

FONTS = Path(__file__).parent / "fonts"
TEXT, VALUE = "text", "value"  # faces
INK, QUIET, RULE = (29, 42, 43), (95, 106, 106), (200, 196, 186)


class Paper(FPDF):
    """Pages of A4 with one line at the foot of each; what is told grows downwards."""

    def __init__(self, foot: str = "") -> None:
        super().__init__(format="A4")
        self.foot = foot
        for style, name in (("", "Regular"), ("B", "Bold")):
            self.add_font(TEXT, style, FONTS / f"AtkinsonHyperlegibleNext-{name}.ttf")
        self.add_font(VALUE, "", FONTS / "AtkinsonHyperlegibleMono-Regular.ttf")
        self.set_margins(18, 16, 18)
        self.set_auto_page_break(auto=True, margin=18)
        self.set_creation_date(dt.datetime(2000, 1, 1, tzinfo=dt.UTC))  # the same pages are the same file
        self.add_page()

    def footer(self) -> None:
        """The line at the foot, and which page it is."""
        self.set_y(-13)
        self.set_font(VALUE, size=6.5)
        self.set_text_color(*QUIET)
        self.cell(0, 4, self.foot)
        self.set_x(self.l_margin)
        self.cell(0, 4, f"{self.page_no()}", align="R")

    def heading(self, text: str) -> None:
        """The title."""
        self.face("B", 17)
        self.write_down(text, 8)

    def sentence(self, text: str, *, quiet: bool = False) -> None:
        """A sentence."""
        self.face("", 9 if quiet else 10.5, QUIET if quiet else INK)
        self.write_down(text, 4.6 if quiet else 6)

    def face(self, style: str, size: float, colour: tuple[int, int, int] = INK) -> None:
        """How what comes next is written; sizes in points."""
        self.set_font(TEXT, style, size)
        self.set_text_color(*colour)

    def line_across(self) -> None:
        """A rule over the width."""
        here = self.get_y()
        self.set_draw_color(*RULE)
        self.line(self.l_margin, here, self.w - self.r_margin, here)
        self.ln(1.5)

    def write_down(self, text: str, height: float, width: float = 0) -> None:
        """The text, as many lines of this height (mm) as it needs; no width is all there is."""
        # What the face cannot draw is a question mark here, and whole in the other forms.
        drawn = self.current_font.cmap  # type: ignore[union-attr]
        shown = "".join(letter if ord(letter) in drawn or letter == "\n" else "?" for letter in text)
        self.multi_cell(width, height, shown, align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
