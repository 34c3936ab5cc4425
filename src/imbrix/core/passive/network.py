"""A passive network as a ladder for each way, and what it does with the drivers that were measured.

A step of a ladder stands in series or as a shunt. It is one part, or a few: a coil, a capacitor and a resistor in a
row (a shunt of resistor and capacitor is a Zobel network, one of all three a trap), or beside each other (a trap in
series). All ways stand in parallel at the output.
"""

from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from imbrix.core.errors import InvalidError
from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.core.value import Value

Henry = Annotated[float, Field(gt=0, le=1, allow_inf_nan=False)]
Farad = Annotated[float, Field(gt=0, le=0.1, allow_inf_nan=False)]
Ohm = Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)]
Loss = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
PartKind = Literal["coil", "capacitor", "resistor"]
PARTS: tuple[PartKind, ...] = ("coil", "capacitor", "resistor")
LETTER: dict[PartKind, str] = {"coil": "L", "capacitor": "C", "resistor": "R"}
SHORT_OHM = 0.05
"""What an amplifier sees below this is a short circuit."""


class Step(Value):
    """A step of a ladder: parts in a row, or `beside` each other; `coil_ohm` and `capacitor_ohm` are what they lose."""

    stands: Literal["series", "shunt"]
    coil: Henry | None = None
    capacitor: Farad | None = None
    resistor: Ohm | None = None
    coil_ohm: Loss = 0.0
    capacitor_ohm: Loss = 0.0
    beside: bool = False

    @model_validator(mode="after")
    def _has_something(self) -> "Step":
        if not self.parts:
            raise InvalidError("a step of a network has a coil, a capacitor or a resistor at least")
        return self

    @property
    def parts(self) -> tuple[PartKind, ...]:
        """What it consists of."""
        return tuple(kind for kind in PARTS if getattr(self, kind) is not None)

    def branches(self, s: ComplexArray) -> dict[PartKind, ComplexArray]:
        """The impedance (n,) of each of its parts at s = j omega (n,)."""
        found: dict[PartKind, ComplexArray] = {}
        if self.coil is not None:
            found["coil"] = s * self.coil + self.coil_ohm
        if self.capacitor is not None:
            found["capacitor"] = 1.0 / (s * self.capacitor) + self.capacitor_ohm
        if self.resistor is not None:
            found["resistor"] = np.full(s.shape, self.resistor, dtype=complex)
        return found

    def ohms(self, s: ComplexArray) -> ComplexArray:
        """Its impedance (n,)."""
        each = list(self.branches(s).values())
        if self.beside:
            return np.asarray(1.0 / np.sum([1.0 / one for one in each], axis=0))
        return np.asarray(np.sum(each, axis=0))


class Branch(Value):
    """The ladder of one way, from the amplifier to the driver, and whether the driver's leads are exchanged."""

    driver: str = Field(max_length=60)
    steps: tuple[Step, ...] = Field(default=(), max_length=12)
    inverted: bool = False


class Network(Value):
    """The ways behind one output."""

    branches: tuple[Branch, ...] = Field(min_length=1, max_length=3)

    @model_validator(mode="after")
    def _each_once(self) -> "Network":
        names = [one.driver for one in self.branches]
        if len(set(names)) < len(names):
            raise InvalidError("a driver stands in a network once")
        return self


def named(network: Network) -> list[str]:
    """Names of all parts, from the first way's to the last's: a letter by kind, counted through the network."""
    counts: dict[str, int] = {}
    found = []
    for kind in (kind for branch in network.branches for step in branch.steps for kind in step.parts):
        counts[LETTER[kind]] = counts.get(LETTER[kind], 0) + 1
        found.append(f"{LETTER[kind]}{counts[LETTER[kind]]}")
    return found


def _laplace(frequencies: FloatArray) -> ComplexArray:
    """j omega (n,) at frequencies (n,) in hertz."""
    return np.asarray(2j * np.pi * frequencies, dtype=complex)


def through(branch: Branch, driver_ohms: ComplexArray, frequencies: FloatArray) -> tuple[ComplexArray, ComplexArray]:
    """Voltage at the driver over that of the amplifier (n,), and what the amplifier sees of the way (n,) in ohm.

    From the driver back to the amplifier by Kirchhoff's laws: a shunt adds current, a series step voltage.
    """
    s = _laplace(frequencies)
    volts = np.ones(frequencies.size, dtype=complex)
    amperes = 1.0 / driver_ohms
    for step in reversed(branch.steps):
        ohms = step.ohms(s)
        if step.stands == "shunt":
            amperes = amperes + volts / ohms
        else:
            volts = volts + amperes * ohms
    sign = -1.0 if branch.inverted else 1.0
    return np.asarray(sign / volts, dtype=complex), volts / amperes


def load(network: Network, ohms: dict[str, ComplexArray], frequencies: FloatArray) -> ComplexArray:
    """What the amplifier sees (n,) in ohm. Raises InvalidError where that is a short circuit."""
    siemens = np.sum([1.0 / through(one, ohms[one.driver], frequencies)[1] for one in network.branches], axis=0)
    seen = np.asarray(1.0 / siemens)
    least = int(np.argmin(np.abs(seen)))
    if np.abs(seen[least]) < SHORT_OHM:
        raise InvalidError(
            f"the amplifier would see {np.abs(seen[least]):.3f} ohm at {frequencies[least]:.0f} Hz, a short circuit: "
            "put a resistor or a coil in its way"
        )
    return seen


def watts(
    network: Network, ohms: dict[str, ComplexArray], frequencies: FloatArray, volts: float
) -> list[tuple[int, int, PartKind, float]]:
    """What heats each resistor and coil: branch, step, part, and the mean power in watts for pink noise of so many
    volts between the ends of `frequencies` (n,), which lie evenly over octaves."""
    s = _laplace(frequencies)
    found: list[tuple[int, int, PartKind, float]] = []
    for b, branch in enumerate(network.branches):
        at = np.abs(through(branch, ohms[branch.driver], frequencies)[0]) * volts
        voltage = at.astype(complex)
        current = voltage / ohms[branch.driver]
        for n in range(len(branch.steps) - 1, -1, -1):
            step = branch.steps[n]
            whole = step.ohms(s)
            if step.stands == "shunt":
                here = voltage / whole
                current = current + here
            else:
                here = current
                voltage = voltage + current * whole
            for kind, each in step.branches(s).items():
                flows = here * whole / each if step.beside else here
                loses = {"coil": step.coil_ohm, "capacitor": 0.0, "resistor": step.resistor or 0.0}[kind]
                if loses:
                    found.append((b, n, kind, float(np.mean(np.abs(flows) ** 2) * loses)))
    return found
