"""Pictures: the curves and figures that a stage shows, ready to be drawn. The front end computes nothing of its own."""

from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np

from imbrix.core.signal.signal import FloatArray
from imbrix.work.views.facts import Facts

Pane = Literal["main", "lower", "scan", "time", "map", "live-phase", "live-coherence", "live-impulse", "wave"]

MAP_EVERY = 4
"""A map has a column for every so many points of the grid: no screen shows more."""


def ticks(low: float, high: float, most: int = 6) -> list[float]:
    """Round values from `low` to `high`, at most so many of them, in steps of 1, 2, 2.5 or 5 times a power of ten."""
    wide = max(high - low, 1e-9)
    base = 10.0 ** np.floor(np.log10(wide / most))
    step = next(base * one for one in (1, 2, 2.5, 5, 10, 20) if wide / (base * one) <= most - 1)
    count = int(np.floor(high / step + 1e-9)) - int(np.ceil(low / step - 1e-9)) + 1
    first = np.ceil(low / step - 1e-9)
    return [round(float((first + n) * step), 6) + 0.0 for n in range(count)]


@dataclass(frozen=True)
class Curve:
    """One line: `values` (n,) on the grid, or against `x` where that is given."""

    id: str
    values: FloatArray
    role: str
    label: str = ""
    pane: Pane = "main"
    channel: str = ""
    x: FloatArray | None = None


@dataclass
class Picture:
    """Curves and the figures that go with them."""

    curves: list[Curve] = field(default_factory=list)
    facts: Facts = field(default_factory=lambda: Facts())

    def add(self, id: str, values: FloatArray, role: str, **more: Any) -> None:
        self.curves.append(Curve(id, values, role, **more))
