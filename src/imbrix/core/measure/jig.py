"""The impedance jig: two voltages in series, and what leads and channels add, taken out.

A source drives the driver in series with a resistor. With the two inputs' voltages V1 (driver) and V2 (resistor) the
ratio m = V1 / (V1 + V2) is a bilinear function of the impedance at the clips, whatever the leads, the inputs' gains and
their own impedance: m = (a Z + b) / (c Z + 1). Open, short and one known resistor give its three coefficients (the
three-term error model of one-port network analysis, e.g. D. M. Pozar, Microwave Engineering).
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from imbrix.core.errors import UnusableError
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.sweep import deconvolve, sweep_within
from imbrix.core.signal.response import Gate, response
from imbrix.core.signal.signal import ComplexArray, FloatArray

Standard = Literal["open", "short", "resistor"]
LEAST_PEAK = 1e-4
GATE = Gate(before_s=0.03, after_s=1.6, fade=0.3)
"""Long enough for a sub that rings on: its motion is what is measured. What comes before is distortion."""


@dataclass(frozen=True, slots=True)
class Calibration:
    """The coefficients (n,) of the jig on the impedance grid."""

    a: ComplexArray
    b: ComplexArray
    c: ComplexArray


def calibration(opened: ComplexArray, shorted: ComplexArray, loaded: ComplexArray, known_ohm: float) -> Calibration:
    """The jig's coefficients from the ratios (n,) with nothing, with a short, and with a resistor of `known_ohm`."""
    c = (loaded - shorted) / (known_ohm * (opened - loaded))
    return Calibration(c * opened, shorted, c)


def nominal(sense_ohm: float, size: int) -> Calibration:
    """What an ideal jig does: m = Z / (Z + R)."""
    flat = np.full(size, 1 / sense_ohm, dtype=complex)
    return Calibration(flat, np.zeros(size, dtype=complex), flat)


def ohms(ratio: ComplexArray, known: Calibration) -> ComplexArray:
    """The impedance (n,) at the clips from a ratio (n,): Z = (m - b) / (a - c m)."""
    return (ratio - known.b) / (known.a - known.c * ratio)


def ratio_of(first: ComplexArray, second: ComplexArray) -> ComplexArray:
    """The ratio m (n,) of the responses of both inputs."""
    return first / (first + second)


def read_sweeps(voltages: FloatArray, schedule: Schedule, frequencies: FloatArray) -> ComplexArray:
    """The ratio m (repeats, n) of each sweep of a schedule in a recording (samples, 2) of both inputs.

    Raises UnusableError where nothing is connected, saying which input is silent.
    """
    heard(voltages)
    rate = schedule.sweep.rate
    stimulus = sweep_within(schedule.sweep, schedule.period)
    found = []
    for start in schedule.sweeps:
        piece = voltages[start : start + schedule.period]
        both = [
            response(deconvolve(piece[:, n], stimulus, rate, zero=round(0.05 * rate)), frequencies, GATE)
            for n in range(2)
        ]
        found.append(ratio_of(both[0], both[1]))
    return np.array(found)


def heard(voltages: FloatArray) -> None:
    """Refuse a recording (n, 2) of a jig that is not there. Raises UnusableError."""
    tops = np.abs(voltages).max(axis=0)
    if tops.max() < LEAST_PEAK:
        raise UnusableError(
            "both inputs of the jig are silent: connect the output to the jig and the jig to the inputs chosen", "jig"
        )


def looks_like(ratio: ComplexArray, sense_ohm: float, frequencies: FloatArray) -> float:
    """The median magnitude in ohm that a ratio (n,) means without calibration, from 100 Hz to 1 kHz."""
    inside = (frequencies >= 100) & (frequencies <= 1000)
    middle = ohms(ratio, nominal(sense_ohm, ratio.size))
    return float(np.median(np.abs(middle[inside])))


def plausible(standard: Standard, seen_ohm: float, known_ohm: float) -> str:
    """What is wrong with a calibration step, in words; empty where it may be what it should."""
    wanted = {"open": (300.0, np.inf), "short": (0.0, 0.3 * known_ohm), "resistor": (0.5 * known_ohm, 2 * known_ohm)}
    low, high = wanted[standard]
    if low <= seen_ohm <= high:
        return ""
    says = {
        "open": "the clips should hold nothing",
        "short": "the clips should be joined",
        "resistor": f"the clips should hold the resistor of {known_ohm:g} ohm",
    }
    seen = "nothing" if seen_ohm > 300 else f"about {seen_ohm:.2g} ohm"
    return f"{says[standard]}, but the jig sees {seen}"
