"""What a person wants of FIR taps, within which limits."""

from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from imbrix.core.errors import InvalidError
from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune.fir import FEWEST_TAPS
from imbrix.core.value import Value

Phase = Literal["linear", "excess", "keep"]
"""Whether all frequencies shall come at once, only what goes beyond the minimum phase be taken out, or nothing."""


Boost = Annotated[float, Field(ge=0, le=18)]
Cut = Annotated[float, Field(ge=0, le=40)]
Tolerance = Annotated[float, Field(ge=0, le=12)]
MOST_BOUNDS = 8
Smoothing = Literal[3, 6, 12, 24, 48]


class Bound(Value):
    """Limits of a band of frequencies, in dB: how much is lifted and cut there, and how far from its target a level is
    left as it is."""

    low_hz: Annotated[float, Field(ge=10, le=40_000)]
    high_hz: Annotated[float, Field(ge=10, le=40_000)]
    boost_db: Boost = 4.0
    cut_db: Cut = 12.0
    tolerance_db: Tolerance = 0.0

    @model_validator(mode="after")
    def _can_be(self) -> "Bound":
        if self.low_hz >= self.high_hz:
            raise InvalidError(f"a band of limits from {self.low_hz:g} to {self.high_hz:g} Hz holds nothing")
        return self


class Wish(Value):
    """What taps shall do, and their limits.

    `low_hz` and `high_hz` are the span that is corrected; nothing is done half an octave beyond it. `magnitude` is
    whether they also level the channel to its target, within `boost_db` and `cut_db`; what strays from it by no more
    than `tolerance_db` is left as it is, of what strays by more so much is left. `bounds` say otherwise for bands, as
    on each side of a crossover, the later ones before the earlier; `beyond_db` is how much they may lift outside the
    span. `group_delay_ms` is the largest delay that is corrected, either way. What comes earlier than `pre_ms` before
    the main pulse stays `pre_db` under it. `latency_ms` is how late the main pulse may come; the middle of the taps
    where it is 0. What is corrected is seen through `cycles` periods of each frequency after the arrival, or through
    a gate of `gate_ms`; all of the sound where both are 0; and smoothed over one `smoothing`-th of an octave.

    `here` is for one chair and no other: with `magnitude`, dips that reflections make at all places recorded there are
    lifted too, and the ways are levelled among each other as that window hears them.
    """

    phase: Phase = "linear"
    magnitude: bool = False
    low_hz: Annotated[float, Field(ge=10, le=30_000)] = 200.0
    high_hz: Annotated[float, Field(ge=20, le=40_000)] = 16_000.0
    taps: Annotated[int, Field(ge=FEWEST_TAPS, le=4097)] = 1023
    boost_db: Boost = 4.0
    cut_db: Cut = 12.0
    tolerance_db: Tolerance = 0.0
    bounds: Annotated[tuple[Bound, ...], Field(max_length=MOST_BOUNDS)] = ()
    beyond_db: Annotated[float, Field(ge=0, le=12)] = 1.0
    group_delay_ms: Annotated[float, Field(ge=0.01, le=50)] = 5.0
    pre_ms: Annotated[float, Field(ge=0, le=100)] = 3.0
    pre_db: Annotated[float, Field(ge=-80, le=-6)] = -40.0
    latency_ms: Annotated[float, Field(ge=0, le=500)] = 0.0
    cycles: Annotated[float, Field(ge=0, le=200)] = 6.0
    gate_ms: Annotated[float, Field(ge=0, le=2000)] = 0.0
    smoothing: Smoothing = 12
    here: bool = False

    @model_validator(mode="after")
    def _can_be(self) -> "Wish":
        if self.low_hz * 2**0.5 > self.high_hz:
            raise InvalidError(
                f"a span from {self.low_hz:g} to {self.high_hz:g} Hz is no half octave: there is nothing to correct"
            )
        if 0 < self.cycles < 1:
            raise InvalidError("a window has one cycle at least")
        if self.phase == "keep" and not self.magnitude:
            raise InvalidError("neither phase nor magnitude is to be corrected: there is nothing to do")
        return self

    def limits_at(self, frequencies: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Boost, cut and tolerance in dB at frequencies (n,) of the span, each (n,)."""
        made = np.empty((3, frequencies.size))
        made[:] = np.array([[self.boost_db], [self.cut_db], [self.tolerance_db]])
        for one in self.bounds:
            inside = (frequencies >= one.low_hz) & (frequencies <= one.high_hz)
            made[:, inside] = np.array([[one.boost_db], [one.cut_db], [one.tolerance_db]])
        return made[0], made[1], made[2]
