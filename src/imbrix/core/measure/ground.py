"""How near to a loudspeaker the microphone goes so that the floor disturbs least, and what a gate keeps there."""

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.value import Value

NEAREST = 1.5
"""Heights over the ground to one distance of the microphone: nearer, the drivers of one loudspeaker no longer sound as
one; farther, the ground comes too early and too loud (common practice, no source)."""


class Nearest(Value):
    """Where the microphone goes. `distance_m` before the loudspeaker, at its height; the ground's reflection comes
    `gate_s` after the direct sound and `under_db` below it; a gate that ends there keeps what is above `from_hz`."""

    height_m: float
    distance_m: float
    gate_s: float
    under_db: float
    from_hz: float


def nearest(height_m: float, celsius: float = 20.0) -> Nearest:
    """The useful distance for a loudspeaker `height_m` over the ground, and the gate that the ground leaves there.

    The ground reflects as a mirror: the way over it is sqrt(d^2 + 4 h^2). A gate of T seconds resolves 1/T hertz.
    Raises InvalidError for a height that is none.

    >>> one = nearest(1.0)
    >>> round(one.distance_m, 3), round(one.gate_s * 1e3, 2), round(one.from_hz)
    (0.667, 4.2, 238)
    """
    if not 0 < height_m < 100:
        raise InvalidError(f"a height of {height_m:g} m over the ground is none: more than 0 and under 100")
    distance = height_m / NEAREST
    over = float(np.hypot(distance, 2 * height_m))
    gate = (over - distance) / speed_of_sound(celsius)
    return Nearest(
        height_m=height_m,
        distance_m=distance,
        gate_s=gate,
        under_db=float(20 * np.log10(over / distance)),
        from_hz=1 / gate,
    )
