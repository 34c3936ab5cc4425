"""Where a crossover begins when a person asks for one: common practice, no source."""

from imbrix.core.system.layout import Kind
from imbrix.core.system.layouts import CAUTIOUS_CORNER_HZ
from imbrix.core.value import Value

INSIDE = 1.3
"""A corner stands by this factor within the usable band, so that both ways still play where they overlap."""
UNKNOWN_HIGH_HZ = 10_000.0


class Starts(Value):
    """Corners in hertz to begin with."""

    high_pass_hz: float
    low_pass_hz: float


def starts(kind: Kind, band_hz: tuple[float, float] | None) -> Starts:
    """Corners to begin with for a driver whose usable band may be known.

    Without a take the high-pass is the cautious one of its kind, from which none comes to harm.
    """
    if band_hz is None:
        return Starts(high_pass_hz=CAUTIOUS_CORNER_HZ[kind], low_pass_hz=round(UNKNOWN_HIGH_HZ / INSIDE))
    low, high = band_hz
    return Starts(high_pass_hz=round(max(low, 20.0) * INSIDE), low_pass_hz=round(high / INSIDE))
