"""Weightings and bands against the tables of IEC 61672-1:2013 and IEC 61260-1:2014, ISO 266 (from memory)."""

import numpy as np
import pytest

from imbrix.core.signal.signal import decibels
from imbrix.core.signal.weighting import a_weighting, bands, c_weighting, edges, nominal, octave_means


@pytest.mark.parametrize(
    ("hertz", "a_db", "c_db"),
    [(31.5, -39.4, -3.0), (100, -19.1, -0.3), (1000, 0.0, 0.0), (10_000, -2.5, -4.4), (4000, 1.0, -0.8)],
)
def test_the_weightings_are_those_of_the_standards_table(hertz: float, a_db: float, c_db: float) -> None:
    at = np.array([hertz])
    assert decibels(a_weighting(at))[0] == pytest.approx(a_db, abs=0.15)
    assert decibels(c_weighting(at))[0] == pytest.approx(c_db, abs=0.15)


def test_third_octaves_have_base_ten_middles_and_nominal_names() -> None:
    mids = bands(3)
    assert mids[0] == pytest.approx(19.9526, rel=1e-5)
    assert mids[-1] == pytest.approx(19_952.6, rel=1e-4)
    assert len(mids) == 31
    names = [nominal(mid) for mid in mids]
    assert names[:5] == [20, 25, pytest.approx(31.5), 40, 50]
    assert 1000.0 in names


def test_neighbouring_bands_share_their_edges_and_even_fractions_straddle_1_khz() -> None:
    mids = bands(3)
    limits = edges(mids, 3)
    assert limits[1:-1] == pytest.approx(np.sqrt(mids[:-1] * mids[1:]))
    assert np.sqrt(np.prod(sorted(bands(6), key=lambda f: abs(np.log(f / 1000)))[:2])) == pytest.approx(1000)


def test_octave_means_leave_out_what_is_not_covered() -> None:
    grid = np.geomspace(20, 20_000, 2000)
    curve = np.where((grid > 400) & (grid < 5000), 30.0, np.nan)
    assert octave_means(curve, grid) == {500.0: 30.0, 1000.0: 30.0, 2000.0: 30.0, 4000.0: 30.0}
