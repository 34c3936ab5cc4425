"""How loud a source gets: distortion against closed forms, and what is kept while somebody turns the volume up."""

import numpy as np
import pytest

from imbrix.core.source.loudness import DISTORTED, Loudness, heard, tone

RATE = 48_000
T = np.arange(19_200) / RATE


def sine(hertz: float, peak: float = 0.5, phase: float = 0.3) -> np.ndarray:
    return peak * np.sin(2 * np.pi * hertz * T + phase)


@pytest.mark.parametrize("hertz", [50.0, 49.997, 1000.0, 1000.06, 997.3])
@pytest.mark.parametrize(("second", "third"), [(0.0, 0.0), (0.02, 0.0), (0.003, 0.004), (0.0, 0.3)])
def test_level_frequency_and_distortion_are_those_of_the_tone(hertz: float, second: float, third: float) -> None:
    both = sine(hertz) + sine(2 * hertz, 0.5 * second) + sine(3 * hertz, 0.5 * third, 1.0)
    found = heard(both + 1e-5 * np.random.default_rng(1).standard_normal(both.size), RATE)
    assert found is not None
    assert found.hertz == pytest.approx(hertz, rel=2e-3)
    assert found.level_db == pytest.approx(20 * np.log10(0.5), abs=0.05)
    assert found.distortion == pytest.approx(np.hypot(second, third), abs=4e-4, rel=0.02)


def test_a_clipped_sine_has_the_harmonics_of_its_fourier_series() -> None:
    """A symmetrically clipped sine has odd harmonics only: those of the series, summed up to the ninth."""
    clipped = np.clip(sine(1000.0, 1.0), -0.8, 0.8)
    turn = np.linspace(0, 2 * np.pi, 100_000, endpoint=False)
    series = np.abs(np.fft.rfft(np.clip(np.sin(turn), -0.8, 0.8)))[:11]
    found = heard(clipped, RATE)
    assert found is not None
    assert found.distortion == pytest.approx(np.sqrt(np.sum(series[2:11] ** 2)) / series[1], rel=0.02)
    assert found.distortion > DISTORTED


@pytest.mark.parametrize(
    "samples",
    [
        np.zeros(19_200),
        1e-5 * np.random.default_rng(2).standard_normal(19_200),
        0.3 * np.random.default_rng(3).standard_normal(19_200),
        sine(1000.0) * np.linspace(0.5, 1, 19_200),
    ],
    ids=["silence", "hiss", "noise", "a volume that moves"],
)
def test_what_is_no_steady_tone_is_not_judged(samples: np.ndarray) -> None:
    assert heard(samples, RATE) is None


def test_the_highest_clean_and_the_lowest_distorted_level_are_kept() -> None:
    meter = Loudness(RATE)
    for peak in (0.1, 0.4, 0.7, 0.95, 0.3):
        played = np.tile(np.clip(peak * tone(1000, RATE, 0.4)[:, 0], -0.8, 0.8), 3)
        for block in np.array_split(played, 17):
            meter.feed(block)
    assert meter.clean_db == pytest.approx(20 * np.log10(0.7), abs=0.05)
    assert meter.over_db is not None
    assert 20 * np.log10(0.8) < meter.over_db < 0
    assert meter.hertz == pytest.approx(1000, rel=1e-3)
    assert meter.now is not None
    assert meter.now.level_db == pytest.approx(20 * np.log10(0.3), abs=0.05)


def test_another_tone_than_there_is_is_refused() -> None:
    with pytest.raises(ValueError, match="50 and 1000 Hz"):
        tone(440, RATE)
