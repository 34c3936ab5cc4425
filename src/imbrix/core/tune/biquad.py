"""Second-order sections for correction bands.

Formulae: R. Bristow-Johnson, "Cookbook formulae for audio EQ biquad filter coefficients",
published as the W3C note "Audio EQ Cookbook". A section is a row
`[b0, b1, b2, 1, a1, a2]` of H(z) = (b0 + b1 z^-1 + b2 z^-2) / (1 + a1 z^-1 + a2 z^-2),
the convention of `scipy.signal.sosfilt`.
"""

from math import cos, pi, sin, sqrt, tan

from imbrix.core.errors import InvalidError

Section = tuple[float, float, float, float, float, float]


def _normalised(b0: float, b1: float, b2: float, a0: float, a1: float, a2: float) -> Section:
    return (b0 / a0, b1 / a0, b2 / a0, 1.0, a1 / a0, a2 / a0)


def _angle(frequency_hz: float, rate: float) -> float:
    if not 0.0 < frequency_hz < rate / 2:
        raise InvalidError(f"{frequency_hz:g} Hz does not lie between 0 and half of {rate:g} Hz")
    return 2.0 * pi * frequency_hz / rate


def peaking(frequency_hz: float, gain_db: float, q: float, rate: float) -> Section:
    """A bell: `gain_db` at `frequency_hz`, half of it at the edges of a bandwidth of f/Q."""
    w = _angle(frequency_hz, rate)
    a = 10.0 ** (gain_db / 40.0)
    alpha = sin(w) / (2.0 * q)
    c = -2.0 * cos(w)
    return _normalised(1 + alpha * a, c, 1 - alpha * a, 1 + alpha / a, c, 1 - alpha / a)


def low_shelf(frequency_hz: float, gain_db: float, q: float, rate: float) -> Section:
    """`gain_db` below, 0 dB above, half of it at `frequency_hz`; Q of 0.707 has no ripple."""
    w = _angle(frequency_hz, rate)
    a = 10.0 ** (gain_db / 40.0)
    c = cos(w)
    root = 2.0 * sqrt(a) * sin(w) / (2.0 * q)
    return _normalised(
        a * ((a + 1) - (a - 1) * c + root),
        2 * a * ((a - 1) - (a + 1) * c),
        a * ((a + 1) - (a - 1) * c - root),
        (a + 1) + (a - 1) * c + root,
        -2 * ((a - 1) + (a + 1) * c),
        (a + 1) + (a - 1) * c - root,
    )


def high_shelf(frequency_hz: float, gain_db: float, q: float, rate: float) -> Section:
    """`gain_db` above, 0 dB below, half of it at `frequency_hz`."""
    w = _angle(frequency_hz, rate)
    a = 10.0 ** (gain_db / 40.0)
    c = cos(w)
    root = 2.0 * sqrt(a) * sin(w) / (2.0 * q)
    return _normalised(
        a * ((a + 1) + (a - 1) * c + root),
        -2 * a * ((a - 1) + (a + 1) * c),
        a * ((a + 1) + (a - 1) * c - root),
        (a + 1) - (a - 1) * c + root,
        2 * ((a - 1) - (a + 1) * c),
        (a + 1) - (a - 1) * c - root,
    )


def notch(frequency_hz: float, q: float, rate: float) -> Section:
    """Nothing at `frequency_hz`, -3 dB at the edges of a bandwidth of f/Q, all elsewhere."""
    w = _angle(frequency_hz, rate)
    alpha = sin(w) / (2.0 * q)
    c = -2.0 * cos(w)
    return _normalised(1, c, 1, 1 + alpha, c, 1 - alpha)


def first_all_pass(frequency_hz: float, rate: float) -> Section:
    """Magnitude one everywhere; the phase turns from 0 through -90 degrees at `frequency_hz` to -180.

    The bilinear transform of (1 - s) / (1 + s).
    """
    t = tan(_angle(frequency_hz, rate) / 2.0)
    c = (t - 1.0) / (t + 1.0)
    return (c, 1.0, 0.0, 1.0, c, 0.0)


def all_pass(frequency_hz: float, q: float, rate: float) -> Section:
    """Magnitude one everywhere; the phase turns through 180 degrees at `frequency_hz`."""
    w = _angle(frequency_hz, rate)
    alpha = sin(w) / (2.0 * q)
    c = -2.0 * cos(w)
    return _normalised(1 - alpha, c, 1 + alpha, 1 + alpha, c, 1 - alpha)
