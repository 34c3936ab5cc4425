"""Averages of a moving microphone: against scipy.signal.welch, and the statistics of Welch 1967."""

import tracemalloc

import numpy as np
import pytest
from scipy.signal import get_window, welch

from imbrix.core.measure.moving import MovingAverage, MovingSettings, on_grid, window_power
from imbrix.core.measure.stepped import Steps
from imbrix.core.measure.stimuli import shaped_noise
from imbrix.core.measure.sweep import SweepSettings
from imbrix.core.signal.grid import log_grid

RATE = 48_000
GRID = log_grid()
SMALL = MovingSettings(size=8192, averages=64)
FLAT = np.ones(SMALL.size // 2 + 1)


def feed(average: MovingAverage, samples: np.ndarray, block: int = 3000) -> None:
    for first in range(0, samples.size, block):
        average.feed(samples[first : first + block])


def test_the_mean_spectrum_is_that_of_welchs_method() -> None:
    samples = np.random.default_rng(1).standard_normal(SMALL.samples)
    average = MovingAverage(SMALL, FLAT)
    feed(average, samples)
    assert average.count == 64
    hertz, power = welch(
        samples, RATE, "hann", SMALL.size, noverlap=SMALL.size - SMALL.hop, detrend=False, scaling="density"
    )
    band = (hertz > 900) & (hertz < 1100)
    shown = average.running().power[(GRID > 900) & (GRID < 1100)]
    window = get_window("hann", SMALL.size)
    assert shown.mean() == pytest.approx(power[band].mean() * RATE * (window @ window) / 2, rel=0.03)


@pytest.mark.parametrize("block", [1, 997, 8192, 50_000])
def test_blocks_of_any_size_give_the_same_average(block: int) -> None:
    samples = np.random.default_rng(2).standard_normal(20_000)
    settings = MovingSettings(size=4096, averages=10)
    flat = np.ones(2049)
    one, other = MovingAverage(settings, flat), MovingAverage(settings, flat)
    feed(one, samples, 4096)
    feed(other, samples, block)
    assert one.count == other.count == 1 + (20_000 - 4096) // settings.hop
    assert one.running().power == pytest.approx(other.running().power, rel=1e-6, nan_ok=True)


def test_periodic_pink_noise_through_a_wire_is_flat_without_any_scatter() -> None:
    settings = MovingSettings(size=16_384, averages=16)
    pink = shaped_noise(settings.size, RATE, -24.0)[:, 0]
    average = MovingAverage(settings, window_power(pink, settings))
    feed(average, np.tile(pink, 4)[: settings.samples])
    inside = (GRID > 40) & (GRID < 18_000)
    assert 10 * np.log10(average.running().power[inside]) == pytest.approx(0.0, abs=0.01)


def test_the_variance_falls_three_decibels_per_doubling_of_independent_averages() -> None:
    """Bendat and Piersol: the variance of a mean of n independent spectra is 1/n of that of one."""
    settings = MovingSettings(size=4096, overlap=0.0, averages=64)
    flat = np.ones(settings.size // 2 + 1)
    spreads = []
    for count in (8, 16, 32):
        found = []
        for seed in range(200):
            average = MovingAverage(settings, flat)
            average.feed(np.random.default_rng([seed, count]).standard_normal(count * 4096))
            found.append(average.running().power[(GRID > 4000) & (GRID < 16_000)][::3])
        spreads.append(10 * np.log10(np.var(np.array(found), axis=0).mean()))
    assert np.diff(spreads) == pytest.approx([-3.01, -3.01], abs=0.5)


def test_the_confidence_band_holds_the_truth_as_often_as_it_says() -> None:
    settings = MovingSettings(size=4096, overlap=0.75, averages=40)
    levels, halves = [], []
    for seed in range(60):
        average = MovingAverage(settings, np.ones(2049))
        average.feed(np.random.default_rng([seed, 7]).standard_normal(settings.samples))
        now = average.running()
        levels.append(now.level_db[now.bands_hz > 1500])
        halves.append(now.band_db[now.bands_hz > 1500])
    truth = np.mean(levels, axis=0)
    held = np.abs(np.array(levels) - truth) < np.array(halves)
    assert held.mean() == pytest.approx(0.95, abs=0.04)


def test_the_change_over_the_last_ten_shrinks() -> None:
    average = MovingAverage(MovingSettings(size=4096, overlap=0.5), np.ones(2049))
    random = np.random.default_rng(3)
    average.feed(random.standard_normal(4096 * 4))
    assert average.running().change_db is None
    average.feed(random.standard_normal(2048 * 8))
    early = average.running().change_db
    average.feed(random.standard_normal(2048 * 200))
    assert average.running().change_db < early / 3


def test_memory_stays_flat_over_ten_minutes() -> None:
    settings = MovingSettings(size=16_384, averages=10_000)
    average = MovingAverage(settings, np.ones(settings.size // 2 + 1))
    block = np.random.default_rng(4).standard_normal(4096 * 12)
    average.feed(block)
    tracemalloc.start()
    for _ in range(20):
        average.feed(block)
    average.running()
    before = tracemalloc.get_traced_memory()[0]
    for _ in range(600 * RATE // block.size // 4):  # a quarter of the hops: what grows per hop would show
        average.feed(block)
    average.running()
    after = tracemalloc.get_traced_memory()[0]
    tracemalloc.stop()
    assert average.count > 3000
    assert after - before < 50_000


@pytest.mark.parametrize(
    ("values", "says"),
    [
        ({"size": 5000}, "5000 points"),
        ({"window": "kite"}, "no window 'kite'"),
        ({"overlap": 0.99}, "99%"),
        ({"averages": 1}, "1 averages"),
    ],
)
def test_impossible_settings_are_refused(values: dict, says: str) -> None:
    with pytest.raises(ValueError, match=says):
        MovingSettings(**values)


def test_nothing_is_shown_before_the_first_average_nor_where_the_reference_is_silent() -> None:
    average = MovingAverage(SMALL, FLAT)
    average.feed(np.zeros(100))
    assert average.running() is None
    reference = np.ones(SMALL.size // 2 + 1)
    reference[: SMALL.size // 16] = 0
    shown = on_grid(reference * 2, reference, SMALL)
    assert np.isnan(shown[GRID < 2900]).all()
    assert shown[GRID > 3200] == pytest.approx(np.full((GRID > 3200).sum(), 2.0))


def test_it_begins_as_loud_as_the_other_stimuli() -> None:
    assert MovingSettings().level_db == SweepSettings().level_db == Steps().level_db


def test_bands_begin_at_20_hz_or_where_two_lines_are() -> None:
    for size, lowest in ((65_536, 20.0), (4096, 2 * RATE / 4096)):
        average = MovingAverage(MovingSettings(size=size, averages=64), np.ones(size // 2 + 1))
        assert lowest <= average.bands_hz[0] < lowest * 2 ** (1 / 6)


def test_a_change_is_told_after_ten_averages_more() -> None:
    average = MovingAverage(SMALL, FLAT)
    noise = np.random.default_rng(3).standard_normal(20 * SMALL.size)
    told = {}
    for block in np.array_split(noise, 20 * SMALL.size // SMALL.hop):
        average.feed(block)
        now = average.running()
        if now is not None:
            told[now.count] = now.change_db
    assert [told[count] is None for count in (1, 9, 10, 11, 12)] == [True, True, True, False, False]
