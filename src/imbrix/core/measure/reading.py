"""From a recording to what it shows: impulse, response, noise, arrival, polarity, and whether it is any good."""

from dataclasses import dataclass

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import scipy.fft

from imbrix.core.errors import UnusableError
from imbrix.core.measure.sweep import deconvolve
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.measures import signal_over_noise
from imbrix.core.signal.response import Gate, arrival, response
from imbrix.core.signal.signal import ComplexArray, FloatArray, Impulse, decibels

EARLY_S = 0.05
LEAST_PEAK_DBFS = -75.0
LEAST_SIGNAL_OVER_NOISE_DB = 10.0
CLIPPING = 0.9999
APART_S = 0.35
"""So long after the gate nothing but noise is left."""
NOISE_S, SOUND_S = (1.0, 2.0), (-0.02, 0.6)
"""Stretches of an impulse response, in seconds from its zero, that hold nothing but noise, and the sound."""
FADED = 0.05
"""So much of a stretch is faded at its ends: its first 20 ms come before the sound, of which nothing may be lost."""
CERTAIN = 10.0
"""What is less than so many times the noise does not count."""


@dataclass(frozen=True, slots=True)
class Shown:
    """What one recording shows on the common grid.

    `response` (n,) is complex, referred to the reference's start; NaN where it lies less than 6 dB over its
    noise. `over_noise_db` (n,) is the signal over noise at 1/3 octave. `timed` says whether delays relative to
    other takes mean anything.
    """

    response: ComplexArray
    over_noise_db: FloatArray
    arrival_s: float
    timed: bool


@dataclass(frozen=True, slots=True)
class Reading(Shown):
    """What one recording shows, and the impulse response that shows it."""

    impulse: Impulse

    @property
    def shown(self) -> Shown:
        """It without the impulse, a hundredth of its size."""
        return Shown(self.response, self.over_noise_db, self.arrival_s, self.timed)


def check_recording(microphone: FloatArray, rate: int, seconds: float) -> None:
    """Refuse what cannot be a take: too short, silent or clipped. Raises UnusableError."""
    if microphone.size / rate < seconds:
        raise UnusableError(
            f"the recording lasts {microphone.size / rate:.2f} s, the sweep alone lasts {seconds:.2f} s: "
            "it was stopped too early or is of another sweep"
        )
    peak = float(np.abs(microphone).max())
    if peak >= CLIPPING:
        first = int(np.argmax(np.abs(microphone) >= CLIPPING)) / rate
        raise UnusableError(
            f"the microphone input clips, first at {first:.2f} s: lower the input gain or the output level"
        )
    if 20 * np.log10(peak + 1e-12) < LEAST_PEAK_DBFS:
        raise UnusableError(
            f"the microphone hears nothing (peak {20 * np.log10(peak + 1e-12):.0f} dBFS): "
            "check its cable and power, the input chosen, and whether the amplifier is on"
        )


def read_recording(
    microphone: FloatArray, reference: FloatArray, rate: int, timed: bool, gate: Gate | None = None
) -> Reading:
    """Deconvolve a recording by its reference (loopback or stimulus) and read it on the common grid."""
    gate = gate or Gate()
    impulse = deconvolve(microphone, reference, rate, zero=round(EARLY_S * rate))
    return read_impulse(impulse, timed, gate)


def read_impulse(impulse: Impulse, timed: bool, gate: Gate | None = None) -> Reading:
    """Read an impulse response that came from anywhere.

    The noise is read through the same gate once more, 0.35 s after its end, where the response has died and no harmonic
    falls; in an impulse too short for that the noise is not known (zero).
    """
    gate = gate or Gate()
    grid = log_grid()
    if impulse.samples.size < 64:
        raise UnusableError(f"an impulse of {impulse.samples.size} samples shows nothing")
    if not np.abs(impulse.samples).max() > 0:
        raise UnusableError("the impulse response is silent")
    comes = arrival(out_of_noise(impulse))
    values = response(impulse, grid, gate, comes)
    over = np.full(grid.size, 120.0)
    later = comes + gate.before_s + gate.after_s + APART_S
    if round((later + gate.after_s) * impulse.rate) + impulse.zero < impulse.samples.size:
        noise = response(impulse, grid, gate, later)
        known = np.isfinite(values)
        over = np.where(
            known, signal_over_noise(np.where(known, values, 0), np.where(known, noise, 1e-12), grid), -np.inf
        )
    if over.max() < LEAST_SIGNAL_OVER_NOISE_DB:
        raise UnusableError(
            f"no more than {max(over.max(), 0):.0f} dB over the noise anywhere: the signal does not reach the "
            "microphone, another driver is muted, or the place is too loud"
        )
    values = np.where(over >= 6.0, values, np.nan)
    return Reading(values, over, comes, timed, impulse)


def out_of_noise(impulse: Impulse) -> Impulse:
    """The impulse response with what is no more than noise weighted down (N. Wiener 1949), so that its envelope peaks
    where the sound comes: nearly all the noise of a sweep's deconvolution lies where the driver plays nothing.

    The noise is read where nothing else falls. An impulse that is too short for that is left as it is, and one of which
    nothing is left that peaks where sound may come.
    """
    rate, samples = impulse.rate, impulse.samples
    quiet, loud = (
        samples[impulse.zero + round(first * rate) : impulse.zero + round(last * rate)]
        for first, last in (NOISE_S, SOUND_S)
    )
    if quiet.size < (NOISE_S[1] - NOISE_S[0]) * rate * 0.99 or not quiet.any():
        return impulse
    size = scipy.fft.next_fast_len(samples.size, real=True)
    hertz = scipy.fft.rfftfreq(size, 1 / rate)
    powers = []
    for part in (loud, quiet):
        power = np.abs(scipy.fft.rfft(part * scipy.signal.windows.tukey(part.size, FADED))) ** 2 / part.size
        own = scipy.fft.rfftfreq(part.size, 1 / rate)
        edges = np.concatenate(([0.0], np.geomspace(20.0, rate / 2, 3 * round(np.log2(rate / 40)))))
        which = np.clip(np.searchsorted(edges, own, "right") - 1, 0, edges.size - 2)
        means = np.bincount(which, power, edges.size - 1) / np.maximum(np.bincount(which, minlength=edges.size - 1), 1)
        powers.append(np.interp(hertz, np.sqrt(np.maximum(edges[:-1], 10.0) * edges[1:]), means))
    weight = np.clip(1 - CERTAIN * powers[1] / np.maximum(powers[0], 1e-300), 0, 1)
    left = scipy.fft.irfft(scipy.fft.rfft(samples, size) * weight, size)[: samples.size]
    peak = (int(np.argmax(np.abs(left))) - impulse.zero) / rate
    return Impulse(left, rate, impulse.zero) if left.any() and SOUND_S[0] <= peak <= SOUND_S[1] else impulse


def peak_dbfs(samples: FloatArray) -> float:
    """Peak level of samples in dBFS."""
    return float(decibels(np.abs(samples).max())) if samples.size else -240.0
