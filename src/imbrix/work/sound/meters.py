"""Meters: levels of the inputs in use, with their peaks held for a while."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.measure.reading import CLIPPING
from imbrix.core.signal.signal import FloatArray
from imbrix.work.rig.choices import Rig

HOLD_S = 1.5


@dataclass(frozen=True)
class Meter:
    """Level of one input in dBFS: of the last block, the peak held, the greatest so far."""

    name: str
    now: float
    held: float
    most: float


def columns(block: FloatArray, wanted: tuple[int | None, ...]) -> FloatArray:
    """The inputs asked for out of all; one that is not there is silent."""
    out = np.zeros((block.shape[0], len(wanted)))
    for column, number in enumerate(wanted):
        if number is not None and number < block.shape[1]:
            out[:, column] = block[:, number]
    return out


class Meters:
    """Levels of the inputs in use, the measuring one first, with their peaks held for a while."""

    def __init__(self, chosen: Rig, rate: int, used: tuple[int, ...]) -> None:
        self._names = [chosen.input_names[n] if n < len(chosen.input_names) else f"Input {n + 1}" for n in used]
        self._used = used
        self._rate = rate
        self._held = [(-120.0, 0)] * len(used)
        self.all: tuple[Meter, ...] = ()
        self.peak = -120.0
        self.clipped: str | None = None

    def take(self, block: FloatArray, at: int) -> None:
        here = [n for n in self._used if n < block.shape[1]]
        tops = np.maximum(np.abs(block[:, here]).max(axis=0), 1e-6)
        shown = []
        for n, top in enumerate(tops):
            level = round(float(20 * np.log10(top)), 1)
            held, since = self._held[n]
            if level >= held or at - since > HOLD_S * self._rate:
                self._held[n] = (level, at)
            most = max(level, self.all[n].most if self.all else -120.0)
            shown.append(Meter(self._names[n], level, self._held[n][0], most))
            if top >= CLIPPING:
                self.clipped = f"the input {self._names[n]}"
        self.all = tuple(shown)
        self.peak = self.all[0].most if shown else -120.0
