"""The background noise of a place: rumble and hiss, a mains transformer's hum, an engine that idles."""

from dataclasses import dataclass

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.signal.signal import FloatArray

P0 = 20e-6
_STEADY_HZ = 0.4
"""How fast an engine's revolutions wander."""


@dataclass(frozen=True)
class Noise:
    """Levels in dB SPL. `rumble` falls 3 dB per octave above 100 Hz with a hiss under it; `hum` is what is heard of a
    transformer at 50 Hz and its harmonics; `engine` that of an engine firing `firing_hz` times a second."""

    rumble_db_spl: float = 38.0
    hiss_db: float = 0.0
    hum_db_spl: float | None = None
    engine_db_spl: float | None = None
    firing_hz: float = 25.0


class NoiseStream:
    """The noise as it goes on: blocks (n,) of pascals."""

    def __init__(self, noise: Noise, rate: int, random: np.random.Generator) -> None:
        self._noise, self._rate, self._random = noise, rate, random
        self._colour = scipy.signal.butter(1, 100.0, fs=rate, output="sos")
        self._state = np.zeros((1, 2))
        self._at = 0
        self._turn = 0.0
        self._speed = 0.0

    def block(self, count: int) -> FloatArray:
        noise = self._noise
        white = self._random.standard_normal(count)
        rumble, self._state = scipy.signal.sosfilt(self._colour, white, zi=self._state)
        # The rumble below 100 Hz carries most of the level; a tenth of it stays white.
        level = P0 * 10 ** (noise.rumble_db_spl / 20)
        made = level * (12.0 * rumble + 0.08 * 10 ** (noise.hiss_db / 20) * white)
        if noise.hum_db_spl is not None:
            made += P0 * 10 ** (noise.hum_db_spl / 20) * self._hum(count)
        if noise.engine_db_spl is not None:
            made += P0 * 10 ** (noise.engine_db_spl / 20) * self._engine(count)
        self._at += count
        return made

    def _hum(self, count: int) -> FloatArray:
        at = 2 * np.pi * 50 * (self._at + np.arange(count)) / self._rate
        return np.sin(2 * at) + 0.5 * np.sin(4 * at + 1) + 0.4 * np.sin(at + 2) + 0.2 * np.sin(6 * at)

    def _engine(self, count: int) -> FloatArray:
        """Half orders too: no cylinder fires as the others do. The revolutions wander by a few in a thousand."""
        keeps = np.exp(-2 * np.pi * _STEADY_HZ * count / self._rate)
        before = self._speed
        self._speed = keeps * before + np.sqrt(1 - keeps**2) * 0.006 * float(self._random.standard_normal())
        wander = np.linspace(before, self._speed, count, endpoint=False)
        turn = self._turn + np.cumsum(2 * np.pi * self._noise.firing_hz * (1 + wander) / self._rate)
        self._turn = float(turn[-1])
        half = np.exp(0.5j * turn + 3.5j)
        one = half * half
        two = one * one
        return np.imag(0.35 * half + one + 0.3 * one * half + two * (0.6 + 0.3 * one + 0.2 * two + 0.1 * two * two))
