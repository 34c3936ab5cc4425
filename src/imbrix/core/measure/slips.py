"""Whether a device lost or doubled samples without a word: what it recorded then jumps in time."""

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import scipy.fft

from imbrix.core.measure.marker import MOST_DRIFT
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.sweep import deconvolve, sweep_within
from imbrix.core.signal.signal import FloatArray
from imbrix.core.signal.weighting import bands

LEAST_S, INPUTS_CYCLES = 0.3e-3, 0.05
"""Differences of a wire's delay from band to band that say nothing: what converters do at the upper end, and what the
high-pass of an input does at the lower one, in periods of the band."""
CLEAR = 0.9
"""How far the turns of phase within a band have to agree to tell a delay: noise does not."""
LOWEST_HZ = 50.0
NEAR_S = 0.25
"""A jump of more is not looked for: what lies farther from the wire's impulse is noise."""


def slip(loopback: FloatArray, schedule: Schedule) -> float | None:
    """By how many seconds a wire (n,) that carries what is played jumps in time; None where it keeps its time.

    An exponential sweep tells time by frequency: what comes after a jump has another group delay than what came before.
    It is read by third octaves of each sweep's impulse response, from the turn of phase from bin to bin. Later is
    positive: samples were doubled.
    """
    rate, sweep = schedule.sweep.rate, schedule.sweep
    near = min(round(NEAR_S * rate), schedule.period // 2)
    window = scipy.signal.windows.tukey(2 * near, 0.2)
    mids = bands(3, max(LOWEST_HZ, 1.5 * sweep.low_hz), min(0.4 * rate, sweep.high_hz / 1.5))
    edges = np.round(np.outer((2 ** (-1 / 6), 2 ** (1 / 6)), mids) * 4 * near / rate).astype(int)
    most = LEAST_S + INPUTS_CYCLES / mids + MOST_DRIFT * schedule.period / rate
    stimulus = sweep_within(sweep, schedule.period)
    begun: float | None = None
    for n, start in enumerate(schedule.sweeps):
        impulse = deconvolve(loopback[start : start + schedule.period], stimulus, rate).samples
        peak = int(np.argmax(np.abs(impulse)))
        around = np.take(impulse, np.arange(peak - near, peak + near), mode="wrap") * window
        spectrum = scipy.fft.rfft(np.roll(np.pad(around, near), -2 * near))
        turns = spectrum[1:] * np.conjugate(spectrum[:-1])
        sums = np.concatenate(([0.0], np.cumsum(turns)))
        sizes = np.concatenate(([0.0], np.cumsum(np.abs(turns))))
        turn = sums[edges[1]] - sums[edges[0]]
        told = np.flatnonzero(np.abs(turn) > CLEAR * (sizes[edges[1]] - sizes[edges[0]]))
        if told.size < 2:
            continue
        delays = peak / rate - np.angle(turn[told]) * 4 * near / (2 * np.pi * rate)
        middle = float(np.median(delays))
        if np.any(np.abs(delays - middle) > most[told]):
            # The band that the jump falls into tells a part of it.
            at = int(np.argmax(np.abs(np.diff(delays))))
            after, before = min(at + 2, delays.size - 1), max(at, 1)
            return float(np.median(delays[after:]) - np.median(delays[:before]))
        begun = middle if begun is None else begun
        if abs(middle - begun) > LEAST_S + MOST_DRIFT * n * schedule.period / rate:
            return middle - begun
    return None
