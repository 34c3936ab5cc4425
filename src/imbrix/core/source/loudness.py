"""How loud a source gets before it distorts: a tone of full scale, heard while somebody turns the volume up.

Distortion is the power of the second to tenth harmonic over that of the tone (IEC 60268-3), read in windows that are
steady: while the knob moves nothing is judged.
"""

from dataclasses import dataclass

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import scipy.fft

from imbrix.core.errors import InvalidError
from imbrix.core.signal.signal import FloatArray, decibels

TONES_HZ = (50, 1000)
"""What is offered: the treble and mids of a source rarely clip before these."""
DISTORTED = 0.01
"""From this share of distortion on a source counts as overdriven (common practice, no source)."""
WINDOW_S = 0.4
"""Whole periods of both tones, in its halves too."""
STEADY = 0.01
"""A window is steady where the level of its halves differs by no more."""
HARMONICS = 10
HEARD_DBFS = -70.0
LINES = 4
"""The window's main lobe is so many lines wide to each side."""


@dataclass(frozen=True)
class Heard:
    """A steady window: the tone's frequency, the level of its peak in dBFS, and distortion as a share of it."""

    hertz: float
    level_db: float
    distortion: float


def tone(hertz: int, rate: int, seconds: float = 30.0) -> FloatArray:
    """The tone at full scale on both sides (n, 2), a whole number of periods long. Raises InvalidError."""
    if hertz not in TONES_HZ:
        raise InvalidError(f"a tone of {hertz} Hz; there are {' and '.join(map(str, TONES_HZ))} Hz")
    size = round(seconds * rate)
    sine = np.sin(2 * np.pi * hertz * np.arange(size) / rate)
    return np.stack((sine, sine), axis=1)


def heard(samples: FloatArray, rate: int) -> Heard | None:
    """What a window (n,) holds; None where it is silent, where its level moves, or where it is no tone."""
    halves = [float(np.sqrt(np.mean(half**2))) for half in np.array_split(samples, 2)]
    if min(halves) <= 0 or abs(halves[0] / halves[1] - 1) > STEADY:
        return None
    size = samples.size
    window = scipy.signal.windows.blackmanharris(size, sym=False)
    power = np.abs(scipy.fft.rfft(samples * window)) ** 2 / (size * float(np.sum(window**2))) * 2
    first = max(LINES + 1, round(20 * size / rate))
    top = first + int(np.argmax(power[first : round(5000 * size / rate)]))

    def about(line: float) -> float:
        at = round(line)
        return float(power[max(0, at - LINES) : at + LINES + 1].sum()) if at + LINES < power.size else 0.0

    near = power[top - LINES : top + LINES + 1]
    line = float(np.sum(np.arange(top - LINES, top + LINES + 1) * near) / near.sum())
    alone = about(line)
    level = float(decibels(np.sqrt(2 * alone)))
    if level < HEARD_DBFS or alone < 0.5 * float(power[first:].sum()):
        return None
    harmonics = sum(about(n * line) for n in range(2, HARMONICS + 1))
    noise = float(np.median(power[first:])) * (2 * LINES + 1) * (HARMONICS - 1)
    return Heard(line * rate / size, level, float(np.sqrt(max(0.0, harmonics - noise) / alone)))


class Loudness:
    """Feed blocks (n,) of a wire; `clean_db` is the highest level without distortion so far, `over_db` the lowest with
    it, None where there was none."""

    def __init__(self, rate: int) -> None:
        self.rate = rate
        self.now: Heard | None = None
        self.hertz = 0.0
        self.clean_db: float | None = None
        self.over_db: float | None = None
        self._size = round(WINDOW_S * rate)
        self._held = np.zeros(0)

    def feed(self, block: FloatArray) -> bool:
        """Take a block in; whether a window was read."""
        self._held = np.concatenate((self._held, block))
        read = False
        while self._held.size >= self._size:
            window, self._held = np.split(self._held, [self._size])
            self.now = heard(window, self.rate)
            read = True
            if self.now is None:
                continue
            self.hertz = self.now.hertz
            if self.now.distortion < DISTORTED:
                self.clean_db = max(self.now.level_db, self.clean_db if self.clean_db is not None else -np.inf)
            else:
                self.over_db = min(self.now.level_db, self.over_db if self.over_db is not None else np.inf)
        return read
