"""What is played for one take, and where its parts lie: quiet, marker, sweeps, marker."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.measure.marker import Marker
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.signal.signal import FloatArray

GAP_S = 0.4
"""Silence between a marker and what follows it, in which the processor changes over."""


@dataclass(frozen=True)
class Schedule:
    """A take's parts in samples. `repeats` sweeps follow `quiet_s` of silence; `marker` frames them where given."""

    sweep: SweepSettings
    repeats: int = 1
    quiet_s: float = 0.8
    marker: Marker | None = None

    def __post_init__(self) -> None:
        if not 1 <= self.repeats <= 32:
            raise InvalidError(f"{self.repeats} repeats; 1 to 32 are possible")

    @cached_property
    def quiet(self) -> int:
        """Samples of silence before the first sound, from which the noise is read."""
        return round(self.quiet_s * self.sweep.rate)

    @cached_property
    def period(self) -> int:
        """Samples from the start of one sweep to the start of the next."""
        return self.sweep.length + round(self.sweep.tail_s * self.sweep.rate)

    @cached_property
    def _gap(self) -> int:
        return round(GAP_S * self.sweep.rate)

    @cached_property
    def sweeps(self) -> tuple[int, ...]:
        """The sample at which each sweep starts."""
        first = self.quiet + (self.marker.length + self._gap if self.marker else 0)
        return tuple(first + n * self.period for n in range(self.repeats))

    @cached_property
    def markers(self) -> tuple[int, ...]:
        """The sample at which each marker starts: two, or none."""
        if self.marker is None:
            return ()
        return (self.quiet, self.sweeps[-1] + self.period)

    @cached_property
    def size(self) -> int:
        """Samples in all."""
        end = self.sweeps[-1] + self.period
        return end + (self.marker.length + self._gap if self.marker else 0)

    @cached_property
    def changes(self) -> tuple[int, int] | None:
        """The samples at which the processor changes over from the anchor to the driver and back."""
        if self.marker is None:
            return None
        return self.quiet + self.marker.length + self._gap // 2, self.sweeps[-1] + self.period - self._gap // 4

    def apart(self) -> FloatArray:
        """All that is played (size, 2): sweeps on the first output, markers on the second."""
        whole = self.samples()
        both = np.zeros((self.size, 2))
        both[:, 0] = whole
        for start in self.markers:
            assert self.marker is not None
            piece = slice(start, start + self.marker.length)
            both[piece, 1], both[piece, 0] = whole[piece], 0.0
        return both

    def samples(self) -> FloatArray:
        """All that is played (size,)."""
        out = np.zeros(self.size)
        sweep = exponential_sweep(self.sweep).samples[: self.sweep.length]
        for start in self.sweeps:
            out[start : start + sweep.size] = sweep
        for start in self.markers:
            assert self.marker is not None
            out[start : start + self.marker.length] = self.marker.samples()
        return out
