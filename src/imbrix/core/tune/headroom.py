"""Headroom: how high a channel's output peaks when full scale comes in, from the filters as the processor runs them."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune.lower import fed, lower
from imbrix.core.tune.tune import Band, Channel, Input, Tune

SECONDS = 1.0
LOW_HZ, HIGH_SHARE = 20.0, 0.45
"""The sweep goes from here to this share of the rate."""
SINES = 960
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


def peaks(tune: Tune, driver_id: str, rate: int) -> Peaks:
    """The peaks of a channel when all inputs that it hears carry the same at full scale."""
    return _peaks(tune.channels[driver_id], tune.common, tuple(fed(tune, driver_id)), rate)


def worst_sine(tune: Tune, driver_id: str, rate: int) -> tuple[float, float]:
    """The peak of the worst sine, in dB over full scale, and its frequency in hertz."""
    return _sine(tune.channels[driver_id], tune.common, tuple(fed(tune, driver_id)), rate)


@lru_cache(maxsize=256)
def _peaks(channel: Channel, common: tuple[Band, ...], heard: Heard, rate: int) -> Peaks:
    sweep, pink = (_peak_db(one, channel, common, heard, rate) for one in signals(rate))
    return Peaks(*_sine(channel, common, heard, rate), sweep, pink)


@lru_cache(maxsize=512)
def _sine(channel: Channel, common: tuple[Band, ...], heard: Heard, rate: int) -> tuple[float, float]:
    hertz = np.geomspace(LOW_HZ, HIGH_SHARE * rate, SINES)
    at = 2 * np.pi * hertz / rate
    runs = lower(channel, common, rate)
    response = runs.factor * _response(runs.sos, at)
    if heard:
        total = np.zeros(hertz.size, dtype=complex)
        for factor, one in heard:
            does = lower(one.channel, (), rate)
            total += factor * does.factor * _response(does.sos, at) * np.exp(-1j * at * does.delay)
        response = response * total
    levels = 20 * np.log10(np.maximum(np.abs(response), 1e-12))
    worst = int(np.argmax(levels))
    return float(levels[worst]), float(hertz[worst])


def _response(sos: FloatArray, at: FloatArray) -> FloatArray:
    if not len(sos):
        return np.ones(at.size, dtype=complex)
    return np.asarray(scipy.signal.sosfreqz(sos, at)[1])


def _peak_db(samples: FloatArray, channel: Channel, common: tuple[Band, ...], heard: Heard, rate: int) -> float:
    mixed = samples
    if heard:
        mixed = np.zeros(samples.size)
        for factor, one in heard:
            does = lower(one.channel, (), rate)
            late = np.concatenate((np.zeros(does.delay), samples))[: samples.size]
            mixed = mixed + factor * does.factor * _through(does.sos, late)
    runs = lower(channel, common, rate)
    out = runs.factor * _through(runs.sos, mixed)
    return float(20 * np.log10(max(float(np.abs(out).max()), 1e-12)))


def _through(sos: FloatArray, samples: FloatArray) -> FloatArray:
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
