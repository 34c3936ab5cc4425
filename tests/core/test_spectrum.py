"""The running spectrum against scipy.signal.welch, closed forms of sines and noise, and its averages."""

import numpy as np
import pytest
from scipy.signal import welch

from imbrix.core.measure.spectrum import Spectrum, stairs
from imbrix.core.measure.transfer import TransferSettings
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import power_decibels
from imbrix.core.signal.weighting import edges

RATE = 48_000
GRID = log_grid()


def run(samples: np.ndarray, **settings: object) -> Spectrum:
    made = Spectrum(TransferSettings(**{"size": 2**14, "seconds": None, **settings}))  # type: ignore[arg-type]
    for first in range(0, samples.size, 2048):
        made.feed(samples[first : first + 2048])
    return made


@pytest.mark.parametrize("hertz", [100.0, 1000.0, 9876.0])
@pytest.mark.parametrize("window", ["hann", "flattop"])
def test_a_sine_reads_its_own_level(hertz: float, window: str) -> None:
    sine = 0.1 * np.sin(2 * np.pi * hertz / RATE * np.arange(4 * RATE))
    made = run(sine, window=window)
    scallop = 1.5 if window == "hann" else 0.05  # from memory: 1.42 dB at worst between two lines of a Hann window
    assert -20 - scallop < made.fine()[np.argmin(np.abs(GRID - hertz))] < -19.9
    mids, levels = made.in_bands(3)
    assert levels[np.argmin(np.abs(np.log(mids / hertz)))] == pytest.approx(-20, abs=0.1)


def test_bands_are_the_integral_of_the_density_of_scipy() -> None:
    noise = 0.1 * np.random.default_rng(1).standard_normal(20 * RATE)
    made = run(noise, size=2**13, per_second=RATE / 2**12)
    hertz, density = welch(noise, RATE, "hann", 2**13, noverlap=2**12, detrend=False)
    mids, levels = made.in_bands(1)
    ends = edges(mids, 1)
    for n in range(3, mids.size - 1):
        inside = (hertz >= ends[n]) & (hertz < ends[n + 1])
        theirs = 10 * np.log10(2 * density[inside].sum() * hertz[1])  # a full-scale sine has an rms of -3 dB
        assert levels[n] == pytest.approx(theirs, abs=0.15)


def test_white_noise_rises_three_decibels_an_octave_in_bands() -> None:
    """Definition: equal energy per hertz."""
    mids, levels = run(0.1 * np.random.default_rng(2).standard_normal(30 * RATE)).in_bands(1)
    rise = np.diff(levels[4:])
    assert rise == pytest.approx(np.full(rise.size, 10 * np.log10(10**0.3)), abs=0.3)
    # All bands together are the noise between their outer edges.
    share = (edges(mids, 1)[-1] - edges(mids, 1)[0]) / (RATE / 2)
    whole = power_decibels(np.array([np.sum(10 ** (levels / 10))]))[0]
    assert whole == pytest.approx(-20 + 3.01 + 10 * np.log10(share), abs=0.1)


def test_a_count_of_averages_holds_and_exponential_ones_forget() -> None:
    random = np.random.default_rng(3)
    first, second = random.standard_normal(4 * RATE), 0.01 * random.standard_normal(4 * RATE)
    both = np.concatenate((first, second))
    held = run(both, frames=20)
    assert held.count == 20
    assert held.in_bands(1)[1][5:].max() > -10
    assert run(both, seconds=0.3).in_bands(1)[1].max() < -35
    held.reset()
    assert held.count == 0


def test_stairs_are_flat_across_each_band() -> None:
    mids, levels = np.array([1000.0, 1000 * 10**0.1]), np.array([-20.0, -30.0])
    drawn = stairs(mids, levels, 3)
    assert drawn[np.argmin(np.abs(GRID - 1000))] == -20
    assert drawn[np.argmin(np.abs(GRID - 1110))] == -20
    assert drawn[np.argmin(np.abs(GRID - 1250))] == -30
    assert np.isnan(drawn[np.argmin(np.abs(GRID - 800))])
