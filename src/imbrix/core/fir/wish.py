"""What a person wants of FIR taps, within which limits."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from imbrix.core.errors import InvalidError
from imbrix.core.tune.fir import FEWEST_TAPS
from imbrix.core.value import Value

Phase = Literal["linear", "excess", "keep"]
"""Whether all frequencies shall come at once, only what goes beyond the minimum phase be taken out, or nothing."""


class Wish(Value):
    """What taps shall do, and their limits.

    `low_hz` and `high_hz` are the span that is corrected; nothing is done half an octave beyond it. `magnitude` is
    whether they also level the channel to its target, within `boost_db` and `cut_db`; `beyond_db` is how much they may
    lift outside the span. `group_delay_ms` is the largest delay that is corrected, either way. What comes earlier than
    `pre_ms` before the main pulse stays `pre_db` under it. `latency_ms` is how late the main pulse may come; the middle
    of the taps where it is 0. What is corrected is seen through `cycles` periods of each frequency after the arrival,
    or through a gate of `gate_ms`; all of the sound where both are 0.
    """

    phase: Phase = "linear"
    magnitude: bool = False
    low_hz: Annotated[float, Field(ge=10, le=30_000)] = 200.0
    high_hz: Annotated[float, Field(ge=20, le=40_000)] = 16_000.0
    taps: Annotated[int, Field(ge=FEWEST_TAPS, le=4097)] = 1023
    boost_db: Annotated[float, Field(ge=0, le=18)] = 4.0
    cut_db: Annotated[float, Field(ge=0, le=40)] = 12.0
    beyond_db: Annotated[float, Field(ge=0, le=12)] = 1.0
    group_delay_ms: Annotated[float, Field(ge=0.01, le=50)] = 5.0
    pre_ms: Annotated[float, Field(ge=0, le=100)] = 3.0
    pre_db: Annotated[float, Field(ge=-80, le=-6)] = -40.0
    latency_ms: Annotated[float, Field(ge=0, le=500)] = 0.0
    cycles: Annotated[float, Field(ge=0, le=200)] = 6.0
    gate_ms: Annotated[float, Field(ge=0, le=2000)] = 0.0

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
