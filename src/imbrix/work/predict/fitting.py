"""Fitting channels, pairs and the whole to the target; each fit is one revision."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.predict.fit import Fit, FitLimits, bridge_cancellations, fit
from imbrix.core.signal.signal import power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.tune.edits import Edit, SetBands, ShiftGains
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import Scene, acoustic_target, predicted, scene, summed
from imbrix.work.takes.reading import band
from imbrix.work.tune.revisions import Head, commit, head
from imbrix.work.tune.targets import placed

FIT_SMOOTHING = 6.0
LEAST_SPAN = 2**0.5
"""Half an octave: over less there is nothing to fit."""


@dataclass(frozen=True)
class Fitted:
    """The revision that a fit made, and what it found."""

    head: Head
    gain_db: float
    residual_db: float
    boost_db: float
    bands: int


def _stripped(tune: Tune, channels: tuple[str, ...]) -> Tune:
    for name in channels:
        tune = tune.with_channel(name, gain_db=0.0, bands=())
    return tune


def fit_channels(space: Workspace, slug: str, channels: tuple[str, ...], limits: FitLimits) -> Fitted:
    """Fit gain and bands of one channel, or one set of bands and gain for several alike (left and right together).

    Raises NotHereError, ConflictError where a channel has no take yet.
    """
    now = scene(space, slug, spatial=True)
    for name in channels:
        now.layout.driver(name)
    present = head(space, slug)
    tune = present.tune
    can = processors.model(space, slug)
    limits = _within(can, limits, tune)
    plain = _stripped(tune, channels).model_copy(update={"common": ()})
    responses = predicted(space, now, plain)
    powers, wanted, lows, highs = [], [], [], []
    for name in channels:
        row = now.index(name)
        driver = now.layout.driver(name)
        if row is None:
            raise ConflictError(f"{driver.name} has no take yet: record it in Drivers first")
        target, low, high = acoustic_target(space, slug, tune, driver)
        usable = band(space, now.takes[name])
        low, high = _useful((low, high), usable)
        lows.append(max(low, limits.low_hz))
        highs.append(min(high, limits.high_hz))
        powers.append(smooth_power(responses[row], space.grid, FIT_SMOOTHING))
        wanted.append(target)
    # Several fitted together: the mean of their levels against the mean of their targets.
    measured = np.mean([power_decibels(power) for power in powers], axis=0) + space.offset_db
    correction = np.mean(wanted, axis=0) - measured
    limits = limits.model_copy(update={"low_hz": max(lows), "high_hz": min(highs)})
    found = _fit(space, correction, limits, can.rate)
    edits: list[Edit] = [SetBands(channel=name, bands=found.bands, gain_db=found.gain_db) for name in channels]
    names = " and ".join(now.layout.driver(name).name for name in channels)
    return _commit(space, slug, edits, found, f"Fit {names}: {len(found.bands)} bands", present.id)


def _useful(crossed: tuple[float, float], usable: tuple[float, float]) -> tuple[float, float]:
    """Where a driver is to be fitted, in hertz: between its corners, not far beyond where it plays of itself.

    Where the two hardly meet the corners count: they say what it is wanted for, and a fit shows what comes of it.
    """
    low, high = max(crossed[0], usable[0] * 0.8), min(crossed[1], usable[1] * 1.25)
    return (low, high) if high > low * LEAST_SPAN else crossed


def fit_common(space: Workspace, slug: str, limits: FitLimits) -> Fitted:
    """Fit the correction common to all channels, and a shift of all gains, to the predicted whole."""
    now = scene(space, slug, spatial=True)
    if not now.ids:
        raise ConflictError("there is no take yet: record the drivers first")
    present = head(space, slug)
    tune = present.tune
    can = processors.model(space, slug)
    limits = _within(can, limits, tune, common=True)
    plain = tune.model_copy(update={"common": ()})
    whole = _sum_db(space, now, plain)
    if not np.isfinite(whole).any() or whole.max() < -100:
        raise ConflictError("all channels are muted: there is nothing to fit")
    gains = [channel.gain_db for channel in tune.channels.values()]
    room = can.gain_db
    limits = limits.model_copy(
        update={"least_gain_db": room.least - min(gains), "most_gain_db": room.most - max(gains)}
    )
    known = now.known.any(axis=0)
    correction = np.where(known, placed(space, slug, tune) - whole, np.nan)
    limits = limits.model_copy(update={"low_hz": max(limits.low_hz, 30.0), "high_hz": min(limits.high_hz, 18_000.0)})
    found = _fit(space, correction, limits, can.rate)
    edits: list[Edit] = [SetBands(channel=None, bands=found.bands), ShiftGains(by_db=found.gain_db)]
    return _commit(space, slug, edits, found, f"Fit all channels: {len(found.bands)} common bands", present.id)


def _sum_db(space: Workspace, now: Scene, tune: Tune) -> np.ndarray:
    whole = summed(now, predicted(space, now, tune), tune)
    return power_decibels(smooth_power(whole, space.grid, FIT_SMOOTHING)) + space.offset_db


def _within(can: Limits, limits: FitLimits, tune: Tune, common: bool = False) -> FitLimits:
    """The limits of the fit narrowed to those of the processor."""
    taken = max(len(channel.bands) for channel in tune.channels.values()) if common else len(tune.common)
    return limits.model_copy(
        update={
            "count": max(0, min(limits.count, can.bands - taken)),
            "boost_db": min(limits.boost_db, can.band_gain_db.most),
            "cut_db": min(limits.cut_db, -can.band_gain_db.least),
            "least_q": max(limits.least_q, can.q.least),
            "most_q": min(limits.most_q, can.q.most),
            "least_gain_db": can.gain_db.least,
            "most_gain_db": can.gain_db.most,
        }
    )


def _fit(space: Workspace, correction: np.ndarray, limits: FitLimits, rate: int) -> Fit:
    return fit(bridge_cancellations(correction, space.grid), space.grid, limits, rate)


def _commit(space: Workspace, slug: str, edits: list[Edit], found: Fit, summary: str, on: int) -> Fitted:
    made = commit(space, slug, edits, summary, on)
    return Fitted(made, found.gain_db, found.residual_db, found.boost_db, len(found.bands))
