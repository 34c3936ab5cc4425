"""Phase, decay and distortion against closed forms, scipy and pyfar."""

import numpy as np
import pyfar as pf
import pytest
from scipy.signal import butter, freqs, group_delay, minimum_phase, sos2tf, sosfilt, sosfreqz

from imbrix.core.look import phase
from imbrix.core.look.decay import decay_times, schroeder, spectrogram, waterfall
from imbrix.core.look.distortion import ORDERS, harmonics
from imbrix.core.measure.sweep import SweepSettings, deconvolve, exponential_sweep
from imbrix.core.signal.grid import between, log_grid
from imbrix.core.signal.signal import Impulse, decibels

RATE = 48_000
GRID = log_grid()
BAND = np.concatenate((butter(2, 200, "highpass", fs=RATE, output="sos"), butter(4, 6000, fs=RATE, output="sos")))


def test_minimum_phase_of_a_minimum_phase_filter_is_its_phase_and_the_excess_nothing() -> None:
    high = butter(2, 2 * np.pi * 200, "highpass", analog=True)
    low = butter(4, 2 * np.pi * 6000, analog=True)
    truth = freqs(*high, worN=2 * np.pi * GRID)[1] * freqs(*low, worN=2 * np.pi * GRID)[1]
    found = phase.minimum_phase(np.abs(truth), GRID)
    inside = (GRID > 40) & (GRID < 8000)
    apart = np.degrees(np.angle(np.exp(1j * (found - np.angle(truth)))))
    assert np.abs(apart[inside]).max() < 6  # what lies beyond 20 kHz has to be guessed
    assert np.abs(apart[(GRID > 60) & (GRID < 2000)]).max() < 2
    late = truth * np.exp(-2j * np.pi * GRID * 0.004)
    excess = np.degrees(phase.excess_phase(late, GRID, 0.004))
    assert np.abs(excess[inside]).max() < 6


def test_an_all_pass_is_all_excess() -> None:
    turned = (1 - 1j * GRID / 500) / (1 + 1j * GRID / 500)  # first order: minus twice the arc tangent
    excess = phase.excess_phase(turned, GRID, 0.0)
    truth = np.angle(turned)
    inside = (GRID > 30) & (GRID < 15_000)
    assert np.angle(np.exp(1j * (excess - truth)))[inside] == pytest.approx(0, abs=0.02)


def test_group_delay_is_that_of_scipy() -> None:
    response = sosfreqz(BAND, worN=GRID, fs=RATE)[1] * np.exp(-2j * np.pi * GRID * 0.002)
    found = phase.group_delay(phase.without_arrival(response, GRID, 0.002), GRID)
    truth = group_delay(sos2tf(BAND), w=GRID, fs=RATE)[1] / RATE
    inside = (GRID > 60) & (GRID < 9000)
    assert found[inside] == pytest.approx(truth[inside], abs=2e-5)


def test_what_is_not_known_stays_unknown() -> None:
    holes = np.where((GRID > 100) & (GRID < 5000), 1.0 + 0j, np.nan)
    assert np.isnan(phase.unwrapped(holes)[GRID < 99]).all()
    assert np.isnan(phase.group_delay(holes, GRID)[GRID > 5001]).all()
    assert np.isnan(phase.minimum_phase(np.full(GRID.size, np.nan), GRID)).all()
    assert scipy_minimum().size


def scipy_minimum() -> np.ndarray:
    """scipy's own, which gives the same class of filter back: a check that the reference is what it says."""
    return minimum_phase(np.convolve([1, 2, 1], [1, 2, 1]).astype(float), half=False)


def test_the_minimum_phase_agrees_with_pyfars() -> None:
    impulse = pf.signals.impulse(2**14, sampling_rate=RATE)
    filtered = pf.dsp.filter.bell(impulse, 1000, 9, 2)
    delayed = pf.dsp.time_shift(filtered, 500, unit="samples")
    theirs = pf.dsp.minimum_phase(delayed, truncate=False)
    values = np.interp(GRID, theirs.frequencies, np.unwrap(np.angle(theirs.freq[0])))
    magnitude = np.interp(GRID, filtered.frequencies, np.abs(filtered.freq[0]))
    inside = (GRID > 100) & (GRID < 10_000)
    assert phase.minimum_phase(magnitude, GRID)[inside] == pytest.approx(values[inside], abs=0.03)


@pytest.mark.parametrize("t60", [0.15, 0.4, 1.2])
def test_decay_times_of_an_exponential_are_its_own_within_a_few_per_cent(t60: float) -> None:
    """Closed form: noise times exp(-6.91 t / T) falls 60 dB in T. Band-filtered noise scatters; the mean of ten."""
    at = np.arange(round(2.5 * RATE)) / RATE
    found = []
    for seed in range(10):
        noise = np.random.default_rng(seed).standard_normal(at.size)
        samples = np.concatenate((np.zeros(480), noise * np.exp(-6.9078 * at / t60)))
        times = decay_times(Impulse(samples, RATE, 480), 1000)
        found.append((times.edt, times.t20, times.t30))
        assert times.quality > 0.9
    assert np.mean(found, axis=0)[1:] == pytest.approx([t60, t60], rel=0.03)


def test_the_backward_integral_of_a_pure_exponential_is_a_straight_line_within_one_per_cent() -> None:
    at = np.arange(RATE) / RATE
    curve = schroeder(np.exp(-6.9078 * at / 0.5))
    inside = (curve < -5) & (curve > -35)
    slope = np.polyfit(at[inside], curve[inside], 1)[0]
    assert -60 / slope == pytest.approx(0.5, rel=0.01)


def test_noise_leaves_t30_out_rather_than_wrong() -> None:
    at = np.arange(2 * RATE) / RATE
    random = np.random.default_rng(3)
    samples = random.standard_normal(at.size) * (np.exp(-6.9078 * at / 0.4) + 0.02)
    times = decay_times(Impulse(samples, RATE, 0), 1000)
    assert np.isnan(times.t30)


def test_waterfall_and_spectrogram_show_a_resonance_ring() -> None:
    at = np.arange(RATE) / RATE
    ring = np.exp(-6.9078 * at / 0.3) * np.sin(2 * np.pi * 80 * at)
    samples = np.zeros(RATE)
    samples[0] = 1.0
    impulse = Impulse(np.concatenate((np.zeros(100), samples + 0.05 * ring)), RATE, 100)
    fall = waterfall(impulse, GRID, 0.3, 0.3, 0.01)
    bass = int(np.argmin(np.abs(GRID - 80)))
    drop = fall.levels[10, bass] - fall.levels[-1, bass]
    assert drop == pytest.approx(60 * (fall.seconds[-1] - fall.seconds[10]) / 0.3, rel=0.1)
    high = int(np.argmin(np.abs(GRID - 3000)))
    assert fall.levels[0, high] - fall.levels[20, high] > 40
    map_ = spectrogram(impulse, GRID, 0.3, 0.05)
    assert map_.levels.shape == (160, GRID.size)
    assert int(np.argmax(map_.levels[:, high])) == int(np.argmin(np.abs(map_.seconds)))


def test_harmonics_of_a_polynomial_are_at_their_exact_levels() -> None:
    """y = x + a x^2 + b x^3: second a A / 2, third b A^2 / 4 of the fundamental, whose gain is 1 + 3 b A^2 / 4."""
    settings = SweepSettings(low_hz=10, high_hz=20_000, length=2**18, level_db=0.0, tail_s=1.0)
    x = exponential_sweep(settings).samples
    a, b = 0.02, 0.01
    found = harmonics(deconvolve(x + a * x**2 + b * x**3, x, RATE, 2000), settings, GRID)
    inside = (GRID > 60) & (GRID < 4000)
    relative = decibels(found.orders / found.fundamental)[:, inside]
    assert relative[0] == pytest.approx(decibels(np.full(inside.sum(), a / 2 / (1 + 0.75 * b))), abs=0.2)
    assert relative[1] == pytest.approx(decibels(np.full(inside.sum(), b / 4 / (1 + 0.75 * b))), abs=0.3)
    assert np.nanmax(relative[2:]) < -80
    assert found.total[inside] == pytest.approx(np.sqrt((a / 2) ** 2 + (b / 4) ** 2), rel=0.02)
    assert np.isnan(found.orders[ORDERS.index(5)][GRID * 5 > 20_000]).all()


def test_noise_is_shown_as_noise_under_the_harmonics() -> None:
    settings = SweepSettings(length=2**17, level_db=-6.0)
    x = exponential_sweep(settings).samples
    noisy = sosfilt(BAND, x) + 1e-3 * np.random.default_rng(1).standard_normal(x.size)
    found = harmonics(deconvolve(noisy, x, RATE, 2000), settings, GRID)
    inside = (GRID > 300) & (GRID < 4000)
    second = np.median(decibels(found.orders[0])[inside])
    assert second == pytest.approx(np.median(decibels(found.noise)[(GRID > 600) & (GRID < 8000)]), abs=4)


def test_wrapped_phase_has_gaps_at_its_jumps() -> None:
    """Closed form: a pure delay falls by 360 degrees a period; no line may cross the jump."""
    grid = np.linspace(100, 1000, 2000)
    shown = phase.wrapped_degrees(np.exp(-2j * np.pi * grid * 0.01))
    known = np.isfinite(shown)
    assert 0.98 < known.mean() < 1
    assert np.abs(np.diff(shown)[known[1:] & known[:-1]]).max() < 5
    true = (-360 * grid * 0.01 + 180) % 360 - 180
    assert shown[known] == pytest.approx(true[known])


def test_values_between_frequencies_lie_on_a_line_over_their_logarithm() -> None:
    f, to = np.array([10.0, 1000.0]), np.array([1.0, 100.0, 5000.0])
    assert between(f, np.array([0.0, 2.0]), to) == pytest.approx([0, 1, 2])
    found = between(f, np.array([0j, 2 + 4j]), to, beyond=np.nan)
    assert found[1] == pytest.approx(1 + 2j)
    assert np.isnan(found[[0, 2]]).all()


def test_what_ends_too_soon_has_no_decay_time() -> None:
    """Frames last four periods: eight of them are the least, and a line needs the levels between its ends."""
    tone = np.exp(-np.arange(RATE) / RATE * 40) * np.sin(2 * np.pi * 1000 * np.arange(RATE) / RATE)
    frame = 4 * RATE // 1000
    short = decay_times(Impulse(tone[: 7 * frame], RATE, 0), 1000.0)
    assert all(np.isnan([short.edt, short.t20, short.t30]))
    long = decay_times(Impulse(tone, RATE, 0), 1000.0)
    assert long.t20 == pytest.approx(np.log(1000) / 40, rel=0.05)  # 60 dB are a factor of 1000
