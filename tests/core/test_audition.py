"""Two tunes heard against each other: as loud, and how sure a blind result is."""

from math import comb

import numpy as np
import pytest
import scipy.signal

from imbrix.core.audition.match import loudness, spectrum
from imbrix.core.audition.trials import SURE, chance, needed, verdict
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.loudness import pink_loudness
from imbrix.core.tune.lower import band_section
from imbrix.core.tune.tune import Band
from imbrix.work.audition.songs import _pink, _plucked
from tests.core.test_loudness import integrated

RATE = 48_000
GRID = log_grid()
FILTERS = (
    [Band(kind="low_shelf", frequency_hz=120.0, gain_db=6.0, q=0.7)],
    [Band(kind="high_shelf", frequency_hz=3000.0, gain_db=-8.0, q=0.7)],
    [Band(frequency_hz=700.0, gain_db=5.0, q=1.0), Band(frequency_hz=2500.0, gain_db=-5.0, q=2.0)],
)


@pytest.mark.parametrize("count", [1, 5, 10, 23])
def test_the_chance_of_guessing_is_the_tail_of_the_binomial(count: int) -> None:
    for right in range(count + 1):
        tail = sum(comb(count, n) for n in range(right, count + 1)) / 2**count
        assert chance(right, count) == pytest.approx(tail)
    assert chance(0, 0) == 1


def test_nine_of_ten_are_sure_and_eight_are_not() -> None:
    assert needed(10) == 9  # (10 + 1) / 1024 is 1.1 %, (45 + 10 + 1) / 1024 is 5.5 %
    assert needed(4) is None  # all four right come by guessing once in sixteen
    assert needed(5) == 5
    assert "so there is a difference" in verdict(9, 10)
    assert "shows no difference yet" in verdict(8, 10)
    assert verdict(0, 0) == "nothing was tried yet"


def test_what_is_still_needed_is_enough_and_no_more() -> None:
    more = int(verdict(3, 4).split("; ")[1].split()[0])
    assert chance(3 + more, 4 + more) <= SURE < chance(3 + more - 1, 4 + more - 1)


@pytest.mark.parametrize("bands", FILTERS)
@pytest.mark.parametrize("music", [_pink(RATE), _plucked(RATE)], ids=["pink", "plucked"])
def test_the_match_is_what_a_meter_reads(music: np.ndarray, bands: list[Band]) -> None:
    """ITU-R BS.1770 by the gated meter in time, of music through scipy's filters, within 0.1 dB."""
    sos = np.array([band_section(one, RATE) for one in bands])
    louder = integrated(scipy.signal.sosfilt(sos, music, axis=0), RATE) - integrated(music, RATE)
    response = scipy.signal.sosfreqz(sos, GRID, fs=RATE)[1]
    known = spectrum(music, RATE, GRID)
    power = np.abs(response) ** 2
    assert loudness(power, known, GRID) - loudness(np.ones(GRID.size), known, GRID) == pytest.approx(louder, abs=0.1)


def test_pink_noise_is_matched_as_pink_noise() -> None:
    power = np.abs(scipy.signal.sosfreqz(np.array([band_section(FILTERS[0][0], RATE)]), GRID, fs=RATE)[1]) ** 2
    known = spectrum(_pink(RATE), RATE, GRID)
    ours = loudness(power, known, GRID) - loudness(np.ones(GRID.size), known, GRID)
    plain = pink_loudness(power, GRID) - pink_loudness(np.ones(GRID.size), GRID)
    assert ours == pytest.approx(plain, abs=0.1)
