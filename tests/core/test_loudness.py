"""Loudness against ITU-R BS.1770 and the signals that EBU Tech 3341 describes (from memory), built here."""

import numpy as np
import pytest
import scipy.signal

from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.loudness import k_weighting, pink_loudness

RATE = 48_000
STATED = np.array(
    [
        [1.53512485958697, -2.69169618940638, 1.19839281085285, 1.0, -1.69065929318241, 0.73248077421585],
        [1.0, -2.0, 1.0, 1.0, -1.99004745483398, 0.99007225036621],
    ]
)
"""ITU-R BS.1770-4, tables 1 and 2: the sections at 48 kHz."""


OFFSET_DB = -0.691
"""So that a sine of 997 Hz at full scale in one channel reads -3.01 LKFS."""
BLOCK_S, OVERLAP = 0.4, 0.75
ABSOLUTE_LKFS, RELATIVE_DB = -70.0, -10.0


def integrated(samples: np.ndarray, rate: int) -> float:
    """Gated loudness in LKFS of samples (n, channels) of front channels; minus infinity where the gates let none in."""
    weighted = scipy.signal.sosfilt(k_weighting(rate), samples, axis=0)
    size = round(BLOCK_S * rate)
    hop = round(BLOCK_S * (1.0 - OVERLAP) * rate)
    total = np.concatenate((np.zeros((1, samples.shape[1])), np.cumsum(weighted**2, axis=0)))
    starts = np.arange(0, samples.shape[0] - size + 1, hop)
    power = ((total[starts + size] - total[starts]) / size).sum(axis=1)
    loud = power[_lkfs(power) > ABSOLUTE_LKFS]
    if not loud.size:
        return -np.inf
    gate = _lkfs(loud.mean(keepdims=True))[0] + RELATIVE_DB
    return float(_lkfs(loud[_lkfs(loud) > gate].mean(keepdims=True))[0])


def _lkfs(power: np.ndarray) -> np.ndarray:
    return np.asarray(OFFSET_DB + 10.0 * np.log10(np.maximum(power, 1e-30)))


def sines(*parts: tuple[float, float], rate: int = RATE, hertz: float = 1000.0) -> np.ndarray:
    """Stereo sines of so many dBFS for so many seconds, one after another."""
    level = np.concatenate([np.full(round(seconds * rate), 10 ** (dbfs / 20)) for dbfs, seconds in parts])
    wave = level * np.sin(2 * np.pi * hertz * np.arange(level.size) / rate)
    return np.stack((wave, wave), axis=1)


def test_the_weighting_is_that_of_the_recommendation() -> None:
    assert k_weighting(RATE) == pytest.approx(STATED, abs=1e-6)


def test_a_full_scale_sine_in_one_channel_reads_three_down() -> None:
    """ITU-R BS.1770-4, annex 1: 0 dBFS at 997 Hz in one front channel gives -3.01 LKFS."""
    one = sines((0.0, 5.0), hertz=997.0)[:, :1]
    assert integrated(one, RATE) == pytest.approx(-3.01, abs=0.02)


@pytest.mark.parametrize(
    ("parts", "wanted"),
    [
        (((-23, 20),), -23.0),
        (((-33, 20),), -33.0),
        (((-36, 10), (-23, 60), (-36, 10)), -23.0),
        (((-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)), -23.0),
        (((-26, 20), (-20, 20.1), (-26, 20)), -23.0),
    ],
)
def test_the_signals_of_tech_3341(parts: tuple[tuple[float, float], ...], wanted: float) -> None:
    """EBU Tech 3341, minimum requirements test signals 1 to 5: within 0.1 LU."""
    assert integrated(sines(*parts), RATE) == pytest.approx(wanted, abs=0.1)


@pytest.mark.parametrize("rate", [44_100, 96_000])
def test_the_rate_does_not_matter(rate: int) -> None:
    for hertz in (60.0, 1000.0, 8000.0):
        here = integrated(sines((-20, 4), rate=rate, hertz=hertz), rate)
        assert here == pytest.approx(integrated(sines((-20, 4), hertz=hertz), RATE), abs=0.05)


def test_silence_is_below_the_gate() -> None:
    assert integrated(np.zeros((RATE, 2)), RATE) == -np.inf


def test_pink_noise_through_a_filter_differs_as_the_meter_says() -> None:
    random = np.random.default_rng(4)
    spectrum = np.fft.rfft(random.standard_normal(RATE * 20))
    hertz = np.fft.rfftfreq(RATE * 20, 1 / RATE)
    inside = (hertz > 20) & (hertz < 20_000)
    pink = np.fft.irfft(np.where(inside, spectrum / np.sqrt(np.maximum(hertz, 1)), 0))
    pink = 0.2 * pink / np.abs(pink).max()
    sos = scipy.signal.butter(2, 300, "highpass", fs=RATE, output="sos")
    heard = scipy.signal.sosfilt(sos, pink)
    measured = integrated(heard[:, None], RATE) - integrated(pink[:, None], RATE)
    grid = log_grid()
    power = np.abs(scipy.signal.sosfreqz(sos, 2 * np.pi * grid / RATE)[1]) ** 2
    said = pink_loudness(power, grid) - pink_loudness(np.ones(grid.size), grid)
    assert said == pytest.approx(measured, abs=0.1)
