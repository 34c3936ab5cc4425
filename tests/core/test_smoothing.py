"""Smoothing: constants kept, width as stated, pyfar as an outside reference."""

import numpy as np
import pyfar as pf
import pytest

from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.smoothing import hearing_octaves, smooth, smooth_db, smooth_power

GRID = log_grid()


@pytest.mark.parametrize("fraction", [1, 3, 6, 12, 24, 48])
def test_constants_are_kept(fraction: float) -> None:
    assert smooth(np.full(GRID.size, 3.5), GRID, fraction) == pytest.approx(np.full(GRID.size, 3.5))
    assert smooth(np.full((2, GRID.size), 1 - 2j), GRID, fraction)[1] == pytest.approx(np.full(GRID.size, 1 - 2j))


def test_a_straight_line_over_octaves_is_kept_away_from_the_ends() -> None:
    line = np.log2(GRID)
    assert smooth(line, GRID, 3)[60:-60] == pytest.approx(line[60:-60], abs=1e-9)


@pytest.mark.parametrize("fraction", [1, 3, 6])
def test_a_step_is_spread_over_just_the_stated_width(fraction: float) -> None:
    step = (GRID >= 1000).astype(float)
    spread = smooth(step, GRID, fraction)
    rising = GRID[(spread > 1e-9) & (spread < 1 - 1e-9)]
    assert np.log2(rising[-1] / rising[0]) == pytest.approx(1 / fraction, abs=2.5 / 96)
    assert spread[np.argmin(np.abs(GRID - 1000))] == pytest.approx(0.5, abs=0.06)


def test_none_leaves_everything_as_it_is() -> None:
    values = np.random.default_rng(0).standard_normal(GRID.size)
    assert smooth(values, GRID, None) is values


def test_level_agrees_with_pyfar() -> None:
    """pyfar.dsp.smooth_fractional_octave averages power on a log axis too; its window is quantised to bins."""
    random = np.random.default_rng(5)
    taps = random.standard_normal(2**14) * np.exp(-np.arange(2**14) / 300)
    power = np.abs(np.fft.rfft(taps)) ** 2
    signal = pf.Signal(power, 48_000, domain="freq", n_samples=taps.size)
    theirs, _ = pf.dsp.smooth_fractional_octave(signal, 3, mode="magnitude")
    at = (GRID > 200) & (GRID < 8000)
    n = np.arange(taps.size)
    direct = np.array([np.exp(-2j * np.pi * f / 48_000 * n) @ taps for f in GRID])
    own = smooth_db(direct, GRID, 3)
    reference = 10 * np.log10(np.interp(GRID, theirs.frequencies, np.abs(theirs.freq[0])))
    assert np.abs((own - reference)[at]).max() < 0.4


def test_power_of_unrelated_parts_adds() -> None:
    random = np.random.default_rng(2)
    phases = np.exp(2j * np.pi * random.random((2, GRID.size)))
    both = smooth_power(phases[0] + phases[1], GRID, 1)
    assert 10 * np.log10(both.mean() / 1) == pytest.approx(3.01, abs=0.35)


def test_smoothing_as_hearing_does_has_the_bandwidth_of_the_auditory_filter() -> None:
    """Glasberg and Moore 1990: 24.7 (4.37 f / 1000 + 1) hertz; 132.6 Hz at 1 kHz."""
    for hertz in (100.0, 1000.0, 8000.0):
        width = 24.7 * (4.37 * hertz / 1000 + 1)
        step = (hertz <= GRID).astype(float)
        spread = smooth(step, GRID, "hearing")
        rising = GRID[(spread > 1e-9) & (spread < 1 - 1e-9)]
        assert rising[-1] - rising[0] == pytest.approx(width, rel=0.12)
    assert hearing_octaves(np.array([1000.0]))[0] == pytest.approx(np.log2(1068.5 / 935.9), abs=0.002)
    assert smooth(np.full(GRID.size, 2.0), GRID, "hearing") == pytest.approx(np.full(GRID.size, 2.0))
    octaves = hearing_octaves(GRID)
    assert (np.diff(octaves) < 0).all()
    assert 0.75 < octaves[np.argmin(np.abs(GRID - 50))] < 1
