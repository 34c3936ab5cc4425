"""Pictures: the curves and figures that a stage shows, ready to be drawn. The front end computes nothing of its own."""

from dataclasses import dataclass, field
from typing import Any, Literal

from imbrix.core.signal.signal import FloatArray
from imbrix.work.views.facts import Facts

Pane = Literal["main", "lower", "scan", "time", "map", "live-phase", "live-coherence", "live-impulse", "wave"]

MAP_EVERY = 4
"""A map has a column for every so many points of the grid: no screen shows more."""


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
