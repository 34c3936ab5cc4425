"""A simulated impedance jig between the sound card's output and two of its inputs, and what hangs on its clips."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy.fft

from imbrix.core.impedance.impedance import AIR_DENSITY, Circuit, impedance, in_box, with_mass
from imbrix.core.passive.network import Branch, through
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import ComplexArray, FloatArray

TAPS = 2**16
LEAD = 256
"""Samples of delay that leave room for what the band limit rings before."""
Loaded = Literal["as it is", "mass", "box", "leaking box"]


@dataclass(frozen=True)
class Motor:
    """A driver's electrical and mechanical side: its circuit in free air, moving mass in kg, cone area in m^2."""

    circuit: Circuit
    mms: float
    area: float

    @property
    def vas(self) -> float:
        """Volume in m^3 as stiff as the suspension."""
        cms = 1 / ((2 * np.pi * self.circuit.fs) ** 2 * self.mms)
        return float(AIR_DENSITY * speed_of_sound() ** 2 * self.area**2 * cms)

    @property
    def bl(self) -> float:
        """Force factor in T m."""
        return float(np.sqrt(2 * np.pi * self.circuit.fs * self.mms * self.circuit.re / self.circuit.qes))

    def loaded(self, how: Loaded, amount: float) -> Circuit:
        """The circuit with `amount` kg on the cone, or in a box of `amount` m^3; a leak adds losses and lowers fc."""
        if how == "mass":
            return with_mass(self.circuit, self.mms, amount)
        if how == "as it is":
            return self.circuit
        boxed = in_box(self.circuit, self.vas, amount)
        if how == "box":
            return boxed
        return Circuit(boxed.re, boxed.fs * 0.9, boxed.qms * 0.5, boxed.res * 0.5, boxed.coil, boxed.exponent)


@dataclass(frozen=True)
class JigModel:
    """What the jig is made of, which nobody but tests may know: the sense resistor's true value, leads, the inputs'
    gains and the impedance that they put across the driver."""

    sense_ohm: float = 10.26
    lead_ohm: float = 0.17
    lead_henry: float = 0.8e-6
    gains: tuple[float, float] = (0.52, 0.49)
    slower_hz: float = 90_000.0
    input_ohm: float = 47_000.0

    def voltages(self, ohms: ComplexArray | None, frequencies: FloatArray) -> tuple[ComplexArray, ComplexArray]:
        """Both inputs' voltages (n,) for 1 V at the source; `ohms` at the clips, None for nothing there."""
        leads = self.lead_ohm + 2j * np.pi * frequencies * self.lead_henry
        across: ComplexArray = np.full(frequencies.size, self.input_ohm, dtype=complex)
        if ohms is not None:
            across = np.asarray(1 / (1 / (ohms + leads) + 1 / self.input_ohm), dtype=complex)
        whole = across + self.sense_ohm
        lag = 1 / (1 + 1j * frequencies / self.slower_hz)
        driver, resistor = self.gains[0] * across / whole, self.gains[1] * lag * self.sense_ohm / whole
        return np.asarray(driver, dtype=complex), np.asarray(resistor, dtype=complex)

    def at_clips(self, ohms: ComplexArray | None, frequencies: FloatArray) -> ComplexArray:
        """The voltage (n,) behind the leads for 1 V at the source."""
        across = self.voltages(ohms, frequencies)[0] / self.gains[0]
        if ohms is None:
            return across
        leads = self.lead_ohm + 2j * np.pi * frequencies * self.lead_henry
        return np.asarray(across * ohms / (ohms + leads))


@dataclass(frozen=True)
class Hung:
    """A driver on the clips: the output (from 1) that it hangs on elsewhere, its circuit, what it is wired through."""

    output: int
    circuit: Circuit
    wired: Branch


Hangs = tuple[Hung, ...] | float | None
"""What the clips hold: drivers beside each other, so many ohms, or nothing."""


class JigStream:
    """The jig at work: blocks (n,) of what the output plays in, blocks (n, 2 + d) out: both inputs, and the voltage at
    each driver that hangs on the clips."""

    def __init__(self, model: JigModel, hangs: Hangs, block: int, rate: int) -> None:
        self._model = model
        self._rate = rate
        self._past = np.zeros(TAPS - 1 + block)
        self._size = scipy.fft.next_fast_len(self._past.size, real=True)
        self.clip(hangs)

    def clip(self, hangs: Hangs) -> None:
        """Hang something else on the clips, while it runs."""
        f = scipy.fft.rfftfreq(2 * TAPS, 1 / self._rate)
        f[0] = 1e-3
        ohms: ComplexArray | None = None
        ways: list[tuple[ComplexArray, ComplexArray]] = []
        if isinstance(hangs, tuple):
            ways = [through(one.wired, impedance(one.circuit, f), f) for one in hangs]
            ohms = np.asarray(1 / np.sum([1 / seen for _, seen in ways], axis=0)) if ways else None
        elif hangs is not None:
            ohms = np.full(f.size, hangs, dtype=complex)
        self.outputs = tuple(one.output for one in hangs) if isinstance(hangs, tuple) else ()
        first, second = self._model.voltages(ohms, f)
        at_clips = self._model.at_clips(ohms, f) if ways else first
        turn = np.exp(-2j * np.pi * f * LEAD / self._rate)
        sent = [first, second, *(at_clips * voltage for voltage, _ in ways)]
        self._spectra = [scipy.fft.rfft(scipy.fft.irfft(one * turn)[:TAPS], self._size) for one in sent]

    def process(self, played: FloatArray) -> FloatArray:
        """One block (n,) with n at most the block it was made for; returns (n, 2 + d)."""
        count = played.size
        self._past[:-count] = self._past[count:]
        self._past[-count:] = played
        spectrum = scipy.fft.rfft(self._past, self._size)
        end = self._past.size
        all_of = [scipy.fft.irfft(spectrum * one, self._size)[end - count : end] for one in self._spectra]
        return np.stack(all_of, axis=1)
