"""Responses and target curves as text: frequency, dB and perhaps degrees, a row each.

Read with tolerance: comments (#, *, ;, //, %, quotes) and headings before the figures, separators of tabs,
blanks, semicolons or commas, decimal commas where the separator allows them. What cannot be read is refused with its
line.
"""

import re
from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import BadFileError
from imbrix.core.signal.signal import FloatArray

MOST_BYTES = 8_000_000
MOST_ROWS = 400_000
_COMMENT = re.compile(r"^\s*(#|\*|//|%|;|\"|'|$)")
_NUMBER = re.compile(r"^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$")


@dataclass(frozen=True, slots=True)
class TextCurve:
    """`frequencies` (n,) ascending in hertz, `levels` (n,) in dB, `degrees` (n,) or None."""

    frequencies: FloatArray
    levels: FloatArray
    degrees: FloatArray | None


def _fields(line: str) -> list[str]:
    line = line.strip()
    if ";" in line or "\t" in line:
        parts = [part.strip().replace(",", ".") for part in re.split(r"[;\t]", line)]
    elif "," in line and re.search(r"\d\s*,\s|,\s*[+-]|\.", line):
        parts = [part.strip() for part in line.split(",")]
    elif re.search(r"\s", line) and "," in line:
        parts = [part.replace(",", ".") for part in line.split()]
    elif "," in line:
        parts = line.split(",")
    else:
        parts = line.split()
    if len(parts) == 1 and re.search(r"\s", parts[0]):
        parts = parts[0].split()
    while parts and parts[-1] == "":
        parts.pop()
    return parts


def read_curve(data: bytes, least_rows: int = 2) -> TextCurve:
    """Parse a text curve. Raises BadFileError with the line that is wrong."""
    if len(data) > MOST_BYTES:
        raise BadFileError(f"the file has {len(data) / 1e6:.0f} MB; a curve as text has at most {MOST_BYTES / 1e6:.0f}")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    if "\x00" in text:
        raise BadFileError("this is not a text file: it holds zero bytes")
    rows: list[tuple[float, ...]] = []
    for number, line in enumerate(text.splitlines(), 1):
        if _COMMENT.match(line):
            continue
        fields = _fields(line) or [""]
        if not _NUMBER.match(fields[0]) and not rows and fields[0].lower() not in ("nan", "inf", "-inf", "+inf"):
            continue  # a heading
        rows.append(_row(fields, number, line))
        if len(rows) > MOST_ROWS:
            raise BadFileError(f"line {number}: more than {MOST_ROWS} rows")
    if len(rows) < least_rows:
        found = "no row of figures" if not rows else f"only {len(rows)} row of figures"
        raise BadFileError(f"{found} in the file; a curve has rows of frequency and dB, at least {least_rows}")
    return _in_order(rows)


def _row(fields: list[str], number: int, line: str) -> tuple[float, ...]:
    shown = line.strip()[:60]
    if len(fields) < 2:
        raise BadFileError(f"line {number}: '{shown}' has one figure, it needs frequency and dB")
    values = []
    for name, field in zip(("frequency", "level", "phase"), fields[:3], strict=False):
        if not _NUMBER.match(field):
            raise BadFileError(f"line {number}: '{field[:30]}' is not a number where the {name} should be")
        value = float(field)
        if not np.isfinite(value) or abs(value) > 1e9:
            raise BadFileError(f"line {number}: the {name} {field[:30]} is out of any range")
        values.append(value)
    if values[0] <= 0:
        raise BadFileError(f"line {number}: a frequency of {values[0]:g} Hz; it must be above zero")
    return tuple(values)


def _in_order(rows: list[tuple[float, ...]]) -> TextCurve:
    columns = min(len(row) for row in rows)
    table = np.array([row[:columns] for row in rows])
    order = np.argsort(table[:, 0], kind="stable")
    table = table[order]
    twice = np.flatnonzero(np.diff(table[:, 0]) == 0)
    if twice.size:
        raise BadFileError(
            f"{table[twice[0], 0]:g} Hz appears more than once: which of the two rows is meant cannot be known"
        )
    return TextCurve(table[:, 0], table[:, 1], table[:, 2] if columns > 2 else None)


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
