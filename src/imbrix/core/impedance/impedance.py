"""The electrical impedance of a driver: its circuit, and the parameters found in a measured curve.

Circuit: A. N. Thiele 1971 and R. H. Small 1972 (JAES), the voice coil as the lossy inductor of W. M. Leach (JAES 50,
2002), which extends J. R. Wright (JAES 38, 1990): Z(w) = Re + K (jw)^n + Res / (1 + j Qms (f/fs - fs/f)).
"""

from dataclasses import dataclass, fields
from typing import Literal

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.errors import InvalidError
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import ComplexArray, FloatArray

AIR_DENSITY = 1.2041
"""Kilograms per cubic metre of dry air at 20 C and 101 325 Pa, from the ideal gas."""
LOWEST_HZ = 5.0
REFERENCE_PRESSURE = 20e-6


def ohm_grid() -> FloatArray:
    """Frequencies (n,) at which impedance is kept: 96 to the octave from 5 Hz, where a sub still resonates."""
    return log_grid(LOWEST_HZ, 20_000.0)


@dataclass(frozen=True, slots=True)
class Circuit:
    """A driver at its terminals: direct-current resistance `re`, resonance `fs` with mechanical `qms` and a motional
    branch of `res` ohm, and a coil of `coil` (jw)^`exponent` ohm."""

    re: float
    fs: float
    qms: float
    res: float
    coil: float
    exponent: float

    @property
    def qes(self) -> float:
        """Electrical Q: the motional branch damped by Re alone (Small 1972)."""
        return self.qms * self.re / self.res

    @property
    def qts(self) -> float:
        """Total Q."""
        return self.qms * self.qes / (self.qms + self.qes)

    @property
    def zmax(self) -> float:
        """Magnitude at the resonance in ohm."""
        return float(np.abs(impedance(self, np.array([self.fs]))[0]))

    def inductance(self, hertz: float = 1000.0) -> float:
        """The coil's series inductance in henry as an inductance meter at `hertz` reads it."""
        w = 2 * np.pi * hertz
        return float((self.coil * (1j * w) ** self.exponent).imag / w)


def impedance(circuit: Circuit, frequencies: FloatArray) -> ComplexArray:
    """Impedance (n,) of a circuit in ohm."""
    motion = 1 + 1j * circuit.qms * (frequencies / circuit.fs - circuit.fs / frequencies)
    return circuit.re + circuit.coil * (2j * np.pi * frequencies) ** circuit.exponent + circuit.res / motion


@dataclass(frozen=True, slots=True)
class Found:
    """The circuit that explains a curve best, and the rms of what it leaves unexplained, as a share of |Z|."""

    circuit: Circuit
    misfit: float


BEGIN_EXPONENT = 0.7


def coil_to_begin_with(frequencies: FloatArray, ohms: ComplexArray, base: float, fs: float) -> float:
    """The coil with which a search begins: one whose impedance (at `BEGIN_EXPONENT`) is what the curve (n,) rises to
    over `base` at its upper end, well above the resonance; that of 1 ohm where it does not reach so far."""
    top = frequencies > 4 * fs
    rise = max(float(np.abs(ohms[top] - base)[-1]) if top.any() else 1.0, 0.05)
    return rise / (2 * np.pi * float(frequencies[-1])) ** BEGIN_EXPONENT


def find_circuit(
    frequencies: FloatArray, ohms: ComplexArray, re: float | None = None, levels_only: bool = False
) -> Found:
    """Find the circuit behind an impedance (n,) in ohm; `re` where a meter has read it, else it is extrapolated.

    Least squares of the relative complex error with a soft loss, so that a small bump of a real cone does not pull the
    resonance; with `levels_only`, of the magnitudes' ratio, where no phase was measured: one that is computed from
    them would carry their unknown ends into the fit. Raises InvalidError where there is no resonance in the curve,
    saying so.
    """
    known = np.isfinite(ohms) & (ohms != 0)  # nothing of zero ohm was ever measured, and errors are relative
    f, z = frequencies[known], ohms[known]
    if f.size < 48:
        raise InvalidError("too little of the curve is known to read parameters from it")
    level = np.abs(z)
    low = f <= min(2500.0, f[-1] / 4)
    peak = _peak(level[low])
    if peak is None:
        raise InvalidError("there is no resonance in this curve: is this the driver, or a resistor?")
    fs, zmax = float(f[peak]), float(level[peak])
    base = re or max(0.5 * float(level.min()), min(float(level.min()), float(z.real.min())))
    half = np.sqrt(base * zmax)
    below, above = np.flatnonzero(level[:peak] < half), np.flatnonzero(level[peak:] < half)
    f1 = f[below[-1]] if below.size else fs / 1.5
    f2 = f[peak + above[0]] if above.size else fs * 1.5
    qms = fs * np.sqrt(zmax / base) / (f2 - f1)
    coil = coil_to_begin_with(f, z, base, fs)

    def circuit(p: FloatArray) -> Circuit:
        resistance = re if re is not None else float(np.exp(p[5]))
        return Circuit(
            resistance,
            float(np.exp(p[0])),
            float(np.exp(p[1])),
            float(np.exp(p[2])),
            float(np.exp(p[3])),
            float(1 / (1 + np.exp(-p[4]))),
        )

    def error(p: FloatArray) -> FloatArray:
        if levels_only:
            return np.asarray(np.log(np.abs(impedance(circuit(p), f)) / level))
        apart = (impedance(circuit(p), f) - z) / level
        return np.concatenate((apart.real, apart.imag))

    start = np.array([np.log(fs), np.log(qms), np.log(max(zmax - base, 0.1)), np.log(coil), 0.85, np.log(base)])
    if re is not None:
        start = start[:5]
    solved = scipy.optimize.least_squares(error, start, loss="soft_l1", f_scale=0.02, xtol=1e-12, ftol=1e-12)
    best = circuit(solved.x)
    return Found(best, float(np.sqrt(np.mean(error(solved.x) ** 2) * (1 if levels_only else 2))))


def _peak(level: FloatArray) -> int | None:
    """The index of the greatest local maximum that stands at least an eighth over what is beside it."""
    inner = np.flatnonzero((level[1:-1] >= level[:-2]) & (level[1:-1] >= level[2:])) + 1
    for at in sorted(inner, key=lambda n: -level[n]):
        if level[at] > 1.125 * level[:at].min() and level[at] > 1.125 * level[at:].min():
            return int(at)
    return None


@dataclass(frozen=True, slots=True)
class Sure:
    """A mean over repeats and half its 95 % confidence interval by Student's t; infinite with one repeat."""

    value: float
    half: float


def sureness(values: FloatArray) -> Sure:
    """Mean and confidence of repeats (n,)."""
    count = values.size
    if count < 2:
        return Sure(float(values.mean()), float("inf"))
    spread = float(values.std(ddof=1)) / np.sqrt(count)
    return Sure(float(values.mean()), float(scipy.special.stdtrit(count - 1, 0.975)) * spread)


def parameters(circuits: list[Circuit]) -> dict[str, Sure]:
    """All electrical parameters by name with their confidence: of the repeats of one take."""
    names = [field.name for field in fields(Circuit)]
    found = {name: sureness(np.array([getattr(one, name) for one in circuits])) for name in (*names, "qes", "qts")}
    found["zmax"] = sureness(np.array([one.zmax for one in circuits]))
    found["inductance"] = sureness(np.array([one.inductance() for one in circuits]))
    return found


@dataclass(frozen=True, slots=True)
class Mechanics:
    """What moves: mass `mms` in kg with its air, compliance `cms` in m/N, force factor `bl` in T m, the volume of air
    as stiff as the suspension `vas` in m^3, and the sensitivity in dB SPL at 1 m in half space, for 1 W and 2.83 V."""

    mms: float
    cms: float
    bl: float
    vas: float
    db_per_watt: float
    db_at_2_83_v: float


def by_added_mass(free: Circuit, loaded: Circuit, mass: float, area: float) -> Mechanics:
    """Mechanics from a second curve with `mass` kg on the cone; `area` in m^2. Raises InvalidError where the resonance
    did not sink: Mms = M / ((fs/fs')^2 - 1) (Thiele 1971)."""
    if loaded.fs >= free.fs * 0.98:
        raise InvalidError(
            f"with the mass on the cone the resonance should sink: {free.fs:.1f} Hz without, {loaded.fs:.1f} Hz with"
        )
    mms = mass / ((free.fs / loaded.fs) ** 2 - 1)
    return _mechanics(free, mms, 1 / ((2 * np.pi * free.fs) ** 2 * mms), area)


def by_known_box(free: Circuit, boxed: Circuit, volume: float, area: float) -> Mechanics:
    """Mechanics from a second curve in a sealed box of `volume` m^3: Vas = Vb (fc Qec / (fs Qes) - 1) (Small 1972).

    Raises InvalidError where the resonance did not rise.
    """
    if boxed.fs <= free.fs * 1.02:
        raise InvalidError(
            f"in a closed box the resonance should rise: {free.fs:.1f} Hz without, {boxed.fs:.1f} Hz in it; a leak?"
        )
    vas = volume * (boxed.fs * boxed.qes / (free.fs * free.qes) - 1)
    cms = vas / (AIR_DENSITY * speed_of_sound() ** 2 * area**2)
    return _mechanics(free, 1 / ((2 * np.pi * free.fs) ** 2 * cms), cms, area)


def _mechanics(free: Circuit, mms: float, cms: float, area: float) -> Mechanics:
    speed = speed_of_sound()
    vas = AIR_DENSITY * speed**2 * area**2 * cms
    bl = float(np.sqrt(2 * np.pi * free.fs * mms * free.re / free.qes))
    efficiency = 4 * np.pi**2 / speed**3 * free.fs**3 * vas / free.qes  # Small 1972, half space
    pressure = np.sqrt(efficiency * AIR_DENSITY * speed / (2 * np.pi))
    per_watt = float(20 * np.log10(pressure / REFERENCE_PRESSURE))
    return Mechanics(mms, cms, bl, vas, per_watt, per_watt + float(10 * np.log10(8 / free.re)))


def with_mass(free: Circuit, mms: float, mass: float) -> Circuit:
    """The circuit with `mass` kg more on a cone of `mms` kg: compliance and losses stay."""
    ratio = np.sqrt(mms / (mms + mass))
    return Circuit(free.re, free.fs * float(ratio), free.qms / float(ratio), free.res, free.coil, free.exponent)


def in_box(free: Circuit, vas: float, volume: float) -> Circuit:
    """The circuit in a sealed box without losses: mass stays, stiffness grows by 1 + Vas/Vb."""
    ratio = float(np.sqrt(1 + vas / volume))
    return Circuit(free.re, free.fs * ratio, free.qms * ratio, free.res, free.coil, free.exponent)


@dataclass(frozen=True, slots=True)
class Apart:
    """By which shares two like drivers differ, and whether that is more than samples do."""

    fs: float
    qts: float
    re: float

    @property
    def much(self) -> bool:
        """More than samples of one kind differ by: common practice, no source."""
        return abs(self.fs) > 0.1 or abs(self.qts) > 0.25 or abs(self.re) > 0.1


def apart(first: Circuit, second: Circuit) -> Apart:
    """How much the second differs from the first."""
    return Apart(second.fs / first.fs - 1, second.qts / first.qts - 1, second.re / first.re - 1)


@dataclass(frozen=True, slots=True)
class Least:
    """The least magnitude of an impedance in ohm, and where."""

    ohms: float
    hertz: float


def least(frequencies: FloatArray, ohms: ComplexArray, low_hz: float = 20.0) -> Least | None:
    """Where an impedance (n,) is least from `low_hz` up; None where nothing is known."""
    level = np.where((frequencies >= low_hz) & np.isfinite(ohms), np.abs(ohms), np.inf)
    at = int(np.argmin(level))
    return Least(float(level[at]), float(frequencies[at])) if np.isfinite(level[at]) else None


Loading = Literal["as it is", "mass", "box", "network"]
"""What was done to the driver for a curve: nothing, mass on its cone, a known sealed box, or parts before it and
perhaps other drivers beside it."""
