"""What a person can let intrude while something is measured: a lorry and a door in the air, hum in the cable."""

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.signal.signal import FloatArray
from imbrix.standins.practice import Practice


class Intrusions:
    """What intrudes: a lorry and a door in the air, hum in the cable."""

    def __init__(self, practice: Practice, size: int, random: np.random.Generator, rate: int) -> None:
        self._practice = practice
        self._rate = rate
        self._random = random
        self._lorry_at = 0.55 * size + random.uniform(-0.05, 0.05) * size
        self._door_at = 0.5 * size + random.uniform(-0.1, 0.1) * size
        self._low = scipy.signal.butter(2, 60.0, fs=rate, output="sos")
        self._low_state = np.zeros((1, 2))

    def sound(self, first: int, count: int) -> FloatArray:
        at = np.arange(first, first + count)
        total = np.zeros(count)
        if self._practice.lorry:
            white = self._random.standard_normal(count)
            rumble, self._low_state = scipy.signal.sosfilt(self._low, white, zi=self._low_state)
            total += 1.2 * rumble * np.exp(-0.5 * ((at - self._lorry_at) / (0.5 * self._rate)) ** 2)
        if self._practice.door:
            since = (at - self._door_at) / self._rate
            shape = np.where(since > 0, np.exp(-np.clip(since, 0, 10) / 0.06), 0.0)
            total += 0.06 * shape * self._random.standard_normal(count)
        return total

    def electric(self, first: int, count: int) -> FloatArray:
        if not self._practice.hum:
            return np.zeros(count)
        at = 2 * np.pi * 50 * np.arange(first, first + count) / self._rate
        return 10 ** (-58 / 20) * (np.sin(at) + 0.7 * np.sin(3 * at + 1) + 0.3 * np.sin(5 * at + 2))
