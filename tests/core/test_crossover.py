"""Crossovers against closed forms, scipy.signal and pyfar."""

import numpy as np
import pyfar as pf
import pytest
from scipy.signal import bessel, butter, group_delay, sos2tf, sosfreqz

from imbrix.core.errors import InvalidError
from imbrix.core.signal.grid import log_grid
from imbrix.core.tune.crossover import CORNER_LEVEL_DB, SLOPES, alignment, prototype, sections

RATE = 48_000
GRID = log_grid()


def response(shape: str, slope: int, corner: float, end: str, hertz: np.ndarray = GRID) -> np.ndarray:
    return sosfreqz(np.array(sections(shape, slope, corner, end, RATE)), worN=hertz, fs=RATE)[1]


@pytest.mark.parametrize("end", ["high_pass", "low_pass"])
@pytest.mark.parametrize(("shape", "slope"), [(shape, slope) for shape, all_ in SLOPES.items() for slope in all_])
def test_the_level_at_the_corner(shape: str, slope: int, end: str) -> None:
    """Butterworth and Bessel -3.01 dB, Linkwitz-Riley -6.02 dB, at every order and several corners."""
    expected = -6.0206 if shape == "linkwitz-riley" else -3.0103
    assert CORNER_LEVEL_DB[shape] == pytest.approx(expected, abs=1e-4)
    for corner in (40.0, 1000.0, 12_000.0):
        found = 20 * np.log10(np.abs(response(shape, slope, corner, end, np.array([corner]))))[0]
        assert found == pytest.approx(expected, abs=1e-4)


@pytest.mark.parametrize("order", range(1, 9))
@pytest.mark.parametrize(("end", "kind"), [("low_pass", "low"), ("high_pass", "high")])
def test_butterworth_equals_scipy(order: int, end: str, kind: str) -> None:
    theirs = sosfreqz(butter(order, 700, kind, fs=RATE, output="sos"), worN=GRID, fs=RATE)[1]
    own = response("butterworth", 6 * order, 700, end)
    assert np.abs(own / theirs - 1).max() < 1e-7


@pytest.mark.parametrize("order", [2, 3, 4, 6, 8])
@pytest.mark.parametrize(("end", "kind"), [("low_pass", "low"), ("high_pass", "high")])
def test_bessel_equals_scipy_normalised_to_magnitude(order: int, end: str, kind: str) -> None:
    theirs = sosfreqz(bessel(order, 900, kind, norm="mag", fs=RATE, output="sos"), worN=GRID, fs=RATE)[1]
    assert np.abs(response("bessel", 6 * order, 900, end) / theirs - 1).max() < 1e-6


def test_bessel_group_delay_is_flat_in_the_pass_band() -> None:
    """W. E. Thomson 1949: maximally flat delay; a Butterworth of the same order peaks."""

    def spread(shape: str) -> float:
        top, bottom = sos2tf(np.array(sections(shape, 24, 2000, "low_pass", RATE)))
        _, delay = group_delay((top, bottom), w=np.linspace(50, 1400, 60), fs=RATE)
        return float(delay.max() / delay.min())

    assert spread("bessel") < 1.01
    assert spread("butterworth") > 1.2


@pytest.mark.parametrize("corner", [80.0, 320.0, 3100.0, 9000.0])
@pytest.mark.parametrize(("slope", "sign"), [(12, -1), (24, 1), (36, -1), (48, 1)])
def test_linkwitz_riley_pairs_sum_flat(corner: float, slope: int, sign: int) -> None:
    """S. Linkwitz 1976: low-pass plus high-pass is all-pass; 12 and 36 dB with one side inverted."""
    both = response("linkwitz-riley", slope, corner, "low_pass") + sign * response(
        "linkwitz-riley", slope, corner, "high_pass"
    )
    assert np.abs(20 * np.log10(np.abs(both))).max() < 1e-9


def test_a_fourth_order_butterworth_pair_sums_to_3_db_at_the_corner() -> None:
    at = np.array([500.0])
    both = response("butterworth", 24, 500, "low_pass", at) + response("butterworth", 24, 500, "high_pass", at)
    assert 20 * np.log10(np.abs(both[0])) == pytest.approx(3.0103, abs=1e-3)


@pytest.mark.parametrize("order", [2, 4, 8])
def test_linkwitz_riley_agrees_with_pyfar(order: int) -> None:
    impulse = pf.signals.impulse(2**16, sampling_rate=RATE)
    low = pf.dsp.filter.crossover(impulse, order, 1500.0)[0]
    hertz = low.frequencies[40:-200]
    own = response("linkwitz-riley", 6 * order, 1500.0, "low_pass", hertz)
    theirs = np.abs(low.freq[0, 40:-200])
    audible = theirs > 1e-4
    assert np.abs(20 * np.log10(np.abs(own[audible]) / theirs[audible])).max() < 0.01


def test_near_half_the_rate_the_digital_filter_is_drawn() -> None:
    """The bilinear transform puts a zero at half the rate: far steeper there than the analogue parent."""
    at = np.array([19_000.0])
    digital = 20 * np.log10(np.abs(response("butterworth", 12, 8000, "low_pass", at)))[0]
    analogue = 20 * np.log10(alignment("butterworth", 12, 8000, "low_pass", at))[0]
    assert digital < analogue - 5


def test_the_alignment_is_the_analogue_closed_form() -> None:
    ratio = GRID / 300
    expected = 1 / np.sqrt(1 + ratio**8)
    assert alignment("butterworth", 24, 300, "low_pass", GRID) == pytest.approx(expected, rel=1e-9)
    assert alignment("linkwitz-riley", 48, 300, "high_pass", GRID) == pytest.approx(ratio**8 / (1 + ratio**8), rel=1e-9)


def test_what_a_family_does_not_have_is_refused() -> None:
    with pytest.raises(ValueError, match="has no slope of 18"):
        prototype("linkwitz-riley", 18)
    with pytest.raises(ValueError, match="half of 48000"):
        sections("butterworth", 12, 30_000, "low_pass", RATE)


@pytest.mark.parametrize("corner", [19_000.0, 23_900.0])
def test_a_corner_may_stand_anywhere_below_half_the_rate(corner: float) -> None:
    assert len(sections("linkwitz-riley", 24, corner, "low_pass", 48_000)) == 2
    for beyond in (24_000.0, 30_000.0, 0.0):
        with pytest.raises(InvalidError, match="does not lie between 0 and half of 48000 Hz"):
            sections("linkwitz-riley", 24, beyond, "low_pass", 48_000)
