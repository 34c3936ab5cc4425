"""Distortion under the main plot: harmonics of a sweep in dB, per cent or dB SPL, beside those of another take."""

import numpy as np

from imbrix.core.look.distortion import ORDERS, Distortion
from imbrix.core.signal.signal import FloatArray, decibels, power_decibels
from imbrix.core.signal.smoothing import smooth
from imbrix.work.ground.workspace import NOMINAL_FULL_SCALE, Workspace
from imbrix.work.takes.harmonics import harmonics_of
from imbrix.work.takes.shelf import Take
from imbrix.work.views.facts import Worst
from imbrix.work.views.lens import Unit
from imbrix.work.views.picture import Picture

CLEAR_DB = 3.0
"""A harmonic less than this over the noise is drawn as noise."""


def draw(
    space: Workspace,
    picture: Picture,
    one: Take,
    channel: str,
    band: tuple[float, float],
    unit: Unit,
    other: Take | None,
) -> None:
    """Add fundamental, harmonics, total and noise of a take within `band`, and the total of another take."""
    found = harmonics_of(space, one)
    if found is None:
        picture.facts["lacking"] = "distortion is read from a sweep: this take is none"
        return
    inside = (space.grid >= band[0]) & (space.grid <= band[1])
    scaled = _Scale(space, one, found, unit)
    floor = np.where(inside, scaled.relative(found.noise), np.nan)
    picture.add("noise", scaled.shown(floor), "reference", pane="lower", label="noise")
    if unit == "spl":
        own = np.where(inside, np.zeros(space.grid.size), np.nan)
        picture.add("fundamental", scaled.shown(own), "bold", pane="lower", label="fundamental", channel=channel)
    for order, values in zip(ORDERS, found.orders, strict=True):
        level = np.where(inside, scaled.relative(values), np.nan)
        clear = level > floor + CLEAR_DB
        role, label = f"harmonic-{order}", f"{order}."
        shown = scaled.shown(level)
        picture.add(role, np.where(clear, shown, np.nan), role, pane="lower", label=label, channel=channel)
        picture.add(f"{role}-noise", np.where(clear, np.nan, shown), "edge", pane="lower")  # no more than noise
    total = _total(space, found, scaled, inside, floor)
    picture.add("total", scaled.shown(total), "sum", pane="lower", label="total")
    if np.isfinite(total).any():
        picture.facts["distortion"] = {
            **_worst(space, total, one.details.level_db),
            "unit": unit,
            "other": None,
        }
    if other is not None and other.id != one.id:
        _beside(space, picture, other, inside, unit)


class _Scale:
    """From magnitudes to what is drawn: dB under the fundamental, per cent of it, or dB SPL at the level it was at."""

    def __init__(self, space: Workspace, one: Take, found: Distortion, unit: Unit) -> None:
        self._grid = space.grid
        self._base = np.maximum(found.fundamental, 1e-12)
        self._unit = unit
        full_scale = one.details.full_scale_db_spl
        scale = NOMINAL_FULL_SCALE if full_scale is None else full_scale
        self._spl = power_decibels(smooth(self._base**2, space.grid, 12)) + scale + one.details.level_db

    def relative(self, values: FloatArray) -> FloatArray:
        """dB under the fundamental (n,), smoothed to a twelfth of an octave."""
        known = np.isfinite(values)
        power = smooth(np.where(known, values / self._base, 0) ** 2, self._grid, 12)
        return np.where(known, decibels(np.sqrt(np.maximum(power, 0))), np.nan)

    def shown(self, relative_db: FloatArray) -> FloatArray:
        """The same in the unit asked for."""
        if self._unit == "percent":
            return np.asarray(100 * 10 ** (relative_db / 20))
        return relative_db + self._spl if self._unit == "spl" else relative_db


def _total(space: Workspace, found: Distortion, scaled: _Scale, inside: np.ndarray, floor: FloatArray) -> FloatArray:
    """Harmonics that stand clear of the noise, together, in dB under the fundamental (n,); NaN where none does."""
    power = np.zeros(space.grid.size)
    for values in found.orders:
        level = np.where(inside, scaled.relative(values), np.nan)
        power += np.where(level > floor + CLEAR_DB, 10 ** (np.nan_to_num(level, nan=-200.0) / 10), 0.0)
    return np.where(power > 0, 10 * np.log10(np.maximum(power, 1e-20)), np.nan)


def _worst(space: Workspace, total: FloatArray, drive_dbfs: float) -> Worst:
    worst = int(np.nanargmax(total))
    return Worst(
        worst_db=float(total[worst]),
        worst_percent=float(100 * 10 ** (total[worst] / 20)),
        worst_hz=float(space.grid[worst]),
        drive_dbfs=drive_dbfs,
    )


def _beside(space: Workspace, picture: Picture, other: Take, inside: np.ndarray, unit: Unit) -> None:
    """The total of another take, recorded at its own level: before and after."""
    found = harmonics_of(space, other)
    if found is None:
        return
    scaled = _Scale(space, other, found, unit)
    floor = np.where(inside, scaled.relative(found.noise), np.nan)
    total = _total(space, found, scaled, inside, floor)
    label = f"take {other.id}, at {other.details.level_db:.0f} dBFS"
    picture.add("total-other", scaled.shown(total), "compare", pane="lower", label=label)
    if np.isfinite(total).any() and "distortion" in picture.facts:
        picture.facts["distortion"]["other"] = _worst(space, total, other.details.level_db)
