"""A sheet of paper in the product's own look: headings, lines with amounts, boxes to tick, a signature.

A4 or Letter; the fonts ship with it. What a font does not have is written as the nearest that it has.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from importlib import resources
from typing import Literal

from fpdf import FPDF
from fpdf.enums import XPos, YPos

Size = Literal["a4", "letter"]
INK = (18, 52, 59)
SOFT = (74, 102, 108)
LINE = (185, 200, 198)
MARGIN_MM = 18.0
_LACKING = str.maketrans({"µ": "u", "✓": "x", "○": "o", "→": ">", "≤": "<", "≥": ">", "\u202f": "\u00a0"})
_PEN = re.compile(r"([ML])(-?\d+(?:\.\d+)?) (-?\d+(?:\.\d+)?)")
# The field that signatures are drawn in, in its own units.
SIGNED_WIDTH, SIGNED_HEIGHT = 600.0, 200.0
SAFETY = (
    "Unplug, prove dead, shut the taps before anything is opened. Local codes and the machine's service sheet come "
    "first; gas and live work are for licensed people."
)


class Sheet(FPDF):
    """Pages that are filled from top to bottom."""

    def __init__(self, *, size: Size, title: str) -> None:
        super().__init__(unit="mm", format="A4" if size == "a4" else "Letter")
        fonts = resources.files("eager_ear.paper").joinpath("fonts")
        for style, name in (("", "hyperlegible-regular.ttf"), ("B", "hyperlegible-bold.ttf")):
            with resources.as_file(fonts.joinpath(name)) as path:
                self.add_font("hyper", style, str(path))
        self.set_margins(MARGIN_MM, MARGIN_MM, MARGIN_MM)
        self.set_auto_page_break(True, margin=24.0)
        self.set_title(title)
        self.set_lang("en")
        self.set_text_color(*INK)
        self.set_draw_color(*INK)
        self.add_page()

    def footer(self) -> None:
        """What hurts, and which page it is, below every page."""
        self.set_y(-18.0)
        self.set_font("hyper", "", 7.5)
        self.set_text_color(*SOFT)
        self.multi_cell(0, 3.4, _written(SAFETY), align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
        self.cell(0, 4.0, f"{self.page_no()} of {{nb}}", align="R")
        self.set_text_color(*INK)

    def big(self, text: str) -> None:
        """The one big sentence."""
        self.set_font("hyper", "B", 18)
        self.multi_cell(0, 8.0, _written(text), align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
        self.ln(1.5)

    def heading(self, text: str) -> None:
        """A heading, kept together with what follows."""
        if self.will_page_break(22.0):
            self.add_page()
        self.ln(3.0)
        self.set_font("hyper", "B", 12)
        self.multi_cell(0, 6.0, _written(text), align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)

    def words(self, text: str, *, soft: bool = False, bold: bool = False, size: float = 10.0) -> None:
        """A paragraph."""
        self.set_font("hyper", "B" if bold else "", size)
        if soft:
            self.set_text_color(*SOFT)
        self.multi_cell(0, 0.48 * size, _written(text), align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
        self.set_text_color(*INK)

    def row(self, left: str, right: str, *, bold: bool = False, box: bool = False, below: str = "") -> None:
        """Words on the left, an amount on the right, small words and a thin line below; a box to tick where asked."""
        height = 6.0
        self.set_font("hyper", "B" if bold else "", 10)
        width = self.epw - 52.0 - (7.0 if box else 0.0)
        tall = self._height_of(left, width=width, line=height)
        if self.will_page_break(tall):
            self.add_page()
        top = self.get_y()
        if box:
            self.rect(self.l_margin, top + 1.2, 3.6, 3.6)
        self.set_x(self.l_margin + (7.0 if box else 0.0))
        self.multi_cell(width, height, _written(left), align="L", new_x=XPos.RIGHT, new_y=YPos.TOP)
        self.set_xy(self.l_margin + self.epw - 52.0, top)
        self.cell(52.0, height, _written(right), align="R")
        self.set_y(top + tall)
        if below:
            self.words(below, soft=True, size=8.5)
        self.set_draw_color(*LINE)
        self.line(self.l_margin, self.get_y(), self.l_margin + self.epw, self.get_y())
        self.set_draw_color(*INK)

    def _height_of(self, text: str, *, width: float, line: float) -> float:
        """How tall a text stands in the present font."""
        height = self.multi_cell(width, line, _written(text), align="L", dry_run=True, output="HEIGHT")
        return max(line, float(height)) if isinstance(height, float | int) else line

    def bars(self, shares: Sequence[tuple[str, float, str]]) -> None:
        """Shares from 0 to 1 as bars with their words: the evidence in one picture."""
        for name, share, said in shares:
            if self.will_page_break(7.0):
                self.add_page()
            top = self.get_y()
            self.set_font("hyper", "", 9)
            self.cell(48.0, 5.5, _written(name))
            left = self.l_margin + 50.0
            self.set_fill_color(*INK)
            self.rect(left, top + 1.0, 80.0, 3.6)
            self.rect(left, top + 1.0, max(0.4, 80.0 * min(1.0, share)), 3.6, style="F")
            self.set_xy(left + 84.0, top)
            self.cell(0, 5.5, _written(said))
            self.set_xy(self.l_margin, top + 6.4)

    def signed(self, path: str, name: str) -> None:
        """A signature as it was drawn, above its line."""
        scale = 70.0 / SIGNED_WIDTH
        if self.will_page_break(SIGNED_HEIGHT * scale + 8.0):
            self.add_page()
        top, last = self.get_y(), None
        for pen, x, y in _PEN.findall(path):
            point = (self.l_margin + float(x) * scale, top + float(y) * scale)
            if pen == "L" and last is not None:
                self.line(*last, *point)
            last = point
        self.set_y(top + SIGNED_HEIGHT * scale)
        self.line(self.l_margin, self.get_y(), self.l_margin + 70.0, self.get_y())
        self.words(name, soft=True, size=9.0)

    def bytes(self) -> bytes:
        """The finished file."""
        return bytes(self.output())


def _written(text: str) -> str:
    """The text in letters that the fonts have."""
    letters = text.translate(_LACKING)
    return "".join(c if c in "\n\u00a0" or (ord(c) < 0x2200 and c.isprintable()) else "?" for c in letters)
