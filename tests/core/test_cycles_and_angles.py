"""Gates of shapes and of cycles, the piston off its axis, averages: closed forms, scipy windows, pyfar."""

import numpy as np
import pyfar
import pytest
import scipy.signal.windows
import scipy.special

from imbrix.core.look.cycles import within_cycles
from imbrix.core.look.directivity import fan, over_axis, piston
from imbrix.core.signal.averaging import complex_mean, level_apart, rms_mean
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import Gate, gated, response
from imbrix.core.signal.signal import Impulse, decibels

RATE = 48_000
GRID = log_grid()


def with_echo(after_s: float, share: float) -> Impulse:
    samples = np.zeros(RATE)
    samples[2400] = 1.0
    samples[2400 + round(after_s * RATE)] += share
    return Impulse(samples, RATE, 2400)


def test_few_cycles_see_the_direct_sound_above_and_the_echo_below() -> None:
    """Closed form: an echo t later is out of reach where cycles/f < t, and a comb where the window is far longer."""
    found = within_cycles(with_echo(0.005, 0.5), GRID, 5)
    assert decibels(found[GRID > 5 / 0.005 * 1.01]) == pytest.approx(0, abs=1e-6)
    low = GRID < 40  # the window of 125 ms and more weighs an echo after 5 ms nearly in full
    comb = 1 + 0.5 * np.exp(-2j * np.pi * GRID * 0.005)
    assert decibels(found[low] / comb[low]) == pytest.approx(0, abs=0.1)


def test_a_window_of_cycles_is_that_of_scipy() -> None:
    random = np.random.default_rng(1)
    samples = np.zeros(RATE)
    samples[1200:9000] = random.standard_normal(7800) * np.exp(-np.arange(7800) / 500)
    samples[1200] = 30.0
    impulse = Impulse(samples, RATE, 1200)
    at = 500.0
    after = round(8 / at * RATE)
    shape = scipy.signal.windows.hann(2 * after + 1)[after:]
    turn = np.exp(-2j * np.pi * at / RATE * np.arange(after + 1))
    theirs = (samples[1200 : 1200 + after + 1] * shape) @ turn
    assert within_cycles(impulse, np.array([at]), 8)[0] == pytest.approx(theirs, rel=1e-3)
    with pytest.raises(ValueError, match=r"0.5 cycles"):
        within_cycles(impulse, GRID, 0.5)


@pytest.mark.parametrize("shape", ["half-cosine", "hann", "blackman", "rectangular"])
def test_every_shape_of_a_gate_takes_a_late_echo_out_and_keeps_the_level(shape: str) -> None:
    gate = Gate(before_s=0.002, after_s=0.004, shape=shape)  # type: ignore[arg-type]
    found = response(with_echo(0.005, 0.5), GRID, gate)
    assert decibels(found[GRID > 300]) == pytest.approx(0, abs=0.05)


def test_the_shapes_are_scipys_windows() -> None:
    flat = Impulse(np.concatenate((np.zeros(100), [1.01], np.ones(399))), RATE, 100)
    for shape, theirs in (("hann", scipy.signal.windows.hann), ("blackman", scipy.signal.windows.blackman)):
        mine = gated(flat, Gate(before_s=0.0, after_s=0.005, shape=shape))  # type: ignore[arg-type]
        half = mine.samples.size - mine.zero
        assert mine.samples[mine.zero + 1 :] == pytest.approx(theirs(2 * half + 1)[half + 2 :], abs=0.02)


def test_the_piston_off_its_axis() -> None:
    """First null where ka sin t = 3.8317 (first zero of J1, scipy.special.jn_zeros); one on the axis."""
    radius, degrees = 0.05, 30.0
    null = scipy.special.jn_zeros(1, 1)[0]
    at = null * 343.2 / (2 * np.pi * radius * np.sin(np.radians(degrees)))
    assert abs(piston(np.array([at]), degrees, radius)[0]) < 2e-3
    assert piston(GRID, 0.0, radius) == pytest.approx(np.ones(GRID.size))
    assert piston(np.array([20.0]), 90.0, radius)[0] == pytest.approx(1, abs=1e-3)


def test_a_fan_lies_evenly_between_its_angles() -> None:
    angles = np.array([-30.0, 0.0, 15.0])
    even, levels = fan(np.array([[-6.0], [0.0], [-3.0]]), angles)
    assert even[0], even[-1] == (-30, 15)
    assert levels[:, 0] == pytest.approx(np.interp(even, angles, [-6, 0, -3]))
    with pytest.raises(ValueError, match="two angles"):
        fan(np.zeros((1, 1)), np.zeros(1))
    curves = np.array([[0.5], [1.0], [2.0]], dtype=complex)
    assert over_axis(curves, np.array([-20.0, 1.0, 30.0]))[:, 0] == pytest.approx([-6.02, 0, 6.02], abs=0.01)


def test_means_in_closed_form_and_by_pyfar() -> None:
    """Opposites cancel in the complex mean and not in the rms mean; pyfar.dsp.average agrees with both."""
    random = np.random.default_rng(2)
    time = random.standard_normal((3, 1024))
    signals = pyfar.Signal(time, RATE)
    curves = signals.freq
    assert np.abs(complex_mean(np.array([curves[0], -curves[0]]))).max() == pytest.approx(0)
    assert rms_mean(np.array([curves[0], -curves[0]])) == pytest.approx(np.abs(curves[0]))
    theirs = pyfar.dsp.average(signals, mode="linear", caxis=0)
    assert complex_mean(curves) == pytest.approx(theirs.freq[0])
    power = pyfar.dsp.average(signals, mode="power", caxis=0)
    assert rms_mean(curves) == pytest.approx(np.abs(power.freq[0]))


def test_levels_are_aligned_over_a_span_only() -> None:
    first, second = np.zeros(GRID.size), np.where(GRID < 500, 9.0, -2.0)
    assert level_apart(second, first, GRID, 600, 5000) == pytest.approx(2.0)
    with pytest.raises(ValueError, match="share nothing"):
        level_apart(np.full(GRID.size, np.nan), first, GRID, 600, 5000)
