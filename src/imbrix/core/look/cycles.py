"""A gate that narrows with frequency: so many cycles of each frequency after the arrival, and no more.

At low frequencies it lets the room in, at high ones only the direct sound: a spectrum of constant relative bandwidth
(J. C. Brown, JASA 89, 1991, on transforms with windows of a constant number of cycles).
"""

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.signal.response import arrival
from imbrix.core.signal.signal import ComplexArray, FloatArray, Impulse

LONGEST_S = 0.5


def within_cycles(impulse: Impulse, frequencies: FloatArray, cycles: float) -> ComplexArray:
    """Response (n,) at `frequencies`, each through half a Hann window of `cycles` periods after the arrival, and of a
    quarter of that before it; phase referred to time zero. Raises InvalidError for less than one cycle."""
    if not 1 <= cycles <= 200:
        raise InvalidError(f"a gate of {cycles:g} cycles; 1 to 200 are possible")
    rate = impulse.rate
    start = arrival(impulse) * rate + impulse.zero
    found = np.zeros(frequencies.size, dtype=complex)
    for n, hertz in enumerate(frequencies):
        after = min(cycles / hertz, LONGEST_S) * rate
        before = 0.25 * after
        first, last = max(0, int(np.ceil(start - before))), min(impulse.samples.size, int(start + after) + 1)
        at = np.arange(first, last)
        place = np.where(at < start, (at - start) / before, (at - start) / after)
        weight = np.cos(0.5 * np.pi * np.clip(place, -1, 1)) ** 2
        found[n] = (impulse.samples[first:last] * weight) @ np.exp(-2j * np.pi * hertz / rate * (at - impulse.zero))
    return found
