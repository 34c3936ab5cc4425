"""Phase in its several senses: with the arrival taken out, unwrapped, as group delay, minimum and excess."""

import numpy as np

from imbrix.core.signal.minimum_phase import STEP, bode_phase
from imbrix.core.signal.signal import ComplexArray, FloatArray

_STEEPEST = 8.0


def without_arrival(response: ComplexArray, frequencies: FloatArray, seconds: float) -> ComplexArray:
    """A response (n,) with a time of arrival taken out of its phase."""
    return response * np.exp(2j * np.pi * frequencies * seconds)


def unwrapped(response: ComplexArray) -> FloatArray:
    """Phase (n,) in radians without jumps, NaN where the response is; it begins within half a turn of zero."""
    known = np.isfinite(response)
    phase = np.full(response.size, np.nan)
    if known.any():
        phase[known] = np.unwrap(np.angle(response[known]))
    return phase


def wrapped_degrees(response: ComplexArray) -> FloatArray:
    """Phase (n,) in degrees from -180 to 180 for drawing: NaN about each jump, so that it is a gap and not a line."""
    angle = np.degrees(np.angle(response))
    jumps = np.flatnonzero(np.abs(np.diff(angle)) > 180)
    angle[np.unique(np.clip([jumps - 1, jumps, jumps + 1, jumps + 2], 0, angle.size - 1))] = np.nan
    return angle


def group_delay(response: ComplexArray, frequencies: FloatArray) -> FloatArray:
    """Minus the slope of the phase over angular frequency (n,), in seconds."""
    phase = unwrapped(response)
    known = np.isfinite(phase)
    delay = np.full(response.size, np.nan)
    if known.sum() > 2:
        delay[known] = -np.gradient(phase[known], 2 * np.pi * frequencies[known])
    return delay


def minimum_phase(magnitude: FloatArray, frequencies: FloatArray) -> FloatArray:
    """Phase (n,) in radians of the minimum-phase system with a magnitude (n,), NaN where that is.

    The magnitude is carried on beyond its known ends at the slope that it has there, at most 48 dB per octave.
    """
    known = np.isfinite(magnitude) & (magnitude > 0)
    result = np.full(magnitude.size, np.nan)
    if known.sum() < 24:
        return result
    at, levels = np.log(frequencies[known]), np.log(magnitude[known])
    even = np.arange(at[0], at[-1] + STEP / 2, STEP)
    curve = np.interp(even, at, levels)
    slopes = [
        float(np.clip(np.polyfit(at[end], levels[end], 1)[0], -_STEEPEST, _STEEPEST))
        for end in (slice(0, 24), slice(-24, None))
    ]
    phase = bode_phase(curve, (curve[0], slopes[0]), (curve[-1], slopes[1]))
    result[known] = np.interp(at, even, phase)
    return result


def excess_phase(response: ComplexArray, frequencies: FloatArray, seconds: float) -> FloatArray:
    """What the phase (n,) of a response has beyond its minimum phase and a time of arrival, in radians, wrapped."""
    turned = without_arrival(response, frequencies, seconds)
    rest = np.angle(turned) - minimum_phase(np.abs(response), frequencies)
    return np.angle(np.exp(1j * rest))
