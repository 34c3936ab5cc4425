"""Peaks and dips of curves whose extremes are known in closed form."""

import numpy as np
import pytest
import scipy.signal

from imbrix.core.signal.extremes import extremes, peaks
from imbrix.core.signal.grid import log_grid

GRID = log_grid()


def test_the_peaks_and_dips_of_a_comb_are_where_the_closed_form_says() -> None:
    """Two equal sounds 1 ms apart: peaks at k kHz, dips at (2 k + 1) / 2 kHz."""
    levels = 20 * np.log10(np.abs(1 + 0.7 * np.exp(-2j * np.pi * GRID * 1e-3)))
    found = extremes(levels)
    dips = [GRID[at] for at, peak in found if not peak and GRID[at] < 6000]
    tops = [GRID[at] for at, peak in found if peak and GRID[at] < 5800]
    assert np.allclose(dips, [500, 1500, 2500, 3500, 4500, 5500], rtol=0.004)
    assert np.allclose(tops, [1000, 2000, 3000, 4000, 5000], rtol=0.004)


def test_ripple_under_the_limit_and_unknown_stretches_have_none() -> None:
    ripple = 0.4 * np.sin(np.arange(GRID.size) / 5)
    assert extremes(ripple) == []
    assert extremes(np.full(GRID.size, np.nan)) == []
    half = np.where(GRID > 1000, 5 * np.sin(np.arange(GRID.size) / 20), np.nan)
    assert all(GRID[at] > 1000 for at, _ in extremes(half))
    assert len(extremes(half)) > 5


@pytest.mark.parametrize("seed", range(12))
def test_peaks_are_those_of_scipy(seed: int) -> None:
    """Against `scipy.signal.find_peaks`: curves of few and of many steps, so that flat tops are among them."""
    random = np.random.default_rng(seed)
    values = np.round(np.cumsum(random.normal(0, 1, 400)), seed % 3)
    for least in (0.0, 0.5, 1.0, 4.0):
        assert peaks(values, least) == scipy.signal.find_peaks(values, prominence=least)[0].tolist()
    assert peaks(np.zeros(20), 0.0) == peaks(np.arange(20.0), 0.0) == []
