"""Polarity of a driver from pulses: which way it moves first, and how sure that is."""

from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.signal.signal import FloatArray


@dataclass(frozen=True, slots=True)
class PulsePolarity:
    """`positive` is the direction of the first movement, `sure` from 0 to 1; `shape` (n,) the averaged pulse."""

    positive: bool
    sure: float
    shape: FloatArray
    rate: int


def read_pulses(
    microphone: FloatArray, reference: FloatArray, rate: int, spacing: int, count: int, quiet: int, hertz: float
) -> PulsePolarity | None:
    """Average `count` pulses, `spacing` samples apart, that begin after `quiet` samples; None where none is heard.

    The reference (loopback) or the stimulus (n,) says when each pulse began. The microphone's average is freed of
    its offset and of what lies far above the pulse's band; the first deflection that stands clear of the noise and
    reaches a quarter of the greatest one decides. Sureness weighs its height against the noise and against the
    swing that follows it.
    """
    start = quiet + int(np.argmax(np.abs(reference[quiet : quiet + spacing])))
    usable = [start + n * spacing for n in range(count) if start + (n + 1) * spacing <= microphone.size]
    low = scipy.signal.sosfiltfilt(
        scipy.signal.butter(2, min(4 * hertz, 0.4 * rate), fs=rate, output="sos"), microphone
    )
    before = max(1, round(0.005 * rate))
    pieces = np.array([low[max(0, at - before) : at - before + spacing] for at in usable])
    mean = pieces.mean(axis=0)
    mean = mean - mean[: before // 2].mean()
    rest = pieces - mean
    noise = float(np.sqrt(np.mean(rest**2) / max(1, len(usable)))) + 1e-12
    level = np.abs(mean)
    top = float(level.max())
    if top < 6 * noise:
        return None
    at = int(np.argmax(level >= max(0.25 * top, 5 * noise)))
    end = at
    while end + 1 < level.size and np.sign(mean[end + 1]) == np.sign(mean[at]):
        end += 1
    first = float(level[at : end + 1].max())
    later = float(level[end + 1 :].max()) if end + 1 < level.size else 0.0
    clear = 1 - min(1.0, 5 * noise / first)
    sure = clear * min(1.0, 1.5 * first / (first + 0.5 * later))
    return PulsePolarity(bool(mean[at] > 0), float(sure), mean, rate)
