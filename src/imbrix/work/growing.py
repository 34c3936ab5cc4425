"""The curve of a moving-microphone take while it grows."""

import numpy as np

from imbrix.core.moving import Running
from imbrix.core.signal import decibels, power_decibels
from imbrix.core.smoothing import Fraction, smooth
from imbrix.work import corrections, rig
from imbrix.work.desk import NOMINAL_FULL_SCALE, Desk
from imbrix.work.picture import Picture


def running(desk: Desk, channels: tuple[str, ...], now: Running, smoothing: Fraction) -> Picture:
    """The curve of a moving-microphone take under way, with its confidence band, in dB SPL."""
    picture = Picture()
    values = power_decibels(np.maximum(smooth(np.nan_to_num(now.power), desk.grid, smoothing), 0)) + desk.offset_db
    values += rig.full_scale(desk) - NOMINAL_FULL_SCALE
    correction = rig.rig(desk).correction
    if correction is not None:
        values -= decibels(corrections.on_grid(desk, correction))
    values = np.where(np.isfinite(now.power), values, np.nan)
    half = np.interp(np.log(desk.grid), np.log(now.bands_hz), now.band_db)
    channel = channels[0] if len(channels) == 1 else ""
    picture.add("running", values, "running", label=f"{now.count} averages", channel=channel)
    picture.add("running-low", values - half, "edge", channel=channel)
    picture.add("running-high", values + half, "edge", channel=channel)
    return picture
