"""Where a pulse's first movement ends, how quiet a recording may be, and what several microphones show together."""

import numpy as np
import pytest
import scipy.signal

from imbrix.core.errors import UnusableError
from imbrix.core.measure.pulse import read_pulses
from imbrix.core.measure.reading import (
    CLIPPING,
    LEAST_PEAK_DBFS,
    LEAST_SIGNAL_OVER_NOISE_DB,
    check_recording,
    out_of_noise,
    peak_dbfs,
    read_impulse,
)
from imbrix.core.measure.transfer import Transfer, TransferSettings
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import Gate
from imbrix.core.signal.signal import Impulse

RATE = 48_000


def lobes(*peaks: float) -> np.ndarray:
    """Half sines of 1 ms one after another."""
    half = np.sin(np.pi * np.arange(48) / 48)
    return np.concatenate([peak * half for peak in peaks])


@pytest.mark.parametrize(("peaks", "positive"), [((1.0, -0.4), True), ((-0.6, 1.0, -0.2), False)])
def test_the_first_lobe_says_the_polarity_and_the_later_ones_how_sure(peaks: tuple[float, ...], positive: bool) -> None:
    spacing, count, quiet = RATE // 4, 6, 4000
    pulses = np.zeros(quiet + spacing * (count + 1))
    for n in range(count):
        pulses[quiet + n * spacing + 2000 :][: 48 * len(peaks)] = lobes(*peaks)
    rng = np.random.default_rng(3)
    heard = pulses + 1e-6 * rng.standard_normal(pulses.size)
    reference = np.zeros(pulses.size)
    reference[[quiet + n * spacing for n in range(count)]] = 1.0
    found = read_pulses(heard, reference, RATE, spacing, count, quiet, 2000.0)
    assert found.positive is positive
    first, later = abs(peaks[0]), max(abs(one) for one in peaks[1:])
    assert found.sure == pytest.approx(min(1.0, 1.5 * first / (first + 0.5 * later)), abs=0.06)


def test_a_recording_may_be_as_quiet_as_is_said_and_no_quieter() -> None:
    tone = np.sin(2 * np.pi * 1000 * np.arange(RATE) / RATE)
    tone /= np.abs(tone).max()
    check_recording(tone * 10 ** ((LEAST_PEAK_DBFS + 0.1) / 20), RATE, 0.5)
    with pytest.raises(UnusableError, match="hears nothing"):
        check_recording(tone * 10 ** ((LEAST_PEAK_DBFS - 0.1) / 20), RATE, 0.5)


def test_a_recording_is_as_long_as_the_sweep_and_clips_nowhere() -> None:
    tone = 0.5 * np.sin(2 * np.pi * 1000 * np.arange(RATE) / RATE)
    check_recording(tone, RATE, 1.0)
    with pytest.raises(UnusableError, match=r"lasts 1\.00 s, the sweep alone lasts 1\.50 s"):
        check_recording(tone, RATE, 1.5)
    for peak in (CLIPPING, -CLIPPING):
        tone[12_000] = peak
        with pytest.raises(UnusableError, match=r"clips, first at 0\.25 s"):
            check_recording(tone, RATE, 1.0)
    tone[12_000] = 0.9998
    check_recording(tone, RATE, 1.0)


def test_a_peak_is_told_in_decibels_of_full_scale() -> None:
    assert peak_dbfs(np.array([0.1, -0.5, 0.2])) == pytest.approx(20 * np.log10(0.5))
    assert peak_dbfs(np.zeros(0)) == -240.0


def struck(size: int, noise: float = 0.0) -> Impulse:
    """One sample of one at time zero, 50 ms from the beginning, over noise."""
    samples = noise * np.random.default_rng(1).standard_normal(size)
    samples[2400] += 1.0
    return Impulse(samples, RATE, 2400)


def test_an_impulse_that_shows_nothing_is_refused() -> None:
    with pytest.raises(UnusableError, match="63 samples shows nothing"):
        read_impulse(Impulse(np.ones(63), RATE, 0), True)
    with pytest.raises(UnusableError, match="silent"):
        read_impulse(Impulse(np.zeros(RATE), RATE, 2400), True)
    assert read_impulse(Impulse(np.append(1.0, np.zeros(63)), RATE, 0), True).over_noise_db.min() == 120.0


@pytest.mark.parametrize("noise", [0.001, 0.01])
def test_an_impulse_over_noise_stands_as_far_over_it_as_it_is(noise: float) -> None:
    """Closed form: one sample of one has the power 1 at every frequency, the gated noise that of its window's sum."""
    read = read_impulse(struck(4 * RATE, noise), True)
    middle = read.over_noise_db[(log_grid() > 200) & (log_grid() < 16_000)]
    gate = Gate()
    held_s = gate.before_s + gate.after_s * (1 - gate.fade * 5 / 8)  # of a squared cosine 3/8 is left of the power
    expected = 10 * np.log10(1 + 1 / (noise**2 * held_s * RATE))  # what is heard is both together
    assert float(np.median(middle)) == pytest.approx(expected, abs=0.5)
    assert np.isnan(read.response[read.over_noise_db < 6.0]).all()


def test_hiss_is_not_taken_for_noise_of_the_bass() -> None:
    """Closed form: noise that is differenced twice has 16 sin^4 of half the angle of its power. A gate with a hard end
    would spread what there is of it in the treble over everything."""
    white = 0.003 * np.random.default_rng(2).standard_normal(4 * RATE + 2)
    samples = np.diff(white, 2)
    samples[2400] += 1.0
    read = read_impulse(Impulse(samples, RATE, 2400), True)
    grid, gate = log_grid(), Gate()
    held_s = gate.before_s + gate.after_s * (1 - gate.fade * 5 / 8)
    noise = 0.003**2 * 16 * np.sin(np.pi * grid / RATE) ** 4 * held_s * RATE
    inside = (grid > 300) & (grid < 3000)
    away = read.over_noise_db[inside] + 10 * np.log10(noise[inside])
    assert np.abs(away).max() < 4.0


def test_an_impulse_below_its_noise_is_refused_with_how_far() -> None:
    quiet = struck(4 * RATE, 0.2)
    with pytest.raises(UnusableError, match=r"no more than \d dB over the noise anywhere"):
        read_impulse(quiet, True)
    assert read_impulse(struck(4 * RATE, 0.001), True).over_noise_db.max() > LEAST_SIGNAL_OVER_NOISE_DB


def test_noise_is_taken_out_only_where_it_is_heard_alone() -> None:
    short = struck(RATE, 0.01)  # too short for a second of noise after the sound
    assert out_of_noise(short) is short
    clean = struck(4 * RATE)
    assert out_of_noise(clean) is clean
    low = struck(4 * RATE, 0.01)
    low.samples[:] -= struck(4 * RATE).samples  # nothing but noise: nothing would be left of it
    assert out_of_noise(low) is low
    rumble = scipy.signal.sosfilt(
        scipy.signal.butter(4, 300, fs=RATE, output="sos"), struck(4 * RATE, 0.02).samples - struck(4 * RATE).samples
    )
    loud = struck(4 * RATE)
    loud.samples[:] += rumble
    less = out_of_noise(loud)
    assert np.argmax(np.abs(less.samples)) == 2400
    far = slice(2400 + RATE, 2400 + 2 * RATE)
    assert np.std(less.samples[far]) < 0.2 * np.std(loud.samples[far])


def test_several_microphones_show_their_mean_power_with_the_first_ones_phase() -> None:
    """Gains of 1 and -0.5 (closed form): the mean of powers is (1 + 0.25) / 2, the phase that of the first."""
    transfer = Transfer(TransferSettings(2**13, "hann", None, RATE), microphones=2)
    noise = np.random.default_rng(4).standard_normal(2**17) * 0.1
    for first in range(0, noise.size, 4096):
        part = noise[first : first + 4096]
        transfer.feed(np.stack((-part, 0.5 * part, part), axis=1))
    shown = transfer.shown()
    inside = (log_grid() > 100) & (log_grid() < 10_000)
    assert np.abs(shown.response[inside]) == pytest.approx(np.sqrt(0.625), rel=1e-3)
    assert np.angle(-shown.response[inside]) == pytest.approx(0.0, abs=1e-3)
    assert shown.coherence[inside] == pytest.approx(1.0, abs=1e-3)
