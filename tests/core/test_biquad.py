"""Bands against the Audio EQ Cookbook's own statements, closed forms, and pyfar."""

import numpy as np
import pyfar as pf
import pytest
from scipy.signal import iirnotch, sosfreqz

from imbrix.core.tune import biquad

RATE = 48_000


def level(section: biquad.Section, hertz: np.ndarray | float) -> np.ndarray:
    _, response = sosfreqz(np.array([section]), worN=np.atleast_1d(hertz), fs=RATE)
    return 20 * np.log10(np.abs(response))


@pytest.mark.parametrize("gain", [-12.0, -3.0, 4.5, 10.0])
@pytest.mark.parametrize("hertz", [31.5, 1000.0, 9000.0])
@pytest.mark.parametrize("q", [0.5, 1.41, 8.0])
def test_a_bell_has_its_gain_at_the_centre_and_none_far_off(gain: float, hertz: float, q: float) -> None:
    bell = biquad.peaking(hertz, gain, q, RATE)
    assert level(bell, hertz)[0] == pytest.approx(gain, abs=1e-9)
    assert level(bell, 1e-3)[0] == pytest.approx(0, abs=1e-6)
    assert level(bell, RATE / 2 * 0.999999)[0] == pytest.approx(0, abs=1e-4)


def test_a_bell_reaches_half_its_gain_at_the_edges_of_f_over_q() -> None:
    """The Cookbook's definition of bandwidth: between the midpoint (half dB gain) frequencies."""
    hertz, gain, q = 200.0, 6.0, 2.0
    half = np.arcsinh(1 / (2 * q)) / np.log(2)  # octaves to either side, closed form of the analogue prototype
    edges = hertz * 2.0 ** np.array([-half, half])
    assert level(biquad.peaking(hertz, gain, q, RATE), edges) == pytest.approx([3.0, 3.0], abs=2e-3)


@pytest.mark.parametrize("gain", [-9.0, 6.0])
def test_shelves_end_at_their_gain_and_pass_half_of_it_at_the_corner(gain: float) -> None:
    low, high = biquad.low_shelf(300, gain, 0.707, RATE), biquad.high_shelf(3000, gain, 0.707, RATE)
    assert level(low, [1e-3, 300.0, 23_900.0]) == pytest.approx([gain, gain / 2, 0], abs=1e-3)
    assert level(high, [1e-3, 3000.0, 23_990.0]) == pytest.approx([0, gain / 2, gain], abs=1e-3)


def test_an_all_pass_keeps_the_level_and_turns_180_degrees_at_its_frequency() -> None:
    section = biquad.all_pass(1000, 0.7, RATE)
    hertz = np.geomspace(20, 20_000, 50)
    _, response = sosfreqz(np.array([section]), worN=hertz, fs=RATE)
    assert np.abs(response) == pytest.approx(np.ones(50), abs=1e-12)
    _, at = sosfreqz(np.array([section]), worN=[1000.0], fs=RATE)
    assert at[0] == pytest.approx(-1, abs=1e-9)


@pytest.mark.parametrize("q", [0.5, 0.707, 3.0])
def test_an_all_pass_turns_as_fast_as_its_q_says(q: float) -> None:
    """Closed form: -2 atan((x / Q) / (1 - x^2)) over the warped frequency x of the bilinear transform."""
    hertz = np.array([200.0, 700.0, 950.0, 1400.0, 6000.0])
    x = np.tan(np.pi * hertz / RATE) / np.tan(np.pi * 1000.0 / RATE)
    _, response = sosfreqz(np.array([biquad.all_pass(1000, q, RATE)]), worN=hertz, fs=RATE)
    assert response == pytest.approx(np.exp(-2j * np.arctan2(x / q, 1 - x**2)), abs=1e-9)


@pytest.mark.parametrize(("hertz", "q"), [(50.0, 10.0), (1000.0, 2.0), (9000.0, 6.0)])
def test_a_notch_is_that_of_scipy(hertz: float, q: float) -> None:
    # scipy's Q is that of the digital bandwidth; the Cookbook's alpha is the tangent of half of that.
    w = 2 * np.pi * hertz / RATE
    b, a = iirnotch(hertz, w / (2 * np.arctan(np.sin(w) / (2 * q))), fs=RATE)
    assert biquad.notch(hertz, q, RATE) == pytest.approx([*b, *a], abs=1e-12)
    assert level(biquad.notch(hertz, q, RATE), hertz)[0] < -150


def test_a_first_order_all_pass_turns_ninety_degrees_at_its_frequency() -> None:
    """Closed form: -2 atan(x) over the warped frequency x of the bilinear transform."""
    hertz = np.geomspace(20, 20_000, 50)
    x = np.tan(np.pi * hertz / RATE) / np.tan(np.pi * 700.0 / RATE)
    reached = sosfreqz(np.array([biquad.first_all_pass(700.0, RATE)]), worN=hertz, fs=RATE)[1]
    assert reached == pytest.approx(np.exp(-2j * np.arctan(x)), abs=1e-12)


@pytest.mark.parametrize(
    ("own", "theirs"),
    [
        (lambda: biquad.peaking(800, 5, 1.7, RATE), lambda s: pf.dsp.filter.bell(s, 800, 5, 1.7, bell_type="III")),
        (lambda: biquad.peaking(300, -7, 3, RATE), lambda s: pf.dsp.filter.bell(s, 300, -7, 3, bell_type="III")),
    ],
)
def test_bells_agree_with_pyfar(own: object, theirs: object) -> None:
    # Well below half the rate: further up pyfar prewarps Q, which the Cookbook does not.
    impulse = pf.signals.impulse(2**15, sampling_rate=RATE)
    reference = theirs(impulse)
    hertz = reference.frequencies[20:-20]
    _, response = sosfreqz(np.array([own()]), worN=hertz, fs=RATE)
    reached = 20 * np.log10(np.abs(response / reference.freq[0, 20:-20]))
    assert np.abs(reached).max() < 0.02


@pytest.mark.parametrize("hertz", [0.0, 24_000.0, 30_000.0])
def test_a_band_beyond_half_the_rate_is_refused(hertz: float) -> None:
    with pytest.raises(ValueError, match="half of 48000 Hz"):
        biquad.peaking(hertz, 3, 1, RATE)
