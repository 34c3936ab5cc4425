"""What is refused of a recording of wires, in words for one wire and for several, each limit from both sides."""

import numpy as np
import pytest

from imbrix.core.errors import UnusableError
from imbrix.core.measure.sweep import deconvolve, exponential_sweep
from imbrix.core.signal.signal import Impulse
from imbrix.core.source import track
from imbrix.core.source.wires import GRID, Wire, _distorted_db, _middle, read_sound, read_wires, undisturbed

RATE = 48_000
TRACK = track.track(RATE)


def wire(left_db: float, right_db: float) -> Wire:
    left, right = (np.full(GRID.size, 10 ** (level / 20), dtype=complex) for level in (left_db, right_db))
    return Wire(left, right, left + right, np.full(GRID.size, 60.0), -12.0)


def with_peak(dbfs: float, wires: int = 1) -> np.ndarray:
    """Noise that peaks at a level."""
    made = np.random.default_rng(0).standard_normal((5000, wires))
    return np.asarray(made / np.abs(made).max(axis=0) * 10 ** (dbfs / 20))


def refused(recorded: np.ndarray) -> str:
    with pytest.raises(UnusableError) as said:
        read_wires(recorded, RATE)
    return str(said.value)


def test_silence_and_clipping_are_said_of_the_wire_or_of_its_number() -> None:
    assert refused(with_peak(-70.1)).startswith("the wire is silent")
    assert refused(with_peak(-69.9)).startswith("the recording does not hold the track")
    assert refused(with_peak(0.0)).startswith("the wire clips")
    assert refused(with_peak(-0.01)).startswith("the recording does not hold the track")
    two = np.concatenate((with_peak(-20), with_peak(-80)), axis=1)
    assert refused(two).startswith("wire 2 is silent")
    assert refused(np.zeros((0, 2))).startswith("wire 1 is silent")


def test_a_microphone_that_hears_nothing() -> None:
    with pytest.raises(UnusableError, match="the microphone hears nothing"):
        read_sound(with_peak(-70.1)[:, 0], RATE)
    with pytest.raises(UnusableError, match="does not hold the track"):
        read_sound(with_peak(-69.9)[:, 0], RATE)


@pytest.mark.parametrize(
    ("left_db", "right_db", "side"),
    [(0, -19.5, "both"), (0, -20.5, "left"), (-19.5, 0, "both"), (-20.5, 0, "right"), (-200, -200, "both")],
)
def test_a_wire_that_carries_one_side_far_over_the_other_carries_that_side(
    left_db: float, right_db: float, side: str
) -> None:
    one = wire(left_db, right_db)
    assert one.side == side
    assert np.array_equal(one.response, {"left": one.left, "right": one.right, "both": one.both}[side])


def test_a_track_that_was_cut_off_is_told_with_how_long_it_lasts() -> None:
    half = 0.3 * TRACK[: len(TRACK) // 2, :1]
    whole = len(TRACK) / RATE
    assert refused(half) == (
        f"the track was not played whole: it lasts {whole:.0f} s; start it again, or let it go round and record "
        f"{2 * whole:.0f} s"
    )


@pytest.mark.parametrize(("harmonic_db", "distorts"), [(-28.0, False), (-24.0, True)])
def test_five_per_cent_of_harmonics_are_distortion(harmonic_db: float, distorts: bool) -> None:
    """x + a x^2 gives a second harmonic of a / 2 times the level of a sine (closed form)."""
    level = 0.2
    played = level * TRACK[:, :1] / np.abs(TRACK).max()
    bent = played + 2 * 10 ** (harmonic_db / 20) / level * played**2
    recorded = np.concatenate((np.zeros((9000, 1)), bent, np.zeros((9000, 1))))
    recorded += 1e-6 * np.random.default_rng(1).standard_normal(recorded.shape)
    if distorts:
        assert refused(recorded).startswith("the source distorts at this volume")
    else:
        (found,) = read_wires(recorded, RATE).wires
        assert found.side == "left"


@pytest.mark.parametrize(("order", "bends"), [(2, 0.5), (2, 0.2), (3, 3.0)])
def test_distortion_is_that_of_a_polynomial(order: int, bends: float) -> None:
    """Of a sine of amplitude A the square makes a second harmonic of A^2 / 2, the cube a third of A^3 / 4 and thrice
    that of the first."""
    parts = track.schedule(RATE)
    sweep = exponential_sweep(parts.sweep).samples
    sweep = np.concatenate((sweep, np.zeros(RATE)))
    bent = deconvolve(sweep + bends * sweep**order, sweep, RATE, zero=RATE // 2)
    amplitude = np.abs(sweep).max()
    makes = bends * amplitude ** (order - 1) / 2 ** (order - 1)
    makes /= 1 + 3 * makes * (order == 3)
    assert _distorted_db(_middle(bent), 0.0, parts) == pytest.approx(20 * np.log10(makes), abs=0.5)
    plain = deconvolve(sweep, sweep, RATE, zero=RATE // 2)
    assert _distorted_db(_middle(plain), 0.0, parts) < -50


@pytest.mark.parametrize(
    ("hertz", "over_db", "refused"),
    [(45.0, -19.0, True), (45.0, -21.0, False), (35.0, 0.0, False), (5900.0, -19.0, True), (6100.0, 0.0, False)],
)
def test_what_sounds_beside_both_sides_is_refused_within_40_hz_and_6_khz(
    hertz: float, over_db: float, refused: bool
) -> None:
    """From 20 dB under the sound on, over all of the impulse response."""
    size = RATE
    sides = np.zeros(size)
    sides[100] = 1.0
    inside = np.zeros(size // 2 + 1)
    inside[40:6001] = 1.0
    power = np.sum(np.fft.irfft(np.fft.rfft(2 * sides) * inside, size) ** 2)
    beside = np.sin(2 * np.pi * hertz * np.arange(size) / RATE) * np.sqrt(2 * power / size * 10 ** (over_db / 10))
    left, right, both = (Impulse(one, RATE, 100) for one in (sides, sides, 2 * sides + beside))
    if refused:
        with pytest.raises(UnusableError, match="something else sounded"):
            undisturbed(left, right, both)
    else:
        undisturbed(left, right, both)
