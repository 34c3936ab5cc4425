"""The report for the customer as a PDF of A4 pages, with fonts of its own: it looks alike wherever it is opened."""

import base64
import logging
from io import BytesIO
from pathlib import Path

from fpdf import FPDF, FontFace
from fpdf.enums import TableBordersLayout, XPos, YPos
from PIL import Image, UnidentifiedImageError

from imbrix.formats.report import (
    ABOVE,
    BELOW,
    HIGH,
    LABELLED_HZ,
    LEFT,
    RIGHT,
    WIDE,
    Axes,
    Report,
    hertz_name,
    pieces,
)

FONTS = Path(__file__).parent / "fonts"
SUBSETS = ("latin", "latin-ext", "greek", "cyrillic")
"""What cannot be written with these is left out of the PDF; the page of HTML has it."""
MARGIN = 16.0
INK, QUIET, LINE = (35, 39, 46), (91, 100, 114), (227, 230, 234)
LOGO_WIDE, LOGO_HIGH = 50.0, 19.0


class _Pages(FPDF):
    """Pages with the report's font, and its foot on each."""

    def __init__(self, foot: str) -> None:
        super().__init__(format="A4")
        self.foot = foot
        for subset in SUBSETS:
            for weight, style in ((400, ""), (600, "B")):
                self.add_font(subset, style, FONTS / f"{subset}-{weight}.ttf")
        self.set_fallback_fonts(list(SUBSETS[1:]), exact_match=False)
        self.set_margins(MARGIN, MARGIN)
        self.set_auto_page_break(True, 18)

    def footer(self) -> None:
        """What made it, and which page it is."""
        self.set_y(-14)
        self.write_in(8, quiet=True)
        self.cell(self.epw / 2, 5, self.foot)
        self.cell(self.epw / 2, 5, f"{self.page_no()} / {{nb}}", align="R")

    def write_in(self, size: float, bold: bool = False, quiet: bool = False) -> None:
        """Take a size of the font."""
        self.set_font(SUBSETS[0], "B" if bold else "", size)
        self.set_text_color(*(QUIET if quiet else INK))

    def said(self, text: str, size: float = 10.5, bold: bool = False, quiet: bool = False) -> None:
        """A paragraph."""
        self.write_in(size, bold, quiet)
        self.multi_cell(0, size * 0.52, text, new_x=XPos.LMARGIN, new_y=YPos.NEXT, align="L")
        self.ln(1.6)

    def heading(self, text: str, room: float = 30.0) -> None:
        """A heading, on the next page where not `room` millimetres are left under it."""
        if self.will_page_break(room):
            self.add_page()
        self.ln(3)
        self.said(text, 13, bold=True)

    def listed(self, lines: tuple[str, ...]) -> None:
        """Lines with a dot before each."""
        for one in lines:
            self.write_in(10.5)
            self.cell(5, 5.5, "·")
            self.multi_cell(0, 5.5, one, new_x=XPos.LMARGIN, new_y=YPos.NEXT, align="L")


def pdf(what: Report) -> bytes:
    """The document."""
    logging.getLogger("fontTools").setLevel(logging.WARNING)
    pages = _Pages(what.foot)
    pages.set_title(what.title)
    pages.set_creator("Imbrix")
    pages.set_creation_date(what.made.astimezone())
    pages.set_lang("en")
    pages.add_page()
    _head(pages, what)
    for one in what.summary:
        pages.said(one)
    pages.heading("What you hear, before and after", 100)
    _plot(pages, what)
    pages.said(what.caption, 9, quiet=True)
    pages.heading("What was done")
    pages.listed(what.done)
    pages.heading("How it is set", 40)
    _table(pages, what.settings)
    for heading, lines in what.sections:
        pages.heading(heading)
        pages.listed(lines)
    return bytes(pages.output())


def _head(pages: _Pages, what: Report) -> None:
    begun = pages.get_y()
    drawn = _logo(pages, what)
    pages.set_xy(MARGIN, begun)
    pages.set_right_margin(MARGIN + (LOGO_WIDE + 8 if drawn or what.shop else 0))
    pages.said(what.title, 19, bold=True)
    pages.said(what.who, 10.5, quiet=True)
    pages.set_right_margin(MARGIN)
    if not drawn and what.shop:
        beneath = pages.get_y()
        pages.set_xy(pages.w - MARGIN - LOGO_WIDE, begun)
        pages.write_in(12, bold=True)
        pages.multi_cell(LOGO_WIDE, 6, what.shop, align="R")
        pages.set_xy(MARGIN, max(beneath, pages.get_y()))
    pages.set_y(max(pages.get_y(), begun + LOGO_HIGH if drawn else 0) + 4)


def _logo(pages: _Pages, what: Report) -> bool:
    """Draw the picture into the upper right corner; whether there is one that can be read."""
    if not what.logo:
        return False
    raw = base64.b64decode(what.logo.partition(",")[2])
    try:
        with Image.open(BytesIO(raw)) as picture:
            wide, high = picture.size
            picture.load()
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError):
        return False
    by = min(LOGO_WIDE / wide, LOGO_HIGH / high)
    pages.image(BytesIO(raw), x=pages.w - MARGIN - wide * by, y=pages.get_y(), w=wide * by, h=high * by)
    return True


def _plot(pages: _Pages, what: Report) -> None:
    """Levels over frequency, as wide as the page; NaN leaves a gap."""
    axes = Axes.of(what.frequencies, what.lines)
    by = pages.epw / WIDE
    left, above = MARGIN, pages.get_y()

    def at(x: float, y: float) -> tuple[float, float]:
        return left + x * by, above + y * by

    pages.set_draw_color(*LINE)
    pages.set_line_width(0.2)
    pages.write_in(7.5, quiet=True)
    for hertz in LABELLED_HZ:
        x = float(axes.x(hertz))
        pages.line(*at(x, ABOVE), *at(x, HIGH - BELOW))
        pages.set_xy(*at(x - 20, HIGH - BELOW + 3))
        pages.cell(40 * by, 4, hertz_name(hertz), align="C")
    for level in axes.levels:
        y = float(axes.y(float(level)))
        pages.line(*at(LEFT, y), *at(WIDE - RIGHT, y))
        pages.set_xy(*at(0, y - 7))
        pages.cell((LEFT - 5) * by, 14 * by, f"{level:.0f}", align="R")
    for n, one in enumerate(what.lines):
        pages.set_draw_color(one.colour)
        pages.set_line_width(one.wide * 0.25)
        dash, *gap = (float(each) * by for each in one.dashes.split()) if one.dashes else (0.0,)
        pages.set_dash_pattern(dash, gap[0] if gap else 0)
        for piece in pieces(what.frequencies, one):
            points = [
                at(float(x), float(y))
                for x, y in zip(axes.x(what.frequencies[piece]), axes.y(one.values[piece]), strict=True)
            ]
            if len(points) > 1:
                pages.polyline(points)
        begins = LEFT + 12 + n * 150
        pages.line(*at(begins, 18), *at(begins + 22, 18))
        pages.set_dash_pattern()
        pages.set_xy(*at(begins + 26, 11))
        pages.cell(120 * by, 14 * by, one.label)
    pages.set_xy(MARGIN, above + HIGH * by + 2)


def _table(pages: _Pages, rows: tuple[tuple[str, ...], ...]) -> None:
    pages.set_draw_color(*LINE)
    pages.set_line_width(0.2)
    pages.write_in(9)
    head = FontFace(emphasis="BOLD", color=INK)
    with pages.table(
        borders_layout=TableBordersLayout.HORIZONTAL_LINES, headings_style=head, line_height=5, text_align="LEFT"
    ) as table:
        for cells in rows:
            table.row(list(cells))
