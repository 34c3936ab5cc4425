"""Responses and target curves as text: frequency, dB and perhaps degrees, a row each.

Read as people have them: UTF-8, UTF-16 or Latin-1; tabs, semicolons, bars, commas or blanks between the columns;
decimal points or commas; quotes, units in the cells, comments (#, *, ;, //, %), headings before the figures and words
after them. Separator and decimal mark are those by which most lines become rows. What cannot be understood is refused
with its line; what was left out is said.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from imbrix.core.errors import BadFileError
from imbrix.core.signal.signal import FloatArray

MOST_BYTES = 8_000_000
MOST_ROWS = 400_000
LEVELS_DB = (-300.0, 300.0)
DEGREES = (-1e7, 1e7)
LOOKED_AT = 2000
"""So many lines tell how columns are separated."""
COLUMNS = ("frequency", "level", "phase")
_COMMENT = re.compile(r"\s*(#|\*|//|%|;|$)")
_CELL = re.compile(
    r"(?P<figure>[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*(?P<unit>k?hz|db(?:\s*\(?spl\)?|fs)?|deg(?:rees)?|°|ohms?|Ω)?",
    re.IGNORECASE,
)
_UNIT = re.compile(r"\s+(?=(?:k?hz|db(?:spl|fs)?|spl|deg(?:rees)?|°|ohms?|Ω)(?:\s|$))", re.IGNORECASE)
_NOTHING = frozenset(("", "nan", "-", "--", "n/a", "#n/a", "null", "none"))
_SPLITS: dict[str, Callable[[str], list[str]]] = {
    "tabs": lambda line: line.split("\t"),
    "semicolons": lambda line: line.split(";"),
    "bars": lambda line: line.strip("| ").split("|"),
    "commas": lambda line: line.split(","),
    "blanks": lambda line: _UNIT.sub("", line).split(),
}


@dataclass(frozen=True, slots=True)
class TextCurve:
    """`frequencies` (n,) ascending in hertz, `levels` (n,) in dB, `degrees` (n,) or None; how they were written, in a
    sentence."""

    frequencies: FloatArray
    levels: FloatArray
    degrees: FloatArray | None
    understood: str = ""


@dataclass(frozen=True, slots=True)
class _Way:
    """A way of writing rows: how columns are separated, and which decimal mark they have."""

    separator: str
    comma: bool

    def fields(self, line: str) -> list[str]:
        """The cells of a line, bare of quotes."""
        parts = [part.strip().strip("\"'").strip() for part in _SPLITS[self.separator](line.strip(" "))]
        while parts and not parts[-1]:
            parts.pop()
        if not self.comma:
            return parts
        # A point beside decimal commas would be one of thousands, or the other way round: neither can be known.
        return [part.replace(",", ".") if "." not in part else "." + part for part in parts]

    def is_row(self, line: str) -> bool:
        found = self.fields(line)[:3]
        return len(found) > 1 and all(_CELL.fullmatch(one) for one in found[:2])


WAYS = tuple(
    _Way(separator, comma) for separator in _SPLITS for comma in (False, True) if (separator, comma) != ("commas", True)
)


@dataclass(slots=True)
class _Reading:
    """Rows so far, and what was left out."""

    rows: list[tuple[float, ...]] = field(default_factory=list)
    left: list[str] = field(default_factory=list)
    words: tuple[int, str] | None = None
    """The first line after the rows that is none."""


def read_curve(data: bytes, least_rows: int = 2) -> TextCurve:
    """Parse a text curve. Raises BadFileError with the line that is wrong."""
    if len(data) > MOST_BYTES:
        raise BadFileError(f"the file has {len(data) / 1e6:.0f} MB; a curve as text has at most {MOST_BYTES / 1e6:.0f}")
    lines = _decoded(data).replace("\u2212", "-").replace("\xa0", " ").replace("\x1a", "").splitlines()
    likely = [line for line in lines[: LOOKED_AT * 2] if not _COMMENT.match(line)][:LOOKED_AT]
    way = max(WAYS, key=lambda one: sum(map(one.is_row, likely)))  # the first of those that are as good
    reading = _Reading()
    for number, line in enumerate(lines, 1):
        if not _COMMENT.match(line):
            _take(reading, way, number, line)
    if reading.words is not None:
        reading.left.append(f"what stands after the rows, from line {reading.words[0]} on")
    rows = reading.rows
    if len(rows) < least_rows:
        found = "no row of figures" if not rows else f"only {len(rows)} row{'s' * (len(rows) > 1)} of figures"
        left = f" (left out: {'; '.join(reading.left[:3])})" if reading.left else ""
        raise BadFileError(f"{found} in the file{left}; a curve has rows of frequency and dB, at least {least_rows}")
    return _in_order(reading, way)


def read_levels(data: bytes) -> TextCurve:
    """Parse a text curve of levels in dB. Raises BadFileError, where levels or phases are beyond anything that sounds
    too."""
    curve = read_curve(data)
    for name, values, (least, most) in (
        ("level", curve.levels, LEVELS_DB),
        ("phase", np.zeros(1) if curve.degrees is None else curve.degrees, DEGREES),
    ):
        beyond = np.flatnonzero((values < least) | (values > most))
        if beyond.size:
            at = f"{values[beyond[0]]:g} at {curve.frequencies[beyond[0]]:g} Hz"
            raise BadFileError(f"the {name} is {at}: it can be {least:g} to {most:g}, so that this is no such curve")
    return curve


def _decoded(data: bytes) -> str:
    """The text of a file. Raises BadFileError where it is none."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        try:
            return data.decode("utf-16")
        except UnicodeDecodeError:
            raise BadFileError("the file begins as UTF-16 text and is none: it is cut off or damaged") from None
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    if "\x00" in text:
        raise BadFileError("this is not a text file: it holds zero bytes")
    return text


def _take(reading: _Reading, way: _Way, number: int, line: str) -> None:
    """Take in a line that is no comment. Raises BadFileError."""
    fields = way.fields(line) or [""]
    figure = _CELL.fullmatch(fields[0]) is not None
    empty = len(fields) > 1 and fields[1].lower() in _NOTHING
    if not reading.rows:
        if figure and empty:
            reading.left.append(f"line {number} without a level")
            return
        if not way.is_row(line) and fields[0].lower() not in ("nan", "inf", "-inf", "+inf"):
            if figure:
                reading.left.append(f"line {number}, '{line.strip()[:30]}'")
            return  # a heading
    elif not figure and not (len(fields) > 1 and _CELL.fullmatch(fields[1])):
        reading.words = reading.words or (number, line)
        return
    if reading.words is not None:
        before, said = reading.words
        raise BadFileError(f"line {before}: '{said.strip()[:60]}' stands among rows and is none")
    row = _row(fields, number, line, len(reading.rows[0]) > 2 if reading.rows else None)
    if row[0] == 0:
        reading.left.append(f"line {number} at 0 Hz")
        return
    reading.rows.append(row)
    if len(reading.rows) > MOST_ROWS:
        raise BadFileError(f"line {number}: more than {MOST_ROWS} rows")


def _row(fields: list[str], number: int, line: str, phased: bool | None) -> tuple[float, ...]:
    """The figures of a row, whose third one counts where the first row has a phase, or where this is the first."""
    shown = line.strip()[:60]
    if len(fields) < 2:
        raise BadFileError(f"line {number}: '{shown}' has one figure, it needs frequency and dB")
    values = []
    for name, cell in zip(COLUMNS, fields, strict=False):
        found = _CELL.fullmatch(cell)
        if name == "phase" and (phased is False or (phased is None and found is None)):
            break  # a third column of something else
        if found is None:
            raise BadFileError(f"line {number}: '{cell[:30]}' is not a number where the {name} should be")
        kilo = 1000.0 if (found["unit"] or "").lower() == "khz" else 1.0
        value = float(found["figure"]) * kilo
        if not np.isfinite(value) or abs(value) > 1e9:
            raise BadFileError(f"line {number}: the {name} {cell[:30]} is out of any range")
        values.append(value)
    if values[0] < 0:
        raise BadFileError(f"line {number}: a frequency of {values[0]:g} Hz; it must be above zero")
    return tuple(values)


def _in_order(reading: _Reading, way: _Way) -> TextCurve:
    columns = min(len(row) for row in reading.rows)
    table = np.array([row[:columns] for row in reading.rows])
    order = np.argsort(table[:, 0], kind="stable")
    table = table[order]
    again = np.flatnonzero((np.diff(table, axis=0) == 0).all(axis=1)) + 1
    if again.size:
        table = np.delete(table, again, axis=0)
        reading.left.append(f"{again.size} row{'s' * (again.size > 1)} that stood there twice")
    twice = np.flatnonzero(np.diff(table[:, 0]) == 0)
    if twice.size:
        raise BadFileError(
            f"{table[twice[0], 0]:g} Hz appears more than once: which of the two rows is meant cannot be known"
        )
    names = ("frequency", "value", "degrees")[:columns]
    said = (
        f"{len(table)} rows of {' and '.join((', '.join(names[:-1]), names[-1]))}, {way.separator} between them, "
        f"decimal {'commas' if way.comma else 'points'}"
    )
    if reading.left:
        more = f" and {len(reading.left) - 4} more" if len(reading.left) > 4 else ""
        said += f"; left out: {', '.join(reading.left[:4])}{more}"
    return TextCurve(table[:, 0], table[:, 1], table[:, 2] if columns > 2 else None, said)


def write_curve(
    frequencies: FloatArray, levels: FloatArray, degrees: FloatArray | None, title: str, unit: str = "dB"
) -> str:
    """A curve as text: a comment, then tab-separated rows; rows without a value are left out."""
    lines = [f"# {title}", f"# Hz\t{unit}" + ("" if degrees is None else "\tdegrees")]
    for n, frequency in enumerate(frequencies):
        if not np.isfinite(levels[n]):
            continue
        phase = "" if degrees is None else f"\t{degrees[n]:.4f}"
        lines.append(f"{frequency:.6g}\t{levels[n]:.5f}{phase}")
    return "\n".join(lines) + "\n"
