"""Where a pulse's first movement ends, how quiet a recording may be, and what several microphones show together."""

import numpy as np
import pytest

from imbrix.core.errors import UnusableError
from imbrix.core.measure.pulse import read_pulses
from imbrix.core.measure.reading import LEAST_PEAK_DBFS, check_recording
from imbrix.core.measure.transfer import Transfer, TransferSettings
from imbrix.core.signal.grid import log_grid

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
