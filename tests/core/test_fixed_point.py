"""Coefficients in fixed point: their integers mean what is said, and rounding does what is said, against scipy."""

import numpy as np
import pytest
from scipy.signal import sosfilt, sosfreqz

from imbrix.core.errors import InvalidError
from imbrix.core.signal.grid import log_grid
from imbrix.core.tune.fixed_point import Format, error_db, response, rounded
from imbrix.core.tune.lower import lower
from imbrix.core.tune.tune import Band, Channel, Crossover

RATE = 48_000
GRID = log_grid()
CHANNEL = Channel(
    high_pass=Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=320),
    bands=(
        Band(frequency_hz=900, gain_db=9, q=2),
        Band(kind="high_shelf", frequency_hz=6000, gain_db=14, q=0.7),
        Band(kind="all_pass", frequency_hz=400, gain_db=0, q=1),
    ),
)
SOS = lower(CHANNEL, (), RATE).sos


@pytest.mark.parametrize("text", ["1.14", "Q1.30", "q5.27", "2.29"])
def test_words_are_the_nearest_steps_and_mean_what_is_said(text: str) -> None:
    wanted = Format.read(text)
    if wanted.bits < 20:
        assert str(wanted) == "Q1.14"
    found = rounded(SOS, wanted)
    step = 2.0**-wanted.fraction
    assert np.abs(found.words).max() < 2 ** (wanted.bits - 1)
    shifted = SOS.copy()
    shifted[:, :3] /= 2.0 ** found.shifts[:, None]
    assert np.abs(found.words * step - shifted).max() <= step / 2 + 1e-15
    assert found.sos[:, 3] == pytest.approx(np.ones(len(SOS)))


def test_what_rounding_does_is_what_scipy_finds_in_the_integers() -> None:
    """The file's own words: integers times 2^-n, outputs doubled as often as their shift says."""
    for text in ("1.14", "1.22", "2.29"):
        wanted = Format.read(text)
        found = rounded(SOS, wanted)
        by_hand = found.words * 2.0**-wanted.fraction
        pulse = np.zeros(2**17)
        pulse[0] = 1.0
        for row, shift in zip(by_hand, found.shifts, strict=True):
            pulse = sosfilt(row[None], pulse) * 2.0**shift
        hertz = np.fft.rfftfreq(pulse.size, 1 / RATE)
        has = np.interp(GRID, hertz, 20 * np.log10(np.abs(np.fft.rfft(pulse)) + 1e-30))
        exact = 20 * np.log10(np.abs(sosfreqz(SOS, worN=GRID, fs=RATE)[1]))
        inside = exact > exact.max() - 40
        said = error_db(SOS, found, GRID, RATE)
        assert said[inside] == pytest.approx((has - exact)[inside], abs=0.02), text


def test_more_bits_err_less_and_enough_bits_hardly_at_all() -> None:
    worst = [np.abs(error_db(SOS, rounded(SOS, Format(1, n)), GRID, RATE)).max() for n in (14, 18, 22, 30)]
    # Not by each bit: coefficients may happen to lie near a step.
    assert max(worst[:2]) > 0.1 > worst[2] > worst[3]
    assert worst[-1] < 1e-3


def test_a_large_boost_is_shifted_rather_than_cut_off() -> None:
    loud = lower(Channel(bands=(Band(kind="high_shelf", frequency_hz=2000, gain_db=20, q=0.7),)), (), RATE).sos
    found = rounded(loud, Format(1, 30))
    assert found.shifts[0] >= 2
    assert np.abs(error_db(loud, found, GRID, RATE)).max() < 1e-4
    assert rounded(np.zeros((0, 6)), Format(1, 30)).words.shape == (0, 6)


def test_what_does_not_fit_is_refused_with_what_would() -> None:
    low = lower(Channel(high_pass=Crossover(shape="butterworth", slope_db=24, corner_hz=20)), (), 192_000).sos
    with pytest.raises(InvalidError, match=r"no longer be stable in Q1\.14"):
        rounded(low, Format(1, 14))
    rounded(low, Format(1, 30))
    for text in ("", "30", "0.31", "1.7", "0.8", "1.63", "40.40", "-1.30", "1.x", "1.300"):
        with pytest.raises(InvalidError, match="format"):
            Format.read(text)
    assert Format.read("1.8") == Format(1, 8)
    assert Format.read("1.62").bits == 64


def test_a_coefficient_that_does_not_fit_is_said_with_its_section() -> None:
    low = SOS.copy()
    low[1, 4] = -1.99999
    with pytest.raises(
        InvalidError, match=r"section 2 has a coefficient of 2\.0000, and Q1\.14 ends at 1\.9999: take one"
    ):
        rounded(low, Format.read("1.14"))
    rounded(SOS, Format.read("2.13"))


def test_no_sections_do_nothing() -> None:
    assert response(np.zeros((0, 6)), np.array([20.0, 1000.0]), RATE).tolist() == [1.0, 1.0]
