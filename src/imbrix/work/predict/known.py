"""What is known of a system's drivers, stacked for a prediction."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.signal.signal import ComplexArray
from imbrix.core.system.layout import Layout
from imbrix.work.takes.forces import Force
from imbrix.work.takes.shelf import Take


@dataclass(frozen=True)
class Scene:
    """Bare responses of the drivers that have a take: `rows` (d, n) complex, zero where nothing is known.

    `rate` is that of the processor that they are predicted through; a `spatial` one stands for a place that a
    microphone moves in, else for a spot. `spots` (p, d, n) are what some spots of that place hear of each, over its
    row; None where all were recorded at one of them only.
    """

    layout: Layout
    ids: tuple[str, ...]
    rows: ComplexArray
    known: np.ndarray
    takes: dict[str, Take]
    forces: dict[str, Force]
    known_takes: tuple[Take, ...] = ()
    rate: int = 48_000
    spatial: bool = False
    spots: ComplexArray | None = None

    @property
    def stamp(self) -> tuple[tuple[int, int | None], ...]:
        """What tells one scene from another: takes in force and all others of drivers, each with its correction."""
        in_force = [one for force in self.forces.values() for one in (force.take, force.moving) if one is not None]
        others = [one for one in self.known_takes if one.purpose == "driver" and not one.discarded]
        return tuple((one.id, one.details.correction) for one in (*in_force, *others))

    def at_spots(self, responses: ComplexArray) -> ComplexArray:
        """What of responses (d, n) through their channels the spots hear (p, d, n): as they are, where there is one."""
        return responses[None] if self.spots is None else self.spots * responses

    def index(self, channel: str) -> int | None:
        return self.ids.index(channel) if channel in self.ids else None
