"""Fitting channels, pairs and the whole to the target; each fit is one revision."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.edits import Edit, SetBands, ShiftGains
from imbrix.core.fit import Fit, FitLimits, bridge_cancellations, fit
from imbrix.core.signal import power_decibels
from imbrix.core.smoothing import smooth_power
from imbrix.core.tune import Tune
from imbrix.work.desk import ConflictError, Desk
from imbrix.work.prediction import Scene, acoustic_target, predicted, scene, summed
from imbrix.work.takes import band
from imbrix.work.targets import placed
from imbrix.work.tuning import Head, commit, head

FIT_SMOOTHING = 6.0


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


def fit_channels(desk: Desk, slug: str, channels: tuple[str, ...], limits: FitLimits) -> Fitted:
    """Fit gain and bands of one channel, or one set of bands and gain for several alike (left and right together).

    Raises ConflictError where a channel has no take yet.
    """
    now = scene(desk, slug, spatial=True)
    tune = head(desk, slug).tune
    limits = _within(desk, limits, tune)
    plain = _stripped(tune, channels).model_copy(update={"common": ()})
    responses = predicted(desk, now, plain)
    powers, wanted, lows, highs = [], [], [], []
    for name in channels:
        row = now.index(name)
        driver = now.layout.driver(name)
        if row is None:
            raise ConflictError(f"{driver.name} has no take yet: record it in Drivers first")
        target, low, high = acoustic_target(desk, slug, tune, driver)
        usable = band(desk, now.takes[name])
        lows.append(max(low, usable[0] * 0.8, limits.low_hz))
        highs.append(min(high, usable[1] * 1.25, limits.high_hz))
        powers.append(smooth_power(responses[row], desk.grid, FIT_SMOOTHING))
        wanted.append(target)
    # Several fitted together: the mean of their levels against the mean of their targets.
    measured = np.mean([power_decibels(power) for power in powers], axis=0) + desk.offset_db
    correction = np.mean(wanted, axis=0) - measured
    limits = limits.model_copy(update={"low_hz": max(lows), "high_hz": min(highs)})
    found = _fit(desk, correction, limits)
    edits: list[Edit] = [SetBands(channel=name, bands=found.bands, gain_db=found.gain_db) for name in channels]
    names = " and ".join(now.layout.driver(name).name for name in channels)
    return _commit(desk, slug, edits, found, f"Fit {names}: {len(found.bands)} bands")


def fit_common(desk: Desk, slug: str, limits: FitLimits) -> Fitted:
    """Fit the correction common to all channels, and a shift of all gains, to the predicted whole."""
    now = scene(desk, slug, spatial=True)
    if not now.ids:
        raise ConflictError("there is no take yet: record the drivers first")
    tune = head(desk, slug).tune
    limits = _within(desk, limits, tune, common=True)
    plain = tune.model_copy(update={"common": ()})
    whole = _sum_db(desk, now, plain)
    if not np.isfinite(whole).any() or whole.max() < -100:
        raise ConflictError("all channels are muted: there is nothing to fit")
    gains = [channel.gain_db for channel in tune.channels.values()]
    room = desk.processor.limits.gain_db
    limits = limits.model_copy(
        update={"least_gain_db": room.least - min(gains), "most_gain_db": room.most - max(gains)}
    )
    known = now.known.any(axis=0)
    correction = np.where(known, placed(desk, slug, tune) - whole, np.nan)
    limits = limits.model_copy(update={"low_hz": max(limits.low_hz, 30.0), "high_hz": min(limits.high_hz, 18_000.0)})
    found = _fit(desk, correction, limits)
    edits: list[Edit] = [SetBands(channel=None, bands=found.bands), ShiftGains(by_db=found.gain_db)]
    return _commit(desk, slug, edits, found, f"Fit all channels: {len(found.bands)} common bands")


def _sum_db(desk: Desk, now: Scene, tune: Tune) -> np.ndarray:
    whole = summed(now, predicted(desk, now, tune), tune)
    return power_decibels(smooth_power(whole, desk.grid, FIT_SMOOTHING)) + desk.offset_db


def _within(desk: Desk, limits: FitLimits, tune: Tune, common: bool = False) -> FitLimits:
    """The limits of the fit narrowed to those of the processor."""
    can = desk.processor.limits
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


def _fit(desk: Desk, correction: np.ndarray, limits: FitLimits) -> Fit:
    return fit(bridge_cancellations(correction, desk.grid), desk.grid, limits, desk.processor.limits.rate)


def _commit(desk: Desk, slug: str, edits: list[Edit], found: Fit, summary: str) -> Fitted:
    made = commit(desk, slug, edits, summary)
    return Fitted(made, found.gain_db, found.residual_db, found.boost_db, len(found.bands))
