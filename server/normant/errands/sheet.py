"""Errands on paper: a way through the house, each with its steps and a code that opens it on a phone."""

from collections.abc import Callable, Iterable
from itertools import groupby
from typing import Any

import segno

from normant.common.documents.paper import QUIET, Paper

CODE, GAP = 26.0, 5.0  # mm
BOX = 3.2  # mm; a box to tick


def as_sheet(stops: Iterable[dict[str, Any]], address: Callable[[int], str], when: str) -> bytes:
    """A PDF: rooms in walking order, in each its seats with their errands; `address` is where a number opens."""
    pages = _Sheet(f"Errands as of {when}")
    pages.heading("Errands")
    for room, here in groupby(stops, key=lambda stop: stop["room"]):
        pages.room(room or "No room")
        for stop in here:
            for errand in stop["errands"]:
                pages.errand(errand, address(errand["id"]))
    return bytes(pages.output())


class _Sheet(Paper):
    def room(self, name: str) -> None:
        """Where one walks to next."""
        if self.will_page_break(60):
            self.add_page()
        self.ln(4)
        self.face("B", 14)
        self.write_down(name, 8)

    def errand(self, errand: dict[str, Any], address: str) -> None:
        """What is to be done at a seat, with room to sign."""
        if self.will_page_break(_height(errand)):
            self.add_page()
        self.ln(2)
        self.line_across()
        top = self.get_y()
        self._code(address, self.w - self.r_margin - CODE, top + 1)
        width = self.epw - CODE - GAP
        self.face("B", 11)
        self.write_down(f"{errand['seat']}   {errand['does']}", 6, width)
        self.face("", 9, QUIET)
        self.write_down(f"errand {errand['id']}, about {errand['minutes']} minutes", 4.6, width)
        for paragraph in (errand["because"], errand["note"]):
            if paragraph:
                self.write_down(paragraph, 4.6, width)
        if errand["bring"]:
            self.write_down(f"Bring {', '.join(errand['bring'])}.", 4.6, width)
        self.ln(1.5)
        for step in errand["steps"]:
            self._step(step, width)
        self.face("", 9, QUIET)
        self.write_down(errand["proves"], 4.6, width)
        self.ln(3)
        self.write_down("Done by ______________________   at __________   what was found ______________________", 6)
        self.set_y(max(self.get_y(), top + CODE + 3))

    def _step(self, step: str, width: float) -> None:
        self.set_draw_color(*QUIET)
        self.rect(self.l_margin + self.c_margin, self.get_y() + 1.1, BOX, BOX)
        self.set_x(self.l_margin + BOX + 2.5)
        self.face("", 10)
        self.write_down(step, 5.4, width - BOX - 2.5)

    def _code(self, address: str, left: float, top: float) -> None:
        """The address as squares, with the quiet border that readers want."""
        rows = [bytes(row) for row in segno.make(address, micro=False, error="m").matrix_iter(border=2)]
        size = CODE / len(rows)
        self.set_fill_color(0, 0, 0)
        for down, row in enumerate(rows):
            for across, dark in enumerate(row):
                if dark:
                    self.rect(left + across * size, top + down * size, size, size, style="F")


def _height(errand: dict[str, Any]) -> float:
    """About how much of a page it takes, mm."""
    return 42.0 + 8 * len(errand["steps"])
