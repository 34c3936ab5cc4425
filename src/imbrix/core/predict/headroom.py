"""Headroom: how high a channel's output peaks when full scale comes in, from the filters as the processor runs them."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.signal import FloatArray, decibels
from imbrix.core.tune.lower import fed, lower
from imbrix.core.tune.tune import Band, Channel, Input, Tune

SECONDS = 1.0
LOW_HZ, HIGH_SHARE = 20.0, 0.45
"""The sweep goes from here to this share of the rate."""
HEARD_DB = -10.0
"""Where its crossovers take more than this from a channel, its neighbour is heard."""
Heard = tuple[tuple[float, Input], ...]
"""The factors by which inputs are heard, and what these do."""


@dataclass(frozen=True, slots=True)
class Peaks:
    """Peaks at the output in dB over full scale: of the worst sine, with its frequency in hertz, of a full-scale
    logarithmic sweep, and of pink noise whose own peak is at full scale."""

    sine_db: float
    sine_hz: float
    sweep_db: float
    pink_db: float

    @property
    def worst_db(self) -> float:
        return max(self.sine_db, self.sweep_db, self.pink_db)


def peaks(tune: Tune, driver_id: str, predictor: Predictor) -> Peaks:
    """The peaks of a channel when all inputs that it hears carry the same at full scale."""
    levels = decibels(predictor.through(tune, [driver_id])[0])
    worst = int(np.argmax(levels))
    heard = tuple(fed(tune, driver_id)) or ((1.0, Input()),)
    sweep, pink = _in_time(tune.channels[driver_id], tune.common, heard, predictor.rate)
    return Peaks(float(levels[worst]), float(predictor.frequencies[worst]), sweep, pink)


def lifted_db(tune: Tune, predictor: Predictor) -> FloatArray:
    """By how much bands and taps of channels lift, the most of them at each frequency (n,), in dB and never below zero.

    Only where a channel's crossovers let it be heard: beyond they take more away.
    """
    lifts = np.zeros(predictor.frequencies.size)
    for channel in tune.channels.values():
        if not channel.bands and channel.taps is None:
            continue
        does = decibels(predictor.channel(Channel(bands=channel.bands, taps=channel.taps)))
        crossed = decibels(predictor.channel(Channel(high_pass=channel.high_pass, low_pass=channel.low_pass)))
        lifts = np.maximum(lifts, np.where(crossed > HEARD_DB, does, 0.0))
    return lifts


@lru_cache(maxsize=256)
def _in_time(channel: Channel, common: tuple[Band, ...], heard: Heard, rate: int) -> tuple[float, float]:
    """Peaks in dB of the sweep and of the pink noise, filtered."""
    runs = lower(channel, common, rate)
    found = []
    for samples in signals(rate):
        mixed = np.zeros(samples.size)
        for amount, one in heard:
            does = lower(one.channel, (), rate)
            late = np.concatenate((np.zeros(does.delay), samples))[: samples.size]
            mixed += amount * does.factor * _filtered(does.sos, late)
        out = runs.factor * _filtered(runs.sos, mixed)
        if runs.taps.size:
            out = scipy.signal.oaconvolve(out, runs.taps)[: out.size]
        found.append(float(decibels(np.abs(out).max())))
    return found[0], found[1]


def _filtered(sos: FloatArray, samples: FloatArray) -> FloatArray:
    return np.asarray(scipy.signal.sosfilt(sos, samples)) if len(sos) else samples


@lru_cache(maxsize=4)
def signals(rate: int) -> tuple[FloatArray, FloatArray]:
    """The full-scale sweep (n,) and the pink noise (n,) with its peak at full scale, the same every time."""
    count = round(SECONDS * rate)
    time = np.arange(count) / rate
    sweep = scipy.signal.chirp(time, LOW_HZ, SECONDS, HIGH_SHARE * rate, method="logarithmic", phi=-90)
    hertz = np.fft.rfftfreq(count, 1 / rate)
    phases = np.random.default_rng(0).uniform(0, 2 * np.pi, hertz.size)
    inside = (hertz >= LOW_HZ) & (hertz <= HIGH_SHARE * rate)
    spectrum = np.where(inside, np.exp(1j * phases) / np.sqrt(np.maximum(hertz, 1.0)), 0.0)
    pink = np.fft.irfft(spectrum, count)
    return np.asarray(sweep), pink / np.abs(pink).max()
