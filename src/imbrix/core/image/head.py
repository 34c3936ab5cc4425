"""Two loudspeakers and a head: where a band of noise stands that comes from both.

Each ear hears the near loudspeaker and, later and duller, the far one. Up to `TIMED_HZ` the difference in time between
the ears tells where a sound stands; where the difference in level does not go with it, the sound falls in two. That is
how a difference in phase between the loudspeakers sounds. Above, level alone tells.

The sum of two loudspeakers at both ears: B. B. Bauer, "Phasor analysis of some stereophonic phenomena", JASA 33, 1961.
Lengths and corners are those of an ordinary head between loudspeakers 30 degrees to each side (from memory).
"""

from functools import lru_cache

import numpy as np

from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels, ratio

ACROSS_S = 0.3e-3
"""By so much the far ear hears a loudspeaker later."""
SHADE_HZ = (1200.0, 3600.0)
"""Between these the head takes the treble from the far ear, down to their ratio."""
TIMED_HZ = 800.0
"""Up to about here the time of the wave itself leads the ear, above it the level (from memory)."""
WINDOW_S = 0.7e-3
"""No head hears one ear later than that."""
UNLIKE_DB, EASED_HZ = 2.0, 700.0
"""Ears whose levels differ by so much more than the place by time says hear two places; it takes more where the head
itself makes levels unlike: twice as much at `EASED_HZ`, in proportion to it above."""
SIDE_DB = 10.0
"""A difference between the ears that stands for a sound at one side altogether (from memory)."""
TWICE = 0.12
"""A sound at one side falls to both where the other side agrees nearly as well."""
LINES, LAGS = 24, 141
LEVELS_DB = np.linspace(-12.0, 12.0, 49)
ANGLES_DEG = np.arange(-170.0, 181.0, 10.0)


def shade(hertz: FloatArray) -> ComplexArray:
    """What reaches the far ear (n,), over what reaches the near one."""
    low, high = SHADE_HZ
    return np.asarray((1 + 1j * hertz / high) / (1 + 1j * hertz / low) * np.exp(-2j * np.pi * hertz * ACROSS_S))


def later(hz: float) -> float:
    """By how much later the far ear hears one loudspeaker, in seconds."""
    return float(-np.angle(shade(np.array([hz])))[0] / (2 * np.pi * hz))


def marks(left: ComplexArray, right: ComplexArray, hertz: FloatArray) -> FloatArray:
    """Where a band stands (k, 2) that two loudspeakers play as (k, n) at `hertz` (n,): -1 is the left one, 1 the right.

    Both places are the same where one sound is heard.
    """
    far = shade(hertz)
    timed = hertz.mean() <= TIMED_HZ
    if timed:
        ears = left + far * right, right + far * left
        powers = [np.mean(np.abs(one) ** 2, axis=1) for one in ears]
    else:
        each = np.abs(left) ** 2, np.abs(right) ** 2
        powers = [np.mean(each[n] + np.abs(far) ** 2 * each[1 - n], axis=1) for n in (0, 1)]
    unlike = power_decibels(powers[1]) - power_decibels(powers[0])
    natural = -float(power_decibels(np.array(np.mean(np.abs(far) ** 2))))
    if not timed:
        place = np.clip(unlike / natural, -1, 1)
        return np.stack((place, place), axis=1)
    lags = np.linspace(-WINDOW_S, WINDOW_S, LAGS)
    agree = np.real((ears[1] * np.conj(ears[0])) @ np.exp(2j * np.pi * np.outer(hertz, lags)))
    agree /= np.sqrt(powers[0] * powers[1])[:, None] * hertz.size
    first = agree.argmax(axis=1)
    rows = np.arange(first.size)
    place = np.clip(-lags[first] / later(float(hertz.mean())), -1, 1)
    mirrored = agree[rows, LAGS - 1 - first]
    twice = (np.abs(place) > 0.9) & (mirrored > agree[rows, first] - TWICE)
    apart = np.abs(unlike - natural * place) > UNLIKE_DB * (1 + hertz.mean() / EASED_HZ)
    second = np.where(twice, -place, np.where(apart, np.clip(unlike / SIDE_DB, -1, 1), place))
    return np.stack((place, second), axis=1)


def across(hz: float, octaves: float) -> FloatArray:
    """Frequencies (n,) through a band."""
    return np.asarray(hz * 2.0 ** (octaves * np.linspace(-0.5, 0.5, LINES)))


@lru_cache(maxsize=64)
def table(hz: float, octaves: float) -> FloatArray:
    """Where a band stands (l, a, 2) by the level of left over right, `LEVELS_DB`, and by the angle that left is ahead,
    `ANGLES_DEG`."""
    hertz = across(hz, octaves)
    levels, angles = (one.ravel() for one in np.meshgrid(LEVELS_DB, np.radians(ANGLES_DEG), indexing="ij"))
    left = (np.sqrt(ratio(levels)) * np.exp(0.5j * angles))[:, None] * np.ones(hertz.size)
    right = (np.exp(-0.5j * angles) / np.sqrt(ratio(levels)))[:, None] * np.ones(hertz.size)
    return marks(left, right, hertz).reshape(LEVELS_DB.size, ANGLES_DEG.size, 2)
