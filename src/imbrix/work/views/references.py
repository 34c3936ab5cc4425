"""Foreign curves: responses from elsewhere as reference lines on any plot, levels aligned on request."""

from collections.abc import Callable, Iterable
from typing import Any

import numpy as np

from imbrix.core.errors import ConflictError, NotHereError, UnusableError
from imbrix.core.measure.reading import EARLY_S
from imbrix.core.signal.grid import log_grid, span_mask
from imbrix.core.signal.response import Gate, response
from imbrix.core.signal.signal import FloatArray, Impulse, decibels
from imbrix.core.value import Value
from imbrix.formats.text_curve import TextCurve
from imbrix.work.ground import documents
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.files import LEAST_PEAK

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


def references(space: Workspace, slug: str) -> list[Reference]:
    """All reference lines of a project."""
    return list(documents.made(space, f"references:{slug}", _read))


def _read(found: documents.Document | None) -> tuple[Reference, ...]:
    return tuple(stored(Reference, one, "the curves to compare with") for one in (found or {"curves": []})["curves"])


def _change(space: Workspace, slug: str, do: Callable[[tuple[Reference, ...]], Iterable[Reference]]) -> None:
    """Change the lines under one lock: of lines that are added at once, none is lost."""
    space.layout(slug)
    documents.change(
        space,
        f"references:{slug}",
        lambda found: {"curves": [one.model_dump(mode="json") for one in do(_read(found or None))]},
    )


def add_text(space: Workspace, slug: str, name: str, curve: TextCurve) -> int:
    """A reference from a text curve. Raises UnusableError where nothing of it lies on the axis."""
    return _add(space, slug, name, curve.frequencies, curve.levels)


def add_impulse(space: Workspace, slug: str, name: str, samples: FloatArray, rate: int) -> int:
    """A reference from an impulse response (n,): its magnitude, its strongest octave taken to be at 80 dB."""
    if not np.abs(samples).max() > LEAST_PEAK:
        raise UnusableError("the impulse response is silent")
    early = round(EARLY_S * rate)
    impulse = Impulse(np.concatenate((np.zeros(early), samples)), rate, early)
    levels = decibels(response(impulse, log_grid(), Gate()))
    known = np.isfinite(levels)
    return _add(space, slug, name, log_grid()[known], levels[known] - levels[known].max() + 80.0)


def _add(space: Workspace, slug: str, name: str, frequencies: FloatArray, levels: FloatArray) -> int:
    space.layout(slug)
    inside = (frequencies >= 20) & (frequencies <= 20_000)
    if inside.sum() < 2:
        raise UnusableError(
            f"the curve runs from {frequencies[0]:g} to {frequencies[-1]:g} Hz: nothing of it lies on the axis"
        )
    if frequencies.size > _POINTS:
        fewer = np.geomspace(max(20.0, frequencies[0]), min(20_000.0, frequencies[-1]), _POINTS)
        levels = np.interp(np.log(fewer), np.log(frequencies), levels)
        frequencies = fewer
    new = 0

    def add(curves: tuple[Reference, ...]) -> list[Reference]:
        nonlocal new
        if len(curves) >= MOST:
            raise ConflictError(f"there are {MOST} reference lines already: remove one first")
        new = max((one.id for one in curves), default=0) + 1
        curve = Reference(
            id=new,
            name=name[:60] or f"Curve {new}",
            frequencies=tuple(np.round(frequencies, 4).tolist()),
            levels=tuple(np.round(levels, 4).tolist()),
        )
        return [*curves, curve]

    _change(space, slug, add)
    return new


def change(space: Workspace, slug: str, reference_id: int, values: dict[str, Any]) -> None:
    """Show, hide, rename or shift a line. Raises NotHereError."""

    def do(curves: tuple[Reference, ...]) -> list[Reference]:
        _there(curves, reference_id)
        return [
            Reference.model_validate({**one.model_dump(), **values}) if one.id == reference_id else one
            for one in curves
        ]

    _change(space, slug, do)


def remove(space: Workspace, slug: str, reference_id: int) -> None:
    """Take a line out of the project. Raises NotHereError."""

    def do(curves: tuple[Reference, ...]) -> list[Reference]:
        _there(curves, reference_id)
        return [one for one in curves if one.id != reference_id]

    _change(space, slug, do)


def _there(curves: Iterable[Reference], reference_id: int) -> Reference:
    for one in curves:
        if one.id == reference_id:
            return one
    raise NotHereError(f"there is no reference line {reference_id} in this project")


def on_grid(one: Reference) -> FloatArray:
    """The line on the common grid (n,), NaN beyond its ends, its shift added."""
    return (
        np.interp(
            np.log(log_grid()), np.log(np.array(one.frequencies)), np.array(one.levels), left=np.nan, right=np.nan
        )
        + one.shift_db
    )


def align(space: Workspace, slug: str, reference_id: int, against: FloatArray, low_hz: float, high_hz: float) -> float:
    """Shift a line so that its mean level over a span is that of a curve (n,); returns the new shift.

    Raises ConflictError where the two share nothing there.
    """
    one = _there(references(space, slug), reference_id)
    apart = (against - on_grid(one))[span_mask(space.grid, low_hz, high_hz)]
    apart = apart[np.isfinite(apart)]
    if apart.size < 4:
        raise ConflictError(f"the two curves share nothing from {low_hz:.0f} to {high_hz:.0f} Hz")
    shift = one.shift_db + float(apart.mean())
    change(space, slug, reference_id, {"shift_db": shift})
    return shift
