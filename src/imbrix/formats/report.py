"""A report for the customer: a calm page of HTML that prints, with plots as SVG and no script."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from html import escape

import numpy as np

from imbrix.core.signal.signal import FloatArray

WIDE, HIGH, LEFT, RIGHT, ABOVE, BELOW = 660, 250, 40, 16, 8, 22
LOW_HZ, TOP_HZ = 20.0, 20_000.0
LABELLED_HZ = (20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000)
STYLE = """
@page { size: A4; margin: 18mm 16mm }
body { font: 15px/1.5 'IBM Plex Sans', 'DejaVu Sans', sans-serif; color: #23272e; background: #fff;
  max-width: 700px; margin: 32px auto; padding: 0 20px }
header { display: flex; justify-content: space-between; align-items: flex-end; gap: 24px; margin-bottom: 28px }
.logo { width: 150px; height: 56px; border: 1px dashed #b9bfc8; color: #6b7280; font-size: 12px;
  display: flex; align-items: center; justify-content: center; text-align: center }
h1 { font-size: 26px; font-weight: 600; margin: 0 } h2 { font-size: 17px; font-weight: 600; margin: 28px 0 8px }
p { margin: 0 0 10px } .quiet { color: #5b6472 } ul { margin: 0; padding-left: 20px }
table { border-collapse: collapse; width: 100%; font-size: 13.5px } td, th { text-align: left; padding: 4px 10px 4px 0;
  border-bottom: 1px solid #e3e6ea; vertical-align: top } th { font-weight: 600 }
figure { margin: 0 0 6px; break-inside: avoid } section { break-inside: avoid-page } svg { width: 100%; height: auto }
.picture { max-width: 190px; max-height: 72px }
@media print { body { margin: 0; max-width: none; padding: 0 } .logo:empty { border: 0 } }
"""


@dataclass(frozen=True)
class Line:
    """A curve of a plot: levels (n,) in dB, what it is, a colour, and dashes where it is not solid."""

    values: FloatArray
    label: str
    colour: str
    wide: float = 1.6
    dashes: str = ""


@dataclass(frozen=True)
class Report:
    """What a report says. All text is plain and is escaped here; `frequencies` (n,) are those of the lines; `logo` is a
    picture as a data URI, empty for none."""

    title: str
    shop: str
    customer: str
    made: datetime
    summary: tuple[str, ...]
    done: tuple[str, ...]
    frequencies: FloatArray
    lines: tuple[Line, ...]
    caption: str
    settings: tuple[tuple[str, ...], ...]
    slots: tuple[str, ...]
    notes: tuple[str, ...]
    foot: str
    logo: str = ""

    @property
    def who(self) -> str:
        """Whom it is for, and the day."""
        said = [f"for {self.customer}" if self.customer else "", self.made.strftime("%d %B %Y").lstrip("0")]
        return " · ".join(one for one in said if one)

    @property
    def sections(self) -> tuple[tuple[str, tuple[str, ...]], ...]:
        """Headings and lines of what is listed under the settings; those without a line are left out."""
        listed = (("Stored in the processor", self.slots), ("Notes", self.notes))
        return tuple((heading, lines) for heading, lines in listed if lines)


def html(what: Report) -> str:
    """The page as a document of its own."""
    head, *rows = what.settings
    parts = [
        f"<header><div><h1>{escape(what.title)}</h1><div class=quiet>{escape(what.who)}</div></div>",
        f"{_logo(what)}</header>",
        *(f"<p>{escape(one)}</p>" for one in what.summary),
        f"<section><h2>What you hear, before and after</h2><figure>{plot(what.frequencies, what.lines)}</figure>",
        f"<p class=quiet>{escape(what.caption)}</p></section>",
        f"<section><h2>What was done</h2>{_list(what.done)}</section>",
        f"<section><h2>How it is set</h2><table><thead>{_row(head, 'th')}</thead><tbody>",
        *(_row(row, "td") for row in rows),
        "</tbody></table></section>",
        *(f"<section><h2>{heading}</h2>{_list(lines)}</section>" for heading, lines in what.sections),
        f"<p class=quiet style='margin-top:28px'>{escape(what.foot)}</p>",
    ]
    return (
        f"<!doctype html><html lang=en><head><meta charset=utf-8><title>{escape(what.title)}</title>"
        f"<style>{STYLE}</style></head><body><main>{''.join(parts)}</main></body></html>"
    )


def _logo(what: Report) -> str:
    """The picture, or the shop's name in its place."""
    if what.logo:
        return f'<img class=picture src="{escape(what.logo)}" alt="{escape(what.shop or "logo")}">'
    return f"<div class=logo>{escape(what.shop) or 'your logo'}</div>"


def _list(lines: Sequence[str]) -> str:
    return f"<ul>{''.join(f'<li>{escape(one)}</li>' for one in lines)}</ul>"


def _row(cells: Sequence[str], tag: str) -> str:
    return f"<tr>{''.join(f'<{tag}>{escape(one)}</{tag}>' for one in cells)}</tr>"


@dataclass(frozen=True)
class Axes:
    """Where levels and frequencies stand in a plot, in points from its upper left corner."""

    bottom: float
    top: float

    @classmethod
    def of(cls, frequencies: FloatArray, lines: Sequence[Line]) -> "Axes":
        """Axes that hold some lines (n,), at least 30 dB of them."""
        inside = (frequencies >= LOW_HZ) & (frequencies <= TOP_HZ)
        known = np.concatenate([one.values[inside & np.isfinite(one.values)] for one in lines])
        top = 5 * np.ceil((np.percentile(known, 99.5) + 2) / 5) if known.size else 0.0
        bottom = min(top - 30, 5 * np.floor((np.percentile(known, 3) - 2) / 5)) if known.size else -30.0
        return cls(float(bottom), float(top))

    def x(self, hertz: float | FloatArray) -> FloatArray:
        """How far to the right a frequency stands."""
        span = np.log(TOP_HZ / LOW_HZ)
        return np.asarray(LEFT + (WIDE - LEFT - RIGHT) * np.log(np.asarray(hertz) / LOW_HZ) / span)

    def y(self, level: float | FloatArray) -> FloatArray:
        """How far down a level stands; what is beyond the ends stands there."""
        down = (self.top - np.clip(level, self.bottom, self.top)) / (self.top - self.bottom)
        return np.asarray(ABOVE + (HIGH - ABOVE - BELOW) * down)

    @property
    def levels(self) -> FloatArray:
        """Levels that are labelled."""
        return np.arange(self.bottom, self.top + 1, 10)


def pieces(frequencies: FloatArray, line: Line) -> Iterator[slice]:
    """The stretches of a line (n,) that are known, within the plot."""
    known = (frequencies >= LOW_HZ) & (frequencies <= TOP_HZ) & np.isfinite(line.values)
    edges = np.flatnonzero(np.diff(np.concatenate(([0], known.astype(int), [0]))))
    for first, last in zip(edges[::2], edges[1::2], strict=True):
        yield slice(int(first), int(last))


def plot(frequencies: FloatArray, lines: Sequence[Line]) -> str:
    """Levels over frequency as SVG; NaN leaves a gap."""
    axes = Axes.of(frequencies, lines)
    x, y = axes.x, axes.y
    drawn = [f"<svg viewBox='0 0 {WIDE} {HIGH}' role=img aria-label='Levels over frequency' font-size=10 fill=#5b6472>"]
    for hertz in LABELLED_HZ:
        drawn.append(f"<path d='M{x(hertz):.1f} {ABOVE}V{HIGH - BELOW}' stroke=#e3e6ea fill=none />")
        drawn.append(f"<text x={x(hertz):.1f} y={HIGH - 7} text-anchor=middle>{hertz_name(hertz)}</text>")
    for level in axes.levels:
        drawn.append(f"<path d='M{LEFT} {y(level):.1f}H{WIDE - RIGHT}' stroke=#e3e6ea fill=none />")
        drawn.append(f"<text x={LEFT - 6} y={y(level) + 3:.1f} text-anchor=end>{level:.0f}</text>")
    for n, one in enumerate(lines):
        dashes = f" stroke-dasharray='{one.dashes}'" if one.dashes else ""
        path = "".join(_path(x(frequencies[k]), y(one.values[k])) for k in pieces(frequencies, one))
        drawn.append(f"<path d='{path}' stroke='{one.colour}' stroke-width={one.wide} fill=none{dashes} />")
        at = LEFT + 12 + n * 150
        drawn.append(f"<path d='M{at} 18h22' stroke='{one.colour}' stroke-width=2.4 fill=none{dashes} />")
        drawn.append(f"<text x={at + 28} y=21.5>{escape(one.label)}</text>")
    return "".join((*drawn, "</svg>"))


def hertz_name(hertz: int) -> str:
    """A frequency as it stands under a plot."""
    return f"{hertz // 1000}k" if hertz >= 1000 else str(hertz)


def _path(x: FloatArray, y: FloatArray) -> str:
    return "M" + "L".join(f"{across:.1f} {down:.1f}" for across, down in zip(x, y, strict=True))
