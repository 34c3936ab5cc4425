"""Responses and arrivals against direct sums, closed forms and pyfar."""

import numpy as np
import pyfar as pf
import pytest

from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import Gate, arrival, gated, response, speed_of_sound, time_shift
from imbrix.core.signal.signal import Impulse

RATE = 48_000
GRID = log_grid()


def band_limited_click(at: float, size: int = 8192) -> np.ndarray:
    n = np.arange(size)
    return np.sinc(0.9 * (n - at)) * np.hanning(size)


def test_the_response_equals_the_direct_sum_at_every_grid_point() -> None:
    random = np.random.default_rng(3)
    samples = random.standard_normal(6000) * np.exp(-np.arange(6000) / 500)
    direct = np.array([np.exp(-2j * np.pi * f / RATE * np.arange(6000)) @ samples for f in GRID[::37]])
    own = response(Impulse(samples, RATE), GRID)[::37]
    assert np.abs(own - direct).max() / np.abs(direct).max() < 1e-5


def test_what_lies_beyond_half_the_rate_is_not_known() -> None:
    values = response(Impulse(np.eye(1, 500, 10)[0], 16_000), GRID)
    assert np.isnan(values[GRID > 8000]).all()
    assert np.isfinite(values[GRID < 7900]).all()


@pytest.mark.parametrize("part", [0.0, 0.13, 0.37, 0.5, 0.81])
def test_a_fractional_arrival_is_found_within_a_fiftieth_of_a_sample_at_40_db(part: float) -> None:
    random = np.random.default_rng(int(part * 100))
    clean = band_limited_click(4000 + part)
    # 40 dB between the energy of the click and that of the noise around it.
    noise = random.standard_normal(clean.size) * np.sqrt(np.sum(clean**2) / clean.size) * 1e-2
    found = arrival(Impulse(clean + noise, RATE)) * RATE
    assert found == pytest.approx(4000 + part, abs=0.02)
    assert arrival(Impulse(clean, RATE)) * RATE == pytest.approx(4000 + part, abs=0.001)


@pytest.mark.parametrize("part", [0.0, 0.25, 0.6])
def test_the_arrival_agrees_with_pyfar(part: float) -> None:
    impulse = pf.dsp.fractional_time_shift(pf.signals.impulse(4096, 1000, sampling_rate=RATE), part, unit="samples")
    theirs = float(np.squeeze(pf.dsp.find_impulse_response_delay(impulse)))
    assert arrival(Impulse(impulse.time[0], RATE)) * RATE == pytest.approx(theirs, abs=0.15)


def test_the_arrival_does_not_care_about_polarity() -> None:
    samples = band_limited_click(3000.3)
    assert arrival(Impulse(samples, RATE)) == arrival(Impulse(-samples, RATE))


@pytest.mark.parametrize("shift_us", [-340.0, -7.0, 0.0, 2.5, 121.0, 2900.0])
def test_the_shift_between_two_responses_is_found(shift_us: float) -> None:
    band = GRID[(GRID > 200) & (GRID < 4000)]
    random = np.random.default_rng(1)
    first = np.exp(1j * np.cumsum(random.standard_normal(band.size) * 0.05)) * (1 + 0.3 * random.random(band.size))
    second = first * np.exp(-2j * np.pi * band * shift_us * 1e-6)
    assert time_shift(first, second, band) * 1e6 == pytest.approx(shift_us, abs=0.05)


def test_a_gate_keeps_what_lies_within_and_fades_its_ends() -> None:
    samples = np.zeros(RATE)
    samples[[4000, 4100, 40_000]] = [1, 0.5, 0.8]
    piece = gated(Impulse(samples, RATE, 100), Gate(before_s=0.01, after_s=0.05))
    assert piece.samples.size == 480 + 2400
    assert piece.samples.max() == 1
    assert piece.zero == 100 - (4000 - 480)
    assert 0.8 not in piece.samples


def test_a_gate_does_not_move_the_phase() -> None:
    samples = band_limited_click(3000.25)
    free = response(Impulse(samples, RATE), GRID[300:900])
    through = response(Impulse(samples, RATE), GRID[300:900], Gate())
    assert np.abs(np.angle(through / free)).max() < 0.02


def test_speed_of_sound() -> None:
    """ISO 9613-1 / ideal gas: 331.3 m/s at 0 C, 343.2 m/s at 20 C."""
    assert speed_of_sound(0) == pytest.approx(331.3)
    assert speed_of_sound(20) == pytest.approx(343.2, abs=0.05)
