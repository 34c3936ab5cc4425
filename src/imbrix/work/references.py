"""Foreign curves: responses from elsewhere as reference lines on any plot, levels aligned on request."""

from typing import Any

import numpy as np

from imbrix.core.grid import log_grid, span_mask
from imbrix.core.layout import Value
from imbrix.core.reading import EARLY_S, UnusableError
from imbrix.core.response import Gate, response
from imbrix.core.signal import FloatArray, Impulse, decibels
from imbrix.formats.text_curve import TextCurve
from imbrix.work import documents
from imbrix.work.desk import ConflictError, Desk, NotHereError

MOST = 24
_POINTS = 600


class Reference(Value):
    """A curve from elsewhere; `shift_db` is added when it is drawn."""

    id: int
    name: str
    frequencies: tuple[float, ...]
    levels: tuple[float, ...]
    shift_db: float = 0.0
    shown: bool = True


def references(desk: Desk, slug: str) -> list[Reference]:
    """All reference lines of a project."""
    found = documents.read(desk, f"references:{slug}") or {"curves": []}
    return [Reference.model_validate(one) for one in found["curves"]]


def _keep(desk: Desk, slug: str, curves: list[Reference]) -> None:
    documents.write(desk, f"references:{slug}", {"curves": [one.model_dump(mode="json") for one in curves]})


def add_text(desk: Desk, slug: str, name: str, curve: TextCurve) -> int:
    """A reference from a text curve. Raises UnusableError where nothing of it lies on the axis."""
    return _add(desk, slug, name, curve.frequencies, curve.levels)


def add_impulse(desk: Desk, slug: str, name: str, samples: FloatArray, rate: int) -> int:
    """A reference from an impulse response (n,): its magnitude, its strongest octave taken to be at 80 dB."""
    if not np.abs(samples).max() > 0:
        raise UnusableError("the impulse response is silent")
    early = round(EARLY_S * rate)
    impulse = Impulse(np.concatenate((np.zeros(early), samples)), rate, early)
    levels = decibels(response(impulse, log_grid(), Gate()))
    known = np.isfinite(levels)
    return _add(desk, slug, name, log_grid()[known], levels[known] - levels[known].max() + 80.0)


def _add(desk: Desk, slug: str, name: str, frequencies: FloatArray, levels: FloatArray) -> int:
    desk.layout(slug)
    curves = references(desk, slug)
    if len(curves) >= MOST:
        raise ConflictError(f"there are {MOST} reference lines already: remove one first")
    inside = (frequencies >= 20) & (frequencies <= 20_000)
    if inside.sum() < 2:
        raise UnusableError(
            f"the curve runs from {frequencies[0]:g} to {frequencies[-1]:g} Hz: nothing of it lies on the axis"
        )
    if frequencies.size > _POINTS:
        fewer = np.geomspace(max(20.0, frequencies[0]), min(20_000.0, frequencies[-1]), _POINTS)
        levels = np.interp(np.log(fewer), np.log(frequencies), levels)
        frequencies = fewer
    new = max((one.id for one in curves), default=0) + 1
    curve = Reference(
        id=new,
        name=name[:60] or f"Curve {new}",
        frequencies=tuple(np.round(frequencies, 4).tolist()),
        levels=tuple(np.round(levels, 4).tolist()),
    )
    _keep(desk, slug, [*curves, curve])
    return new


def change(desk: Desk, slug: str, reference_id: int, values: dict[str, Any]) -> None:
    """Show, hide, rename or shift a line. Raises NotHereError."""
    curves = references(desk, slug)
    if reference_id not in {one.id for one in curves}:
        raise NotHereError(f"there is no reference line {reference_id} in this project")
    _keep(
        desk,
        slug,
        [Reference.model_validate({**one.model_dump(), **values}) if one.id == reference_id else one for one in curves],
    )


def remove(desk: Desk, slug: str, reference_id: int) -> None:
    """Take a line out of the project. Raises NotHereError."""
    curves = references(desk, slug)
    kept = [one for one in curves if one.id != reference_id]
    if len(kept) == len(curves):
        raise NotHereError(f"there is no reference line {reference_id} in this project")
    _keep(desk, slug, kept)


def on_grid(one: Reference) -> FloatArray:
    """The line on the common grid (n,), NaN beyond its ends, its shift added."""
    return (
        np.interp(
            np.log(log_grid()), np.log(np.array(one.frequencies)), np.array(one.levels), left=np.nan, right=np.nan
        )
        + one.shift_db
    )


def align(desk: Desk, slug: str, reference_id: int, against: FloatArray, low_hz: float, high_hz: float) -> float:
    """Shift a line so that its mean level over a span is that of a curve (n,); returns the new shift.

    Raises ConflictError where the two share nothing there.
    """
    one = next((one for one in references(desk, slug) if one.id == reference_id), None)
    if one is None:
        raise NotHereError(f"there is no reference line {reference_id} in this project")
    apart = (against - on_grid(one))[span_mask(desk.grid, low_hz, high_hz)]
    apart = apart[np.isfinite(apart)]
    if apart.size < 4:
        raise ConflictError(f"the two curves share nothing from {low_hz:.0f} to {high_hz:.0f} Hz")
    shift = one.shift_db + float(apart.mean())
    change(desk, slug, reference_id, {"shift_db": shift})
    return shift
