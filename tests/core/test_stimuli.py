"""Test signals: slopes by Welch's method (scipy.signal.welch), sums by closed form."""

import numpy as np
import pytest
from scipy.signal import welch

from imbrix.core.measure import stimuli
from imbrix.core.signal.signal import decibels

RATE = 48_000


def rms_db(samples: np.ndarray) -> float:
    return float(decibels(np.sqrt(np.mean(samples**2))))


@pytest.mark.parametrize(("pink", "slope"), [(True, -3.01), (False, 0.0)])
def test_pink_falls_three_decibels_per_octave_and_white_does_not(pink: bool, slope: float) -> None:
    noise = stimuli.shaped_noise(2**19, RATE, -20.0, pink=pink)[:, 0]
    hertz, power = welch(noise, RATE, nperseg=2**13)
    levels = [10 * np.log10(power[(hertz > f / 1.2) & (hertz < f * 1.2)].mean()) for f in (125, 250, 500, 4000, 8000)]
    fit = np.polyfit(np.log2([125, 250, 500, 4000, 8000]), levels, 1)[0]
    assert fit == pytest.approx(slope, abs=0.1)
    assert rms_db(noise) == pytest.approx(-20.0, abs=0.01)


def test_alike_channels_sum_six_decibels_up_and_unrelated_ones_three() -> None:
    alike = stimuli.shaped_noise(2**18, RATE, -20.0, channels=2)
    apart = stimuli.shaped_noise(2**18, RATE, -20.0, channels=2, correlated=False)
    assert rms_db(alike.sum(axis=1)) == pytest.approx(-20 + 6.02, abs=0.01)
    assert rms_db(apart.sum(axis=1)) == pytest.approx(-20 + 3.01, abs=0.2)


def test_noise_repeats_without_a_seam_and_keeps_to_its_band() -> None:
    noise = stimuli.shaped_noise(2**14, RATE, -20.0, low_hz=100, high_hz=1000)[:, 0]
    twice = np.abs(np.fft.rfft(np.tile(noise, 2)))
    assert twice[1::2].max() < 1e-9 * twice.max()
    hertz = np.fft.rfftfreq(2**14, 1 / RATE)
    spectrum = np.abs(np.fft.rfft(noise))
    assert spectrum[(hertz < 99) | (hertz > 1001)].max() < 1e-9 * spectrum.max()


def test_what_would_clip_is_refused_with_the_level_that_is_possible() -> None:
    with pytest.raises(stimuli.TooLoudError, match=r"at most -1\d\.\d dBFS"):
        stimuli.shaped_noise(2**16, RATE, -3.0)


def test_the_multitone_has_a_tone_in_every_third_octave() -> None:
    samples = stimuli.multitone(2**16, RATE, -20.0)
    spectrum = np.abs(np.fft.rfft(samples))
    lines = np.flatnonzero(spectrum > 0.5 * spectrum.max())
    assert lines.size == 31
    steps = np.diff(np.log2(lines[8:] * RATE / 2**16))
    assert steps == pytest.approx(np.full(steps.size, 1 / 3), abs=0.02)


def test_pulses_are_positive_and_evenly_spaced() -> None:
    samples = stimuli.polarity_pulses(RATE, -6.0, 500.0, 4, 0.1)
    assert samples.min() >= 0
    assert samples.max() == pytest.approx(10 ** (-6 / 20))
    starts = np.flatnonzero((samples[1:] > 0) & (samples[:-1] == 0))
    assert np.diff(starts) == pytest.approx([4800] * 3)


def test_sine_burst_tone_and_linear_sweep_are_as_loud_as_asked_and_faded() -> None:
    for samples in (
        stimuli.sine(RATE, RATE, -12.0, 440.0),
        stimuli.linear_sweep(RATE, RATE, -12.0, 20, 20_000),
    ):
        assert decibels(np.abs(samples).max()) == pytest.approx(-12, abs=0.05)
        assert abs(samples[0]) + abs(samples[-1]) < 1e-6
    tone = stimuli.centre_tone(RATE, -20.0, 1000.0, 1.0)
    hertz, power = welch(tone, RATE, nperseg=2**13)
    inside = (hertz > 850) & (hertz < 1180)
    assert power[inside].sum() > 0.98 * power.sum()
    assert stimuli.band_burst(RATE, -24.0, 35, 90).size == round(0.8 * RATE)
