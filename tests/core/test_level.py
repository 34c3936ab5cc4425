"""Sound level metering: IEC 61672-1 class 1, IEC 61260-1 class 1, time weightings, stretches in closed form."""

import numpy as np
import pytest
from scipy.signal import sosfreqz

from imbrix.core.signal.level import LevelMeter, band_filters, band_levels, outline, stretch, weighting_filter
from imbrix.core.signal.weighting import a_weighting, bands, c_weighting

RATE = 48_000
CLASS_1 = {
    # nominal Hz: A, C, tolerance up, down; IEC 61672-1:2013 tables 2 and 3, from memory
    20.0: (-50.5, -6.2, 2.0, 2.0),
    31.5: (-39.4, -3.0, 1.5, 1.5),
    63.0: (-26.2, -0.8, 1.0, 1.0),
    125.0: (-16.1, -0.2, 1.0, 1.0),
    250.0: (-8.6, 0.0, 1.0, 1.0),
    500.0: (-3.2, 0.0, 1.0, 1.0),
    1000.0: (0.0, 0.0, 0.7, 0.7),
    2000.0: (1.2, -0.2, 1.0, 1.0),
    4000.0: (1.0, -0.8, 1.0, 1.0),
    8000.0: (-1.1, -3.0, 1.5, 2.5),
    12_500.0: (-4.3, -6.2, 2.0, 5.0),
    16_000.0: (-6.6, -8.5, 2.5, 16.0),
}


@pytest.mark.parametrize("rate", [44_100, 48_000, 96_000, 192_000])
@pytest.mark.parametrize("kind", ["A", "C"])
def test_weightings_are_within_class_1(kind: str, rate: int) -> None:
    exact = 1000 * 10 ** (np.round(10 * np.log10(np.array(list(CLASS_1)) / 1000)) / 10)
    _, found = sosfreqz(weighting_filter(kind, rate), worN=exact, fs=rate)  # type: ignore[arg-type]
    for level, (a, c, up, down) in zip(20 * np.log10(np.abs(found)), CLASS_1.values(), strict=True):
        wanted = a if kind == "A" else c
        assert wanted - down <= level <= wanted + up


def test_weightings_are_the_closed_form_where_the_rate_is_high() -> None:
    """IEC 61672-1 annex E, which core.weighting computes without a filter."""
    f = np.geomspace(20, 12_000, 60)
    for kind, law in (("A", a_weighting), ("C", c_weighting)):
        _, found = sosfreqz(weighting_filter(kind, 192_000), worN=f, fs=192_000)  # type: ignore[arg-type]
        assert 20 * np.log10(np.abs(found) / law(f)) == pytest.approx(np.zeros(60), abs=0.15)


def masks(fraction: int) -> list[tuple[float, float, float]]:
    """Frequency over the middle, least and most attenuation of class 1: IEC 61260-1:2014 table 1, from memory."""
    g = 10**0.3
    octave = [
        (g**0, -0.4, 0.4),
        (g ** (1 / 8), -0.4, 0.5),
        (g ** (1 / 4), -0.4, 0.7),
        (g ** (3 / 8), -0.4, 1.4),
        (g ** (1 / 2) * 0.9999, -0.4, 5.3),
        (g ** (1 / 2) * 1.0001, 1.4, np.inf),
        (g**1, 16.6, np.inf),
        (g**2, 40.5, np.inf),
        (g**3, 60.0, np.inf),
        (g**4, 70.0, np.inf),
    ]
    scale = (g ** (1 / (2 * fraction)) - 1) / (g**0.5 - 1)  # formula 10 there: how the breakpoints of bands follow
    return [(1 + scale * (ratio - 1), low, high) for ratio, low, high in octave]


@pytest.mark.parametrize("rate", [44_100, 48_000, 192_000])
@pytest.mark.parametrize("fraction", [1, 3])
def test_band_filters_are_within_class_1(fraction: int, rate: int) -> None:
    mids, filters = band_filters(fraction, rate)
    assert mids.size >= (9 if fraction == 1 else 29)
    for mid, one in zip(mids, filters, strict=True):
        for ratio, least, most in masks(fraction):
            for f in (mid * ratio, mid / ratio):
                if f >= 0.5 * rate:
                    continue
                _, found = sosfreqz(one, worN=[f], fs=rate)
                attenuation = -20 * np.log10(np.abs(found[0]) + 1e-15)
                assert least - 1e-6 <= attenuation <= most + 1e-6, (mid, f, attenuation)


def test_bands_of_a_sine_and_of_pink_noise() -> None:
    at = np.arange(4 * RATE)
    mids, power = band_levels(0.1 * np.sin(2 * np.pi * 1000 / RATE * at), RATE, 3)
    assert mids[np.argmax(power)] == pytest.approx(1000)
    assert 10 * np.log10(power.max()) == pytest.approx(-23.01, abs=0.05)
    spectrum = np.random.default_rng(1).standard_normal(at.size // 2 + 1) + 0j
    spectrum *= np.exp(2j * np.pi * np.random.default_rng(2).random(spectrum.size)) / np.sqrt(
        np.arange(spectrum.size) + 1
    )
    _, pink = band_levels(np.fft.irfft(spectrum), RATE, 1)
    assert np.ptp(10 * np.log10(pink[2:-1])) < 1.0  # equal energy in each octave, by definition
    assert bands(1, 31.5, 16_000).size == 10


def test_time_weightings_rise_and_fall_as_the_standard_has_it() -> None:
    """IEC 61672-1:2013 table 4 (from memory): a 4 kHz burst of 200 ms reads -1.0 dB fast and -7.4 dB slow at most, one
    of 50 ms -4.8 and -13.1 dB; closed form 10 log10(1 - exp(-T / tau))."""
    for seconds, fast, slow in ((0.2, -1.0, -7.4), (0.05, -4.8, -13.1)):
        meter = LevelMeter(RATE, "Z")
        burst = np.zeros(3 * RATE)
        burst[: round(seconds * RATE)] = np.sqrt(2) * np.sin(2 * np.pi * 4000 / RATE * np.arange(round(seconds * RATE)))
        for first in range(0, burst.size, 1000):
            meter.feed(burst[first : first + 1000])
        shown = meter.levels()
        assert 10 * np.log10(shown.fast_most) == pytest.approx(fast, abs=0.1)
        assert 10 * np.log10(shown.slow_most) == pytest.approx(slow, abs=0.1)
        assert 10 * np.log10(shown.equivalent) == pytest.approx(10 * np.log10(seconds / 3), abs=0.01)
    # Fast falls by 34.7 dB a second (table 4 of the standard asks for at least 25).
    meter = LevelMeter(RATE, "Z")
    meter.feed(np.ones(RATE))
    before = meter.levels().fast
    meter.feed(np.zeros(RATE // 2))
    assert 10 * np.log10(before / meter.levels().fast) == pytest.approx(34.7 / 2, abs=0.1)


def test_the_least_waits_until_it_has_settled_and_a_restart_keeps_the_weighting_running() -> None:
    meter = LevelMeter(RATE, "A")
    tone = np.sqrt(2) * 0.1 * np.sin(2 * np.pi * 1000 / RATE * np.arange(8 * RATE))
    meter.feed(tone)
    first = meter.restart()
    assert 10 * np.log10(first.slow_least) == pytest.approx(-20, abs=0.1)
    meter.feed(np.zeros(100))
    assert 10 * np.log10(meter.levels().slow) == pytest.approx(-20, abs=0.1)
    assert meter.levels().equivalent < 1e-3


def test_a_stretch_in_closed_form() -> None:
    """A sine: crest of the square root of two; its frequency to a hundredth of a per cent from ten periods."""
    samples = 0.5 * np.sin(2 * np.pi * 437.3 / RATE * np.arange(round(RATE * 0.1)) + 1)
    found = stretch(samples, RATE)
    assert found.strongest_hz == pytest.approx(437.3, rel=2e-4)
    assert found.crest == pytest.approx(np.sqrt(2), rel=0.01)
    assert found.once_hz == pytest.approx(10.0)
    with pytest.raises(ValueError, match="two samples"):
        stretch(samples[:1], RATE)


def test_an_outline_loses_no_peak() -> None:
    samples = np.random.default_rng(4).standard_normal(100_003)
    samples[77_777] = 9.0
    at, least, most = outline(samples, 500)
    assert at.size == 500
    assert most.max() == 9.0
    assert least.min() == samples.min()
    at, least, most = outline(samples[:900], 500)
    assert np.array_equal(least, most)
    assert at.size == 900


@pytest.mark.parametrize(
    ("fraction", "rate", "count", "low", "high"),
    [(1, 96_000, 10, 31.6, 15_850), (3, 96_000, 31, 19.95, 19_950), (3, 32_000, 29, 19.95, 12_590)],
)
def test_octaves_go_from_31_hz_and_thirds_from_20_as_far_as_half_the_rate(
    fraction: int, rate: int, count: int, low: float, high: float
) -> None:
    """IEC 61260-1: octaves of 31.5 Hz to 16 kHz, thirds of 20 Hz to 20 kHz; exact mid-bands are powers of 10^0.1."""
    mids, filters = band_filters(fraction, rate)
    assert mids.size == count
    assert filters.shape == (count, 4, 6)
    assert (mids[0], mids[-1]) == (pytest.approx(low, rel=1e-3), pytest.approx(high, rel=1e-3))
