"""Sweep and deconvolution: A. Farina 2000, A. Novak et al. 2015, and pyfar as an outside sweep."""

import numpy as np
import pyfar as pf
import pytest
from scipy.signal import sosfilt, sosfreqz

from imbrix.core.measure.sweep import SweepSettings, deconvolve, exponential_sweep
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import Gate, response
from imbrix.core.signal.signal import decibels

RATE = 48_000


def test_the_sweep_is_as_long_loud_and_silent_as_asked() -> None:
    settings = SweepSettings(length=2**16, level_db=-12, tail_s=0.5)
    sweep = exponential_sweep(settings)
    assert sweep.samples.size == 2**16 + 24_000
    assert decibels(np.abs(sweep.samples).max()) == pytest.approx(-12, abs=0.01)
    assert not sweep.samples[2**16 :].any()
    assert abs(sweep.samples[0]) < 1e-6


def test_the_sweep_runs_exponentially() -> None:
    """Half of its duration lies below the geometric mean of its ends: zero crossings tell its frequency."""
    settings = SweepSettings(low_hz=100, high_hz=10_000, length=2**17)
    samples = exponential_sweep(settings).samples
    middle = samples[2**16 - 480 : 2**16 + 480]
    crossings = np.count_nonzero(np.diff(np.signbit(middle)))
    assert crossings / 2 / (960 / RATE) == pytest.approx(1000, rel=0.03)


def test_its_ends_are_faded_by_the_square_of_a_sine() -> None:
    """In over one period of its lowest tone, out over 10 ms (a common choice, no source)."""
    settings = SweepSettings(low_hz=100, high_hz=10_000, length=2**16, level_db=0)
    samples = exponential_sweep(settings).samples[: 2**16]
    growth = 2**16 / RATE / np.log(100)
    bare = np.sin(2 * np.pi * 100 * growth * np.expm1(np.arange(2**16) / RATE / growth))
    rise = np.sin(np.linspace(0, np.pi / 2, 480)) ** 2
    assert samples[:480] == pytest.approx(bare[:480] * rise, abs=1e-9)
    assert samples[-480:] == pytest.approx(bare[-480:] * rise[::-1], abs=1e-9)
    assert samples[480:-480] == pytest.approx(bare[480:-480], abs=1e-9)


def test_a_known_filter_comes_back_to_a_thousandth() -> None:
    from imbrix.core.tune.biquad import peaking

    sweep = exponential_sweep(SweepSettings(length=2**16))
    section = np.array([peaking(1000, 6, 2, RATE)])
    impulse = deconvolve(sosfilt(section, sweep.samples), sweep.samples, RATE, zero=2000)
    grid = log_grid(40, 18_000)
    own, theirs = response(impulse, grid, Gate()), sosfreqz(section, worN=grid, fs=RATE)[1]
    assert np.abs(own - theirs).max() / np.abs(theirs).max() < 1e-3


def test_harmonics_of_a_polynomial_come_out_at_their_exact_levels() -> None:
    """x + a x^2 + b x^3 of a sine of amplitude A: second harmonic a A^2 / 2, third b A^3 / 4."""
    settings = SweepSettings(length=2**18, level_db=0.0, tail_s=1.0)
    x = exponential_sweep(settings).samples
    a, b = 0.02, 0.01
    impulse = deconvolve(x + a * x**2 + b * x**3, x, RATE)
    growth = settings.length / RATE / np.log(settings.high_hz / settings.low_hz)
    for order, expected in ((2, a / 2), (3, b / 4)):
        at = impulse.samples.size - round(growth * np.log(order) * RATE)
        piece = impulse.samples[at - 800 : at + 800]
        level = np.abs(np.fft.rfft(piece, 2**14))
        hertz = np.fft.rfftfreq(2**14, 1 / RATE)
        inside = (hertz > 1500) & (hertz < 6000)
        assert 20 * np.log10(np.median(level[inside]) / expected) == pytest.approx(0, abs=0.1)


def test_a_sweep_of_pyfar_is_deconvolved_as_well() -> None:
    sweep = pf.signals.exponential_sweep_time(2**16, [20, 20_000], sampling_rate=RATE).time[0]
    delayed = 0.5 * np.concatenate((np.zeros(100), sweep))
    impulse = deconvolve(delayed, sweep, RATE)
    assert int(np.argmax(np.abs(impulse.samples))) == 100
    assert np.abs(response(impulse, np.array([100.0, 1000, 10_000]), Gate())) == pytest.approx([0.5] * 3, abs=2e-3)


def test_time_zero_can_be_set_later_to_see_what_comes_early() -> None:
    sweep = exponential_sweep(SweepSettings(length=2**15))
    impulse = deconvolve(sweep.samples, sweep.samples, RATE, zero=300)
    assert impulse.zero == 300
    assert int(np.argmax(np.abs(impulse.samples))) == 300
    flat = response(impulse, log_grid(40, 18_000), Gate())
    assert np.abs(np.angle(flat)).max() < 1e-3


@pytest.mark.parametrize(
    ("values", "says"),
    [
        ({"low_hz": 0}, "does not fit"),
        ({"high_hz": 30_000}, "does not fit"),
        ({"length": 100}, "outside 4096"),
        ({"level_db": 3}, "above full scale"),
    ],
)
def test_impossible_sweeps_are_refused(values: dict, says: str) -> None:
    with pytest.raises(ValueError, match=says):
        SweepSettings(**values)


def test_a_silent_reference_is_refused() -> None:
    with pytest.raises(ValueError, match="reference is silent"):
        deconvolve(np.ones(100), np.zeros(100), RATE)
