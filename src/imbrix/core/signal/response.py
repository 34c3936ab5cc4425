"""From an impulse response to a complex response on the common grid, and to its time of arrival."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them
import scipy.fft

from imbrix.core.signal.signal import ComplexArray, FloatArray, Impulse

_ORDER = np.arange(-3, 5)


Shape = Literal["half-cosine", "hann", "blackman", "rectangular"]
"""How a gate ends: its last part by a half-cosine, all of it by half a Hann or Blackman window, or at once."""


@dataclass(frozen=True, slots=True)
class Gate:
    """How much of an impulse is looked at: seconds before and after its arrival, the share faded, and how it fades."""

    before_s: float = 0.020
    after_s: float = 0.500
    fade: float = 0.35
    shape: Shape = "half-cosine"


def speed_of_sound(celsius: float = 20.0) -> float:
    """Metres per second in dry air, from the ideal gas: 331.3 at 0 C, 343.2 at 20 C (compare ISO 9613-1)."""
    return float(331.3 * np.sqrt(1.0 + celsius / 273.15))


def arrival(impulse: Impulse) -> float:
    """Time in seconds from zero to the peak of the impulse's analytic envelope, to a fraction of a sample.

    The envelope (magnitude of the analytic signal) does not care about polarity or phase. About its peak
    it is interpolated 32-fold by a windowed sinc, and a parabola through three points gives the rest.
    """
    signal = analytic(impulse.samples)
    peak = int(np.argmax(np.abs(signal)))
    first, last = max(0, peak - 32), min(signal.size, peak + 33)
    n = np.arange(first, last)
    fine = peak + np.linspace(-1, 1, 65)
    between = np.sinc(fine[:, None] - n) * np.cos(np.pi * (fine[:, None] - n) / 68)
    level = np.abs(between @ signal[first:last])
    top = int(np.clip(np.argmax(level), 1, 63))
    left, middle, right = level[top - 1 : top + 2]
    bend = left - 2 * middle + right
    offset = 0.5 * (left - right) / bend if bend < 0 else 0.0
    return (fine[top] + offset / 32 - impulse.zero) / impulse.rate


def analytic(samples: FloatArray) -> ComplexArray:
    """The analytic signal (n,) of real samples, by zeroing negative frequencies."""
    size = scipy.fft.next_fast_len(samples.size)
    spectrum = np.zeros(size, dtype=complex)
    spectrum[: size // 2 + 1] = scipy.fft.rfft(samples, size)
    spectrum[1 : (size + 1) // 2] *= 2
    return scipy.fft.ifft(spectrum, overwrite_x=True)[: samples.size]


def gated(impulse: Impulse, gate: Gate, arrival_s: float | None = None) -> Impulse:
    """The stretch of the impulse within the gate, ends faded by half-cosines; time zero is kept.

    `arrival_s` where the impulse's arrival is known already.
    """
    at = arrival(impulse) if arrival_s is None else arrival_s
    centre = round(at * impulse.rate) + impulse.zero
    first = max(0, centre - round(gate.before_s * impulse.rate))
    last = min(impulse.samples.size, centre + round(gate.after_s * impulse.rate))
    samples = impulse.samples[first:last].copy()
    rise = min(centre - first, round(gate.before_s * impulse.rate * 0.5))
    fall = round((last - centre) * gate.fade)
    if gate.shape in ("hann", "blackman"):
        whole = np.hanning if gate.shape == "hann" else np.blackman
        samples[centre - first :] *= whole(2 * (last - centre) + 1)[last - centre + 1 :]
        fall = 0
    elif gate.shape == "rectangular":
        rise = fall = 0
    if rise > 1:
        samples[:rise] *= np.sin(np.linspace(0, np.pi / 2, rise)) ** 2
    if fall > 1:
        samples[-fall:] *= np.cos(np.linspace(0, np.pi / 2, fall)) ** 2
    return Impulse(samples, impulse.rate, impulse.zero - first)


def response(
    impulse: Impulse, frequencies: FloatArray, gate: Gate | None = None, arrival_s: float | None = None
) -> ComplexArray:
    """Complex response (m,) at `frequencies`, phase referred to the impulse's time zero.

    `arrival_s` is what the gate is set by, where the impulse's arrival is known already.

    The spectrum is oversampled at least fourfold with the arrival taken out, interpolated there by
    eight-point Lagrange polynomials, and given its arrival back. Frequencies at or above half the sample
    rate become NaN.
    """
    piece = gated(impulse, gate, arrival_s) if gate else impulse
    peak = int(np.argmax(np.abs(piece.samples)))
    size = scipy.fft.next_fast_len(4 * piece.samples.size, real=True)
    padded = np.zeros(size)
    padded[: piece.samples.size] = piece.samples
    spectrum = scipy.fft.rfft(np.roll(padded, -peak))
    position = frequencies * size / impulse.rate
    inside = position < spectrum.size - 5
    base = np.where(inside, np.floor(position), 4).astype(int)
    part = np.where(inside, position - base, 0.0)
    weights = np.ones((_ORDER.size, frequencies.size))
    for row, node in enumerate(_ORDER):
        for other in _ORDER:
            if other != node:
                weights[row] *= (part - other) / (node - other)
    index = base[None, :] + _ORDER[:, None]
    taken = spectrum[np.abs(index)]
    values = np.where(index < 0, np.conjugate(taken), taken)
    result = np.sum(weights * values, axis=0)
    result *= np.exp(-2j * np.pi * frequencies * (peak - piece.zero) / impulse.rate)
    result[~inside] = np.nan
    return result


def time_shift(first: ComplexArray, second: ComplexArray, frequencies: FloatArray, limit_s: float = 0.02) -> float:
    """Seconds by which `second` arrives later than `first`: the delay that best explains their phase.

    Maximises the real part of the cross-spectrum summed with the delay removed (a generalised
    cross-correlation, C. H. Knapp and G. C. Carter 1976), first on a grid finer than an eighth of the
    shortest period, then by Brent's method.
    """
    cross = second * np.conjugate(first)
    weight = cross * frequencies / (np.abs(cross).max() + 1e-300)  # a log grid thins out towards the top
    span = 2j * np.pi * frequencies

    def agreement(delay: float) -> float:
        return -float(np.real(weight @ np.exp(span * delay)))

    step = 1.0 / (8.0 * frequencies.max())
    trial = np.arange(-limit_s, limit_s + step, step)
    # Rows of even steps: each trial is a row's begin and a step on, so that few exponentials make them all.
    row = int(np.ceil(np.sqrt(trial.size)))
    begins = np.exp(np.outer(trial[::row], span)) * weight
    coarse = np.real(begins @ np.exp(np.outer(span, step * np.arange(row)))).ravel()[: trial.size]
    best = trial[int(np.argmax(coarse))]
    found = scipy.optimize.minimize_scalar(
        agreement, bounds=(best - step, best + step), method="bounded", options={"xatol": 1e-9}
    )
    return float(found.x)
