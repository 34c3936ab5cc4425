"""Which of several sweeps a recording holds."""

from collections.abc import Callable, Iterable

import numpy as np
import scipy.fft

from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.signal.signal import FloatArray

TOGETHER_S = 0.055
LEAST_TOGETHER = 0.5
"""With the right sweep taken out, half of what a place answers lies within this time at least; with one of another
length, rate or band it stays spread over seconds (in drawn places 83 to 100 % against 9 to 37 %)."""


def compactness(heard: FloatArray, settings: SweepSettings) -> tuple[float, float]:
    """How far the answer in a recording (n,) lies together once a sweep is taken out of it.

    Taken out is the sweep's phase alone (phase-only matched filter), within its band: nothing is amplified, so noise
    outside the band or under the sweep does not count for more than it is.

    Returns
    -------
    together : the greatest share of the energy, 0 to 1, that lies within 55 ms.
    sharpness : the greatest power over the whole energy, in 1/s: of sweeps that differ by little the right one has the
        sharpest answer.
    """
    rate = settings.rate
    stimulus = exponential_sweep(settings).samples[: settings.length]
    size = scipy.fft.next_fast_len(max(heard.size, stimulus.size), real=True)
    hertz = scipy.fft.rfftfreq(size, 1 / rate)
    turned = scipy.fft.rfft(heard, size) * np.exp(-1j * np.angle(scipy.fft.rfft(stimulus, size)))
    turned[(hertz < settings.low_hz) | (hertz > settings.high_hz)] = 0.0
    power = scipy.fft.irfft(turned, size) ** 2
    total = float(power.sum())
    if total <= 0.0:
        return 0.0, 0.0
    width = round(TOGETHER_S * rate)
    sums = np.cumsum(np.concatenate((power, power[:width])))
    return float((sums[width:] - sums[:-width]).max()) / total, float(power.max()) / total * rate


def recognised(heard_at: Callable[[int], FloatArray], sweeps: Iterable[SweepSettings]) -> SweepSettings | None:
    """The one of `sweeps` that a recording holds, the first of those that fit alike; None where it holds none.

    Parameters
    ----------
    heard_at : gives the recording (n,) at a sample rate in hertz: a sweep is looked for at its own.
    sweeps : what it may hold. Sweeps that differ in level only cannot be told apart.
    """
    best, found = 0.0, None
    for one in sweeps:
        heard = heard_at(one.rate)
        if heard.size < one.length:
            continue
        together, sharpness = compactness(heard, one)
        if together >= LEAST_TOGETHER and sharpness > best * 1.02:
            best, found = sharpness, one
    return found
