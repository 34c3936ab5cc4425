"""Ladders as textbooks have them, for a resistor in the place of the driver; and the values that parts are sold in.

A ladder of coils and capacitors between a voltage and a resistor has the transfer 1 / D(s) for any all-pole D, and its
values are the quotients of the even and odd parts of D divided by turns, from the resistor back (W. Cauer 1926).
"""

from typing import Literal

import numpy as np

from imbrix.core.passive.network import Step
from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.core.tune.crossover import End, Shape, prototype

NOMINAL_OHM = (2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0, 24.0, 32.0, 50.0, 100.0, 300.0)
NOMINAL_OVER_RE = 1.25
"""A driver's least impedance is its Re or a little more, and its nominal ohms a quarter more (IEC 60268-5: the least is
0.8 of the nominal)."""
Series = Literal["E12", "E24", "any"]
E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
E24 = tuple(sorted((*E12, 1.1, 1.3, 1.6, 2.0, 2.4, 3.0, 3.6, 4.3, 5.1, 6.2, 7.5, 9.1)))
"""Both of IEC 60063."""
MOST_ORDER = 4


def proto(shape: Shape, slope_db: int) -> list[float]:
    """The values of a ladder of unit corner into one ohm, from the amplifier on, the first in series."""
    poly = np.array([1.0])
    for natural, q in prototype(shape, slope_db):
        factor = [1.0 / natural, 1.0] if q == 0 else [1.0 / natural**2, 1.0 / (natural * q), 1.0]
        poly = np.polymul(poly, factor)
    order = poly.size - 1
    high = np.where((np.arange(poly.size)[::-1] % 2) == order % 2, poly, 0.0)
    low = poly - high
    low = low[1:]
    found = []
    for _ in range(order):
        quotient = high[0] / low[0]
        found.append(float(quotient))
        rest = high[1:] - np.concatenate((quotient * low[1:], [0.0]))[: high.size - 1]
        high, low = low, rest[1:]
    return found[::-1]


def ladder(shape: Shape, slope_db: int, corner_hz: float, end: End, ohm: float) -> tuple[Step, ...]:
    """The steps of a low- or high-pass into `ohm`, as a textbook has it. The orders 1 to 4 of each family."""
    w = 2 * np.pi * corner_hz
    steps = []
    for n, value in enumerate(proto(shape, slope_db)):
        stands: Literal["series", "shunt"] = "shunt" if n % 2 else "series"
        coil = (n % 2 == 0) == (end == "low_pass")
        size = value if end == "low_pass" else 1.0 / value
        if coil:
            steps.append(Step(stands=stands, coil=size * ohm / w))
        else:
            steps.append(Step(stands=stands, capacitor=size / (ohm * w)))
    return tuple(steps)


def zobel(re: float, inductance: float) -> Step:
    """The shunt that makes a driver with a coil of `inductance` henry look like its `re` ohm: R = Re, C = L / Re^2."""
    return Step(stands="shunt", resistor=re, capacitor=inductance / re**2)


def pad(drop_db: float, ohm: float) -> tuple[Step, Step]:
    """The two resistors that make a load of `ohm` softer by `drop_db`, and leave it `ohm`."""
    share = 10 ** (-drop_db / 20)
    return (
        Step(stands="series", resistor=ohm * (1 - share)),
        Step(stands="shunt", resistor=ohm * share / (1 - share)),
    )


def nominal(ohms: ComplexArray, frequencies: FloatArray) -> float:
    """The nominal ohms that a driver would be sold by."""
    known = np.abs(ohms[np.isfinite(ohms) & (frequencies >= 20)])
    return min(NOMINAL_OHM, key=lambda one: abs(np.log(one / (NOMINAL_OVER_RE * float(known.min())))))


def nearest(value: float, series: Series) -> float:
    """The nearest value of a series."""
    return value if series == "any" else min(around(value, series), key=lambda one: abs(np.log(one / value)))


def around(value: float, series: Series, steps: int = 1) -> list[float]:
    """Values of a series about one: so many below and above."""
    row = E24 if series == "E24" else E12
    decade = 10 ** np.floor(np.log10(value))
    wide = [one * decade * ten for ten in (0.1, 1.0, 10.0) for one in row]
    at = int(np.argmin(np.abs(np.log(np.array(wide) / value))))
    return [float(f"{one:.3g}") for one in wide[max(0, at - steps) : at + steps + 1]]
