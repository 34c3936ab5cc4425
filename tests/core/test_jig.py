"""The impedance jig: the three-term error model against circuits that are solved directly, and what looks wrong."""

import numpy as np
import pytest

from imbrix.core.errors import UnusableError
from imbrix.core.impedance.impedance import sureness
from imbrix.core.measure.jig import (
    calibration,
    heard,
    looks_like,
    nominal,
    ohms,
    plausible,
    ratio_of,
    read_sweeps,
)
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.sweep import SweepSettings

HERTZ = np.geomspace(20, 20_000, 40)
Z = 4 + 2j * np.pi * HERTZ * 0.5e-3


def jig(load: np.ndarray | float, sense: float = 10.0, lead: float = 0.3, shunt: float = 10_000.0) -> np.ndarray:
    """The ratio of a load behind leads, before inputs of some resistance, the second of which hears 3 % more."""
    behind = load + lead
    driver = (
        np.full(HERTZ.size, shunt, dtype=complex)
        if np.isscalar(load) and np.isinf(load)
        else behind * shunt / (behind + shunt)
    )
    resistor = sense * shunt / (sense + shunt)
    return np.asarray(ratio_of(driver / (driver + resistor), 1.03 * resistor / (driver + resistor)), dtype=complex)


def test_leads_gains_and_inputs_are_taken_out_by_three_standards() -> None:
    known = calibration(jig(np.inf), jig(0.0), jig(8.2), 8.2)
    assert ohms(jig(Z), known) == pytest.approx(Z, rel=1e-9)
    assert ohms(jig(8.2), known) == pytest.approx(np.full(HERTZ.size, 8.2), rel=1e-9)
    raw = ohms(jig(Z), nominal(10.0, HERTZ.size))
    assert np.abs(raw - Z).min() > 0.1


def test_an_ideal_jig_is_a_divider() -> None:
    assert ohms(Z / (Z + 22), nominal(22.0, HERTZ.size)) == pytest.approx(Z)
    assert ratio_of(Z, np.full(HERTZ.size, 22.0)) == pytest.approx(Z / (Z + 22))


def test_each_sweep_of_a_recording_gives_the_ratio() -> None:
    plan = Schedule(SweepSettings(length=2**14), repeats=3)
    played = plan.samples()
    found = read_sweeps(np.stack((0.2 * played, 0.6 * played), axis=1), plan, HERTZ)
    assert found.shape == (3, HERTZ.size)
    assert found == pytest.approx(np.full((3, HERTZ.size), 0.25), abs=1e-6)
    with pytest.raises(UnusableError, match="both inputs of the jig are silent"):
        read_sweeps(np.full((played.size, 2), 0.9e-4), plan, HERTZ)
    heard(np.array([[1.1e-4, 0.0]]))


def test_what_hangs_there_is_seen_from_100_hz_to_1_khz() -> None:
    load = np.where((HERTZ >= 100) & (HERTZ <= 1000), 6.0, 60.0)
    assert looks_like(load / (load + 10), 10.0, HERTZ) == pytest.approx(6.0)


@pytest.mark.parametrize(
    ("standard", "seen", "wrong"),
    [
        ("open", 300.0, ""),
        ("open", 290.0, "the clips should hold nothing, but the jig sees about 2.9e+02 ohm"),
        ("short", 3.0, ""),
        ("short", 3.1, "the clips should be joined, but the jig sees about 3.1 ohm"),
        ("short", 301.0, "the clips should be joined, but the jig sees nothing"),
        ("resistor", 5.0, ""),
        ("resistor", 4.9, "the clips should hold the resistor of 10 ohm, but the jig sees about 4.9 ohm"),
        ("resistor", 20.0, ""),
        ("resistor", 20.5, "the clips should hold the resistor of 10 ohm, but the jig sees about 20 ohm"),
    ],
)
def test_a_standard_that_is_not_what_it_should_be_is_said(standard: str, seen: float, wrong: str) -> None:
    assert plausible(standard, seen, 10.0) == wrong  # type: ignore[arg-type]


def test_a_mean_is_as_sure_as_students_t_has_it() -> None:
    """Three values: t of two degrees of freedom at 97.5 % is 4.303 (table of Student's distribution)."""
    found = sureness(np.array([1.0, 2.0, 3.0]))
    assert found.value == 2.0
    assert found.half == pytest.approx(4.3027 / np.sqrt(3), rel=1e-4)
    assert sureness(np.array([7.0])).half == np.inf
